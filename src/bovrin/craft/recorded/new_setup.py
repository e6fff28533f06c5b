"""Another setup for a brought figure: its rig is made anew, and every take's motion is told to the new controls."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

import numpy as np

from bovrin.craft.hanging.bake import nothing_hung
from bovrin.craft.pose.modes import limb_channels, set_mode
from bovrin.craft.takes import in_every_take
from bovrin.figure.brought.guess import Guess
from bovrin.figure.ground.soles import with_soles
from bovrin.figure.making.rig_growing import with_channels, with_shapes
from bovrin.figure.making.rig_making import make_rig
from bovrin.figure.making.setup import setup_of
from bovrin.figure.solve.fit import LimbMode
from bovrin.figure.solve.plan import special_column
from bovrin.shot import CHANGED, ChannelRole, ControlKind, Curve, CurveSet, Figure, Rig, Shot, Take
from bovrin.shot.rig import MORPH

Address = tuple[str, object, str]
"""What a channel is, whatever its control is called: the kind of control, its joint or its limb's joints, technical name."""


def rig_with(figure: Figure, guess: Guess) -> Rig:
    """A new rig for a figure's joints. Channels that its old rig has for joints, and rotation orders, are kept."""
    old = figure.rig
    orders = {c.joint: c.order for c in old.controls if c.kind is ControlKind.JOINT}
    reach = all(old.channels[c].default > 0.5 for c in _switches(old)) if old.limbs else True
    rig = make_rig(old.joints, guess, orders, reach=reach)
    rig = with_channels(rig, _joints_with(old, "translate"), _joints_with(old, "rotate"), _sizes(old), orders)
    shapes = [
        (channel.technical.removeprefix(MORPH), channel.default, control.joint)
        for control in old.controls
        for channel in control.channels
        if channel.technical.startswith(MORPH)
    ]
    rig = with_shapes(rig, shapes)
    if figure.model.bones is not None:
        rig = with_soles(rig, figure.model)
    return replace(rig, setup=setup_of(guess))


def with_setup(shot: Shot, figure: str, guess: Guess) -> Shot:
    """The shot with a figure whose skeleton is taken for something else. Poses look as they did: limbs that are no more
    are posed joint by joint from now on."""
    old = shot.figure(figure)
    rig = rig_with(old, guess)
    keep = {_limb_key(old.rig, n) for n in range(len(old.rig.limbs))} & {
        _limb_key(rig, n) for n in range(len(rig.limbs))
    }
    shot = nothing_hung(shot, figure)
    shot = in_every_take(shot, lambda one: _unreached(one, figure, keep))
    new = replace(old, rig=rig, orders=(), hooks=(), followers=(), source=old.source.removesuffix(CHANGED) + CHANGED)
    cast = tuple(new if f.name == figure else f for f in shot.cast)
    takes = {take.name: _told_anew(take, old, new) for take in shot.all_takes}
    others = tuple(takes[take.name] for take in shot.takes)
    return replace(shot, cast=cast, take=takes[shot.take.name], takes=others, unkeyed=())


def _switches(rig: Rig) -> list[int]:
    found = (special_column(rig, limb.goal, ChannelRole.REACH) for limb in rig.limbs)
    return [c for c in found if c >= 0]


def _joints_with(rig: Rig, word: str) -> set[int]:
    return {
        c.joint
        for c in rig.controls
        if c.kind is ControlKind.JOINT and any(h.technical.startswith(word) for h in c.channels)
    }


def _sizes(rig: Rig) -> dict[int, tuple[float, float, float]]:
    found: dict[int, tuple[float, float, float]] = {}
    for control in rig.controls:
        rest = {h.technical: h.default for h in control.channels}
        if "size x" in rest:
            found[control.joint] = (rest["size x"], rest["size y"], rest["size z"])
    return found


def _limb_key(rig: Rig, number: int) -> tuple[int, int, int]:
    limb = rig.limbs[number]
    return limb.upper, limb.middle, limb.end


def _unreached(shot: Shot, figure: str, keep: set[tuple[int, int, int]]) -> Shot:
    """Limbs that the new rig does not have, where they reach, are posed joint by joint, frame by frame."""
    rig = shot.figure(figure).rig
    for number, limb in enumerate(rig.limbs):
        switch = special_column(rig, limb.goal, ChannelRole.REACH)
        if _limb_key(rig, number) in keep or switch < 0:
            continue
        curves = shot.curves(figure)
        on = curves[switch].values if len(curves[switch]) else np.array([rig.defaults[switch]])
        if on.max() > 0 and any(len(curves[c]) for c in limb_channels(rig, number)):
            shot = set_mode(shot, figure, number, float(shot.first), LimbMode.JOINTS, float(shot.last))
    return shot


def _addresses(rig: Rig) -> dict[Address, int]:
    found: dict[Address, int] = {}
    for index, control in enumerate(rig.controls):
        where: object = control.joint
        if control.kind in (ControlKind.GOAL, ControlKind.POLE) and control.limb >= 0:
            where = _limb_key(rig, control.limb)
        for column, channel in zip(rig.span(index), control.channels, strict=True):
            found[(control.kind.value, where, channel.technical)] = column
    return found


def _told_anew(take: Take, old: Figure, new: Figure) -> Take:
    curves = take.curves[old.name]
    before, after = _addresses(old.rig), _addresses(new.rig)
    moved: Mapping[int, Curve] = {
        after[where]: curves[column] for where, column in before.items() if where in after and len(curves[column])
    }
    still = new.no_motion()
    told = CurveSet(tuple(moved.get(i, curve) for i, curve in enumerate(still.curves)))
    return take.without(old.name).acted(old.name, curves=told, cards=take.of(old.name).cards)
