"""Two-bone reach in closed form for all limbs and frames at once.

Inside the solver joints and limbs come first and frames second, so that picking joints copies long runs of memory.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.inside import Bones, bones_with_inside
from bovrin.figure.solve.plan import LimbPlan, Plan, basis_from, unit
from bovrin.figure.solve.shape import bone_factors
from bovrin.motion.rotations import (
    about,
    axis_matrix,
    blend,
    cross,
    euler_matrix,
    fixed_last,
    matrix_quaternion,
    quaternion_matrix,
)

Floats = NDArray[np.float64]


def apply_reach(plan: Plan, values: Floats, world: Floats, local: Floats) -> None:
    """Write the local rotations of limbs in reach mode into `local` (J, F, 4, 4); `world` must hold the body's joints.

    values : (C + 1, F), from `by_channel`. Limbs whose switch is 0 on all frames are left as their joints say; a switch
    in between blends.
    """
    limbs = plan.limbs
    if limbs is None:
        return
    weight = np.clip(values[limbs.switch], 0.0, 1.0)
    if not weight.any():
        return
    goal = goal_matrices(plan, values, world)
    parent = world[limbs.parent]
    start = _at(parent, local[limbs.upper][..., :3, 3])
    inside = bones_with_inside(plan, local)
    lengths = with_inside(bone_lengths(limbs, values), inside)
    along, aside, distance = _bend_plane(plan, values, world, goal, start, lengths)
    upper, middle = bone_rotations(along, aside, distance, lengths, limbs.from_basis_upper, limbs.from_basis_middle)
    upper, middle = _twisted(limbs, values, upper, middle)
    if inside is not None:
        upper, middle = (b @ np.swapaxes(i.aim, -1, -2) for b, i in zip((upper, middle), inside, strict=True))
    into_parent = np.swapaxes(parent[..., :3, :3], -1, -2)
    above_middle, above_end = (upper, middle) if inside is None else (upper @ inside[0].turn, middle @ inside[1].turn)
    turns = (
        (limbs.upper, into_parent @ upper),
        (limbs.middle, np.swapaxes(above_middle, -1, -2) @ middle),
        (limbs.end, np.swapaxes(above_end, -1, -2) @ goal[..., :3, :3]),
    )
    for joints, rotation in turns:
        turn_joints(local, joints, _mixed(local, joints, rotation, weight))
    _flatten_toes(plan, values, local, weight)


def turn_joints(local: Floats, joints: NDArray[np.intp], rotation: Floats) -> None:
    """Give joints (n,) of `local` (J, F, 4, 4) these rotations (n, F, 3, 3)."""
    block = local[joints]
    block[..., :3, :3] = rotation
    local[joints] = block


def goal_matrices(plan: Plan, values: Floats, world: Floats) -> Floats:
    """Where each limb's goal is and how it is turned, world space: (L, F, 4, 4). Feet include heel and ball roll.

    values : (C + 1, F), from `by_channel`; world : (J, F, 4, 4).
    """
    limbs = plan.limbs
    assert limbs is not None
    rest = plan.rest_world[limbs.end][:, None]
    result = np.empty((len(limbs.end), values.shape[1], 4, 4))
    result[..., 3, :] = (0.0, 0.0, 0.0, 1.0)
    result[..., :3, 3] = rest[..., :3, 3] + picked(values, limbs.goal_move)
    turn = _goal_turn(limbs, values)
    result[..., :3, :3] = fixed_last(turn, rest[:, 0, :3, :3])
    if len(limbs.feet):
        roll, shift = foot_roll(limbs, values)
        feet = limbs.feet
        block = result[feet]
        block[..., :3, 3] += (turn[feet] @ shift[..., None])[..., 0]
        block[..., :3, :3] = fixed_last(turn[feet] @ roll, rest[feet, 0, :3, :3])
        result[feet] = block
    root = world[0] if plan.root_back is None else world[0] @ plan.root_back
    return np.asarray(root @ result)


def bone_lengths(limbs: LimbPlan, values: Floats) -> tuple[Floats, Floats]:
    """How long the upper and lower bones are, metres, each (L, F) or (L, 1)."""
    factors = bone_factors(limbs, values)
    upper, lower = limbs.length_upper[:, None], limbs.length_middle[:, None]
    return (upper, lower) if factors is None else (upper * factors[:, 0], lower * factors[:, 1])


def with_inside(lengths: tuple[Floats, Floats], inside: tuple[Bones, Bones] | None) -> tuple[Floats, Floats]:
    """The lengths of upper and lower bones, metres, as what lies inside them makes them."""
    if inside is None:
        return lengths
    upper, lower = (np.where(np.isnan(i.length), own, i.length) for own, i in zip(lengths, inside, strict=True))
    return upper, lower


def _twisted(limbs: LimbPlan, values: Floats, upper: Floats, middle: Floats) -> tuple[Floats, Floats]:
    """Turn each bone about its own length by its twist channel; the plane of the bend stays."""
    if limbs.twists.max() < 0:
        return upper, middle
    twists = picked(values, limbs.twists)
    if not twists.any():
        return upper, middle
    turned = (
        bone @ about(axis[:, None], twists[..., i])
        for i, (bone, axis) in enumerate(((upper, limbs.bone_upper), (middle, limbs.bone_middle)))
    )
    first, second = turned
    return first, second


def foot_roll(limbs: LimbPlan, values: Floats) -> tuple[Floats, Floats]:
    """The turn of the foot (feet, F, 3, 3) and the shift of the ankle (feet, F, 3) that heel and ball roll make.

    Rolling on the heel lifts the toes, rolling on the ball lifts the heel; the toe joint stays flat.
    """
    rolls = picked(values, limbs.foot_columns)
    on_heel = axis_matrix("X", -rolls[..., 0])
    on_ball = axis_matrix("X", rolls[..., 1])
    heel, ball = limbs.heel[:, None], limbs.ball[:, None]
    after_ball = (ball - heel) + (on_ball @ -ball[..., None])[..., 0]
    shift = heel + (on_heel @ after_ball[..., None])[..., 0]
    return on_heel @ on_ball, shift


def picked(values: Floats, columns: NDArray[np.intp]) -> Floats:
    """Channels (n, F, k) of values (C + 1, F) by indices (n, k); the last row is 0: that of a channel not there, -1."""
    return np.swapaxes(values[columns], -1, -2)


def by_channel(values: Floats) -> Floats:
    """Channel values (F, C) as the solver wants them: (C + 1, F), a row of zeros last."""
    result = np.zeros((values.shape[1] + 1, len(values)))
    result[:-1] = values.T
    return result


def _goal_turn(limbs: LimbPlan, values: Floats) -> Floats:
    angles = picked(values, limbs.goal_turn)
    first = limbs.goal_orders[0]
    if all(order == first for order in limbs.goal_orders):
        return euler_matrix(angles, first)
    return np.stack([euler_matrix(angles[i], order) for i, order in enumerate(limbs.goal_orders)])


def pole_places(plan: Plan, values: Floats, world: Floats, goal: Floats) -> Floats:
    """Where each limb's pole is, world space (L, F, 3): its rest place carried by its anchors, plus its channels."""
    limbs = plan.limbs
    assert limbs is not None
    wanted = limbs.pole_rest[:, None] + picked(values, limbs.pole_move)
    result = np.empty_like(wanted)
    for index in range(len(limbs.anchors)):
        turn, shift = pole_space(plan, index, world, goal[index])
        result[index] = (turn @ wanted[index][..., None])[..., 0] + shift
    return result


