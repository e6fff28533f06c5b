"""What hangs on something: controls put where their carriers take them, as far as their channels say, before anything reaches.

A control's place and turn are blended with those of what carries it by its shares; more than the whole counts as the whole.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import columns, plan_of
from bovrin.figure.solve.reach import by_channel, goal_matrices, pole_places, pole_space
from bovrin.figure.solve.rest_space import hinge_angles
from bovrin.figure.stages.gaze import gaze_places, gaze_plan
from bovrin.motion.rotations import (
    euler_matrix,
    matrix_euler,
    matrix_quaternion,
    nearest_euler,
    quaternion_matrix,
    turn_only,
)
from bovrin.shot import TO_GROUND, Attachment, ControlKind, Rig

Floats = NDArray[np.float64]


class Hook(NamedTuple):
    """An attachment, the joint that carries it, and what its carrier hangs on in turn, as `staging.hangs_on` tells it; None: the
    ground, or its own figure."""

    attachment: Attachment
    carrier: Any
    joint: int


WorldOf = Callable[[Any, Floats], Floats]
"""The joints (F, J, 4, 4) of a carrier at frames (F,)."""


@cached_by_identity
def joints_moved(rig: Rig, control: int) -> frozenset[int]:
    """The joints that a control moves, if only by what they hang on."""
    what = rig.controls[control]
    if what.kind is ControlKind.WHOLE:
        return frozenset(range(len(rig.joints)))
    tops = {what.joint}
    if what.kind in (ControlKind.GOAL, ControlKind.POLE):
        tops = {rig.limbs[what.limb].upper}
    elif what.kind is ControlKind.GAZE and (gaze := gaze_plan(rig)) is not None:
        tops = {gaze.head, *(eye.joint for eye in gaze.eyes)}
    for index, joint in enumerate(rig.joints):
        if joint.parent in tops:
            tops.add(index)
    return frozenset(tops | {rule.joint for rule in rig.follows if rule.leader in tops})


def joints_needed(rig: Rig, figure: str, one: Attachment) -> frozenset[int]:
    """The joints of its own figure that must be known before an attachment can be told in channels."""
    what = rig.controls[rig.control(one.control)]
    own = {rig.joint(one.joint)} if one.carrier == figure != TO_GROUND else set()
    if what.kind in (ControlKind.GOAL, ControlKind.GAZE):
        return frozenset(own | {0})
    if what.kind is ControlKind.POLE:
        return frozenset(own | {0, *rig.limbs[what.limb].pole_anchors})
    parent = rig.joints[what.joint].parent
    return frozenset(own | ({parent} if parent >= 0 else set()))


class _Pose:
    """Values (F, C) that are being put, and the joints as they make them, solved when they are needed and were moved."""

    def __init__(self, rig: Rig, values: Floats) -> None:
        self.rig, self.values = rig, values
        self._world: Floats | None = None
        self._stale: set[int] = set()

    def world(self, joints: frozenset[int]) -> Floats:
        """Matrices (F, J, 4, 4) in which at least these joints are as they are now."""
        if joints == {0} and self._world is None and (root := _root(self.rig, self.values)) is not None:
            return root
        if self._world is None or self._stale & joints:
            self._world, self._stale = solve(self.rig, self.values), set()
        return self._world

    def put(self, control: int) -> None:
        """A control's channels were changed."""
        self._stale |= joints_moved(self.rig, control)


def _root(rig: Rig, values: Floats) -> Floats | None:
    """The first joint (F, 1, 4, 4) without the others; None where it is carried out of shape."""
    plan = plan_of(rig)
    if any(shape.joint == 0 for shape in plan.shapes):
        cols = [c for s in plan.shapes if s.joint == 0 for c in (s.stretch, s.size, *s.sizes) if c >= 0]
        if (values[:, cols] != 1.0).any():
            return None
    made = np.tile(plan.rest_local[0], (len(values), 1, 1, 1))
    channels = by_channel(values)
    for row in np.flatnonzero(plan.move_joints == 0):
        made[:, 0, :3, 3] += channels[plan.move_columns[row]].T
    for turns in plan.turns:
        for row in np.flatnonzero(turns.joints == 0):
            made[:, 0, :3, :3] = plan.rest_local[0, :3, :3] @ euler_matrix(channels[turns.columns[row]].T, turns.order)
    return made


def frames_of(rig: Rig, control: int, values: Floats, world: Floats) -> tuple[Floats, Floats]:
    """Where a control is (F, 3), metres, and how it is turned (F, 3, 3), in the world: values (F, C), joints (F, J, 4, 4)."""
    what = rig.controls[control]
    if what.kind is ControlKind.GOAL:
        root = _rooted(rig, world)
        place = plan_of(rig).rest_world[rig.limbs[what.limb].end, :3, 3] + _own_move(rig, control, values)
        where = (root[:, :3, :3] @ place[..., None])[..., 0] + root[:, :3, 3]
        return where, turn_only(root[:, :3, :3]) @ _own_turn(rig, control, values)
    if what.kind is ControlKind.GAZE:
        return gaze_places(rig, values, world), turn_only(world[:, 0, :3, :3])
    if what.kind is ControlKind.POLE:
        return _poles(rig, values, world)[what.limb], turn_only(world[:, 0, :3, :3])
    return world[:, what.joint, :3, 3], turn_only(world[:, what.joint, :3, :3])


