"""Normals of meshes: made from their faces, and following what shapes do to them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Floats32 = NDArray[np.float32]
FLAT = 1e-12
UP = np.array([0.0, 1.0, 0.0])


def face_normals(positions: NDArray[np.floating], triangles: NDArray[np.uint32]) -> Floats32:
    """Unit normals (V, 3): the average of the faces around each vertex, larger ones counting more."""
    a, b, c = (positions[triangles[:, i]].astype(float) for i in range(3))
    face = np.cross(b - a, c - a)
    total = np.stack(
        [sum(np.bincount(triangles[:, i], face[:, axis], len(positions)) for i in range(3)) for axis in range(3)],
        1,
    )
    size = np.linalg.norm(total, axis=1, keepdims=True)
    return np.where(size > FLAT, total / np.maximum(size, FLAT), UP).astype(np.float32)


class Bending:
    """Normals of a mesh that follow its vertices: turned as their faces are, so that edges that were hard or soft stay so.

    normals, positions (V, 3): as they are at rest; triangles (T, 3): those around what moves.
    """

    def __init__(
        self, normals: NDArray[np.floating], positions: NDArray[np.floating], triangles: NDArray[np.uint32]
    ) -> None:
        self._normals, self._corners = normals, triangles.T.astype(np.intp)
        order = np.argsort(triangles.ravel(), kind="stable")
        self._faces = order // 3  # those around the first vertex, those around the second …
        self._own, self._starts = np.unique(triangles.ravel()[order], return_index=True)
        self._rest = self._of(positions)

    def _of(self, positions: NDArray[np.floating]) -> Floats:
        a, b, c = (positions[corner].astype(float).T for corner in self._corners)
        (ax, ay, az), (bx, by, bz) = b - a, c - a
        face = np.stack([ay * bz - az * by, az * bx - ax * bz, ax * by - ay * bx], 1)
        total = np.add.reduceat(face[self._faces], self._starts)
        size = np.sqrt((total**2).sum(1, keepdims=True))
        return np.where(size > FLAT, total / np.maximum(size, FLAT), UP)

    def at(self, moved: NDArray[np.floating]) -> Floats32:
        """The normals (V, 3) with the vertices at `moved` (V, 3)."""
        bent = self._normals[self._own] + self._of(moved) - self._rest
        size = np.sqrt((bent**2).sum(1, keepdims=True))
        found = np.array(self._normals, np.float32)
        found[self._own] = np.where(size > 1e-6, bent / np.maximum(size, 1e-6), self._normals[self._own])
        return found
