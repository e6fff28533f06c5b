"""What a body does while it walks: twist, weight, bounce, sway, lean and arm swing, measured, and made more or less.

What is there is scaled about its mean; where nothing is, the motion that the textbooks teach is laid over the keys there are, its
size a share of stride and height. Curves keep their keys.
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.cycle.gaits import gaits_for, in_table_order, sides_alternate
from bovrin.craft.cycle.half import kept_in_step
from bovrin.craft.cycle.new_cycle import body_control
from bovrin.craft.keying.lag import poses_of
from bovrin.errors import BadMotion, UnknownName
from bovrin.figure.ground.feet import footholds
from bovrin.figure.making.setup import taken_for
from bovrin.figure.solve.rest_space import move_values, rest_moves, rest_plan, rest_turns, turn_values
from bovrin.frozen import frozen_equal
from bovrin.measure.gait.contacts import cycle_contacts
from bovrin.motion.evaluate import channel_values
from bovrin.motion.handles import raised
from bovrin.motion.insert import inserted
from bovrin.motion.rotations import rotation_vector, vector_matrix
from bovrin.shot import ControlKind, Cycle, Limb, Rig, Shot

Floats = NDArray[np.float64]

LITTLE = 1e-4
"""Metres or radians below which a way is not there."""


@frozen_equal
class Strand:
    """One control's share in a way: along an axis of the figure (0 across, 1 up, 2 ahead) it turns, or moves, by `share` of the
    way's size times a wave, cos(2 pi beats (phase - at))."""

    control: int
    axis: int
    turns: bool
    share: float
    beats: int
    at: float


@frozen_equal
class BodyWay:
    """A way of the body by name: what an animator reads it in, its size where nothing is yet, and what makes it."""

    name: str
    unit: str
    sensible: float
    strands: tuple[Strand, ...]


UP_AND_DOWN = ("weight", "bounce")
NAMES = ("twist", "weight", "bounce", "sway", "lean", "arm swing")


def body_ways(shot: Shot, figure: str) -> dict[str, BodyWay]:
    """The ways of a figure's body that its cycle can have, by name. BadMotion where it has no cycle."""
    cycle = _cycle(shot, figure)
    rig = shot.figure(figure).rig
    feet = in_table_order(footholds(rig))
    if not feet:
        raise BadMotion(f"'{figure}' has no feet to walk on.")
    leg = float(np.mean([foot.leg for foot in feet]))
    beats = _beats(rig, cycle)
    fall = _first_fall(shot, figure, cycle)
    hips, chest = body_control(rig), _chest(rig)
    spine = [c for c in _spine(rig) if c != chest]
    found = {}

    def way(name: str, unit: str, sensible: float, *strands: Strand | None) -> None:
        own = tuple(strand for strand in strands if strand is not None)
        if own:
            found[name] = BodyWay(name, unit, sensible, own)

    turning = rig.controls[hips].kind is ControlKind.JOINT
    way(
        "twist",
        "degrees",
        8.0,
        Strand(hips, 1, True, -1.0, 1, fall) if turning else None,
        None if chest is None else Strand(chest, 1, True, 2.1, 1, fall),
    )
    way("weight", "cm", 100 * 0.055 * leg, Strand(hips, 1, False, -1.0, beats, fall + 0.25 / beats))
    way("bounce", "cm", 100 * 0.05 * leg, Strand(hips, 1, False, 1.0, beats, fall + 0.75 / beats))
    way(
        "sway",
        "cm",
        100 * 0.035 * leg,
        Strand(hips, 0, False, 1.0, 1, fall + 0.27),
        Strand(hips, 2, True, -1.4, 1, fall + 0.2) if turning else None,
        None if chest is None else Strand(chest, 2, True, 1.9, 1, fall + 0.2),
    )
    upper = [c for c in (*spine[-1:], chest) if c is not None]
    way("lean", "degrees", 4.0, *(Strand(c, 0, True, 1.0 / len(upper), 0, 0.0) for c in upper))
    way("arm swing", "degrees", 20.0, *_arms(rig, fall))
    return found


def _cycle(shot: Shot, figure: str) -> Cycle:
    cycle = shot.cycle(figure)
    if cycle is None:
        raise BadMotion(f"'{figure}' has no cycle.", advice="Lay out a new one, or close the loop.")
    return cycle


