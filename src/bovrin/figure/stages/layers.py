"""Layers: lanes of clips under the keys of a figure, from the lowest up, and the keys on top of them."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.stages.fade_feet import with_feet
from bovrin.figure.stages.lane import lane_values
from bovrin.figure.stages.mixing import added, mixed
from bovrin.shot import Clip, Lane, Rig, Shot

Floats = NDArray[np.float64]


class Layers(NamedTuple):
    """The lanes of a figure that are heard, the lowest first, the clips on them, and the channels whose keys count instead."""

    lanes: tuple[Lane, ...]
    clips: tuple[Clip, ...]
    instead: frozenset[str]


def layers_of(shot: Shot, figure: str) -> Layers | None:
    """The layers of a figure; None where nothing lies under its keys."""
    lanes = tuple(lane for lane in shot.lanes(figure) if lane.laid and not lane.muted)
    if not lanes:
        return None
    names = {one.clip for lane in lanes for one in lane.laid}
    clips = tuple(clip for clip in shot.clips if clip.name in names)
    return Layers(lanes, clips, shot.take.of(figure).instead)


def beneath(layers: Layers, rig: Rig, frames: Floats) -> tuple[Floats, NDArray[np.bool_]]:
    """What lies under the keys: values (F, C), defaults where there is nothing, and which channels (C,) clips move."""
    base = np.tile(np.asarray(rig.defaults, float), (len(frames), 1))
    moved = np.zeros(len(rig.channels), bool)
    for number, lane in enumerate(layers.lanes):
        rows = _heard(lane, frames, lowest=number == 0)
        layer = lane_values(lane, layers.clips, rig, frames[rows], lowest=number == 0)
        if layer is None:
            continue
        layer = with_feet(layer, lane, layers.clips, rig, frames[rows])
        values, weight, how, neutral, mask = layer
        own = base[rows]
        values = np.where(mask, values, own if how == "over" else neutral)
        base[rows] = mixed(rig, own, values, weight) if how == "over" else added(rig, own, values, neutral, weight)
        moved |= mask
    return base, moved


def _heard(lane: Lane, frames: Floats, *, lowest: bool) -> NDArray[np.intp]:
    """Which of some frames (F,) a lane is heard on: the lowest on all, others while their clips last."""
    if lowest and lane.laid[0].how == "over":
        return np.arange(len(frames))
    ends = min(one.at for one in lane.laid), max(one.end for one in lane.laid)
    return np.flatnonzero((frames >= ends[0] - 1e-9) & (frames <= ends[1] + 1e-9))


def on_top(layers: Layers, rig: Rig, base: Floats, moved: NDArray[np.bool_], keyed: Floats) -> Floats:
    """Keys (F, C) on top of what lies beneath: added where clips move a channel, unless they count instead."""
    adds = _added_to(layers, rig, moved)
    return np.asarray(np.where(adds, base + (keyed - np.asarray(rig.defaults)), keyed))


def _added_to(layers: Layers, rig: Rig, moved: NDArray[np.bool_]) -> NDArray[np.bool_]:
    if not layers.instead:
        return moved
    own = np.array([name not in layers.instead for name in rig.channel_names])
    return np.asarray(moved & own)


def as_keys(layers: Layers, rig: Rig, frame: float, values: dict[int, float]) -> dict[int, float]:
    """What keys must say on a frame for channels to have these values there."""
    base, moved = beneath(layers, rig, np.array([frame]))
    adds = _added_to(layers, rig, moved)
    defaults = rig.defaults
    return {i: v - float(base[0, i]) + defaults[i] if adds[i] else v for i, v in values.items()}
