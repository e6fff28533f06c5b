"""Contacts: when each foot is down, found from height and speed with hysteresis, or as the animator set it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import RESULTS
from bovrin.figure.ground.feet import Footing, footholds
from bovrin.figure.ground.under import under_of
from bovrin.figure.stages.fade_feet import down_on_lane
from bovrin.figure.stages.layers import layers_of
from bovrin.figure.staging import hangs_on
from bovrin.measure.gait.footing import footing
from bovrin.shot import Cycle, Shot, Stretch

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

LOW_IN, LOW_OUT = 0.035, 0.07
"""Shares of a leg's length: how low a point of a foot comes down, and how high it is when it has left."""
SLOW_IN, SLOW_OUT = 0.3, 1.2
"""Legs' lengths a second against the ground: how slow it comes down, and how fast it is when it has left."""


def contacts(shot: Shot, figure: str) -> dict[str, list[Stretch]]:
    """By foot, the stretches of frames in which it is down, over the shot's range; of a cycle, over its rounds in it. Hands are
    among them where they are ever down.

    Feet whose contacts the animator set are down as set; the others are found.
    """
    cycle = shot.cycle(figure)
    if cycle is None:
        frames = np.arange(np.ceil(shot.first), np.floor(shot.last) + 1)
        told = _told_by_clips(shot, figure, frames)
        found = {} if told is not None else found_contacts(footing(shot, figure, frames, hands=True), shot.frame_rate)
        return {**found, **(told or {}), **_set(shot, figure)}
    one = cycle_contacts(shot, figure, cycle)
    return {limb: _over_range(spans, cycle, shot.first, shot.last) for limb, spans in one.items()}


def cycle_contacts(shot: Shot, figure: str, cycle: Cycle) -> dict[str, list[Stretch]]:
    """By foot, the contacts of one round of a cycle: those that begin in it; they may end after it."""
    found = found_in_round(shot, figure, cycle)
    return {**{limb: list(spans) for limb, spans in found.items()}, **_set(shot, figure)}


def found_in_round(shot: Shot, figure: str, cycle: Cycle) -> dict[str, tuple[Stretch, ...]]:
    """The same as the motion has them, whatever was set; kept as long as the motion is."""
    under = under_of(shot, figure)
    key = (found_in_round, *hangs_on(shot, figure), getattr(under, "__self__", None), cycle, shot.frame_rate)
    return RESULTS.get(key, lambda: _found_in_round(shot, figure, cycle))


def _found_in_round(shot: Shot, figure: str, cycle: Cycle) -> dict[str, tuple[Stretch, ...]]:
    length = cycle.length
    frames = np.arange(np.floor(cycle.first - length), np.ceil(cycle.last + length) + 1)
    found = found_contacts(footing(shot, figure, frames, hands=True), shot.frame_rate)
    return {limb: tuple(_one_round(spans, cycle)) for limb, spans in found.items()}


def _told_by_clips(shot: Shot, figure: str, frames: Floats) -> dict[str, list[Stretch]] | None:
    """The contacts that the lowest lane's clips know; None where they do not know them of every foot."""
    layers = layers_of(shot, figure)
    rig = shot.figure(figure).rig
    if layers is None or not footholds(rig):
        return None
    told = {}
    for foot in footholds(rig):
        down = down_on_lane(layers.lanes[0], layers.clips, rig, foot.name, frames)
        if down is None:
            return None
        told[foot.name] = _stretches(down, down[:-1] & down[1:], frames)
    return told


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
    down, slow = planted_rows(feet, frame_rate)
    found = {foot.name: _stretches(down[n], slow[n], feet.frames) for n, foot in enumerate(feet.feet)}
    return {foot.name: found[foot.name] for foot in feet.feet if found[foot.name] or not foot.palm}


def planted_rows(feet: Footing, frame_rate: float) -> tuple[Bools, Bools]:
    """Which feet are down on which frames (N, F), and between which frames they go slow enough to come down (N, F - 1)."""
    count = len(feet.frames)
    legs = np.array([foot.leg for foot in feet.feet])[:, None, None]
    height = feet.heights
    if count < 2:
        return np.asarray((height < LOW_IN * legs).any(2)), np.zeros((len(feet.feet), 0), bool)
    step = np.linalg.norm(feet.steps - feet.treadmill(frame_rate), axis=3) * frame_rate
    speed = np.minimum(np.concatenate([step, step[:, -1:]], 1), np.concatenate([step[:, :1], step], 1))
    inside = ((height < LOW_IN * legs) & (speed < SLOW_IN * legs)).any(2)
    outside = ~((height < LOW_OUT * legs) & (speed < SLOW_OUT * legs)).any(2)
    rows = np.arange(count)
    came = np.maximum.accumulate(np.where(inside, rows, -1), axis=1)
    left = np.maximum.accumulate(np.where(outside, rows, -1), axis=1)
    low = np.maximum(height[:, :-1], height[:, 1:]) < LOW_OUT * legs
    return np.asarray(came > left), np.asarray((low & (step < SLOW_IN * legs)).any(2))


def _stretches(down: Bools, slow: Bools, frames: Floats) -> list[Stretch]:
    """The stretches of frames that are down; a foot goes slow from the first frame of each on, and up to the last."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], down, [False]]).astype(int)))
    found = []
    for first, last in zip(edges[::2].tolist(), (edges[1::2] - 1).tolist(), strict=True):
        between = np.flatnonzero(slow[first:last])
        if len(between):
            found.append((float(frames[first + between[0]]), float(frames[first + between[-1] + 1])))
    return found
