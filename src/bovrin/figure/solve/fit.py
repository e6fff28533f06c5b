"""The way back: from joints in the world to channel values. Posing, mode switches and pasting all end here."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.inside import Bones, bones_with_inside
from bovrin.figure.solve.joints import local_matrices
from bovrin.figure.solve.plan import LimbPlan, Plan, Turns, columns, plan_of, unit
from bovrin.figure.solve.reach import bone_lengths, bone_rotations, by_channel, foot_roll, pole_space, with_inside
from bovrin.figure.solve.rest_space import hinge_angles
from bovrin.figure.solve.shape import bone_factors
from bovrin.motion.rotations import cross, followed, matrix_euler, matrix_quaternion, nearest_euler, turn_only
from bovrin.shot import Rig, Unit

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


class LimbMode(StrEnum):
    """What poses a limb: its end, or its joints. LEAVE: neither is asked to follow."""

    REACH = "reach"
    JOINTS = "joints"
    LEAVE = "leave"


STRAIGHT = 4e-9
"""Metres short of full length that count as straight; the goal of such a limb lies a little beyond its end."""
SAME_TURN, SAME_PLACE = 1e-9, 1e-7


def modes_of(rig: Rig, values: Floats) -> list[LimbMode]:
    """The mode of every limb at values (C,)."""
    limbs = plan_of(rig).limbs
    if limbs is None:
        return []
    return [LimbMode.REACH if column < 0 or values[column] >= 0.5 else LimbMode.JOINTS for column in limbs.switch]


def fitted(rig: Rig, world: Floats, near: Floats, modes: Sequence[LimbMode] | None = None) -> Floats:
    """Channel values (F, C) that put the joints where `world` (F, J, 4, 4) has them, as close to `near` (F, C) as can be.

    Stretch and size channels must be at rest in `world`. modes: for each limb "reach", "joints" or "leave": which of its
    two sets of channels is written; by default the one that `near` follows on its first frame. The other set stays.
    """
    plan = plan_of(rig)
    wanted = modes_of(rig, near[0]) if modes is None else list(modes)
    result = near.copy()
    turn = turn_only(world[..., :3, :3])
    own = _joints_of_limbs(plan, [i for i, mode in enumerate(wanted) if mode != LimbMode.JOINTS])
    for turns in plan.turns:
        _fit_turns(plan, turns, rig, turn, near, result, own)
    _fit_moves(plan, rig, world, turn, result)
    if plan.limbs is not None:
        inside = bones_with_inside(plan, local_matrices(plan, by_channel(result)))
        _fit_lengths(plan.limbs, world, result, inside)
        reaching = np.array([limb for limb, mode in enumerate(wanted) if mode == LimbMode.REACH], np.intp)
        if len(reaching):
            _fit_reach(plan, _reaching(plan, reaching, world, turn, result, inside), result)
    return result


def _joints_of_limbs(plan: Plan, which: Sequence[int]) -> set[int]:
    limbs = plan.limbs
    if limbs is None:
        return set()
    toes = {int(t) for t, foot in zip(limbs.toes, limbs.feet, strict=True) if foot in which}
    return toes | {int(joints[i]) for i in which for joints in (limbs.upper, limbs.middle, limbs.end)}


def _relative(rig: Rig, joints: Ints, turn: Floats) -> Floats:
    """Turns of joints (F, n, 3, 3) in their parents' axes."""
    parents = np.array([rig.joints[j].parent for j in joints])
    above = np.swapaxes(turn[:, parents], -1, -2)
    above[:, parents < 0] = np.eye(3)
    return np.asarray(above @ turn[:, joints])


def _fit_turns(plan: Plan, turns: Turns, rig: Rig, turn: Floats, near: Floats, result: Floats, skip: set[int]) -> None:
    chosen = np.array([j not in skip for j in turns.joints])
    joints, cols = turns.joints[chosen], turns.columns[chosen]
    if not len(joints):
        return
    rest = np.swapaxes(plan.rest_local[joints, :3, :3], -1, -2)
    rotation = rest @ _relative(rig, joints, turn)
    here = np.where(cols >= 0, near[:, cols], 0.0)
    angles = nearest_euler(matrix_euler(rotation, turns.order), here, turns.order)
    single = (cols >= 0).sum(1) == 1
    if single.any():
        axis = cols[single].argmax(1)
        angles[:, np.flatnonzero(single), axis] = hinge_angles(rotation[:, single], axis, here[:, single])
    kept = cols >= 0
    result[:, cols[kept]] = _settled(angles[:, kept], near[:, cols[kept]], SAME_TURN)


def _settled(new: Floats, old: Floats, least: float) -> Floats:
    """New values, but the old ones where they are as good as the same."""
    return np.where(np.abs(new - old) < least, old, new)


