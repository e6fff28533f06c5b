"""The way back: from joints in the world to channel values. Posing, mode switches and pasting all end here."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.inside import Bones, bones_with_inside
from bovrin.figure.plan import LimbPlan, Plan, Turns, columns, plan_of, unit
from bovrin.figure.reach import bone_lengths, bone_rotations, by_channel, foot_roll, pole_space, with_inside
from bovrin.figure.rest_space import hinge_angles
from bovrin.figure.shape import bone_factors
from bovrin.figure.solve import local_matrices
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
        if LimbMode.REACH in wanted:
            shared = _shared(plan, world, turn, result, inside)
        for limb, mode in enumerate(wanted):
            if mode == LimbMode.REACH:
                _fit_reach(plan, limb, world, turn, result, shared)
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


class Shared(NamedTuple):
    """What the limbs of a fit have in common: bone lengths (L, F), rolls of the feet, the root turned back (F, 3, 3), its
    place (F, 3), the joints first (J, F, 4, 4), and where bones with something inside point (L, F, 3, 3), if any have."""

    upper: Floats
    lower: Floats
    rolls: tuple[Floats, Floats]
    back: Floats
    root: Floats
    world: Floats
    aims: tuple[Floats, Floats] | None


def _shared(plan: Plan, world: Floats, turn: Floats, result: Floats, inside: tuple[Bones, Bones] | None) -> Shared:
    limbs = plan.limbs
    assert limbs is not None
    values = by_channel(result)
    upper, lower = with_inside(bone_lengths(limbs, values), inside)
    aims = None if inside is None else (inside[0].aim, inside[1].aim)
    root_turn, root_place = turn[:, 0], world[..., :3, 3][:, 0]
    if plan.root_back is not None:
        root_turn = root_turn @ plan.root_back[:3, :3]
        root_place = root_place + (turn[:, 0] @ plan.root_back[:3, 3])
    back = np.swapaxes(root_turn, -1, -2)
    return Shared(upper, lower, foot_roll(limbs, values), back, root_place, np.swapaxes(world, 0, 1), aims)


def _fit_reach(plan: Plan, limb: int, world: Floats, turn: Floats, result: Floats, shared: Shared) -> None:
    """Goal, pole and twists of one limb."""
    limbs = plan.limbs
    assert limbs is not None
    start, middle, end = (world[..., :3, 3][:, j[limb]] for j in (limbs.upper, limbs.middle, limbs.end))
    upper, lower = shared.upper[limb], shared.lower[limb]
    along, distance = unit(end - start), np.linalg.norm(end - start, axis=-1)
    goal = start + along * _eased_back(distance, upper + lower, limbs.room[limb])[:, None]
    _write_goal(plan, limb, turn, goal, result, shared)
    carried = world[:, limbs.end[limb]].copy()
    carried[:, :3, :3], carried[:, :3, 3] = turn[:, limbs.end[limb]], goal
    space = pole_space(plan, limb, shared.world, carried)
    aim = None if shared.aims is None else shared.aims[0][limb]
    aside = _aside(limbs, limb, along, middle - start, turn, aim)
    _write_pole(plan, limb, world, along, aside, space, result)
    _write_twists(limbs, limb, turn, along, aside, distance, result, shared)


def _eased_back(distance: Floats, full: Floats, room: float) -> Floats:
    """How far the goal must be so that the limb's end gets to a distance (F,): `reach.reached_distance` undone."""
    short = np.maximum(full - distance, STRAIGHT)
    return np.where(short < room, full - room + room * np.log(room / short), distance)


def _aside(limbs: LimbPlan, limb: int, along: Floats, to_middle: Floats, turn: Floats, aim: Floats | None) -> Floats:
    """The unit direction the middle joint lies to; of a straight limb, the one its upper bone's turn says."""
    off = to_middle - (to_middle * along).sum(-1, keepdims=True) * along
    upper = turn[:, limbs.upper[limb]] if aim is None else turn[:, limbs.upper[limb]] @ aim
    basis = upper @ limbs.from_basis_upper[limb].T
    turned = unit(cross(basis[..., 2], along))
    bent = np.linalg.norm(off, axis=-1) > 1e-5
    return np.where(bent[:, None], unit(off), turned)