def _beats(rig: Rig, cycle: Cycle) -> int:
    """How often a round the body goes down: with each side, or once."""
    gait = gaits_for(footholds(rig)).get(cycle.gait)
    return 2 if gait is None or sides_alternate(gait) else 1


def _first_fall(shot: Shot, figure: str, cycle: Cycle) -> float:
    """The share of a round at which the first left foot comes down."""
    down = cycle_contacts(shot, figure, cycle)
    for foot in in_table_order(footholds(shot.figure(figure).rig)):
        if down.get(foot.name):
            return (down[foot.name][0][0] - cycle.first) / cycle.length
    return 0.0


def _spine(rig: Rig) -> list[int]:
    """The controls that turn the joints of the spine, from the hips up."""
    joints = taken_for(rig).spine
    return [
        c for j in joints for c, what in enumerate(rig.controls) if what.joint == j and what.kind is ControlKind.JOINT
    ]


def _chest(rig: Rig) -> int | None:
    spine = _spine(rig)
    return spine[-1] if spine else None


def _arms(rig: Rig, fall: float) -> list[Strand]:
    """Upper arms against the legs, forearms a little later."""
    found = []
    for limb in rig.limbs:
        if limb.foot is not None or not _is_arm(rig, limb):
            continue
        left = rig.controls[limb.goal].name.lower().startswith("left")
        at = fall + (0.0 if left else 0.5)
        for joint, share, late in ((limb.upper, 1.0, 0.0), (limb.middle, 0.45, 0.06)):
            control = next(
                (c for c, w in enumerate(rig.controls) if w.joint == joint and w.kind is ControlKind.JOINT), None
            )
            if control is not None:
                found.append(Strand(control, 0, True, share, 1, at + late))
    return found


def _is_arm(rig: Rig, limb: Limb) -> bool:
    return rig.other_side(limb.goal) is not None


def _waves(strand: Strand, frames: Floats, cycle: Cycle) -> Floats:
    """The wave of a strand (F,): 1 where its way is most."""
    if not strand.beats:
        return np.ones(len(frames))
    return np.asarray(np.cos(2 * np.pi * strand.beats * ((frames - cycle.first) / cycle.length - strand.at)))


def _amounts(rig: Rig, strand: Strand, values: Floats) -> Floats:
    """How far a strand's control is turned, or moved, along its axis (F,), radians or metres."""
    plan = rest_plan(rig)
    rows = np.flatnonzero((plan.turners if strand.turns else plan.movers) == strand.control)
    if strand.turns:
        turns = rest_turns(rig, values, rows)[:, 0]
        return np.asarray(rotation_vector(turns)[:, strand.axis])
    return np.asarray(rest_moves(rig, values, rows)[:, 0, strand.axis])


def measured(shot: Shot, figure: str) -> dict[str, float]:
    """How much there is of each way, in its unit."""
    cycle, rig = _cycle(shot, figure), shot.figure(figure).rig
    values = channel_values(shot.curves(figure), rig, _frames(cycle))
    return {
        name: _size(way, _amounts(rig, way.strands[0], values), cycle) / _unit(way)
        for name, way in body_ways(shot, figure).items()
    }


def _frames(cycle: Cycle) -> Floats:
    """The frames of a round."""
    return np.asarray(cycle.first + np.arange(max(round(cycle.length), 2)), float)


def _unit(way: BodyWay) -> float:
    return float(np.radians(1.0)) if way.unit == "degrees" else 0.01


def _size(way: BodyWay, own: Floats, cycle: Cycle) -> float:
    """How much of a way the first of its strands has over a round (F,), metres or radians: half of what it swings; of weight and
    bounce what it goes below and above where feet come down; of lean its mean."""
    if way.name == "lean":
        return float(own.mean()) / way.strands[0].share
    if way.name in UP_AND_DOWN:
        level = _at_falls(way.strands[0], own, cycle)
        return level - float(own.min()) if way.name == "weight" else float(own.max()) - level
    return (float(own.max()) - float(own.min())) / 2 / abs(way.strands[0].share)