def _rooted(rig: Rig, world: Floats) -> Floats:
    back = plan_of(rig).root_back
    return world[:, 0] if back is None else np.asarray(world[:, 0] @ back)


def _poles(rig: Rig, values: Floats, world: Floats) -> Floats:
    joints, channels = np.swapaxes(world, 0, 1), by_channel(values)
    return pole_places(plan_of(rig), channels, joints, goal_matrices(plan_of(rig), channels, joints))


def _own_move(rig: Rig, control: int, values: Floats) -> Floats:
    cols = columns(rig, control, "translate")
    return np.stack([values[:, c] if c >= 0 else np.zeros(len(values)) for c in cols], -1)


def _own_turn(rig: Rig, control: int, values: Floats) -> Floats:
    cols = columns(rig, control, "rotate")
    angles = np.stack([values[:, c] if c >= 0 else np.zeros(len(values)) for c in cols], -1)
    return euler_matrix(angles, rig.controls[control].order)


def _move_space(rig: Rig, control: int, values: Floats, world: Floats) -> Floats:
    """(F, 3, 3): how a control's channels of movement turn into movement in the world."""
    what = rig.controls[control]
    if what.kind in (ControlKind.GOAL, ControlKind.GAZE):
        return np.asarray(_rooted(rig, world)[:, :3, :3])
    if what.kind is ControlKind.POLE:
        joints = np.swapaxes(world, 0, 1)
        goals = goal_matrices(plan_of(rig), by_channel(values), joints)
        return pole_space(plan_of(rig), what.limb, joints, goals[what.limb])[0]
    parent = rig.joints[what.joint].parent
    return world[:, parent, :3, :3] if parent >= 0 else np.broadcast_to(np.eye(3), (len(values), 3, 3))


def _turn_space(rig: Rig, control: int, world: Floats) -> Floats:
    """(F, 3, 3): the axes in the world that a control's turn is told in."""
    what = rig.controls[control]
    if what.kind is ControlKind.GOAL:
        return turn_only(_rooted(rig, world)[:, :3, :3])
    parent, own = rig.joints[what.joint].parent, plan_of(rig).rest_local[what.joint, :3, :3]
    return np.asarray((turn_only(world[:, parent, :3, :3]) if parent >= 0 else np.eye(3)[None]) @ own)


def put_at(rig: Rig, control: int, values: Floats, world: Floats, place: Floats | None, turn: Floats | None) -> None:
    """Write into values (F, C) what puts a control at a place (F, 3) and turn (F, 3, 3) of the world, as far as it can go there;
    None: as it is. `world` (F, J, 4, 4): the joints as the values make them, at least those that the control hangs on."""
    if turn is not None:
        _put_turn(rig, control, values, world, turn)
    cols = columns(rig, control, "translate")
    if place is not None and max(cols) >= 0:
        now = _place_now(rig, control, values, world)
        local = np.linalg.solve(_move_space(rig, control, values, world), (place - now)[..., None])[..., 0]
        for axis, c in enumerate(cols):
            if c >= 0:
                values[:, c] += local[:, axis]


def _place_now(rig: Rig, control: int, values: Floats, world: Floats) -> Floats:
    what = rig.controls[control]
    if what.kind not in (ControlKind.JOINT, ControlKind.WHOLE):
        return frames_of(rig, control, values, world)[0]
    parent = rig.joints[what.joint].parent
    own = plan_of(rig).rest_local[what.joint, :3, 3] + _own_move(rig, control, values)
    if parent < 0:
        return own
    return np.asarray((world[:, parent, :3, :3] @ own[..., None])[..., 0] + world[:, parent, :3, 3])


def _put_turn(rig: Rig, control: int, values: Floats, world: Floats, turn: Floats) -> None:
    cols, order = columns(rig, control, "rotate"), rig.controls[control].order
    if max(cols) < 0 or rig.controls[control].kind in (ControlKind.POLE, ControlKind.GAZE):
        return
    own = np.swapaxes(_turn_space(rig, control, world), -1, -2) @ turn
    near = np.stack([values[:, c] if c >= 0 else np.zeros(len(values)) for c in cols], -1)
    axes = [axis for axis, c in enumerate(cols) if c >= 0]
    if len(axes) == 1:
        values[:, cols[axes[0]]] = hinge_angles(own[:, None], np.array(axes), near[:, None])[:, 0]
        return
    angles = nearest_euler(matrix_euler(own, order), near, order)
    for axis in axes:
        values[:, cols[axis]] = angles[:, axis]


