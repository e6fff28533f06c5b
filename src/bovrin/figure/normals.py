"""Normals of meshes: made from their faces, and following what shapes do to them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Floats32 = NDArray[np.float32]
FLAT = 1e-12


def face_normals(positions: NDArray[np.floating], triangles: NDArray[np.uint32]) -> Floats32:
    """Unit normals (V, 3): the average of the faces around each vertex, larger ones counting more."""
    a, b, c = (positions[triangles[:, i]].astype(float) for i in range(3))
    face = np.cross(b - a, c - a)
    total = np.stack(
        [sum(np.bincount(triangles[:, i], face[:, axis], len(positions)) for i in range(3)) for axis in range(3)],
        1,
    )
    size = np.linalg.norm(total, axis=1, keepdims=True)
    return np.where(size > FLAT, total / np.maximum(size, FLAT), [0.0, 1.0, 0.0]).astype(np.float32)


def bent_normals(
    normals: NDArray[np.floating],
    positions: NDArray[np.floating],
    moved: NDArray[np.floating],
    triangles: NDArray[np.uint32],
) -> Floats32:
    """Normals (V, 3) of a mesh whose vertices were at `positions` and are at `moved` (V, 3): turned as their faces were, so
    that edges that were hard or soft stay so. triangles (T, 3): those around what moved."""
    bent = normals + face_normals(moved, triangles) - face_normals(positions, triangles)
    size = np.linalg.norm(bent, axis=1, keepdims=True)
    return np.where(size > 1e-6, bent / np.maximum(size, 1e-6), normals).astype(np.float32)
