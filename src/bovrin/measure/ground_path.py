"""Where a figure is on the ground, smoothly: what a view goes along with."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.staging import staged
from bovrin.shot import Shot

Floats = NDArray[np.float64]

SMOOTH = 12
"""Frames to either side that are averaged: sway and steps are no travel."""
MOST = 240
"""Frames of a range that are looked at; between them the way is straight."""


def ground_path(shot: Shot, figure: str) -> Floats:
    """The middle of a figure's joints on every whole frame of the range, across and forward (F, 2), metres, smoothed."""
    frames = np.array(shot.whole_frames, float)
    looked = frames if len(frames) <= MOST else np.linspace(frames[0], frames[-1], MOST)
    middle = staged(shot, figure, looked).world[:, :, [0, 2], 3].mean(1)
    places = np.stack([np.interp(frames, looked, middle[:, n]) for n in range(2)], 1)
    if len(places) <= SMOOTH + 1:
        return places
    padded = np.pad(places, ((SMOOTH + 1, SMOOTH), (0, 0)), mode="reflect", reflect_type="odd")
    sums = np.cumsum(padded, axis=0)
    width = 2 * SMOOTH + 1
    return np.asarray((sums[width:] - sums[:-width]) / width)


def travels(shot: Shot, figure: str) -> bool:
    """Whether a figure goes farther over the ground than half of what it is large."""
    path = ground_path(shot, figure)
    size = float(np.ptp(staged(shot, figure, shot.first).places[0], axis=0).max())
    return bool(np.ptp(path, axis=0).max() > 0.5 * size)
