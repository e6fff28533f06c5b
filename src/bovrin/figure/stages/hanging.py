"""What hangs on something: controls put where their carriers take them, as far as their channels say, before anything reaches.

A control's place and turn are blended with those of what carries it by its shares; more than the whole counts as the whole.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.joints import body, first_joint, solve
from bovrin.figure.solve.plan import columns, plan_of
from bovrin.figure.solve.reach import by_channel, goal_matrices, pole_space
from bovrin.figure.solve.rest_space import own_channels, put_turn
from bovrin.figure.stages.gaze import gaze_plan, rest_place
from bovrin.motion.rotations import euler_matrix, matrix_quaternion, quaternion_matrix, turn_only
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
        limb = rig.limbs[what.limb]  # the end of a limb that reaches is where its goal is
        return frozenset(own | {0, *limb.pole_anchors} - {limb.end})
    parent = rig.joints[what.joint].parent
    return frozenset(own | ({parent} if parent >= 0 else set()))


class _Pose:
    """Values (F, C) that are being put, and the joints as they make them, solved when they are needed and were moved."""

    def __init__(self, rig: Rig, values: Floats) -> None:
        self.rig, self.values = rig, values
        self._world: Floats | None = None
        self._stale: set[int] = set()
        self._whole = False
        self._body = {int(j) for level in plan_of(rig).body_levels for j in level.joints}

    def world(self, joints: frozenset[int]) -> Floats:
        """Matrices (F, J, 4, 4) in which at least these joints are as they are now."""
        if not joints:
            return np.empty((len(self.values), 0, 4, 4))
        if joints == {0} and self._world is None and (root := first_joint(self.rig, self.values)) is not None:
            return root
        inside = joints <= self._body
        if self._world is None or self._stale & joints or not (inside or self._whole):
            found = body(self.rig, self.values) if inside else None
            self._whole = found is None
            self._world, self._stale = solve(self.rig, self.values) if found is None else found, set()
        return self._world

    def put(self, control: int) -> None:
        """A control's channels were changed."""
        self._stale |= joints_moved(self.rig, control)


class Space(NamedTuple):
    """Where a control's channels are told: its place is axes (F, 3, 3) @ (rest (3,) + its move) + shift (F, 3), and its turn in
    turn_axes (F, 3, 3)."""

    axes: Floats
    shift: Floats
    rest: Floats
    turn_axes: Floats

    def place(self, move: Floats) -> Floats:
        """Where a move (F, 3) leads."""
        return np.asarray((self.axes @ (self.rest + move)[..., None])[..., 0] + self.shift)

    def move(self, place: Floats) -> Floats:
        """The move (F, 3) that leads to places (F, 3)."""
        return np.asarray(np.linalg.solve(self.axes, (place - self.shift)[..., None])[..., 0] - self.rest)


def space_of(rig: Rig, control: int, values: Floats, world: Floats) -> Space:
    """The space of a control: values (F, C), and the joints (F, J, 4, 4), right at least where it hangs on them."""
    what, plan = rig.controls[control], plan_of(rig)
    if what.kind is ControlKind.POLE:
        joints, channels = np.swapaxes(world, 0, 1), by_channel(values)
        goal = goal_matrices(plan, channels, joints)[what.limb]
        axes, shift = pole_space(plan, what.limb, joints, goal)
        return Space(axes, shift, np.array(rig.limbs[what.limb].pole_rest), turn_only(axes))
    if what.kind in (ControlKind.GOAL, ControlKind.GAZE):
        root = world[:, 0] if plan.root_back is None else world[:, 0] @ plan.root_back
        rest = rest_place(rig) if what.kind is ControlKind.GAZE else plan.rest_world[rig.limbs[what.limb].end, :3, 3]
        return Space(root[:, :3, :3], root[:, :3, 3], rest, turn_only(root[:, :3, :3]))
    parent, rest = rig.joints[what.joint].parent, plan.rest_local[what.joint]
    above = world[:, parent] if parent >= 0 else np.broadcast_to(np.eye(4), (len(values), 4, 4))
    return Space(above[:, :3, :3], above[:, :3, 3], rest[:3, 3], turn_only(above[:, :3, :3]) @ rest[:3, :3])


