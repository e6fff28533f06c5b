"""The figure of a setup sheet: its picture with its joints on it, coloured by what they were taken for."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from bovrin.desk.kit.images import Picture, paint_paper
from bovrin.desk.kit.look import CENTRE, Look
from bovrin.errors import NoPicture
from bovrin.figure.brought.guess import Guess
from bovrin.figure.ground.skin import skin_at_rest
from bovrin.picture.item import item_posed
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS, View
from bovrin.shot import Figure

Floats = NDArray[np.float64]
DOT, NEAR = 3.2, 11.0
FADED = 0.45
"""How much of the figure's picture is left, so that joints are seen on it."""


class SetupPicture(QWidget):
    """Shows a figure in a pose, and its joints; a click on a joint tells which."""

    def __init__(self, on_joint: Callable[[int], object]) -> None:
        super().__init__()
        self._on_joint = on_joint
        self.setMinimumSize(380, 460)
        self.setMouseTracking(True)
        self.setAccessibleName("The figure and its joints")
        self._figure: Figure | None = None
        self._values: Floats = np.zeros(0)
        self._colours: dict[int, str] = {}
        self._marked: tuple[int, ...] = ()
        self._over = -1
        self._view: View = VIEWS["front"]
        self._world: Floats = np.zeros((0, 4, 4))
        self._image: Picture | None = None

    def show_figure(self, figure: Figure, guess: Guess, values: Floats, marked: tuple[int, ...]) -> None:
        """Another rig or pose; `marked`: the joints of the row that is worked on."""
        self._figure, self._values, self._marked = figure, values, marked
        self._colours = _colours(figure, guess)
        self._image = None
        self.update()

    def look_from(self, name: str) -> None:
        """From the front, the side, or between."""
        self._view = VIEWS[name]
        self._image = None
        self.update()

    def _drawn(self) -> Picture | None:
        assert self._figure is not None
        item = item_posed(self._figure, self._values)
        self._world = item.world
        size = self.width(), self.height()
        skin = skin_at_rest(self._figure)
        around = np.concatenate([skin, self._world[:, :3, 3]])
        self._view = self._view.fitted(around, size[0] / size[1], 1.12)
        ratio = self.devicePixelRatioF()
        try:
            pixels = shared_renderer().draw(
                [item],
                self._view,
                (round(size[0] * ratio), round(size[1] * ratio)),
                PictureStyle(backdrop=None, shadow=False),
            )
        except NoPicture:
            return None
        return Picture(pixels, ratio)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        paint_paper(painter, QRectF(self.rect()))
        if self._figure is None:
            return
        if self._image is None:
            self._image = self._drawn()
        if self._image is not None:
            painter.setOpacity(FADED)
            painter.drawImage(0, 0, self._image)
            painter.setOpacity(1.0)
        self._paint_joints(painter, self._figure)

    def places(self) -> Floats:
        """Where joints are on the widget (J, 2)."""
        return self._view.project(self._world[:, :3, 3], (self.width(), self.height()))[:, :2]

    def _paint_joints(self, painter: QPainter, figure: Figure) -> None:
        at = self.places()
        order = sorted(range(1, len(at)), key=lambda j: j in self._colours)  # helpers often lie under what they help
        for j in order:
            joint = figure.rig.joints[j]
            if joint.parent > 0:
                painter.setPen(QPen(self._colour(j), 1.6))
                painter.drawLine(QPointF(*at[joint.parent]), QPointF(*at[j]))
        for j in order:
            self._paint_dot(painter, QPointF(*at[j]), j)
        for j in {*self._marked, self._over} - {-1}:
            self._paint_name(painter, QPointF(*at[j]), figure.rig.joints[j].name)

    def _paint_dot(self, painter: QPainter, at: QPointF, joint: int) -> None:
        marked = joint in self._marked
        painter.setPen(QPen(Look.colour("raised"), 1.2))
        painter.setBrush(self._colour(joint))
        size = DOT * (1.9 if marked or joint == self._over else 1.0)
        painter.drawEllipse(at, size, size)

    def _paint_name(self, painter: QPainter, at: QPointF, name: str) -> None:
        metrics = painter.fontMetrics()
        box = QRectF(0, 0, metrics.horizontalAdvance(name) + 14, metrics.height() + 4)
        right = at.x() + 10 + box.width() < self.width()
        box.moveTo(at.x() + 10 if right else at.x() - 10 - box.width(), at.y() - box.height() / 2)
        painter.setPen(QPen(Look.colour("hairline"), 1))
        painter.setBrush(Look.colour("raised"))
        painter.drawRoundedRect(box, 6, 6)
        painter.setPen(Look.colour("ink"))
        painter.drawText(box, CENTRE, name)

    def _colour(self, joint: int) -> QColor:
        return Look.colour(self._colours.get(joint, "muted"))

    def _joint_at(self, at: QPointF) -> int:
        if self._figure is None or len(self._world) < 2:
            return -1
        places = self.places()
        far = np.hypot(places[:, 0] - at.x(), places[:, 1] - at.y())
        far[0] = np.inf
        nearest = int(far.argmin())
        return nearest if far[nearest] < NEAR else -1

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        over = self._joint_at(event.position())
        if over != self._over:
            self._over = over
            self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        joint = self._joint_at(event.position())
        if joint >= 0:
            self._on_joint(joint)


def _colours(figure: Figure, guess: Guess) -> dict[int, str]:
    """The theme's role for each joint: sides as everywhere, the middle in the accent, tails in ochre."""
    found = dict.fromkeys((guess.hips, *guess.spine, *guess.neck, guess.head), "accent")
    for limb in guess.limbs:
        found |= dict.fromkeys(limb.joints, limb.side if limb.side else "accent")
    for tail in guess.tails:
        found |= dict.fromkeys(tail, "ochre")
    return {j: colour for j, colour in found.items() if 0 <= j < len(figure.rig.joints)}
