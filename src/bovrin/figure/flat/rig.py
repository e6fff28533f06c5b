"""The rig of a flat figure: what any figure's is, but that parts move and turn in their plane, and have drawings, an order,
sizes, a lean and another side."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.brought.guess import guess_build
from bovrin.figure.brought.joint_tree import words_of
from bovrin.figure.flat.layers import Facing, Lie
from bovrin.figure.making.rig_making import make_rig
from bovrin.figure.making.setup import setup_of
from bovrin.shot import Channel, ChannelRole, Control, ControlKind, Joint, Limb, Part, Rig, Unit

Floats = NDArray[np.float64]
WHOLE = "whole"
DEPTHS = {"left": "far", "right": "near"}
"""What the sides of a profile are called."""
AXES = "xyz"
LEVEL = {0: "across", 2: "forward"}
"""What the level axis of the plane is called."""
TURNS = {0: Channel("roll", "rotate z", Unit.ANGLE), 2: Channel("tilt", "rotate x", Unit.ANGLE)}
"""The turn in the plane, by its level axis."""


def flat_rig(
    names: Sequence[str], parents: Sequence[int], places: Floats, lie: Lie, drawings: Mapping[str, Sequence[str]]
) -> Rig:
    """The rig of parts (P) that turn at places (P, 3), metres, the rearmost first. drawings: those of each part."""
    joints, at = _joints(names, parents, places)
    guess = guess_build(joints)
    ranks = {joint: n for n, joint in at.items()}
    made = _with_all(make_rig(joints, guess, gaze=False), ranks)
    controls = tuple(_flattened(control, lie, drawings, ranks, joints) for control in made.controls)
    limbs = tuple(_in_plane(limb, made, lie) for limb in made.limbs)
    flat = replace(made, controls=controls, limbs=limbs, parts=_lanes(made), setup=setup_of(guess))
    return _in_depth(flat) if any({"near", "far"} & set(words_of(name)) for name in names) else flat


def _in_depth(rig: Rig) -> Rig:
    """The rig with near and far for the sides of what names do not say themselves."""

    def named(name: str) -> str:
        first, space, rest = name.partition(" ")
        return DEPTHS.get(first, first) + space + rest

    return replace(
        rig,
        controls=tuple(replace(c, name=named(c.name)) for c in rig.controls),
        parts=tuple(replace(part, name=named(part.name)) for part in rig.parts),
        limbs=tuple(replace(limb, name=named(limb.name)) for limb in rig.limbs),
        pairs=tuple((named(one), named(other)) for one, other in rig.pairs),
    )


def _lanes(rig: Rig) -> tuple[Part, ...]:
    """Parts of a rig: limbs as they are, of all else every drawn part for itself; the body goes with the whole figure."""
    found = []
    for part in rig.parts:
        if any(rig.controls[c].limb >= 0 for c in part.controls):
            found.append(part)
            continue
        whole = [c for c in part.controls if rig.controls[c].kind is ControlKind.WHOLE]
        own = [c for c in part.controls if c not in whole]
        if whole:
            found.append(Part(part.name, (*whole, *own[:1])))
            own = own[1:]
        found += [Part(rig.controls[c].name, (c,), part.side) for c in own]
    return tuple(found)


def _with_all(rig: Rig, ranks: Mapping[int, int]) -> Rig:
    """The rig with a control for every part, also those that a guess leaves out."""
    driven = {c.joint for c in rig.controls if c.kind is ControlKind.JOINT}
    taken = {c.name for c in rig.controls}
    extra = []
    for joint in sorted(set(ranks) - driven):
        name = rig.joints[joint].name
        free = name if name not in taken else f"{name} part"
        extra.append(Control(free, ControlKind.JOINT, joint, ()))
    if not extra:
        return rig
    count = len(rig.controls)
    more = Part("more parts", tuple(range(count, count + len(extra))))
    return replace(rig, controls=(*rig.controls, *extra), parts=(*rig.parts, more))


def _joints(names: Sequence[str], parents: Sequence[int], places: Floats) -> tuple[tuple[Joint, ...], dict[int, int]]:
    """Joints with parents first, below one that carries the whole; and the joint of each part."""
    joints = [Joint(WHOLE if WHOLE not in names else "whole figure", -1, (0.0, 0.0, 0.0))]
    at: dict[int, int] = {}
    waiting = list(range(len(names)))
    while waiting:
        ready = [n for n in waiting if parents[n] < 0 or parents[n] in at]
        for n in ready:
            above = at.get(parents[n], 0)
            base = places[parents[n]] if parents[n] >= 0 else np.zeros(3)
            x, y, z = (float(v) for v in places[n] - base)
            at[n] = len(joints)
            joints.append(Joint(names[n], above, (x, y, z)))
        waiting = [n for n in waiting if n not in at]
    return tuple(joints), at


def _flattened(
    control: Control,
    lie: Lie,
    drawings: Mapping[str, Sequence[str]],
    ranks: Mapping[int, int],
    joints: tuple[Joint, ...],
) -> Control:
    """A control that works in the plane."""
    if control.kind is ControlKind.WHOLE:
        return replace(control, channels=tuple(_at_rest(channel, lie) for channel in control.channels))
    kept = [channel for channel in control.channels if _stays(channel, lie)]
    if control.kind is ControlKind.JOINT:
        own = drawings.get(joints[control.joint].name, ())
        kept = [*_moves(lie), TURNS[lie.along], *_shapes(lie), *(c for c in kept if not _moves_or_turns(c))]
        kept += _of_part(own, ranks[control.joint]) if control.joint in ranks else []
    return replace(control, channels=tuple(kept))


def _at_rest(channel: Channel, lie: Lie) -> Channel:
    return replace(channel, default=lie.turn) if channel.technical == "rotate y" else channel


def _moves_or_turns(channel: Channel) -> bool:
    return channel.technical.split(" ")[0] in ("translate", "rotate")


def _stays(channel: Channel, lie: Lie) -> bool:
    """Whether a channel of a goal or a pole keeps to the plane."""
    word, _, axis = channel.technical.partition(" ")
    if word == "translate":
        return axis in ("y", AXES[lie.along])
    if word == "rotate":
        return channel.technical == TURNS[lie.along].technical
    return not channel.technical.endswith(ChannelRole.TWIST)


def _moves(lie: Lie) -> list[Channel]:
    level = Channel(LEVEL[lie.along], f"translate {AXES[lie.along]}", Unit.LENGTH)
    return [level, Channel("up", "translate y", Unit.LENGTH)]


def _shapes(lie: Lie) -> list[Channel]:
    axis = AXES[lie.along]
    return [
        Channel(f"size {LEVEL[lie.along]}", f"{ChannelRole.SIZE} {axis}", Unit.AMOUNT, 1.0),
        Channel("size up", f"{ChannelRole.SIZE} y", Unit.AMOUNT, 1.0),
        Channel("skew", f"{ChannelRole.SKEW} {axis}", Unit.ANGLE),
        Channel("flip", f"{ChannelRole.FLIP} {axis}", Unit.SWITCH),
    ]


def _of_part(drawings: Sequence[str], rank: int) -> list[Channel]:
    """What says which drawing is shown, where there is a choice, and how far in front the part is."""
    choice = [Channel("drawing", ChannelRole.DRAWING, Unit.CHOICE, 0.0, tuple(drawings))] if drawings else []
    return [*choice, Channel("order", ChannelRole.ORDER, Unit.RANK, float(rank))]


def _in_plane(limb: Limb, rig: Rig, lie: Lie) -> Limb:
    """A limb whose middle joint bends in the plane, to the side that it bends to as it is drawn; a straight one outward."""
    if lie.facing is not Facing.FRONT:
        return limb
    x, y, z = limb.pole_rest
    if abs(z) < 1e-6:
        return limb
    outward = np.sign(_rest_place(rig, limb.middle)[0]) or 1.0
    return replace(limb, pole_rest=(float(x + outward * abs(z)), float(y), 0.0))


def _rest_place(rig: Rig, joint: int) -> Floats:
    place = np.zeros(3)
    while joint >= 0:
        place = place + np.array(rig.joints[joint].translation)
        joint = rig.joints[joint].parent
    return place