def _fit_moves(plan: Plan, rig: Rig, world: Floats, turn: Floats, result: Floats) -> None:
    joints, cols = plan.move_joints, plan.move_columns
    if not len(joints):
        return
    parents = np.array([rig.joints[j].parent for j in joints])
    places = world[..., :3, 3]
    place = places[:, joints] - np.where((parents >= 0)[:, None], places[:, parents], 0.0)
    above = np.swapaxes(turn[:, parents], -1, -2)
    above[:, parents < 0] = np.eye(3)
    moves = (above @ place[..., None])[..., 0] - plan.rest_local[joints, :3, 3]
    kept = cols >= 0
    result[:, cols[kept]] = _settled(moves[:, kept], result[:, cols[kept]], SAME_PLACE)


def _fit_lengths(limbs: LimbPlan, world: Floats, result: Floats, inside: tuple[Bones, Bones] | None) -> None:
    places = world[..., :3, 3]
    now = bone_factors(limbs, by_channel(result))
    for bone, (start, stop, rest) in enumerate(
        ((limbs.upper, limbs.middle, limbs.length_upper), (limbs.middle, limbs.end, limbs.length_middle))
    ):
        there = limbs.lengths[:, bone] >= 0
        cols = limbs.lengths[there, bone]
        usual = np.broadcast_to(rest, (len(world), len(rest)))
        if inside is not None:  # what lies inside bends a bone, which makes it shorter
            bent = inside[bone].length.T / (1.0 if now is None else now[:, bone].T)
            usual = np.where(np.isnan(bent), usual, bent)
        factor = (np.linalg.norm(places[:, stop] - places[:, start], axis=-1) / usual)[:, there]
        result[:, cols] = _settled(factor, result[:, cols], SAME_PLACE)


class Reaching(NamedTuple):
    """What of a fit belongs to the k limbs that are posed by their ends. which (k,): the limbs.

    upper, lower (k, F): bone lengths; rolls: of all feet; back (F, 3, 3), root (F, 3): the root turned back, and its place;
    world (J, F, 4, 4), turn (J, F, 3, 3): the joints; aims (k, F, 3, 3): where bones with something inside point, if any have.
    """

    which: Ints
    upper: Floats
    lower: Floats
    rolls: tuple[Floats, Floats]
    back: Floats
    root: Floats
    world: Floats
    turn: Floats
    aims: tuple[Floats, Floats] | None

    def places(self, joints: Ints) -> Floats:
        """Where a joint of each limb is (k, F, 3); joints (L,): those of all limbs."""
        return np.asarray(self.world[joints[self.which], :, :3, 3])

    def turns(self, joints: Ints, bone: int | None = None) -> Floats:
        """How a joint of each limb is turned (k, F, 3, 3), or how the bone below it is."""
        own = self.turn[joints[self.which]]
        return own if bone is None or self.aims is None else np.asarray(own @ self.aims[bone])


def _reaching(
    plan: Plan, which: Ints, world: Floats, turn: Floats, result: Floats, inside: tuple[Bones, Bones] | None
) -> Reaching:
    limbs = plan.limbs
    assert limbs is not None
    values = by_channel(result)
    upper, lower = with_inside(bone_lengths(limbs, values), inside)
    aims = None if inside is None else (inside[0].aim[which], inside[1].aim[which])
    root_turn, root_place = turn[:, 0], world[..., :3, 3][:, 0]
    if plan.root_back is not None:
        root_turn = root_turn @ plan.root_back[:3, :3]
        root_place = root_place + (turn[:, 0] @ plan.root_back[:3, 3])
    return Reaching(
        which,
        upper[which],
        lower[which],
        foot_roll(limbs, values),
        np.swapaxes(root_turn, -1, -2),
        root_place,
        np.swapaxes(world, 0, 1),
        np.swapaxes(turn, 0, 1),
        aims,
    )


def _fit_reach(plan: Plan, limb: Reaching, result: Floats) -> None:
    """Goals, poles and twists."""
    limbs = plan.limbs
    assert limbs is not None
    start, middle, end = (limb.places(joints) for joints in (limbs.upper, limbs.middle, limbs.end))
    along, distance = unit(end - start), np.linalg.norm(end - start, axis=-1)
    eased = _eased_back(distance, limb.upper + limb.lower, limbs.room[limb.which, None])
    goal = start + along * eased[..., None]
    _write_goals(plan, limb, goal, result)
    carried = limb.world[limbs.end[limb.which]].copy()
    carried[..., :3, :3], carried[..., :3, 3] = limb.turns(limbs.end), goal
    spaces = [pole_space(plan, n, limb.world, own) for n, own in zip(limb.which.tolist(), carried, strict=True)]
    aside = _aside(limbs, limb, along, middle - start)
    _write_poles(
        limbs, limb, start, along, aside, (np.stack([s[0] for s in spaces]), np.stack([s[1] for s in spaces])), result
    )
    _write_twists(limbs, limb, along, aside, distance, result)


def _eased_back(distance: Floats, full: Floats, room: Floats) -> Floats:
    """How far the goals must be so that the limbs' ends get to a distance (k, F): `reach.reached_distance` undone."""
    short = np.maximum(full - distance, STRAIGHT)
    return np.where(short < room, full - room + room * np.log(room / short), distance)


