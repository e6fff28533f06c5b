"""Joints that are stretched as well as turned, as glTF nodes: what no single node can hold, two nodes do."""

from __future__ import annotations

from functools import lru_cache
from itertools import permutations, product

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.rotations import turn_only

Floats = NDArray[np.float64]

RIGID = 1e-6
EVEN = 1e-7
"""Scales that differ by less are even."""


def shaped(world: Floats) -> NDArray[np.intp]:
    """The joints whose matrices (F, J, 4, 4) are more than turns and places on some frame."""
    linear = world[..., :3, :3]
    off = np.abs(np.swapaxes(linear, -1, -2) @ linear - np.eye(3)).max((0, 2, 3))
    return np.flatnonzero(off > RIGID)


def rigid(world: Floats) -> Floats:
    """The same joints with the stretch taken out of their turns."""
    result = world.copy()
    joints = shaped(world)
    result[:, joints, :3, :3] = turn_only(world[:, joints, :3, :3])
    return result


def in_two(linear: Floats) -> tuple[Floats, Floats, Floats]:
    """Matrices (F, 3, 3) as outer turns (F, 3, 3), scales (F, 3) and inner turns (F, 3, 3), smooth from frame to frame.

    Every matrix that does not mirror is a turn, a scale and a turn (singular values). Where the scale is even any outer
    turn would do; the one before is kept.
    """
    outer, scales, across = np.linalg.svd(linear)
    turn = outer @ across
    stretch = linear @ np.swapaxes(turn, -1, -2)
    outer[np.linalg.det(outer) < 0, :, 0] *= -1
    outer = _followed(outer, np.ptp(scales, axis=1) < EVEN)
    scale = np.einsum("fji,fjk,fki->fi", outer, stretch, outer)
    return outer, scale, np.swapaxes(outer, -1, -2) @ turn


def _followed(axes: Floats, free: NDArray[np.bool_]) -> Floats:
    """Axes (F, 3, 3) named and signed so that each frame takes up those of the one before; where they are free, just those.

    Which names fit a frame best hangs on the frame before it only through a swap of that one's: swaps are put together.
    """
    given = np.concatenate([np.eye(3)[None], axes[~free]])
    steps = np.swapaxes(given[1:], -1, -2) @ given[:-1]
    swaps, then = _axis_swaps()
    told = np.einsum("wij,fij->fw", swaps, steps).argmax(1)
    reach = 1
    while reach < len(told):  # prefix products by doubling (Hillis and Steele 1986)
        told = np.concatenate([told[:reach], then[told[reach:], told[:-reach]]])
        reach *= 2
    named = np.concatenate([given[:1], given[1:] @ swaps[told]])
    return np.asarray(named[np.cumsum(~free)])


@lru_cache(maxsize=1)
def _axis_swaps() -> tuple[Floats, NDArray[np.intp]]:
    """The 24 turns that carry axes to axes (24, 3, 3), and which of them one after another is (24, 24)."""
    found = []
    for order in permutations(range(3)):
        for signs in product((1.0, -1.0), repeat=3):
            matrix = np.zeros((3, 3))
            matrix[range(3), order] = signs
            if np.linalg.det(matrix) > 0:
                found.append(matrix)
    swaps = np.array(found)
    products = np.einsum("aij,bjk->abik", swaps, swaps)
    return swaps, np.abs(products[:, :, None] - swaps).sum((-1, -2)).argmin(-1)
