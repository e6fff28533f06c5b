"""Which clip of a figure is its rest, its walk, its run, its steps aside and its turns: by names, and by how clips go."""

from __future__ import annotations

import numpy as np

from bovrin.figure.solve.plan import special_column
from bovrin.figure.solve.ways import root_columns
from bovrin.figure.stages.clip_values import clip_stands
from bovrin.shot import ChannelRole, Clip, Rig, Shot
from bovrin.shot.curve import NO_KEYS

TURNS = {"turn left": 1.0, "turn right": -1.0}
SLOTS = ("idle", "walk", "run", "left", "right", "backward", *TURNS)
TURNING = np.radians(15.0)
"""How far a round turns at least for a clip to be a turn."""
STILL = 0.04
"""Metres a second below which a clip stands still."""
ASIDE = 0.6
"""Share of a way that goes aside from which on it is a step aside."""


def found_slots(shot: Shot, figure: str) -> dict[str, str]:
    """Which clips go into which slots: one that is called as a slot fills it, the others by how they go; the slowest ahead is
    the walk, the fastest the run. Those in which hands hold something are taken where there are no others."""
    rig = shot.figure(figure).rig
    roots = root_columns(rig)
    if roots is None:
        return {}
    fitting = [clip for clip in shot.clips if clip.loops and set(clip.curves) <= set(rig.channel_names)]
    fitting = [clip for clip in fitting if not _holds(clip, rig)] or fitting
    named = {clip.name.casefold(): clip.name for clip in fitting if clip.name.casefold() in SLOTS}
    slots: dict[str, str] = {}
    ahead: list[tuple[float, str]] = []
    for clip in fitting:
        way, turn = way_of(clip, rig, roots)
        speed = abs(way) / clip.length * shot.frame_rate
        if abs(turn) > TURNING:
            slots.setdefault("turn left" if turn > 0 else "turn right", clip.name)
        elif speed < STILL:
            slots.setdefault("idle", clip.name)
        elif abs(way.imag) > ASIDE * abs(way):
            slots.setdefault("left" if way.imag > 0 else "right", clip.name)
        elif way.real < 0:
            slots.setdefault("backward", clip.name)
        else:
            ahead.append((speed, clip.name))
    if ahead:
        slots["walk"] = min(ahead)[1]
        if len(ahead) > 1:
            slots["run"] = max(ahead)[1]
    taken = set(named.values())
    return {slot: name for slot, name in slots.items() if name not in taken} | named


def _holds(clip: Clip, rig: Rig) -> bool:
    """Whether a hand reaches all through a clip."""
    hands = [special_column(rig, limb.goal, ChannelRole.REACH) for limb in rig.limbs if limb.foot is None]
    reaches = [clip.curves.get(rig.channel_names[column], NO_KEYS) for column in hands if column >= 0]
    return any(len(curve) and float(curve.values.min()) > 0.5 for curve in reaches)


def way_of(clip: Clip, rig: Rig, roots: tuple[int, int, int]) -> tuple[complex, float]:
    """How far a round of a clip goes, as it faces at its beginning, and how far it turns."""
    ends = clip_stands(clip, rig, roots, np.array([0.0, clip.length]))
    gone = ends.at(slice(0, 1)).back().then(ends.at(slice(1, 2)))
    return complex(gone.place[0]), float(gone.turn[0])