def _aside(limbs: LimbPlan, limb: Reaching, along: Floats, to_middle: Floats) -> Floats:
    """The unit direction the middle joint lies to; of a straight limb, the one its upper bone's turn says."""
    off = to_middle - (to_middle * along).sum(-1, keepdims=True) * along
    basis = limb.turns(limbs.upper, 0) @ np.swapaxes(limbs.from_basis_upper[limb.which], -1, -2)[:, None]
    turned = unit(cross(basis[..., 2], along))
    bent = np.linalg.norm(off, axis=-1) > 1e-5
    return np.where(bent[..., None], unit(off), turned)


def _now(result: Floats, columns: Ints) -> Floats:
    """What channels (k, n) of a result say (k, F, n); zero where there are none."""
    return np.where(columns >= 0, result[:, columns], 0.0).transpose(1, 0, 2)


def _write(result: Floats, columns: Ints, values: Floats) -> None:
    """Put values (k, F, n) into those of the channels (k, n) that there are."""
    kept = columns >= 0
    result[:, columns[kept]] = values.transpose(1, 0, 2)[:, kept]


def _write_goals(plan: Plan, limb: Reaching, goal: Floats, result: Floats) -> None:
    limbs = plan.limbs
    assert limbs is not None
    rest = plan.rest_world[limbs.end[limb.which]][:, None]
    inside = limb.back @ limb.turns(limbs.end) @ np.swapaxes(rest[..., :3, :3], -1, -2)
    place = (limb.back @ (goal - limb.root)[..., None])[..., 0] - rest[..., :3, 3]
    rows, feet = np.nonzero(limb.which[:, None] == limbs.feet)
    if len(rows):
        roll, shift = (part[feet] for part in limb.rolls)
        inside[rows] = inside[rows] @ np.swapaxes(roll, -1, -2)
        place[rows] -= (inside[rows] @ shift[..., None])[..., 0]
    turned = _now(result, limbs.goal_turn[limb.which])
    orders = [limbs.goal_orders[n] for n in limb.which]
    angles = np.empty_like(turned)
    for order in set(orders):
        rows = np.flatnonzero(np.array(orders) == order)
        angles[rows] = nearest_euler(matrix_euler(inside[rows], order), turned[rows], order)
    for all_, new, least in ((limbs.goal_turn, angles, SAME_TURN), (limbs.goal_move, place, SAME_PLACE)):
        own = all_[limb.which]
        _write(result, own, _settled(new, _now(result, own), least))


def _write_poles(
    limbs: LimbPlan,
    limb: Reaching,
    start: Floats,
    along: Floats,
    aside: Floats,
    space: tuple[Floats, Floats],
    result: Floats,
) -> None:
    """Put the poles in the planes of the bends, unless they are in them already."""
    turn, place = space
    columns, rest = limbs.pole_move[limb.which], limbs.pole_rest[limb.which, None]
    now = _now(result, columns)
    to_pole = (turn @ (rest + now)[..., None])[..., 0] + place - start
    off = to_pole - (to_pole * along).sum(-1, keepdims=True) * along
    size = np.linalg.norm(off, axis=-1)
    same = (np.abs(unit(off) - aside).max(-1) < 1e-7) & (size > 1e-6)
    wanted = start + (to_pole * along).sum(-1, keepdims=True) * along + aside * np.maximum(size, 0.1)[..., None]
    moved = np.linalg.solve(turn, (wanted - place)[..., None])[..., 0] - rest
    _write(result, columns, np.where(same[..., None], now, moved))


def _write_twists(
    limbs: LimbPlan, limb: Reaching, along: Floats, aside: Floats, distance: Floats, result: Floats
) -> None:
    columns = limbs.twists[limb.which]
    if columns.max() < 0:
        return
    lengths, bases = (limb.upper, limb.lower), (limbs.from_basis_upper[limb.which], limbs.from_basis_middle[limb.which])
    plain = bone_rotations(along, aside, distance, lengths, *bases)
    for bone, joints, axis in ((0, limbs.upper, limbs.bone_upper), (1, limbs.middle, limbs.bone_middle)):
        q = matrix_quaternion(np.swapaxes(plain[bone], -1, -2) @ limb.turns(joints, bone))
        angle = 2.0 * np.arctan2((q[..., :3] * axis[limb.which, None]).sum(-1), q[..., 3])
        own = columns[:, bone, None]
        now = _now(result, own)[..., 0]
        angle += np.round((now - angle) / (2 * np.pi)) * 2 * np.pi
        _write(result, own, _settled(angle, now, 1e-7)[..., None])


def continuous(rig: Rig, values: Floats, channels: Iterable[int] | None = None) -> Floats:
    """Values (F, C) in which the turns of some channels, or all, are written on each frame nearest to the frame before."""
    result = values.copy()
    left = set(range(values.shape[1]) if channels is None else channels)
    for index, control in enumerate(rig.controls):
        cols = columns(rig, index, "rotate")
        if min(cols) >= 0 and left.issuperset(cols):
            result[:, cols] = followed(values[:, cols], control.order)
            left -= set(cols)
    angles = [c for c in left if rig.channels[c].unit is Unit.ANGLE]
    result[:, angles] = np.unwrap(result[:, angles], axis=0)
    return result
