"""Which frames a foot is down on: its joint lies low and stays where it is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
LOW, SLOW = 0.07, 0.45
"""Shares of a leg's length: how far over its lowest place a planted joint may be, and how far it may go in a second."""


def planted(places: Floats, leg: float, frame_rate: float) -> NDArray[np.bool_]:
    """Frames (F,) on which a joint is down. places : (F, 3), metres, a row a frame; leg: the leg's length, metres."""
    if len(places) < 2:
        return np.ones(len(places), bool)
    step = np.linalg.norm(np.diff(places, axis=0), axis=1) * frame_rate
    speed = np.minimum(np.append(step, step[-1]), np.insert(step, 0, step[0]))
    return np.asarray((places[:, 1] < places[:, 1].min() + LOW * leg) & (speed < SLOW * leg))


def spans(down: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """First and last row of each run of frames."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], down, [False]]).astype(int)))
    return [(int(a), int(b) - 1) for a, b in zip(edges[::2], edges[1::2], strict=True)]