def frames_of(rig: Rig, control: int, values: Floats, world: Floats) -> tuple[Floats, Floats]:
    """Where a control is (F, 3), metres, and how it is turned (F, 3, 3), in the world: values (F, C), joints (F, J, 4, 4)."""
    what = rig.controls[control]
    if what.kind in (ControlKind.JOINT, ControlKind.WHOLE):
        return world[:, what.joint, :3, 3], turn_only(world[:, what.joint, :3, :3])
    return _frames_in(space_of(rig, control, values, world), rig, control, values)


def _frames_in(space: Space, rig: Rig, control: int, values: Floats) -> tuple[Floats, Floats]:
    """The same by what the control hangs on alone, its own joint not solved yet."""
    turn = euler_matrix(own_channels(rig, control, "rotate", values), rig.controls[control].order)
    return space.place(own_channels(rig, control, "translate", values)), space.turn_axes @ turn


def put_at(rig: Rig, control: int, values: Floats, world: Floats, place: Floats | None, turn: Floats | None) -> None:
    """Write into values (F, C) what puts a control at a place (F, 3) and turn (F, 3, 3) of the world, as far as it can go there;
    None: as it is. `world` (F, J, 4, 4): the joints as the values make them, at least those that the control hangs on."""
    _put_in(space_of(rig, control, values, world), rig, control, values, place, turn)


def _put_in(space: Space, rig: Rig, control: int, values: Floats, place: Floats | None, turn: Floats | None) -> None:
    if turn is not None:
        put_turn(rig, control, values, np.swapaxes(space.turn_axes, -1, -2) @ turn)
    cols = columns(rig, control, "translate")
    if place is not None and max(cols) >= 0:
        move = space.move(place)
        for axis, c in enumerate(cols):
            if c >= 0:
                values[:, c] = move[:, axis]


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
    hanging = {control: (own, shares(rig, own, values)) for control, own in by_control(rig, hooks).items()}
    counting = {control: some for control, some in hanging.items() if some[1].any()}
    if not counting:
        return values
    pose = _Pose(rig, values.copy())
    worlds: dict[Any, Floats] = {}

    def once(carrier: Any, at: Floats) -> Floats:
        if carrier not in worlds:
            worlds[carrier] = world_of(carrier, at)
        return worlds[carrier]

    for control, (own, share) in counting.items():
        _hang(pose, control, own, share, frames, once)
    return pose.values


def _hang(pose: _Pose, control: int, own: list[Hook], share: Floats, frames: Floats, world_of: WorldOf) -> None:
    """One control put where its carriers take it, by shares (N, F)."""
    rig = pose.rig
    world = pose.world(frozenset().union(*(_needed(rig, hook) for hook in own)))
    rows = np.flatnonzero(share.sum(0) > 0.0)
    targets = [carried(hook, world, frames, world_of) for hook in own]
    if len(rows) < len(frames):
        world, share = world[rows], share[:, rows]
        targets = [(place[rows], turn[rows]) for place, turn in targets]
        part = pose.values[rows]
    else:
        part = pose.values
    space = space_of(rig, control, part, world)
    wholly = (share == 1.0).any(0).all() and all(hook.attachment.what == "both" for hook in own)
    mine = targets[0] if wholly else _frames_in(space, rig, control, part)
    _put_in(space, rig, control, part, *_blended(mine, targets, own, share))
    if part is not pose.values:
        pose.values[rows] = part
    pose.put(control)


def _needed(rig: Rig, hook: Hook) -> frozenset[int]:
    own = hook.carrier is None and hook.attachment.carrier != TO_GROUND
    return joints_needed(rig, hook.attachment.carrier if own else "", hook.attachment)


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
