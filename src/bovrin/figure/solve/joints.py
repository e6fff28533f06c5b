"""From channel values to joint matrices, for all frames at once."""

from __future__ import annotations

import threading

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.plan import Level, Plan, plan_of
from bovrin.figure.solve.reach import apply_reach, by_channel, picked, turn_joints
from bovrin.figure.solve.shape import lengthen_bones, reshape
from bovrin.frozen import frozen
from bovrin.motion.rotations import (
    euler_matrix,
    fixed_first,
    matrix_quaternion,
    power,
    quaternion_matrix,
    turn_only,
    unrolled,
)
from bovrin.progress import go_on
from bovrin.shot import Figure, Rig

Floats = NDArray[np.float64]


_kept = threading.local()


def _workspace(shape: tuple[int, ...]) -> Floats:
    """Memory for local matrices, used again by each solve of the same size on this thread: fresh pages cost more than
    the sums done in them. It never leaves `solve`."""
    found: Floats | None = getattr(_kept, "local", None)
    if found is None or found.shape != shape:
        found = _kept.local = np.empty(shape)
    return found


def solve(rig: Rig, values: Floats) -> Floats:
    """World matrices of all joints: values (F, C), metres and radians -> (F, J, 4, 4)."""
    go_on()
    plan = plan_of(rig)
    channels = by_channel(values)
    local = local_matrices(plan, channels)
    world = np.empty_like(local)
    _descend(plan.body_levels, local, world)
    apply_reach(plan, channels, world, local)
    _descend(plan.limb_levels, local, world)
    if len(plan.helpers):
        _turn_helpers(plan, local, world)
    reshape(plan, channels, world)
    return np.swapaxes(world, 0, 1)


def first_joint(rig: Rig, values: Floats) -> Floats | None:
    """The first joint's matrices (F, 1, 4, 4) without the others; None where it is carried out of shape."""
    plan = plan_of(rig)
    if not plan.in_shape(values, joint=0):
        return None
    made = np.tile(plan.rest_local[0], (len(values), 1, 1, 1))
    channels = by_channel(values)
    for row in np.flatnonzero(plan.move_joints == 0):
        made[:, 0, :3, 3] += channels[plan.move_columns[row]].T
    for turns in plan.turns:
        for row in np.flatnonzero(turns.joints == 0):
            made[:, 0, :3, :3] = plan.rest_local[0, :3, :3] @ euler_matrix(channels[turns.columns[row]].T, turns.order)
    return made


def body(rig: Rig, values: Floats) -> Floats | None:
    """World matrices (F, J, 4, 4) of the joints outside limbs alone, the others zero; None where something is carried out of
    shape, so that all must be solved."""
    plan = plan_of(rig)
    if not plan.in_shape(values):
        return None
    local = local_matrices(plan, by_channel(values))
    world = np.zeros_like(local)
    _descend(plan.body_levels, local, world)
    return np.swapaxes(world, 0, 1)


def local_matrices(plan: Plan, values: Floats) -> Floats:
    """Local matrices as the joints' own channels say, reach not yet applied: (C + 1, F) -> (J, F, 4, 4)."""
    local = _workspace((len(plan.rest_local), values.shape[1], 4, 4))
    local[:] = plan.rest_local[:, None]
    if len(plan.move_joints):
        places = local[..., :3, 3]
        places[plan.move_joints] += picked(values, plan.move_columns)
    lengthen_bones(plan, values, local)
    for turns in plan.turns:
        angles = picked(values, turns.columns)
        moving = (angles != angles[:, :1]).any((1, 2))
        for some, frames in ((moving, slice(None)), (~moving, slice(1))):  # what stands still is worked out once
            joints = turns.joints[some]
            if len(joints):
                rotation = euler_matrix(angles[some, frames], turns.order)
                turn_joints(local, joints, fixed_first(plan.rest_local[joints, :3, :3], rotation))
    return local


def _descend(levels: tuple[Level, ...], local: Floats, world: Floats) -> None:
    for level in levels:
        if level.parents[0] < 0:
            world[level.joints] = local[level.joints]
        else:
            world[level.joints] = world[level.parents] @ local[level.joints]


def _turn_helpers(plan: Plan, local: Floats, world: Floats) -> None:
    """Give each helper its share of its leader's turn away from rest."""
    turn = matrix_quaternion(fixed_first(plan.leader_rest_inverse, local[plan.helper_leaders][..., :3, :3]))
    turn *= plan.helper_mask
    turn /= np.maximum(np.sqrt((turn * turn).sum(-1, keepdims=True)), 1e-12)
    share = power(turn, np.broadcast_to(plan.helper_share[:, None], turn.shape[:-1]))
    helpers = plan.helpers
    turn_joints(local, helpers, fixed_first(plan.rest_local[helpers, :3, :3], quaternion_matrix(share)))
    world[helpers] = world[plan.helper_parents] @ local[helpers]


@frozen
class Motion:
    """Joints in world space. frames (F,); position (F, J, 3) metres; rotation (F, J, 4) unit quaternions xyzw."""

    joints: tuple[str, ...]
    frames: Floats
    position: Floats
    rotation: Floats


def motion_of(rig: Rig, frames: Floats, world: Floats) -> Motion:
    """World matrices (F, J, 4, 4) as places and turns."""
    names = tuple(joint.name for joint in rig.joints)
    return Motion(names, frames, world[..., :3, 3], unrolled(matrix_quaternion(turn_only(world[..., :3, :3]))))


def skin_matrices(rig: Rig, world: Floats) -> Floats:
    """Matrices that carry bind-pose vertices along: (..., J, 4, 4)."""
    return world @ plan_of(rig).rest_inverse


def bone_matrices(figure: Figure, world: Floats) -> Floats:
    """Matrices that carry a figure's meshes along: world (..., J, 4, 4) -> (..., B, 4, 4), B as the pieces' joints count."""
    model = figure.model
    if model.bones is None or model.binds is None:
        return skin_matrices(figure.rig, world)
    return np.asarray(world[..., model.bones, :, :] @ model.binds)
