"""Contacts: when each foot is down, found from height and speed with hysteresis, or as the animator set it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.measure.gait.footing import Footing, footing
from bovrin.shot import Cycle, Shot, Stretch

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

LOW_IN, LOW_OUT = 0.035, 0.07
"""Shares of a leg's length: how low a point of a foot comes down, and how high it is when it has left."""
SLOW_IN, SLOW_OUT = 0.7, 1.4
"""Legs' lengths a second against the ground: how slow it comes down, and how fast it is when it has left."""
SHORTEST = 2
"""Frames that a contact has at least."""


def contacts(shot: Shot, figure: str) -> dict[str, list[Stretch]]:
    """By foot, the stretches of frames in which it is down, over the shot's range; of a cycle, over its rounds in it.

    Feet whose contacts the animator set are down as set; the others are found.
    """
    cycle = shot.cycle(figure)
    if cycle is None:
        frames = np.arange(np.ceil(shot.first), np.floor(shot.last) + 1)
        return {**found_contacts(footing(shot, figure, frames), shot.frame_rate), **_set(shot, figure)}
    one = cycle_contacts(shot, figure, cycle)
    return {limb: _over_range(spans, cycle, shot.first, shot.last) for limb, spans in one.items()}


def cycle_contacts(shot: Shot, figure: str, cycle: Cycle) -> dict[str, list[Stretch]]:
    """By foot, the contacts of one round of a cycle: those that begin in it; they may end after it."""
    length = cycle.length
    frames = np.arange(np.floor(cycle.first - length), np.ceil(cycle.last + length) + 1)
    found = found_contacts(footing(shot, figure, frames), shot.frame_rate)
    return {**{limb: _one_round(spans, cycle) for limb, spans in found.items()}, **_set(shot, figure)}


def _set(shot: Shot, figure: str) -> dict[str, list[Stretch]]:
    return {limb: list(spans) for limb, spans in shot.contacts(figure).items()}


def _one_round(spans: list[Stretch], cycle: Cycle) -> list[Stretch]:
    """The stretches that begin in a round; one that never ends is the whole round."""
    if any(b - a >= 2 * cycle.length for a, b in spans):
        return [(cycle.first, cycle.last)]
    return [(a, b) for a, b in spans if cycle.first <= a < cycle.last]


def _over_range(spans: list[Stretch], cycle: Cycle, first: float, last: float) -> list[Stretch]:
    """The stretches of a round again and again, cut at the ends of a range; those that meet are one."""
    low = int(np.floor((first - cycle.last) / cycle.length)) - 1
    high = int(np.ceil((last - cycle.first) / cycle.length)) + 1
    every = sorted((a + n * cycle.length, b + n * cycle.length) for n in range(low, high + 1) for a, b in spans)
    found: list[Stretch] = []
    for a, b in every:
        if found and a <= found[-1][1]:
            found[-1] = (found[-1][0], max(b, found[-1][1]))
        else:
            found.append((a, b))
    return [(max(a, first), min(b, last)) for a, b in found if b >= first and a <= last]


def found_contacts(feet: Footing, frame_rate: float) -> dict[str, list[Stretch]]:
    """By foot, the stretches in which heel or ball is low and goes along with the ground, slow against it."""
    if not feet.feet:
        return {}
    down = planted_rows(feet, frame_rate)
    return {foot.name: _stretches(down[n], feet.frames) for n, foot in enumerate(feet.feet)}


def planted_rows(feet: Footing, frame_rate: float) -> Bools:
    """Which feet (N,) are down on which frames (F,): (N, F)."""
    count = len(feet.frames)
    legs = np.array([foot.leg for foot in feet.feet])[:, None]
    if count < 2:
        return np.asarray(feet.heights.min(2) < LOW_IN * legs)
    step = np.linalg.norm(feet.steps - feet.treadmill(frame_rate), axis=3) * frame_rate
    speed = np.minimum(np.concatenate([step, step[:, -1:]], 1), np.concatenate([step[:, :1], step], 1))
    height = feet.heights
    inside = ((height < LOW_IN * legs[..., None]) & (speed < SLOW_IN * legs[..., None])).any(2)
    outside = ~((height < LOW_OUT * legs[..., None]) & (speed < SLOW_OUT * legs[..., None])).any(2)
    rows = np.arange(count)
    came = np.maximum.accumulate(np.where(inside, rows, -1), axis=1)
    left = np.maximum.accumulate(np.where(outside, rows, -1), axis=1)
    return np.asarray(came > left)


def _stretches(down: Bools, frames: Floats) -> list[Stretch]:
    edges = np.flatnonzero(np.diff(np.concatenate([[False], down, [False]]).astype(int)))
    spans = [(a, b - 1) for a, b in zip(edges[::2].tolist(), edges[1::2].tolist(), strict=True)]
    return [(float(frames[a]), float(frames[b])) for a, b in spans if b - a + 1 >= SHORTEST]
