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
    """Channels, by index, retimed to frames (N,) each; those that are keyed alike and go to one array of frames share what is
    worked out."""
    known: dict[tuple[int, bytes, bytes], tuple[Floats, Curve]] = {}
    changes = {}
    for i, now in frames.items():
        curve = curves[i]
        comes, leaves = (column.tobytes() if column.any() else b"" for column in (curve.in_span, curve.out_span))
        key = (id(now), comes, leaves)
        like = known.get(key)
        if like is not None and np.array_equal(like[0], curve.frames):
            changes[i] = curve.in_time_with(like[1])
        else:
            changes[i] = retimed(curve, now)
            known[key] = (curve.frames, changes[i])
    return changes


def shifted(curves: CurveSet, masks: Mapping[int, NDArray[np.bool_]], by: float) -> dict[int, Floats]:
    """Frames (N,) of channels whose keys of a mask (N,) each lie later; channels with one mask get one array."""
    made: dict[int, Floats] = {}
    for i, mask in masks.items():
        if id(mask) not in made:
            made[id(mask)] = curves[i].frames + by * mask
    return {i: made[id(mask)] for i, mask in masks.items()}
