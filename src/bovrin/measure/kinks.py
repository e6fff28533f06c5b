"""Kinks: frames on which a path turns sharply between frames on which it does not."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.windows import most_around

Floats = NDArray[np.float64]

TURN = np.radians(32.0)
"""A path that turns by less on one frame does not kink."""
SLOW = 0.004
"""Metres a frame under which it may turn as it likes."""
BRISK, NEAR = 0.25, 3
"""The share of its quickest step, over so many frames on either side, that a path must go at where it kinks: slowly it turns
round, as at the end of a swing."""
SWERVES = 0.35
"""The share of its quickest step beside by which a path's step changes its direction where it kinks: less is the round end of a
swing, however slow it is there."""
TURNS_ROUND = 0.75
"""The share of the steps before and after that a path must go at where it kinks: it slows down to turn round, and goes on."""
SHARPER = 2.2
"""How much sharper a kink is than the turns beside it."""


def turns_of(places: Floats) -> Floats:
    """By how much a path (F, 3) turns on each frame (F,), radians; 0 at both ends and where it is slow."""
    steps = np.diff(places, axis=0)
    size = np.linalg.norm(steps, axis=1)
    turns = np.zeros(len(places))
    if len(steps) < 2:
        return turns
    a, b = steps[:-1], steps[1:]
    product = size[:-1] * size[1:]
    cosine = (a * b).sum(1) / np.maximum(product, 1e-12)
    turns[1:-1] = np.where(np.minimum(size[:-1], size[1:]) > SLOW, np.arccos(np.clip(cosine, -1.0, 1.0)), 0.0)
    return turns


def kinks_of(places: Floats) -> NDArray[np.intp]:
    """The numbers of the frames on which a path (F, 3) kinks."""
    turns = turns_of(places)
    if len(turns) < 5:
        return np.empty(0, np.intp)
    padded = np.concatenate([[0.0, 0.0], turns, [0.0, 0.0]])
    beside = (
        padded[:-4] + padded[4:]
    ) / 2  # a frame off by itself turns its neighbours too: those two away tell the course
    sharp = (turns > TURN) & (turns > SHARPER * beside)
    step = np.linalg.norm(np.diff(places, axis=0), axis=1)
    slower = np.concatenate([[0.0], np.minimum(step[:-1], step[1:]), [0.0]])
    quick = np.append(most_around(step, NEAR, NEAR - 1), 0.0)
    sharp &= slower > BRISK * quick
    sharp &= 2.0 * np.sin(turns / 2) * slower > SWERVES * quick
    beyond = np.minimum(np.concatenate([[0.0, 0.0], step[:-1]]), np.concatenate([step[1:], [0.0, 0.0]]))
    sharp &= slower > TURNS_ROUND * beyond
    highest = (turns >= padded[1:-3]) & (turns > padded[3:-1])
    return np.flatnonzero(sharp & highest)
