"""What springs stay out of: the ground, and the bones of chosen joints."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.rotations import multiply, quaternion_matrix, swings, vector_quaternion
from bovrin.shot import Follower, Rig
from bovrin.shot.follower import GROUND_BELOW

Floats = NDArray[np.float64]

ROUNDS = 4
"""How often a tip is pushed out and put back at its length."""


class Obstacles(NamedTuple):
    """Bones from (F, B, 3) to (F, B, 3), and whether the ground is one."""

    starts: Floats
    ends: Floats
    ground: bool

    @staticmethod
    def joined(parts: Sequence[Obstacles]) -> Obstacles:
        """The same on the frames of all parts."""
        starts, ends = (np.concatenate([getattr(part, name) for part in parts]) for name in ("starts", "ends"))
        return Obstacles(starts, ends, parts[0].ground)

    @staticmethod
    def of(rig: Rig, one: Follower, world: Floats) -> Obstacles:
        """What a spring stays out of: the bones from its joints to the next ones, as the joints (F, J, 4, 4) stand."""
        pairs = _bones(rig, one)
        places = world[..., :3, 3]
        starts, ends = ([p[n] for p in pairs] for n in (0, 1))
        return Obstacles(places[:, starts].copy(), places[:, ends].copy(), GROUND_BELOW in one.clear_of)


def joints_felt(rig: Rig, one: Follower) -> frozenset[int]:
    """The joints that a spring must know to stay out of their bones."""
    return frozenset(joint for pair in _bones(rig, one) for joint in pair)


def _bones(rig: Rig, one: Follower) -> list[tuple[int, int]]:
    joints = [rig.joint(name) for name in one.clear_of if name != GROUND_BELOW]
    return [(j, child) for j in joints for child in _ends(rig, j)]


def _ends(rig: Rig, joint: int) -> list[int]:
    return [n for n, one in enumerate(rig.joints) if one.parent == joint] or [joint]


def kept_off(off: Obstacles, base: Floats, turn: Floats, way: Floats, by: Floats, counts: Floats) -> Floats:
    """Links that begin at base (F, 3), turned (F, 4), with tips at `way` (3,) in their axes, turned on by as little as brings
    their tips so far (F,) away from what they stay out of; as they are where nothing counts (F,)."""
    length = float(np.linalg.norm(way))
    arm = (quaternion_matrix(turn) @ way[:, None])[..., 0]
    moved = arm.copy()
    for _ in range(ROUNDS):
        moved = _out_of_bones(off, base, moved, by)
        moved *= length / np.maximum(np.sqrt((moved * moved).sum(-1, keepdims=True)), 1e-12)
    if off.ground:
        moved = _above_ground(base, moved, by, length)
    more = swings(arm / length, moved / length)
    changed = (np.abs(moved - arm).max(-1) > 1e-12) & (counts > 0.0)
    return np.where(changed[:, None], multiply(vector_quaternion(more), turn), turn)


def _out_of_bones(off: Obstacles, base: Floats, arm: Floats, by: Floats) -> Floats:
    for n in range(off.starts.shape[1]):
        tip, start = base + arm, off.starts[:, n]
        along = off.ends[:, n] - start
        part = ((tip - start) * along).sum(-1) / np.maximum((along * along).sum(-1), 1e-12)
        away = tip - (start + np.clip(part, 0.0, 1.0)[:, None] * along)
        far = np.sqrt((away * away).sum(-1, keepdims=True))
        short = np.maximum(by[:, None] - far, 0.0)
        arm = arm + away / np.maximum(far, 1e-9) * short
    return arm


def _above_ground(base: Floats, arm: Floats, by: Floats, length: float) -> Floats:
    """Arms (F, 3) whose tips are no lower than so far above the ground, or straight up."""
    least = np.minimum(by - base[:, 1], length)
    up = np.maximum(arm[:, 1], least)
    flat = arm[:, [0, 2]]
    size = np.sqrt((flat * flat).sum(-1, keepdims=True))
    wide = np.sqrt(np.maximum(length**2 - up**2, 0.0))[:, None]
    flat = np.where(size > 1e-9, flat / np.maximum(size, 1e-300) * wide, np.stack([wide[:, 0], 0.0 * up], -1))
    raised = np.stack([flat[:, 0], up, flat[:, 1]], -1)
    return np.where((arm[:, 1] < least)[:, None], raised, arm)
