"""The drawing of a flat figure's setup sheet: its parts in their order, with their pivots on them, which are dragged."""

from __future__ import annotations

import math
from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QTransform
from PyQt6.QtWidgets import QWidget

from bovrin.desk.kit.images import paint_paper
from bovrin.desk.kit.look import SIZE_SMALL, Look, text_font
from bovrin.figure.flat.layers import Box, DrawnPart

Spot = tuple[float, float]
DOT, NEAR, MARGIN = 5.0, 12.0, 24.0
FADED = 0.38
"""How much of the other parts is left while one is looked at."""


class FlatPicture(QWidget):
    """Shows parts where they lie; a press on a pivot moves it, a press on a part chooses it."""

    chosen = pyqtSignal(str)
    moved = pyqtSignal(str, float, float)
    let_go = pyqtSignal()

    def __init__(self, layers: list[DrawnPart]) -> None:
        super().__init__()
        self.setMinimumSize(380, 460)
        self.setMouseTracking(True)
        self.setAccessibleName("The drawing and the pivots of its parts")
        self._layers = layers
        self._images = {n.name: QImage.fromData(n.drawings[0].png) for n in layers}
        self.parents: Mapping[str, str] = {}
        self.pivots: Mapping[str, Spot] = {}
        self.part = ""
        self.turned: Mapping[str, float] = {}
        self._dragged = ""

    def show_setup(
        self, parents: Mapping[str, str], pivots: Mapping[str, Spot], part: str, turned: Mapping[str, float]
    ) -> None:
        """What hangs on what, where it turns, which part is looked at, and how far parts are turned to try them, degrees."""
        self.parents, self.pivots, self.part, self.turned = parents, pivots, part, turned
        self.update()

    @property
    def box(self) -> Box:
        """What holds all parts."""
        boxes = np.array([picture.box for layer in self._layers for picture in layer.drawings[:1]])
        left, top = boxes[:, :2].min(0).tolist()
        right, bottom = boxes[:, 2:].max(0).tolist()
        return left, top, right, bottom

    def _scale(self) -> tuple[float, QPointF]:
        left, top, right, bottom = self.box
        wide, high = max(right - left, 1e-9), max(bottom - top, 1e-9)
        scale = min((self.width() - 2 * MARGIN) / wide, (self.height() - 2 * MARGIN) / high)
        x = (self.width() - wide * scale) / 2 - left * scale
        return scale, QPointF(x, (self.height() - high * scale) / 2 - top * scale)

    def on_screen(self, spot: Spot) -> QPointF:
        """Where a spot of the drawing is on the widget."""
        scale, origin = self._scale()
        return QPointF(spot[0] * scale, spot[1] * scale) + origin

    def in_drawing(self, at: QPointF) -> Spot:
        """The spot of the drawing under a point of the widget."""
        scale, origin = self._scale()
        return (at.x() - origin.x()) / scale, (at.y() - origin.y()) / scale

    # -- mouse --------------------------------------------------------------------------------------------------------

    def pivot_at(self, at: QPointF) -> str:
        """The part whose pivot is under a point, or "": the chosen one's before others."""
        near = {n: math.hypot(*_apart(self.on_screen(spot), at)) for n, spot in self.pivots.items()}
        if near.get(self.part, NEAR + 1) <= NEAR:
            return self.part
        name = min(near, key=lambda n: near[n], default="")
        return name if name and near[name] <= NEAR else ""

    def part_at(self, at: QPointF) -> str:
        """The foremost part that is seen under a point, or ""."""
        x, y = self.in_drawing(at)
        for layer in reversed(self._layers):
            left, top, right, bottom = layer.drawings[0].box
            image = self._images[layer.name]
            if left <= x < right and top <= y < bottom and not image.isNull():
                spot = (
                    int((x - left) / (right - left) * image.width()),
                    int((y - top) / (bottom - top) * image.height()),
                )
                if image.pixelColor(*spot).alpha() > 100:
                    return layer.name
        return ""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._dragged = self.pivot_at(event.position())
        name = self._dragged or self.part_at(event.position())
        if name:
            self.chosen.emit(name)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._dragged:
            self.moved.emit(self._dragged, *self.in_drawing(event.position()))
        else:
            over = self.pivot_at(event.position())
            self.setCursor(Qt.CursorShape.SizeAllCursor if over else Qt.CursorShape.ArrowCursor)
            name = over or self.part_at(event.position())
            self.setToolTip(f"{name}: drag the dot to where it turns" if over else name)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        if self._dragged:
            self._dragged = ""
            self.let_go.emit()

    # -- paint --------------------------------------------------------------------------------------------------------

    def _placed(self, name: str) -> QTransform:
        """Where a part is while some are turned to try them."""
        made, at, steps = QTransform(), name, 0
        while at and steps <= len(self.parents):
            angle = self.turned.get(at, 0.0)
            if angle:
                spot = self.on_screen(self.pivots[at])
                turn = QTransform().translate(spot.x(), spot.y()).rotate(angle).translate(-spot.x(), -spot.y())
                made = made * turn
            at, steps = self.parents.get(at, ""), steps + 1
        return made

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        paint_paper(painter, QRectF(self.rect()))
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        for layer in self._layers:
            left, top, right, bottom = layer.drawings[0].box
            painter.setTransform(self._placed(layer.name))
            painter.setOpacity(1.0 if not self.part or layer.name == self.part else FADED)
            corner, other = self.on_screen((left, top)), self.on_screen((right, bottom))
            painter.drawImage(QRectF(corner, other), self._images[layer.name])
        painter.setOpacity(1.0)
        self._paint_bones(painter)

    def _paint_bones(self, painter: QPainter) -> None:
        places = {n: self._placed(n).map(self.on_screen(spot)) for n, spot in self.pivots.items()}
        painter.resetTransform()
        for name, place in places.items():
            parent = self.parents.get(name, "")
            if parent in places:
                painter.setPen(QPen(Look.colour("accent", 0.55), 1.4, Qt.PenStyle.DotLine))
                painter.drawLine(places[parent], place)
        for name, place in places.items():
            here = name == self.part
            painter.setPen(QPen(Look.colour("raised"), 1.5))
            painter.setBrush(Look.colour("alert" if here else "accent"))
            painter.drawEllipse(place, DOT + 2 * here, DOT + 2 * here)
        if self.part in places:
            painter.setPen(Look.pen("ink"))
            painter.setFont(text_font(SIZE_SMALL, bold=True))
            painter.drawText(places[self.part] + QPointF(12, 4), self.part)


def _apart(one: QPointF, other: QPointF) -> NDArray[np.float64]:
    return np.array([one.x() - other.x(), one.y() - other.y()])
