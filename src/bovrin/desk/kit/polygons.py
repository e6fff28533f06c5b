"""Polygons from arrays, without a Python object for each point."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6 import sip
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPolygonF

Floats = NDArray[np.float64]


def polygon(xs: Floats, ys: Floats) -> QPolygonF:
    """The points (N,), pixels, as Qt draws them."""
    made = QPolygonF()
    if not len(xs):
        return made
    made.fill(QPointF(), len(xs))
    memory = sip.voidptr(made.data(), len(xs) * 16, True)
    points = np.frombuffer(memory, np.float64).reshape(-1, 2)  # type: ignore[call-overload]
    points[:, 0], points[:, 1] = xs, ys
    return made
