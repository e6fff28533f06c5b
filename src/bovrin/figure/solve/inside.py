"""Joints that lie inside a limb, between the three that bend: helpers that twist, hocks. What they do bends its bones."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.plan import Plan, unit
from bovrin.motion.rotations import cross

Floats = NDArray[np.float64]


class Bones(NamedTuple):
    """The upper or the lower bones of all limbs, with what lies inside them.

    aim (L, F, 3, 3): the turn, in the bone's own axes, from where it points at rest to where it does. turn (L, F, 3, 3): how its
    end is turned against its beginning. length (L, F): metres, NaN for bones that have nothing inside.
    """

    aim: Floats
    turn: Floats
    length: Floats


def bones_with_inside(plan: Plan, local: Floats) -> tuple[Bones, Bones] | None:
    """The upper and lower bones of limbs, joints being turned and placed as `local` (J, F, 4, 4) says; None where no limb has
    anything inside."""
    limbs = plan.limbs
    if limbs is None or not any(len(way) for ways in limbs.inside for way in ways):
        return None
    upper, lower = (_bones(plan, local, bone) for bone in (0, 1))
    return upper, lower


def _bones(plan: Plan, local: Floats, bone: int) -> Bones:
    limbs = plan.limbs
    assert limbs is not None
    count, frames = len(limbs.upper), local.shape[1]
    aim = np.tile(np.eye(3), (count, frames, 1, 1))
    turn, length = aim.copy(), np.full((count, frames), np.nan)
    stops = (limbs.middle, limbs.end)[bone]
    for limb, ways in enumerate(limbs.inside):
        if not len(ways[bone]):
            continue
        way = [*ways[bone].tolist(), int(stops[limb])]
        turn[limb], offset = _end(local, way)
        _, rest = _end(plan.rest_local[:, None], way)
        length[limb] = np.sqrt((offset * offset).sum(-1))
        aim[limb] = _shortest(unit(rest), unit(offset))
    return Bones(aim, turn, length)


def _end(local: Floats, way: list[int]) -> tuple[Floats, Floats]:
    """How the end of a bone is turned (F, 3, 3) before its own turn, and where it is (F, 3), in the axes of its beginning."""
    chain = local[way[0]]
    for joint in way[1:-1]:
        chain = chain @ local[joint]
    turn = chain[..., :3, :3]
    return turn, (turn @ local[way[-1]][..., :3, 3, None])[..., 0] + chain[..., :3, 3]


def _shortest(a: Floats, b: Floats) -> Floats:
    """The smallest turns (F, 3, 3) that bring unit vectors a (1, 3) to b (F, 3), not opposite ones."""
    v = cross(np.broadcast_to(a, b.shape), b)
    c = (a * b).sum(-1)
    k = np.zeros((*b.shape, 3))
    k[..., 0, 1], k[..., 0, 2], k[..., 1, 2] = -v[..., 2], v[..., 1], -v[..., 0]
    k[..., 1, 0], k[..., 2, 0], k[..., 2, 1] = v[..., 2], -v[..., 1], v[..., 0]
    return np.asarray(np.eye(3) + k + k @ k / np.maximum(1.0 + c, 1e-6)[..., None, None])