def by_control(rig: Rig, hooks: Sequence[Hook]) -> dict[int, list[Hook]]:
    """The hooks of each control, in the order that controls are put."""
    found: dict[int, list[Hook]] = {}
    for hook in hooks:
        found.setdefault(rig.control(hook.attachment.control), []).append(hook)
    return found


def shares(rig: Rig, hooks: Sequence[Hook], values: Floats) -> Floats:
    """How much each hook of a control counts (N, F): their channels, and together at most the whole."""
    own = np.stack([np.clip(values[:, rig.channel(hook.attachment.column)], 0.0, 1.0) for hook in hooks])
    return np.asarray(own / np.maximum(own.sum(0), 1.0))


def hung(rig: Rig, values: Floats, frames: Floats, hooks: Sequence[Hook], world_of: WorldOf) -> Floats:
    """Values (F, C) in which controls hang on what they hang on, as far as their channels say on each frame."""
    made = values
    pose = _Pose(rig, values)
    for control, own in by_control(rig, hooks).items():
        share = shares(rig, own, values)
        rows = np.flatnonzero(share.sum(0) > 0.0)
        if not len(rows):
            continue
        if made is values:
            made = values.copy()
            pose.values = made
        needed = frozenset().union(*(_needed(rig, control, hook) for hook in own))
        world = pose.world(needed)[rows]
        targets = [carried(hook, world, frames[rows], world_of) for hook in own]
        part = made[rows]
        place, turn = _blended(frames_of_own(rig, control, part, world), targets, own, share[:, rows])
        put_at(rig, control, part, world, place, turn)
        made[rows] = part
        pose.put(control)
    return made


def _needed(rig: Rig, control: int, hook: Hook) -> frozenset[int]:
    own = hook.carrier is None and hook.attachment.carrier != TO_GROUND
    return joints_needed(rig, hook.attachment.carrier if own else "", hook.attachment)


def frames_of_own(rig: Rig, control: int, values: Floats, world: Floats) -> tuple[Floats, Floats]:
    """The same as `frames_of`, where the control's own joint is not solved yet but what it hangs on is."""
    what = rig.controls[control]
    if what.kind not in (ControlKind.JOINT, ControlKind.WHOLE):
        return frames_of(rig, control, values, world)
    return _place_now(rig, control, values, world), _turn_space(rig, control, world) @ _own_turn(rig, control, values)


def carried(hook: Hook, own: Floats, frames: Floats, world_of: WorldOf) -> tuple[Floats, Floats]:
    """Where a hook puts what hangs on it: places (F, 3) and turns (F, 3, 3). own (F, J, 4, 4): its figure's joints."""
    one = hook.attachment
    place, turn = np.array(one.place), quaternion_matrix(_unit_turn(one))
    if one.carrier == TO_GROUND:
        return np.tile(place, (len(frames), 1)), np.tile(turn, (len(frames), 1, 1))
    world = (own if hook.carrier is None else world_of(hook.carrier, frames))[:, hook.joint]
    axes = turn_only(world[:, :3, :3])
    return axes @ place + world[:, :3, 3], axes @ turn


def _unit_turn(one: Attachment) -> Floats:
    turn = np.array(one.turn, float)
    return np.asarray(turn / np.linalg.norm(turn))


def _blended(
    own: tuple[Floats, Floats], targets: Sequence[tuple[Floats, Floats]], hooks: Sequence[Hook], share: Floats
) -> tuple[Floats | None, Floats | None]:
    """Place (F, 3) and turn (F, 3, 3) between a control's own and what carries it, by shares (N, F): straight for places, the
    nearest normalised blend of quaternions for turns; None where nothing carries it."""
    by_place = np.stack([s * (hook.attachment.what != "turn") for s, hook in zip(share, hooks, strict=True)])
    by_turn = np.stack([s * (hook.attachment.what != "place") for s, hook in zip(share, hooks, strict=True)])
    place = (1.0 - by_place.sum(0))[:, None] * own[0]
    for weight, (target, _) in zip(by_place, targets, strict=True):
        place = place + weight[:, None] * target
    turn = _blended_turn(own[1], [turn for _, turn in targets], by_turn) if by_turn.any() else None
    return place if by_place.any() else None, turn


def _blended_turn(own: Floats, turns: Sequence[Floats], share: Floats) -> Floats:
    whole = share.argmax(0)
    if (share[whole, np.arange(share.shape[1])] == 1.0).all():  # nothing to blend: to the last bit as it is carried
        return np.asarray(np.stack(turns)[whole, np.arange(share.shape[1])], float)
    mixed = (1.0 - share.sum(0))[:, None] * (first := matrix_quaternion(own))
    for weight, turn in zip(share, turns, strict=True):
        q = matrix_quaternion(turn)
        q = np.where((q * first).sum(-1, keepdims=True) < 0.0, -q, q)
        mixed = mixed + weight[:, None] * q
    size = np.linalg.norm(mixed, axis=-1, keepdims=True)
    return np.asarray(quaternion_matrix(np.where(size > 1e-9, mixed / np.maximum(size, 1e-12), first)), float)
