"""How far and which way a joint turns between two sets of angles, whole turns included."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.rotations import euler_matrix, inverse, matrix_quaternion, multiply, rotation_vector, unrolled

Floats = NDArray[np.float64]

STRIDE = 0.6
"""Radians of all three angles together that are followed at a time."""
FEW = 1.5
"""Radians of all three angles together up to which the short way is the way."""


def turn_vectors(start: Floats, end: Floats, order: str) -> Floats:
    """Rotation vectors (..., 3) in the start's own axes that angles x, y, z (..., 3) make on their straight way from start
    to end, radians: of any length, so that a turn of 200 or of 720 degrees is one.

    The turn is followed along the way on the sphere of quaternions, which tells directions apart up to two whole turns, and
    each vector is taken near the one before.
    """
    start, end = np.broadcast_arrays(start, end)
    first = euler_matrix(start, order)
    found = rotation_vector(np.swapaxes(first, -1, -2) @ euler_matrix(end, order))
    way = np.abs(end - start).sum(-1)
    far = way > FEW
    if far.any():
        found[far] = _followed(start[far], end[far], order, int(np.ceil(way.max() / STRIDE)))
    return found


def _followed(start: Floats, end: Floats, order: str, steps: int) -> Floats:
    shares = np.linspace(0.0, 1.0, steps + 1)[:, None, None]
    q = matrix_quaternion(euler_matrix(start + (end - start) * shares, order))
    gone = unrolled(multiply(np.broadcast_to(inverse(q[:1]), q.shape), q))
    vector = np.zeros_like(start)
    for step in gone[1:]:  # each is told from its equals by the one before
        vector = _near(step, vector)
    return vector


def _near(q: Floats, vector: Floats) -> Floats:
    """The rotation vectors (n, 3) of quaternions (n, 4) that lie nearest to others (n, 3); a quaternion stands for turns that
    are two whole turns apart."""
    size = np.linalg.norm(q[..., :3], axis=-1, keepdims=True)
    before = np.linalg.norm(vector, axis=-1, keepdims=True)
    axis = np.where(size > 1e-7, q[..., :3] / np.maximum(size, 1e-300), vector / np.maximum(before, 1e-300))
    turn = 2.0 * np.arctan2(size, q[..., 3:])
    along = (axis * vector).sum(-1, keepdims=True)
    return np.asarray(axis * (turn + 4.0 * np.pi * np.round((along - turn) / (4.0 * np.pi))))
