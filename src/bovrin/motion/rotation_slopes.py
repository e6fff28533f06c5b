"""How rotations change with their rotation vectors, to second order."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.rotations import cross

Floats = NDArray[np.float64]

SMALL = 1e-2
"""Radians below which series are more exact than the closed forms."""


Coefficients = tuple[Floats, Floats, Floats, Floats]
"""What `coefficients` tells of rotation vectors."""
ONE = np.eye(3)


def right_jacobian(vector: Floats, bent: Coefficients) -> Floats:
    """(m, 3, 3): how a small change of rotation vectors (m, 3), radians, turns a frame, in the frame's own axes.

    bent: their `coefficients`.
    G. S. Chirikjian, "Stochastic Models, Information Theory, and Lie Groups" 2, 2012, section 10.8.
    """
    first, second = bent[:2]
    skew = np.zeros((len(vector), 3, 3))
    skew[:, 0, 1], skew[:, 0, 2] = -vector[:, 2], vector[:, 1]
    skew[:, 1, 0], skew[:, 1, 2] = vector[:, 2], -vector[:, 0]
    skew[:, 2, 0], skew[:, 2, 1] = -vector[:, 1], vector[:, 0]
    return np.asarray(ONE - first[:, None, None] * skew + second[:, None, None] * (skew @ skew))


def bent_axes(vector: Floats, axes: Floats, torque: Floats, bent: Coefficients) -> Floats:
    """How the axes that rotation vectors (m, 3) turn frames about change with them, seen along torques (m, 3): (m, 3, 3).

    axes (m, 3, 3): columns are the directions in which the vectors change; row: the change, column: the axis. All in
    the space that the frame is turned from. The derivative of the left Jacobian, worked out term by term.
    """
    first, second, first_slope, second_slope = bent
    e = np.swapaxes(axes, -1, -2)
    z, t = vector[:, None], torque[:, None]
    around = cross(z, e)
    crossed = cross(e[:, :, None], e[:, None])
    rows = first[:, None, None] * (crossed * t[:, :, None]).sum(-1)
    rows += second[:, None, None] * np.einsum("mkc,mlc->mkl", cross(t, e), around)
    rows += second[:, None, None] * (crossed * cross(t, z)[:, :, None]).sum(-1)
    along = (z * e).sum(-1)[:, :, None]
    rows += along * first_slope[:, None, None] * (around * t).sum(-1)[:, None]
    rows += along * second_slope[:, None, None] * (cross(z, around) * t).sum(-1)[:, None]
    return np.asarray(rows)


def coefficients(vector: Floats) -> Coefficients:
    """(1 - cos x) / x^2 and (x - sin x) / x^3 for angles x (m,), and the slopes of both over x, each divided by x."""
    square = (vector * vector).sum(-1)
    small = square < SMALL * SMALL
    x = np.sqrt(np.where(small, 1.0, square))
    sin, cos = np.sin(x), np.cos(x)
    return (
        np.where(small, 0.5 - square / 24, (1 - cos) / x**2),
        np.where(small, 1 / 6 - square / 120, (x - sin) / x**3),
        np.where(small, -1 / 12 + square / 180, (x * sin - 2 * (1 - cos)) / x**4),
        np.where(small, -1 / 60 + square / 1260, (3 * sin - 2 * x - x * cos) / x**5),
    )
