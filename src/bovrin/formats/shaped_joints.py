"""Joints that are stretched as well as turned, as glTF nodes: what no single node can hold, two nodes do."""

from __future__ import annotations

from functools import lru_cache
from itertools import permutations, product

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.rotations import turn_only

Floats = NDArray[np.float64]

RIGID = 1e-6


def shaped(world: Floats) -> NDArray[np.intp]:
    """The joints whose matrices (F, J, 4, 4) are more than turns and places on some frame."""
    linear = world[..., :3, :3]
    off = np.abs(np.swapaxes(linear, -1, -2) @ linear - np.eye(3)).max((0, 2, 3))
    return np.flatnonzero(off > RIGID)


def rigid(world: Floats) -> Floats:
    """The same joints with the stretch taken out of their turns."""
    result = world.copy()
    result[..., :3, :3] = turn_only(world[..., :3, :3])
    return result


def in_two(linear: Floats) -> tuple[Floats, Floats, Floats]:
    """Matrices (F, 3, 3) as outer turns (F, 3, 3), scales (F, 3) and inner turns (F, 3, 3), smooth from frame to frame.

    Every matrix that does not mirror is a turn, a scale and a turn (singular values). Where the scale is even any outer
    turn would do; the one before is kept.
    """
    turn = turn_only(linear)
    stretch = linear @ np.swapaxes(turn, -1, -2)
    scales, outer = np.linalg.eigh((stretch + np.swapaxes(stretch, -1, -2)) / 2)
    outer[np.linalg.det(outer) < 0, :, 0] *= -1
    for f in range(len(outer)):  # each frame takes up the axes of the one before, so this goes in order
        before = outer[f - 1] if f else np.eye(3)
        if np.ptp(scales[f]) < 1e-7:
            outer[f] = before
            continue
        ways = outer[f] @ _axis_swaps()
        best = int(np.einsum("wij,ij->w", ways, before).argmax())
        outer[f] = ways[best]
    scale = np.einsum("fji,fjk,fki->fi", outer, stretch, outer)
    return outer, scale, np.swapaxes(outer, -1, -2) @ turn


@lru_cache(maxsize=1)
def _axis_swaps() -> Floats:
    """The 24 turns that carry axes to axes (24, 3, 3)."""
    found = []
    for order in permutations(range(3)):
        for signs in product((1.0, -1.0), repeat=3):
            matrix = np.zeros((3, 3))
            matrix[range(3), order] = signs
            if np.linalg.det(matrix) > 0:
                found.append(matrix)
    return np.array(found)
