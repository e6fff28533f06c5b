"""Signed-distance shapes: functions from points (N, 3), metres, to distances (N,), negative inside.

Formulas after I. Quilez's published distance functions (round cone, polynomial smooth union).
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import ArrayLike, NDArray

Points = NDArray[np.float64]
Shape = Callable[[Points], NDArray[np.float64]]


def round_cone(a: ArrayLike, b: ArrayLike, ra: float, rb: float) -> Shape:
    """A tapered capsule between two spheres: exact distance, from the closest point along its axis."""
    start, end = np.asarray(a, float), np.asarray(b, float)
    length = float(np.linalg.norm(end - start))
    axis = (end - start) / length
    taper = (rb - ra) / length
    lean = taper / np.sqrt(max(1.0 - taper * taper, 1e-6))

    def distance(p: Points) -> NDArray[np.float64]:
        along = (p - start) @ axis
        across = np.linalg.norm(p - start - np.outer(along, axis), axis=1)
        at = np.clip(along + lean * across, 0.0, length)
        return np.hypot(along - at, across) - (ra + taper * at)

    return distance


def ellipsoid(centre: ArrayLike, radii: ArrayLike, tilt: float = 0.0) -> Shape:
    """An ellipsoid, turned about x by `tilt` radians."""
    c, r = np.asarray(centre, float), np.asarray(radii, float)
    cos, sin = np.cos(tilt), np.sin(tilt)
    turn = np.array([[1, 0, 0], [0, cos, sin], [0, -sin, cos]])

    def distance(p: Points) -> NDArray[np.float64]:
        q = (p - c) @ turn.T
        k0 = np.linalg.norm(q / r, axis=1)
        k1 = np.linalg.norm(q / (r * r), axis=1)
        return k0 * (k0 - 1.0) / np.maximum(k1, 1e-9)

    return distance


def box(centre: ArrayLike, half: ArrayLike, rounding: float = 0.0) -> Shape:
    """A box with rounded edges."""
    c, h = np.asarray(centre, float), np.asarray(half, float) - rounding

    def distance(p: Points) -> NDArray[np.float64]:
        q = np.abs(p - c) - h
        return np.linalg.norm(np.maximum(q, 0), axis=1) + np.minimum(q.max(1), 0) - rounding

    return distance


def join(*shapes: Shape, smooth: float = 0.0) -> Shape:
    """The union, blended over `smooth` metres."""

    def distance(p: Points) -> NDArray[np.float64]:
        result = shapes[0](p)
        for shape in shapes[1:]:
            other = shape(p)
            if smooth <= 0:
                result = np.minimum(result, other)
            else:
                h = np.clip(0.5 + 0.5 * (other - result) / smooth, 0, 1)
                result = other * (1 - h) + result * h - smooth * h * (1 - h)
        return result

    return distance


def cut(shape: Shape, *tools: Shape, smooth: float = 0.0) -> Shape:
    """A shape with others taken away."""
    return meet(shape, *[lambda p, t=t: -t(p) for t in tools], smooth=smooth)


def meet(*shapes: Shape, smooth: float = 0.0) -> Shape:
    """What all shapes share."""
    flipped = join(*[lambda p, s=s: -s(p) for s in shapes], smooth=smooth)
    return lambda p: -flipped(p)


def grow(shape: Shape, by: float) -> Shape:
    """The shape made thicker."""
    return lambda p: shape(p) - by


def shell(shape: Shape, at: float, thickness: float) -> Shape:
    """A sheet that lies `at` metres outside a shape."""
    return lambda p: np.abs(shape(p) - at) - thickness / 2


def mirrored(shape: Shape) -> Shape:
    """The shape as seen in a mirror at x = 0."""
    return lambda p: shape(p * np.array([-1.0, 1.0, 1.0]))
