"""Stretches of curves: those that stand still and then jump, and those that are keyed on every frame."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.measure.planted import spans
from bovrin.shot import Curve, HandleKind

DENSE, FOR = 1.5, 12
"""Frames between keys up to which they are a recording's, and the keys in a row from which on they are."""
MOST = 0.5
"""The share of the curves with keys that is dense where a figure's motion is a recording."""
Stretches = tuple[tuple[float, float], ...]


@cached_by_identity
def stepped_spans(curve: Curve) -> Stretches:
    """From which key to which a curve stands still and then jumps."""
    if len(curve) < 2 or curve.muted:
        return ()
    held = (curve.out_kind[:-1] == HandleKind.STEPPED) & (np.abs(np.diff(curve.values)) > 1e-9)
    at = np.flatnonzero(held)
    return tuple(zip(curve.frames[at].tolist(), curve.frames[at + 1].tolist(), strict=True))


@cached_by_identity
def dense_spans(curve: Curve) -> Stretches:
    """From which key to which a curve has one on every frame."""
    if len(curve) < FOR or curve.muted:
        return ()
    found = [(a, b + 1) for a, b in spans(np.diff(curve.frames) <= DENSE) if b - a + 2 >= FOR]
    return tuple((float(curve.frames[a]), float(curve.frames[b])) for a, b in found)


def recorded_rows(curves: Iterable[Curve], frames: NDArray[np.float64]) -> NDArray[np.bool_]:
    """On which of some frames (F,) motion is a recording: most curves with keys have one on every frame."""
    count, used = np.zeros(len(frames)), 0
    for curve in curves:
        if len(curve) > 1 and not curve.muted:
            used += 1
            for start, end in dense_spans(curve) if len(curve) >= FOR else ():
                count += (frames >= start) & (frames <= end)
    return np.asarray(count > MOST * used) if used else np.zeros(len(frames), bool)
