"""Balance on the stage: the centre of mass and its way, the point under it, what bears it, and how far it is outside."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from bovrin.desk.kit.look import Look, number_font
from bovrin.desk.kit.polygons import polygon
from bovrin.desk.stage.overlay import Mark
from bovrin.desk.stage.scene import Scene
from bovrin.figure.staging import hangs_on
from bovrin.shot import Figure, Shot

if TYPE_CHECKING:
    from bovrin.measure.balance import Balance

Floats = NDArray[np.float64]

RING, DOT, SPOT = 8.0, 2.5, 4.5
AROUND = 12
"""Frames to either side whose way of the centre of mass is seen."""


class WeightMark(Mark):
    """The balance of the chosen figure, while it is asked for. While it plays nothing is worked out."""

    def __init__(self, scene: Scene) -> None:
        super().__init__(scene)
        self._kept: tuple[object, Balance, Floats] | None = None

    def paint(self, painter: QPainter) -> None:
        """The centre of mass with its way, and what bears it."""
        session = self.scene.session
        figure = session.figure
        if not session.looking.balance or session.playing or figure is None or not session.looking.shows(figure):
            return
        self.paint_of(painter, figure)

    def paint_of(self, painter: QPainter, figure: Figure) -> None:
        """The same of a figure, asked for or not."""
        found, way = self._of(self.scene.session.seen, figure)
        self._paint_way(painter, way)
        paint_balance(painter, self.scene, found)

    def _of(self, shot: Shot, figure: Figure) -> tuple[Balance, Floats]:
        """How a figure stands on the current frame, and the way of its weight (F, 3) around it; kept while nothing moves."""
        from bovrin.measure.balance import balance, loaded_centre  # noqa: PLC0415 - kept out of the window's start

        frame = self.scene.session.frame
        key = (*(hangs_on(shot, one.name) for one in shot.cast), figure.name, frame)
        if self._kept is None or self._kept[0] != key:
            frames = np.arange(max(frame - AROUND, shot.first), min(frame + AROUND, shot.last) + 0.5)
            way = loaded_centre(shot, figure.name, frames) if len(frames) > 1 else np.zeros((0, 3))
            self._kept = (key, balance(shot, figure.name, [frame]), way)
        return self._kept[1], self._kept[2]

    def _paint_way(self, painter: QPainter, way: Floats) -> None:
        if len(way) < 2:
            return
        dots = polygon(*on_screen(self.scene, way).T)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(Look.colour("raised", 0.75), 4.0), QPen(Look.colour("accent", 0.7), 1.4)):
            painter.setPen(pen)
            painter.drawPolyline(dots)
        painter.setPen(QPen(Look.colour("accent"), 4.0, cap=Qt.PenCapStyle.RoundCap))
        painter.drawPoints(dots)


def paint_balance(painter: QPainter, scene: Scene, found: Balance) -> None:
    """How a figure stands on the first frame of a balance."""
    centre, ground, support = found.centre[0], found.ground[0], found.support[0]
    up, down = (QPointF(*on_screen(scene, place)[0]) for place in (centre, ground))
    fine = bool(found.inside[0])
    colour = Look.colour("accent" if fine else "alert")
    if len(support):
        painter.setPen(QPen(Look.colour("accent"), 1.4))
        painter.setBrush(Look.colour("accent", 0.18))
        painter.drawPolygon(QPolygonF([QPointF(*at) for at in on_screen(scene, support)]))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(colour, 1.4, Qt.PenStyle.DashLine))
    painter.drawLine(up, down)
    _paint_centre(painter, up, fine=fine)
    painter.setPen(QPen(Look.colour("raised"), 1.2))
    painter.setBrush(colour)
    painter.drawEllipse(down, SPOT, SPOT)
    if not fine:
        _paint_words(painter, down, "in the air" if np.isinf(found.out[0]) else f"{found.out[0] * 100:.0f} cm outside")


def _paint_centre(painter: QPainter, at: QPointF, *, fine: bool) -> None:
    """A disc of which two quarters are filled, as a centre of mass is drawn."""
    colour = Look.colour("ink" if fine else "alert")
    disc = QRectF(at.x() - RING, at.y() - RING, 2 * RING, 2 * RING)
    painter.setPen(QPen(colour, 1.6))
    painter.setBrush(Look.colour("raised"))
    painter.drawEllipse(disc)
    painter.setBrush(colour)
    for start in (0, 180):
        painter.drawPie(disc, start * 16, 90 * 16)


def _paint_words(painter: QPainter, at: QPointF, words: str) -> None:
    painter.setFont(number_font(10))
    wide = painter.fontMetrics().horizontalAdvance(words) + 12
    pill = QRectF(at.x() + 9, at.y() - 9, wide, 18)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(Look.colour("raised", 0.9))
    painter.drawRoundedRect(pill, 9, 9)
    painter.setPen(QPen(Look.colour("alert"), 1.0))
    painter.drawText(pill, Qt.AlignmentFlag.AlignCenter, words)


def on_screen(scene: Scene, places: Floats) -> Floats:
    """Where places (N, 3) or (3,) lie on the stage (N, 2)."""
    size = (scene.size.width(), scene.size.height())
    return np.asarray(scene.view.project(np.atleast_2d(places), size)[:, :2])