def pole_space(plan: Plan, limb: int, world: Floats, goal: Floats) -> tuple[Floats, Floats]:
    """How the pole of one limb is carried: matrix (F, 3, 3) and shift (F, 3) from rest space to the world.

    world : (J, F, 4, 4); goal : (F, 4, 4), where the limb's end is.
    """
    limbs = plan.limbs
    assert limbs is not None
    carriers = [
        (goal if joint == limbs.end[limb] else world[joint]) @ plan.rest_inverse[joint] for joint in limbs.anchors[limb]
    ]
    mean = np.mean(carriers, axis=0)
    return mean[..., :3, :3], mean[..., :3, 3]


def _at(matrix: Floats, point: Floats) -> Floats:
    return np.asarray((matrix[..., :3, :3] @ point[..., None])[..., 0] + matrix[..., :3, 3])


def _bend_plane(
    plan: Plan, values: Floats, world: Floats, goal: Floats, start: Floats, lengths: tuple[Floats, Floats]
) -> tuple[Floats, Floats, Floats]:
    """Direction to the goal, direction the middle joint bends to (unit, (L, F, 3)), and the reached distance (L, F)."""
    limbs = plan.limbs
    assert limbs is not None
    to_goal = goal[..., :3, 3] - start
    distance = np.sqrt((to_goal * to_goal).sum(-1))
    along = to_goal / np.maximum(distance, 1e-9)[..., None]
    to_pole = pole_places(plan, values, world, goal) - start
    aside = to_pole - (to_pole * along).sum(-1, keepdims=True) * along
    return along, unit(aside), reached_distance(distance, *lengths, limbs.room[:, None])