def _at_falls(strand: Strand, own: Floats, cycle: Cycle) -> float:
    """What a strand has on the average where feet come down, of its amounts over a round (F,)."""
    fall = strand.at - (0.25 if strand.share < 0 else 0.75) / strand.beats
    phases = (fall + np.arange(strand.beats) / strand.beats) % 1.0
    around = np.append(own, own[0])
    return float(np.mean(np.interp(phases * cycle.length, np.arange(len(around)), around)))


def set_body_way(shot: Shot, figure: str, name: str, amount: float) -> Shot:
    """The shot in which a way of the body has an amount, in degrees or centimetres; every key stays on its frame."""
    ways = body_ways(shot, figure)
    if name not in ways:
        raise UnknownName(f"'{figure}' has no '{name}' in its walk.", advice=f"There is: {', '.join(ways)}.")
    if not np.isfinite(amount):
        raise BadMotion(f"an amount of {amount:g} is not possible.")
    way, cycle = ways[name], _cycle(shot, figure)
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    whole = channel_values(curves, rig, _frames(cycle))
    now = _size(way, _amounts(rig, way.strands[0], whole), cycle)
    wanted = amount * _unit(way)
    made = shot
    for strand in way.strands:
        made = _with_strand(made, figure, strand, _change(rig, way, strand, whole, now, wanted, cycle))
    return kept_in_step(shot, made)


Change = Callable[[Floats, Floats], Floats]
"""From frames (F,) and amounts (F,) to new amounts (F,)."""


def _change(rig: Rig, way: BodyWay, strand: Strand, whole: Floats, now: float, wanted: float, cycle: Cycle) -> Change:
    own = _amounts(rig, strand, whole)
    if way.name == "lean":
        return lambda _frames, was: was + (wanted - now) * strand.share
    if way.name in UP_AND_DOWN:
        return _one_sided(way, strand, _at_falls(strand, own, cycle), now, wanted, cycle)
    middle = float((own.max() + own.min()) / 2)
    there = (float(own.max()) - float(own.min())) / 2
    if now > LITTLE and there > LITTLE:
        return lambda _frames, was: middle + (was - middle) * (wanted / now)
    return lambda frames, was: was + wanted * strand.share * _waves(strand, frames, cycle)


def _one_sided(way: BodyWay, strand: Strand, middle: float, now: float, wanted: float, cycle: Cycle) -> Change:
    """Below the level of the footfalls for weight, above it for bounce."""
    sign = -1.0 if way.name == "weight" else 1.0
    if now > LITTLE:
        return lambda _frames, was: np.where((was - middle) * sign > 0, middle + (was - middle) * (wanted / now), was)
    return lambda frames, was: was + sign * wanted * np.maximum(_waves(strand, frames, cycle), 0.0)


def _with_strand(shot: Shot, figure: str, strand: Strand, change: Change) -> Shot:
    """The shot with another amount of one strand on every key of its control; where it has none it gets those of the poses."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    span = list(rig.span(strand.control))
    keyed = [curves[c].frames for c in span if len(curves[c])]
    frames = np.unique(np.concatenate(keyed)) if keyed else poses_of(curves).frames
    if not len(frames):
        return shot
    values = channel_values(curves, rig, frames)
    new = _written(rig, strand, values, change(frames, _amounts(rig, strand, values)))
    changes = {}
    for c in span:
        if np.abs(new[:, c] - values[:, c]).max() < 1e-12:
            continue
        own = curves[c]
        for frame in frames:
            own = inserted(own, float(frame), rig.channels[c].default)
        at = np.searchsorted(own.frames, frames - 1e-6)
        numbers = own.values.copy()
        numbers[at] = new[:, c]
        changes[c] = raised(own, numbers)
    return shot.with_curves(figure, curves.replaced(changes))


def _written(rig: Rig, strand: Strand, values: Floats, amounts: Floats) -> Floats:
    """Values (F, C) in which a strand's control has these amounts (F,) along its axis."""
    plan, new = rest_plan(rig), values.copy()
    rows = np.flatnonzero((plan.turners if strand.turns else plan.movers) == strand.control)
    if strand.turns:
        vector = rotation_vector(rest_turns(rig, values, rows)[:, 0])
        vector[:, strand.axis] = amounts
        turn_values(rig, vector_matrix(vector)[:, None], rows, values, new)
    else:
        moves = rest_moves(rig, values, rows)
        moves[:, 0, strand.axis] = amounts
        move_values(rig, moves, rows, new)
    return new
