"""Squash, stretch and size: longer bones in a limb, and joints that carry all below them out of shape, volume kept."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.plan import LimbPlan, Plan, Shape

Floats = NDArray[np.float64]

HALF = 0.5
"""From where on a switch is on."""
STEEPEST = np.radians(85.0)
"""The farthest that a part is leaned."""
LEAST = 0.05
"""No bone or figure gets shorter than this share of itself."""


def bone_factors(limbs: LimbPlan, values: Floats) -> Floats | None:
    """How much longer the upper and lower bones of each limb are, (L, 2, F); None when all are as at rest.

    values : (C + 1, F), from `by_channel`.
    """
    if limbs.lengths.max() < 0:
        return None
    factors = np.where((limbs.lengths >= 0)[..., None], values[limbs.lengths], 1.0)
    return None if (factors == 1.0).all() else np.maximum(factors, LEAST)


def lengthen_bones(plan: Plan, values: Floats, local: Floats) -> None:
    """Move the middle and end joints of stretched limbs in `local` (J, F, 4, 4)."""
    if plan.limbs is None or (factors := bone_factors(plan.limbs, values)) is None:
        return
    for limb, mates in enumerate(plan.limbs.mates):
        for bone, joints in enumerate(mates):
            local[joints, :, :3, 3] = plan.rest_local[joints, None, :3, 3] * factors[limb, bone][:, None]


def reshape(plan: Plan, values: Floats, world: Floats) -> None:
    """Stretch bones and whole branches of `world` (J, F, 4, 4), which is rigid until now."""
    for shape in plan.shapes:
        _reshape_branch(shape, values, world)
    if plan.limbs is None or (factors := bone_factors(plan.limbs, values)) is None:
        return
    for limb in range(len(plan.limbs.upper)):
        for bone, (joints, along) in enumerate(
            ((plan.limbs.upper, plan.limbs.bone_upper), (plan.limbs.middle, plan.limbs.bone_middle))
        ):
            if (factors[limb, bone] != 1.0).any():
                block = world[joints[limb], :, :3, :3]
                world[joints[limb], :, :3, :3] = block @ stretched_along(along[limb], factors[limb, bone])


def stretched_along(axis: Floats, factor: Floats) -> Floats:
    """(F, 3, 3): longer along a unit axis (3,) by factors (F,) and thinner across, so that the volume stays."""
    along = np.outer(axis, axis)
    thin = 1.0 / np.sqrt(factor)
    return np.asarray(thin[:, None, None] * (np.eye(3) - along) + factor[:, None, None] * along)


def _reshape_branch(shape: Shape, values: Floats, world: Floats) -> None:
    """Turn over, size along the joint's own axes, lean, then stretch along its y axis, then even size; its own place is the
    fixed point."""
    if all((values[c] == rest).all() for c, rest in shape.at_rest.items()):
        return
    stretch = np.maximum(values[shape.stretch], LEAST) if shape.stretch >= 0 else np.ones(values.shape[1])
    size = np.maximum(values[shape.size], LEAST) if shape.size >= 0 else np.ones(values.shape[1])
    sizes = np.stack([values[c] if c >= 0 else np.ones(values.shape[1]) for c in shape.sizes], -1)
    joint = world[shape.joint]
    own = np.tile(np.eye(4), (len(joint), 1, 1))
    own[:, :3, :3] = stretched_along(np.array([0.0, 1.0, 0.0]), stretch) * size[:, None, None]
    for axis, (flip, skew) in enumerate(zip(shape.flips, shape.skews, strict=True)):
        if flip >= 0:
            sizes[:, axis] *= np.where(values[flip] >= HALF, -1.0, 1.0)
        if skew >= 0:
            lean = np.tile(np.eye(3), (len(joint), 1, 1))
            lean[:, axis, 1] = np.tan(np.clip(values[skew], -STEEPEST, STEEPEST))
            own[:, :3, :3] = own[:, :3, :3] @ lean
    own[:, :3, :3] *= sizes[:, None, :]
    change = joint @ own @ np.linalg.inv(joint)
    world[shape.below] = change @ world[shape.below]