def reached_distance(distance: Floats, upper: Floats, middle: Floats, room: Floats) -> Floats:
    """How far the end gets (L, F): the goal's distance; within `room` of the full length it eases in and never snaps."""
    full = upper + middle
    beyond = np.maximum(distance - (full - room), 0.0)
    eased = np.where(beyond > 0, full - room * np.exp(-beyond / room), distance)
    return np.maximum(eased, np.abs(upper - middle) + 1e-4 * full)


def bent_bone(along: Floats, aside: Floats, distance: Floats, lengths: tuple[Floats, ...]) -> Floats:
    """Where the upper of two bones points (..., 3), unit, when the end of the lower is `distance` (...) along a line.

    along, aside : (..., 3) unit, at right angles; lengths : of both bones (...). By the law of cosines.
    """
    a, b = lengths
    cos = np.clip((a * a + distance * distance - b * b) / (2 * a * distance), -1.0, 1.0)
    sin = np.sqrt(1.0 - cos * cos)
    return np.asarray(cos[..., None] * along + sin[..., None] * aside)


def bone_rotations(
    along: Floats,
    aside: Floats,
    distance: Floats,
    lengths: tuple[Floats, ...],
    upper_basis: Floats,
    lower_basis: Floats,
) -> tuple[Floats, Floats]:
    """World rotations of the upper and the middle joint, each (L, F, 3, 3), by the law of cosines; no twist yet.

    along, aside : (L, F, 3) unit; distance : (L, F); the bases (L, 3, 3) are the plan's `from_basis_...`.
    """
    bone_upper = bent_bone(along, aside, distance, lengths)
    bone_middle = unit(distance[..., None] * along - lengths[0][..., None] * bone_upper)
    normal = cross(along, aside)
    upper = fixed_last(basis_from(bone_upper, normal), upper_basis)
    middle = fixed_last(basis_from(bone_middle, normal), lower_basis)
    return upper, middle


def _mixed(local: Floats, joints: NDArray[np.intp], reach: Floats, weight: Floats) -> Floats:
    if (weight == 1.0).all():
        return reach
    own = local[joints][..., :3, :3]
    switched = np.where((weight >= 1.0)[..., None, None], reach, own)
    between = (weight > 0.0) & (weight < 1.0)
    if between.any():
        a, b = matrix_quaternion(own[between]), matrix_quaternion(reach[between])
        switched[between] = quaternion_matrix(blend(a, b, weight[between]))
    return switched


def _flatten_toes(plan: Plan, values: Floats, local: Floats, weight: Floats) -> None:
    limbs = plan.limbs
    assert limbs is not None
    if not len(limbs.feet):
        return
    ball = picked(values, limbs.foot_columns)[..., 1] * weight[limbs.feet]
    if ball.any():
        axes = plan.rest_world[limbs.toes, :3, :3][:, None]
        level = np.swapaxes(axes, -1, -2) @ axis_matrix("X", -ball) @ axes
        rest = plan.rest_local[limbs.toes, :3, :3][:, None]
        turn_joints(local, limbs.toes, rest @ level @ np.swapaxes(rest, -1, -2) @ local[limbs.toes][..., :3, :3])
