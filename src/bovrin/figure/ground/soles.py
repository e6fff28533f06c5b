"""Where feet roll, from the mesh: the heel is the rearmost of what touches the ground, the ball the joint of the toes, which
lie flat and still while the foot rolls about it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.ground.skin import stiff_places
from bovrin.figure.solve.plan import plan_of
from bovrin.shot import Foot, Limb, Model, Rig

Floats = NDArray[np.float64]
LOW = 0.65
"""What lies lower than this share of the ankle's height over the lowest point counts for the heel."""


def with_soles(rig: Rig, model: Model) -> Rig:
    """The rig with heels of feet at the lowest points of what the feet carry, and balls at the toes' joints."""
    if not any(limb.foot for limb in rig.limbs):
        return rig
    world = plan_of(rig).rest_world
    places = stiff_places(model, world)
    joints = np.concatenate([model.strongest(piece) for piece in model.pieces])
    return replace(rig, limbs=tuple(_with_sole(rig, limb, places, joints, world) for limb in rig.limbs))


def _with_sole(rig: Rig, limb: Limb, places: Floats, joints: NDArray[np.intp], world: Floats) -> Limb:
    if limb.foot is None:
        return limb
    own = {limb.end}
    for index, joint in enumerate(rig.joints):
        if joint.parent in own:
            own.add(index)
    foot = places[np.isin(joints, list(own))]
    if len(foot) < 8:
        return limb
    if not limb.rolls:
        return replace(limb, foot=_of_paw(foot, world[limb.end, :3, 3], limb.end))
    ankle, toes = world[limb.end, :3, 3], world[limb.foot.toes, :3, 3]
    low = float(foot[:, 1].min())
    sole = foot[foot[:, 1] <= low + LOW * max(float(ankle[1]) - low, 0.0) + 1e-9]
    ahead = (toes - ankle) * [1.0, 0.0, 1.0]
    length = float(np.linalg.norm(ahead))
    if length < 1e-6:
        return limb
    along = (sole - ankle) @ (ahead / length)
    heel = ahead / length * min(float(along.min()), 0.0)
    drop = low - float(ankle[1])
    return replace(
        limb,
        foot=Foot((float(heel[0]), drop, float(heel[2])), tuple((toes - ankle).tolist()), limb.foot.toes),
    )


def _of_paw(places: Floats, ankle: Floats, end: int) -> Foot:
    """A foot without toes: from the rearmost to the foremost of what touches the ground."""
    low = float(places[:, 1].min())
    along = places[places[:, 1] <= low + LOW * max(float(ankle[1]) - low, 0.0) + 1e-9, 2] - ankle[2]
    drop = low - float(ankle[1])
    return Foot((0.0, drop, min(float(along.min()), 0.0)), (0.0, drop, max(float(along.max()), 0.0)), end)
