"""Keys on other frames. Curves keep their shape: handles scale with the time they lie in."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from bovrin.shot import Curve, CurveSet

Floats = NDArray[np.float64]


def retimed(curve: Curve, frames: Floats) -> Curve:
    """A curve whose keys lie on other frames (N,), still in order; slopes and lengths scale with their segments."""
    if len(curve) < 2:
        return curve.changed(frames=frames)
    old, new = np.zeros(len(curve) + 1), np.zeros(len(curve) + 1)
    np.subtract(curve.frames[1:], curve.frames[:-1], out=old[1:-1])
    np.subtract(frames[1:], frames[:-1], out=new[1:-1])
    columns = {}
    for side, was, now in (("in", old[:-1], new[:-1]), ("out", old[1:], new[1:])):
        reference = getattr(curve, f"{side}_span")
        reference = np.where(reference > 0, reference, was)
        columns[f"{side}_span"] = np.where((reference == now) | (now == 0), 0.0, reference)
    return curve.changed(frames=frames, **columns)


def all_retimed(curves: CurveSet, frames: Mapping[int, Floats]) -> dict[int, Curve]:
    """Channels, by index, retimed to frames (N,) each; what those that are keyed alike share is worked out once."""
    known: dict[tuple[bytes, ...], Curve] = {}
    changes = {}
    for i, now in frames.items():
        curve = curves[i]
        key = tuple(column.tobytes() for column in (curve.frames, now, curve.in_span, curve.out_span))
        like = known.get(key)
        changes[i] = known[key] = retimed(curve, now) if like is None else curve.in_time_with(like)
    return changes
