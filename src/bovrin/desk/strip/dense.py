"""Recorded stretches of a motion: where keys lie frame on frame, and whether one is near enough to tell them apart."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.shot import CurveSet, KeyRole

Floats = NDArray[np.float64]

RECORDED = 0.66
"""Share of a stretch's frames that carry a key when it was recorded."""
SHORTEST = 8
"""Frames of the shortest stretch that counts as recorded."""
NEAR = 8.0
"""Pixels from frame to frame from which on keys are shown one by one, and taken hold of."""
NEXT = 1.01
"""Frames from key to key in a band, at most."""


@cached_by_identity
def _densest(curves: CurveSet) -> Floats:
    """The frames of the channel with the most keys."""
    return max((curve.frames for curve in curves.curves), key=len, default=np.empty(0))


def is_recorded(curves: CurveSet, start: float, end: float) -> bool:
    """Whether a stretch between two frames was recorded."""
    if end - start < SHORTEST:
        return False
    frames = _densest(curves)
    inside = np.searchsorted(frames, end) - np.searchsorted(frames, start, side="right")
    return bool(inside >= RECORDED * (end - start - 1))


@cached_by_identity
def bands(frames: Floats, roles: NDArray[np.uint8]) -> tuple[Floats, NDArray[np.bool_]]:
    """Stretches (n, 2) of frames (F,) with a key on every frame, and which keys are no more than a part of one (F,)."""
    if len(frames) < SHORTEST:
        return np.empty((0, 2)), np.zeros(len(frames), bool)
    cut = np.flatnonzero(np.diff(frames) > NEXT)
    starts, ends = np.append(0, cut + 1), np.append(cut, len(frames) - 1)
    long = ends - starts >= SHORTEST - 1
    starts, ends = starts[long], ends[long]
    inside = np.zeros(len(frames) + 1, int)
    np.add.at(inside, starts, 1)
    np.add.at(inside, ends + 1, -1)
    hidden = (np.cumsum(inside)[:-1] > 0) & (roles == KeyRole.IN_BETWEEN)
    return np.stack([frames[starts], frames[ends]], -1), hidden


def in_band(marks: tuple[Floats, NDArray[np.uint8]], frame: float) -> bool:
    """Whether the key on a frame, of a lane's frames and roles (F,), is no more than a part of a band."""
    at = int(np.searchsorted(marks[0], frame))
    return at < len(marks[0]) and bool(bands(*marks)[1][at])
