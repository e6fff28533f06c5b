"""From signed-distance shapes to small, clean meshes."""

from __future__ import annotations

import fast_simplification
import numpy as np
from numpy.typing import ArrayLike, NDArray
from skimage.measure import marching_cubes

from tools.cast.sdf import Shape

Floats = NDArray[np.float64]


def mesh_shape(
    shape: Shape, low: ArrayLike, high: ArrayLike, cell: float, triangles: int
) -> tuple[Floats, NDArray[np.int64]]:
    """Vertices (V, 3) and triangles (T, 3) of a shape inside a box; at most `triangles`, none cracked."""
    lo, hi = np.asarray(low, float), np.asarray(high, float)
    counts = np.ceil((hi - lo) / cell).astype(int) + 1
    axes = [lo[i] + cell * np.arange(counts[i]) for i in range(3)]
    grid = np.stack(np.meshgrid(*axes, indexing="ij"), -1).reshape(-1, 3)
    field = shape(grid).reshape(counts)
    if (field[[0, -1]] < 0).any() or (field[:, [0, -1]] < 0).any() or (field[:, :, [0, -1]] < 0).any():
        raise ValueError("the shape is larger than its box")
    vertices, faces, _, _ = marching_cubes(field, 0.0, spacing=(cell,) * 3)
    vertices = vertices.astype(float) + lo
    vertices, faces = _decimated(vertices, faces, triangles)
    vertices = _onto_surface(shape, vertices)
    return vertices, _facing_out(shape, vertices, np.asarray(faces, np.int64))


def _decimated(vertices: Floats, faces: NDArray[np.int64], triangles: int) -> tuple[Floats, NDArray[np.int64]]:
    """Allow only a little more error each round: one bold round would flatten round forms.

    The library's error bound is absolute, so a smaller mesh is a laxer one.
    """
    size = 30.0
    while len(faces) > triangles and size > 0.2:
        v, f = fast_simplification.simplify(
            (vertices * size).astype(np.float32),
            faces.astype(np.int32),
            target_reduction=1 - triangles / len(faces),
            agg=2,
        )
        vertices, faces = v.astype(float) / size, f.astype(np.int64)
        size *= 0.9
    return vertices, faces


def _gradient(shape: Shape, points: Floats, step: float = 1e-4) -> Floats:
    offsets = np.eye(3) * step
    return np.stack([(shape(points + o) - shape(points - o)) / (2 * step) for o in offsets], 1)


def _onto_surface(shape: Shape, vertices: Floats) -> Floats:
    for _ in range(2):
        g = _gradient(shape, vertices)
        size2 = np.maximum((g * g).sum(1, keepdims=True), 1e-6)
        vertices = vertices - np.clip(shape(vertices)[:, None] * g / size2, -0.01, 0.01)
    return vertices


def _facing_out(shape: Shape, vertices: Floats, faces: NDArray[np.int64]) -> NDArray[np.int64]:
    a, b, c = (vertices[faces[:, i]] for i in range(3))
    normal = np.cross(b - a, c - a)
    outward = (normal * _gradient(shape, (a + b + c) / 3)).sum(1)
    return faces[:, ::-1].copy() if (outward < 0).mean() > 0.5 else faces


def shape_normals(shape: Shape, vertices: Floats, faces: NDArray[np.int64]) -> Floats:
    """Unit normals (V, 3): the surface's own where they are clear, the faces' average elsewhere."""
    a, b, c = (vertices[faces[:, i]] for i in range(3))
    face = np.cross(b - a, c - a)
    average = np.zeros_like(vertices)
    for i in range(3):
        np.add.at(average, faces[:, i], face)
    average /= np.maximum(np.linalg.norm(average, axis=1, keepdims=True), 1e-12)
    own = _gradient(shape, vertices, 2e-3)
    own /= np.maximum(np.linalg.norm(own, axis=1, keepdims=True), 1e-12)
    mixed = own + 0.5 * average
    return mixed / np.maximum(np.linalg.norm(mixed, axis=1, keepdims=True), 1e-12)


def bone_weights(
    points: Floats, bones: dict[int, tuple[Floats, Floats, float]], joints: int, softness: float
) -> Floats:
    """Smooth weights (V, joints) from the distance to tapered bones {joint: (from, to, radius)}; rows sum to one."""
    raw = np.zeros((len(points), joints))
    for joint, (a, b, radius) in bones.items():
        axis = b - a
        t = np.clip((points - a) @ axis / max(float(axis @ axis), 1e-9), 0, 1)
        gap = np.linalg.norm(points - a - t[:, None] * axis, axis=1) - radius
        raw[:, joint] = np.maximum(raw[:, joint], np.exp(-np.clip(gap, -0.05, 1.0) / softness))
    return raw / raw.sum(1, keepdims=True)


def share_with_helpers(weights: Floats, helpers: list[tuple[int, int, int]]) -> Floats:
    """Move what a joint and its parent have in common to the helper between them: (helper, parent, joint)."""
    result = weights.copy()
    for helper, parent, joint in helpers:
        common = np.minimum(result[:, parent], result[:, joint])
        result[:, helper] += 2 * common
        result[:, parent] -= common
        result[:, joint] -= common
    return result


def smoothed(weights: Floats, faces: NDArray[np.int64], rounds: int) -> Floats:
    """Average each vertex's weights with its neighbours', `rounds` times."""
    edges = np.concatenate([faces[:, [0, 1]], faces[:, [1, 2]], faces[:, [2, 0]]])
    edges = np.concatenate([edges, edges[:, ::-1]])
    for _ in range(rounds):
        total = weights.copy()
        count = np.ones(len(weights))
        np.add.at(total, edges[:, 0], weights[edges[:, 1]])
        np.add.at(count, edges[:, 0], 1)
        weights = total / count[:, None]
    return weights


def four_strongest(weights: Floats) -> tuple[NDArray[np.uint16], NDArray[np.float32]]:
    """Joints and weights (V, 4) of the four strongest, summing to one."""
    order = np.argsort(-weights, axis=1, kind="stable")[:, :4]
    top = np.take_along_axis(weights, order, 1)
    top[top < 1e-3] = 0
    top /= top.sum(1, keepdims=True)
    return np.where(top > 0, order, 0).astype(np.uint16), top.astype(np.float32)
