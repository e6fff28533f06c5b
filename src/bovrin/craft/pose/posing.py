"""Posing: what a drag on the stage means for a control's channels. Returns channel values; keying them is `keys`."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import columns, plan_of, special_column, unit
from bovrin.figure.solve.reach import by_channel, goal_matrices, pole_places
from bovrin.figure.stages.gaze import gaze_places, gaze_plan
from bovrin.figure.stages.stance import Stance, Values
from bovrin.motion.rotations import euler_matrix, matrix_euler, nearest_euler, quaternion_matrix
from bovrin.shot import ChannelRole, Control, ControlKind, Rig

Floats = NDArray[np.float64]


def children_of(rig: Rig, joint: int) -> list[int]:
    """The joints that hang on a joint, helpers left out."""
    helpers = {follow.joint for follow in rig.follows}
    return [i for i, j in enumerate(rig.joints) if j.parent == joint and i not in helpers]


@cached_by_identity
def _children(rig: Rig) -> dict[int, int]:
    """For each joint a child to aim with: the first that is no helper."""
    helpers = {f.joint for f in rig.follows}
    found: dict[int, int] = {}
    for index, joint in enumerate(rig.joints):
        if index not in helpers and joint.parent >= 0:
            found.setdefault(joint.parent, index)
    return found


def can_move(rig: Rig, control: int) -> bool:
    """Whether a control has channels that move it."""
    return any(c >= 0 for c in columns(rig, control, "translate"))


def can_turn(rig: Rig, control: int) -> bool:
    """Whether a control has channels that turn it."""
    return any(c >= 0 for c in columns(rig, control, "rotate"))


def handle_place(stance: Stance, control: int) -> Floats:
    """Where a control's handle is on the stage, and what it turns about, world space (3,)."""
    what = stance.rig.controls[control]
    if what.kind is ControlKind.GOAL:
        return np.asarray(_goals(stance)[what.limb, 0, :3, 3])
    if what.kind is ControlKind.POLE:
        return _pole_handle(stance, what)
    if what.kind is ControlKind.GAZE and gaze_plan(stance.rig) is not None:
        return np.asarray(gaze_places(stance.rig, stance.values[None], stance.world[None])[0])
    return stance.seen(what.joint)


def _goals(stance: Stance) -> Floats:
    """Where the goals of all limbs are (L, 1, 4, 4)."""
    return goal_matrices(plan_of(stance.rig), by_channel(stance.values[None]), stance.world[:, None])


def limb_joint(rig: Rig, control: int) -> int | None:
    """The joint of a limb that a control places: goals, poles and the limb's own joints; a shoulder places its arm's root."""
    what = rig.controls[control]
    if what.kind is ControlKind.WHOLE:
        return None
    for limb in rig.limbs:
        if what.joint in (limb.upper, limb.middle, limb.end):
            return what.joint
    carried = [limb.upper for limb in rig.limbs if rig.joints[limb.upper].parent == what.joint]
    return carried[0] if len(carried) == 1 and not can_move(rig, control) and _carries_one(rig, what.joint) else None


def _carries_one(rig: Rig, joint: int) -> bool:
    """Whether a joint carries one limb and no other branch of the body."""
    helpers = {follow.joint for follow in rig.follows}
    return sum(1 for i, j in enumerate(rig.joints) if j.parent == joint and i not in helpers) == 1


def anchor_column(rig: Rig, control: int) -> int:
    """The channel that anchors a control, or -1."""
    return special_column(rig, control, ChannelRole.ANCHOR)


def anchor_control(rig: Rig, joint: int) -> int | None:
    """The control whose anchor holds a joint, or None."""
    for index, control in enumerate(rig.controls):
        if control.joint == joint and anchor_column(rig, index) >= 0:
            return index
    return None


def swings(rig: Rig, control: int) -> bool:
    """Whether a control turns when it is dragged: it cannot move, or it is a drawn part that hangs on another, which is pulled
    off its joint only when that is asked for."""
    what = rig.controls[control]
    drawn = what.kind is ControlKind.JOINT and special_column(rig, control, ChannelRole.ORDER) >= 0
    return not can_move(rig, control) or (drawn and rig.joints[what.joint].parent > 0)


def moved_or_swung(stance: Stance, control: int, by: Floats, *, loose: bool = False) -> Values:
    """A control outside all limbs after its handle went a world way (3,): it moves, or its bone swings there. loose: it moves
    wherever it can."""
    if not swings(stance.rig, control) or (loose and can_move(stance.rig, control)):
        return moved(stance, control, by)
    return swung(stance, control, aim_place(stance, control) + by)


def _pole_handle(stance: Stance, what: Control) -> Floats:
    plan, values = plan_of(stance.rig), by_channel(stance.values[None])
    pole = pole_places(plan, values, stance.world[:, None], _goals(stance))[what.limb, 0]
    middle = stance.seen(what.joint)
    return np.asarray(middle + unit(pole - middle) * 0.16)


def aim_place(stance: Stance, control: int) -> Floats:
    """The end of the bone that a turning control swings, world space (3,)."""
    joint = stance.rig.controls[control].joint
    child = _children(stance.rig).get(joint)
    if child is not None:
        return stance.seen(child)
    return np.asarray(stance.seen(joint) - stance.world[joint, :3, 1] * 0.08)


def moved(stance: Stance, control: int, by: Floats) -> Values:
    """A control's channels after its handle moved by a world vector (3,), metres; empty if it cannot move."""
    cols = columns(stance.rig, control, "translate")
    if max(cols) < 0:
        return {}
    local = np.linalg.solve(_move_space(stance, control), by)
    return {c: float(stance.values[c] + local[i]) for i, c in enumerate(cols) if c >= 0}