def _write_goal(plan: Plan, limb: int, turn: Floats, goal: Floats, result: Floats, shared: Shared) -> None:
    limbs = plan.limbs
    assert limbs is not None
    rest = plan.rest_world[limbs.end[limb]]
    inside = shared.back @ turn[:, limbs.end[limb]] @ rest[:3, :3].T
    place = (shared.back @ (goal - shared.root)[..., None])[..., 0] - rest[:3, 3]
    found = np.flatnonzero(limbs.feet == limb)
    if len(found):
        roll, shift = (part[found[0]] for part in shared.rolls)
        inside = inside @ np.swapaxes(roll, -1, -2)
        place = place - (inside @ shift[..., None])[..., 0]
    order, cols = limbs.goal_orders[limb], limbs.goal_turn[limb]
    angles = nearest_euler(matrix_euler(inside, order), np.where(cols >= 0, result[:, cols], 0.0), order)
    for own, new, least in ((cols, angles, SAME_TURN), (limbs.goal_move[limb], place, SAME_PLACE)):
        kept = own >= 0
        result[:, own[kept]] = _settled(new[:, kept], result[:, own[kept]], least)


def _write_pole(
    plan: Plan,
    limb: int,
    world: Floats,
    along: Floats,
    aside: Floats,
    space: tuple[Floats, Floats],
    result: Floats,
) -> None:
    """Put the pole in the plane of the bend, unless it is in it already."""
    limbs = plan.limbs
    assert limbs is not None
    turn, place = space
    cols = limbs.pole_move[limb]
    start = world[..., :3, 3][:, limbs.upper[limb]]
    now = np.where(cols >= 0, result[:, cols], 0.0)
    to_pole = (turn @ (limbs.pole_rest[limb] + now)[..., None])[..., 0] + place - start
    off = to_pole - (to_pole * along).sum(-1, keepdims=True) * along
    reach = np.maximum(np.linalg.norm(off, axis=-1), 0.1)
    same = (np.abs(unit(off) - aside).max(-1) < 1e-7) & (np.linalg.norm(off, axis=-1) > 1e-6)
    wanted = start + (to_pole * along).sum(-1, keepdims=True) * along + aside * reach[:, None]
    moved = np.linalg.solve(turn, (wanted - place)[..., None])[..., 0] - limbs.pole_rest[limb]
    kept = cols >= 0
    result[:, cols[kept]] = np.where(same[:, None], now, moved)[:, kept]


def _write_twists(
    limbs: LimbPlan,
    limb: int,
    turn: Floats,
    along: Floats,
    aside: Floats,
    distance: Floats,
    result: Floats,
    shared: Shared,
) -> None:
    cols = limbs.twists[limb]
    if cols.max() < 0:
        return
    lengths = shared.upper[limb][None], shared.lower[limb][None]
    one = slice(limb, limb + 1)
    plain = bone_rotations(
        along[None], aside[None], distance[None], lengths, limbs.from_basis_upper[one], limbs.from_basis_middle[one]
    )
    for bone, joint, axis in ((0, limbs.upper[limb], limbs.bone_upper), (1, limbs.middle[limb], limbs.bone_middle)):
        if cols[bone] < 0:
            continue
        own = turn[:, joint] if shared.aims is None else turn[:, joint] @ shared.aims[bone][limb]
        q = matrix_quaternion(np.swapaxes(plain[bone][0], -1, -2) @ own)
        angle = 2.0 * np.arctan2(q[..., :3] @ axis[limb], q[..., 3])
        now = result[:, cols[bone]]
        angle += np.round((now - angle) / (2 * np.pi)) * 2 * np.pi
        result[:, cols[bone]] = _settled(angle, now, 1e-7)


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
