"""Turning and sizing controls about any point: their own pivots, one for all, or one borrowed for this edit."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.pose import posing
from bovrin.craft.pose.joint_placing import Placing
from bovrin.figure.body.bends import ancestors
from bovrin.figure.solve.plan import special_column, unit
from bovrin.figure.stages.stance import Stance, Values
from bovrin.motion.rotations import about
from bovrin.shot import ChannelRole, ControlKind, Rig

Floats = NDArray[np.float64]

LEAST, MOST = 0.05, 20.0


def turned_about(stance: Stance, controls: Iterable[int], axis: Floats, angle: float, pivot: Floats | None) -> Values:
    """Channels after turning controls about a world axis (3,), radians: each in its place, or all about `pivot` (3,)."""
    chosen = list(controls)
    changes: Values = {}
    now = stance
    for control in chosen if pivot is None else topmost(stance.rig, chosen):
        place = posing.handle_place(now, control)
        new = posing.turned(now, control, axis, angle)
        if pivot is not None:
            turn = about(unit(np.asarray(axis, float)), np.asarray(angle))
            new |= _brought(now.with_values(new), control, pivot + turn @ (place - pivot))
        changes |= new
        now = now.with_values(new)
    return changes


def topmost(rig: Rig, controls: list[int]) -> list[int]:
    """Of some controls those that no other carries along; goals and poles go by themselves."""
    joints = {rig.controls[c].joint for c in controls if rig.controls[c].kind in (ControlKind.JOINT, ControlKind.WHOLE)}
    return [
        c
        for c in controls
        if rig.controls[c].kind in (ControlKind.GOAL, ControlKind.POLE)
        or not joints & set(ancestors(rig, rig.controls[c].joint)[1:])
    ]


def _brought(stance: Stance, control: int, to: Floats) -> Values:
    """Channels that bring a control's pivot to a world place: its own, its limb's, or those of what carries it."""
    rig = stance.rig
    by = to - posing.handle_place(stance, control)
    if np.linalg.norm(by) < 1e-9:
        return {}
    if posing.can_move(rig, control):
        return posing.moved(stance, control, by)
    joint = posing.limb_joint(rig, control)
    limb = next((one for one in rig.limbs if joint == one.end), None)
    if limb is not None and joint is not None:
        return Placing(stance, joint, keep_turn=True).to(stance.seen(joint) + by)
    carrier = _carrier(rig, control)
    return {} if carrier is None else posing.moved(stance, carrier, by)


def _carrier(rig: Rig, control: int) -> int | None:
    """The nearest control above that moves."""
    for joint in ancestors(rig, rig.controls[control].joint)[1:]:
        for index, other in enumerate(rig.controls):
            inside = other.joint == joint and other.kind in (ControlKind.JOINT, ControlKind.WHOLE)
            if inside and posing.can_move(rig, index):
                return index
    return None


def can_size(rig: Rig, control: int, role: ChannelRole = ChannelRole.SIZE) -> bool:
    """Whether a control has a channel for its size (or stretch)."""
    return special_column(rig, control, role) >= 0


def sized(stance: Stance, controls: Iterable[int], role: ChannelRole, factor: float, pivot: Floats | None) -> Values:
    """Channels after making controls `factor` times as large (SIZE) or long (STRETCH); `pivot` (3,) stays put."""
    changes: Values = {}
    now, values = stance, stance.values
    for control in controls:
        other = ChannelRole.STRETCH if role is ChannelRole.SIZE else ChannelRole.SIZE
        columns = [special_column(stance.rig, control, r) for r in (role, other)]
        column = next((c for c in columns if c >= 0), -1)
        if column < 0:
            continue
        size = float(np.clip(values[column] * factor, LEAST, MOST))
        new = {column: size}
        if pivot is not None:
            grown = now.with_values(new)
            place = posing.handle_place(grown, control)
            new |= _brought(grown, control, pivot + (place - pivot) * (size / float(values[column])))
        changes |= new
        now = now.with_values(new)
    return changes
