"""Feet on slopes and steps: how they rise from contact to contact, clear what lies between, and take the body along."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.ground.feet import Under
from bovrin.motion.windows import mean_around, most_around, soft_mean_around

Floats = NDArray[np.float64]

CLEARS = 0.02
"""Metres over the ground at which a foot goes by, at least."""
TOUCHES = 1e-4
"""Metres by which a foot may be too low in the air, and is left alone."""
WIDE = 5
"""Frames to either side of what a foot clears in which it rises and sinks again."""
EVEN, STEEPEST = 0.012, np.radians(35.0)
"""Metres by which the ground under the middle of a foot may be off a straight slope, and the steepest that a foot lies along."""
SMOOTH = 4.0
"""Frames (standard deviation) over which the body follows."""


def rises(points: Floats, under: Under, by: Floats, ends: list[tuple[int, int]]) -> Floats:
    """How far a foot is moved up (F,), metres, on ground that is not flat.

    points : (F, 2, 3), heel and ball as they go; by : (F, 3), how they are moved along the ground; ends: the first and last rows
    of its contacts, in which it stands on what is under it. Between them it goes from one height to the next, over what is there.
    """
    along = points + (by * [1.0, 0.0, 1.0])[:, None]
    needed = (under(along) - along[..., 1]).max(1)
    up = np.empty(len(points))
    up[: ends[0][0]], up[ends[-1][1] :] = needed[ends[0][0]], needed[ends[-1][1]]
    for first, last in ends:
        up[first : last + 1] = needed[first : last + 1]
    for (_, leaves), (lands, _) in pairwise(ends):
        t = np.linspace(0.0, 1.0, lands - leaves + 1)
        up[leaves : lands + 1] = needed[leaves] + (needed[lands] - needed[leaves]) * t * t * (3.0 - 2.0 * t)
    return up + _clearing(needed - up, ends)


def slopes(points: Floats, under: Under, tilts: Floats, ends: list[tuple[int, int]]) -> Floats:
    """How much a foot is tilted (F,), radians, toes up, so that it lies along the ground on which it stands.

    points : (F, 2, 3), heel and ball; tilts : (F,), how its control is tilted, toes down; a foot that is tilted so already stays.
    Where the ground between heel and ball is no slope, as over the edge of a step, it stays level.
    """
    found = np.zeros(len(ends))
    for n, (first, last) in enumerate(ends):
        middle = (first + last) // 2
        heel, ball = points[middle]
        low, between, high = under(np.stack([heel, (heel + ball) / 2, ball]))
        slope = float(np.arctan2(high - low, np.hypot(*(ball - heel)[[0, 2]])))
        even = abs(between - (low + high) / 2) < EVEN and abs(slope) < STEEPEST
        lies = abs(-tilts[middle] - slope) < abs(tilts[middle])
        found[n] = slope if even and not lies else 0.0
    up = np.empty(len(points))
    up[: ends[0][0]], up[ends[-1][1] :] = found[0], found[-1]
    for (first, last), slope in zip(ends, found.tolist(), strict=True):
        up[first : last + 1] = slope
    for n, ((_, leaves), (lands, _)) in enumerate(pairwise(ends)):
        t = np.linspace(0.0, 1.0, lands - leaves + 1)
        up[leaves : lands + 1] = found[n] + (found[n + 1] - found[n]) * t * t * (3.0 - 2.0 * t)
    return up


def _clearing(short: Floats, ends: list[tuple[int, int]]) -> Floats:
    """What a foot in the air is lifted besides (F,), where it would go by too low by so much (F,)."""
    up = np.ones(len(short), bool)
    for first, last in ends:
        up[max(first - 1, 0) : last + 2] = False
    low = np.where(up, np.maximum(short, 0.0), 0.0)
    if low.max(initial=0.0) < TOUCHES:
        return np.zeros(len(short))
    more = low + CLEARS * np.minimum(low / CLEARS, 1.0)
    smooth = mean_around(most_around(more, WIDE, WIDE), WIDE // 2)
    for first, last in ends:
        smooth[first : last + 1] = 0.0
    return np.asarray(smooth)


def taken_along(ups: list[Floats]) -> Floats:
    """How far the body rises (F,), metres, when its feet do (F,) each: the mean, smoothly."""
    return soft_mean_around(np.mean(ups, axis=0), SMOOTH)