def _move_space(stance: Stance, control: int) -> Floats:
    """(3, 3): how channel units of movement turn into world movement of the handle."""
    rig, world = stance.rig, stance.world
    what = rig.controls[control]
    plan = plan_of(rig)
    if what.kind in (ControlKind.GOAL, ControlKind.GAZE):
        return np.asarray(world[0, :3, :3])
    if what.kind is ControlKind.POLE:
        limb = rig.limbs[what.limb]
        goal = _goals(stance)[what.limb, 0]
        carriers = [goal if j == limb.end else world[j] for j in limb.pole_anchors]
        turns = [c[:3, :3] @ plan.rest_inverse[j][:3, :3] for c, j in zip(carriers, limb.pole_anchors, strict=True)]
        return np.asarray(sum(turns) / len(turns))
    parent = rig.joints[what.joint].parent
    return np.asarray(world[parent, :3, :3] if parent >= 0 else np.eye(3))


def turned(stance: Stance, control: int, axis: Floats, angle: float) -> Values:
    """A control's channels after turning it about a world axis (3,) by an angle in radians."""
    rig, values = stance.rig, stance.values
    cols = columns(rig, control, "rotate")
    if max(cols) < 0:
        return {}
    what = rig.controls[control]
    angles = np.array([values[c] if c >= 0 else 0.0 for c in cols])
    space = _turn_space(stance, control)
    local_axis = space.T @ unit(np.asarray(axis, float))
    turn = _about(local_axis, angle)
    if min(cols) < 0:
        return _partly_turned(cols, angles, local_axis, angle, what.order)
    new = turn @ euler_matrix(angles, what.order)
    result = nearest_euler(matrix_euler(new, what.order), angles, what.order)
    return {c: float(result[i]) for i, c in enumerate(cols)}


def _partly_turned(cols: list[int], angles: Floats, axis: Floats, angle: float, order: str) -> Values:
    """For controls that turn about one or two axes: each takes its share of the turn."""
    now = euler_matrix(angles, order)
    along = now.T @ axis if sum(c >= 0 for c in cols) == 1 else axis
    return {c: float(angles[i] + angle * along[i]) for i, c in enumerate(cols) if c >= 0}


def _turn_space(stance: Stance, control: int) -> Floats:
    """(3, 3): the axes, in the world, that a control's rotation channels are written in."""
    rig, world = stance.rig, stance.world
    what = rig.controls[control]
    if what.kind in (ControlKind.GOAL, ControlKind.GAZE):
        return np.asarray(world[0, :3, :3])
    parent = rig.joints[what.joint].parent
    frame = world[parent, :3, :3] if parent >= 0 else np.eye(3)
    return np.asarray(frame @ plan_of(rig).rest_local[what.joint, :3, :3])


def _about(axis: Floats, angle: float) -> Floats:
    half = angle / 2
    q = np.array([*(axis * np.sin(half)), np.cos(half)])
    return quaternion_matrix(q)


def swung(stance: Stance, control: int, to: Floats) -> Values:
    """A turning control's channels after its bone was aimed at a world place (3,), the shortest way."""
    pivot = stance.seen(stance.rig.controls[control].joint)
    now, wanted = unit(aim_place(stance, control) - pivot), unit(np.asarray(to, float) - pivot)
    axis = np.cross(now, wanted)
    size = float(np.linalg.norm(axis))
    if size < 1e-9:
        return {}
    return turned(stance, control, axis / size, float(np.arctan2(size, now @ wanted)))


def in_reach(stance: Stance, limb: int) -> bool:
    """Whether a limb follows its goal."""
    column = special_column(stance.rig, stance.rig.limbs[limb].goal, ChannelRole.REACH)
    return column < 0 or bool(stance.values[column] >= 0.5)


def control_for_joint(stance: Stance, joint: int) -> int:
    """The control a click on a joint's skin chooses: goal and pole in reach mode, else the joint's own."""
    rig = stance.rig
    at = leader_of(rig, joint)
    while at >= 0:
        for index, limb in enumerate(rig.limbs):
            if in_reach(stance, index):
                if at == limb.end:
                    return limb.goal
                if at in (limb.middle, limb.upper):
                    return limb.pole
        for index, control in enumerate(rig.controls):
            if control.joint == at and control.kind in (ControlKind.JOINT, ControlKind.WHOLE):
                return index
        at = rig.joints[at].parent
    return 0


def leader_of(rig: Rig, joint: int) -> int:
    """The joint that a helper's skin counts as; other joints are their own."""
    for rule in rig.follows:
        if rule.joint == joint:
            return rule.leader if rig.joints[rule.joint].name.endswith(" half") else rig.joints[joint].parent
    return joint


def reset(rig: Rig, controls: list[int]) -> Values:
    """The default of every channel of some controls."""
    return {i: rig.channels[i].default for c in controls for i in rig.span(c)}


def is_own(rig: Rig, control: int) -> bool:
    """Whether a control turns or moves its joint itself, not by reach."""
    return rig.controls[control].kind in (ControlKind.JOINT, ControlKind.WHOLE)


def controls_below(stance: Stance, control: int, *, whole: bool = False) -> list[int]:
    """The controls of the joints right below a control's, or with `whole` of all joints below; the ones in force now."""
    rig = stance.rig
    found: dict[int, None] = {}
    waiting = children_of(rig, rig.controls[control].joint)
    while waiting:
        joint = waiting.pop(0)
        other = control_for_joint(stance, joint)
        if other != control and rig.controls[other].joint == joint:
            found.setdefault(other)
            if not whole:
                continue
        waiting += children_of(rig, joint)
    return list(found)
