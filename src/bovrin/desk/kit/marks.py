"""Marks that mean the same everywhere: of keys by their role, of keys that are chosen, of what stands fast."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QLineF, QPointF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from bovrin.desk.kit.look import Look
from bovrin.desk.kit.polygons import polygon
from bovrin.shot import KeyRole

Floats = NDArray[np.float64]

SIZE = 3.4


def draw_mark(painter: QPainter, at: QPointF, role: int, size: float, *, hollow: bool = False) -> None:
    """The mark of the paper timing chart: circle for a key pose, triangle for a breakdown, tick for an in-between."""
    ink = Look.colour("ochre" if role == KeyRole.BREAKDOWN else "ink")
    painter.setPen(QPen(ink, 1.4))
    painter.setBrush(Look.colour("raised") if hollow else ink)
    if role == KeyRole.KEY_POSE:
        painter.drawEllipse(at, size, size)
    elif role == KeyRole.BREAKDOWN:
        h = size * 1.15
        painter.drawPolygon(QPolygonF([at + QPointF(0, -h), at + QPointF(h, h * 0.8), at + QPointF(-h, h * 0.8)]))
    else:
        painter.drawLine(at + QPointF(0, -size), at + QPointF(0, size))


def draw_hatch(painter: QPainter, at: QPointF, size: float) -> None:
    """A short ground line with three strokes below it."""
    for pen in (QPen(Look.colour("raised", 0.85), 4.0), QPen(Look.colour("ink"), 1.5)):
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        painter.drawLine(at + QPointF(-size, 0), at + QPointF(size, 0))
        for x in (-0.55, 0.1, 0.75):
            painter.drawLine(at + QPointF(size * x, 0), at + QPointF(size * (x - 0.45), size * 0.6))


def paint_marks(painter: QPainter, xs: Floats, ys: Floats, roles: NDArray[np.uint8]) -> None:
    """Marks of many keys at once: circles, triangles and ticks at places (N,)."""
    ink, ochre = Look.colour("ink"), Look.colour("ochre")
    pose, between = roles == KeyRole.KEY_POSE, roles == KeyRole.IN_BETWEEN
    pen = QPen(ink, 2 * SIZE)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    painter.drawPoints(polygon(xs[pose], ys[pose]))
    painter.setPen(QPen(ink, 1.4))
    for x, y in _pairs(xs, ys, between):
        painter.drawLine(QLineF(x, y - SIZE, x, y + SIZE))
    painter.setPen(QPen(ochre, 1.0))
    painter.setBrush(ochre)
    h = SIZE * 1.15
    for x, y in _pairs(xs, ys, roles == KeyRole.BREAKDOWN):
        painter.drawConvexPolygon(
            QPolygonF([QPointF(x, y - h), QPointF(x + h, y + h * 0.8), QPointF(x - h, y + h * 0.8)])
        )


def _pairs(xs: Floats, ys: Floats, which: NDArray[np.bool_]) -> list[tuple[float, float]]:
    return list(zip(xs[which].tolist(), ys[which].tolist(), strict=True))


def _points(xs: Floats, ys: Floats) -> list[QPointF]:
    return [QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]


def paint_chosen(painter: QPainter, xs: Floats, ys: Floats) -> None:
    """A ring of the accent colour around chosen keys."""
    pen = QPen(Look.colour("accent_wash"), 4 * SIZE)
    pen.setCapStyle(Qt.PenCapStyle.RoundCap)
    painter.setPen(pen)
    painter.drawPoints(polygon(xs, ys))
    painter.setPen(QPen(Look.colour("accent"), 1.6))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for point in _points(xs, ys):
        painter.drawEllipse(point, 2 * SIZE, 2 * SIZE)
