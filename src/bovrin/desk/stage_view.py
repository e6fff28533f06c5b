"""What the stage shows: the shot's picture, and the chosen handle with its places on the screen. No mouse here."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QImage, QPainter, QPaintEvent, QPen, QResizeEvent

from bovrin.craft import posing
from bovrin.desk.images import Picture
from bovrin.desk.look import Look, number_font, text_font
from bovrin.desk.session import Session
from bovrin.desk.stage_words import chip_words, frame_words
from bovrin.desk.surface import Surface
from bovrin.errors import NoPicture
from bovrin.picture.renderer import Item, PictureStyle, shared_renderer
from bovrin.picture.shot_picture import items_at, world_at
from bovrin.picture.view import VIEWS, View
from bovrin.shot import ControlKind

Floats = NDArray[np.float64]

SQUARE, RING, DOT = 11.0, 44.0, 5.0
REST = 160
KEPT_BYTES = 256_000_000


class StageView(Surface):
    """Draws the shot at the current frame: plain while things move, fine when they rest."""

    view_changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Stage")
        self.view: View = VIEWS["three-quarter"]
        self.setMinimumSize(320, 220)
        self._image: QImage | None = None
        self._fine = False
        self._drawable = False
        self._fault = ""
        self._pick: NDArray[np.uint8] | None = None
        self._kept: dict[float, QImage] = {}
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST)
        self._rest.timeout.connect(self._settle)
        session.shot_changed.connect(self._on_shot_changed)
        session.frame_changed.connect(self._on_frame_changed)
        session.choice_changed.connect(self.update)
        session.look_changed.connect(self._on_shot_changed)

    def busy(self) -> bool:
        """Whether a drag is under way."""
        return False

    # -- pictures -----------------------------------------------------------------------------------------------------

    def _on_shot_changed(self) -> None:
        self._kept.clear()
        self._redraw()

    def _on_frame_changed(self) -> None:
        self._redraw()

    def _redraw(self) -> None:
        self._image = None
        self._pick = None
        self._fine = False
        if not self.session.playing:
            self._rest.start()
        self.update()

    def _settle(self) -> None:
        if not self.busy() and not self.session.playing:
            self._fine = True
            self._image = None
            self.update()

    def items(self) -> list[Item]:
        """Where every figure is now."""
        shot = self.session.shown
        curves = {f.name: self.session.seen_curves(f.name) for f in shot.cast}
        return items_at(shot.cast, curves, self.session.frame)

    def pixel_size(self) -> tuple[int, int]:
        """The stage's size in device pixels."""
        ratio = self.devicePixelRatioF()
        return max(16, round(self.width() * ratio)), max(16, round(self.height() * ratio))

    def _picture(self) -> QImage:
        if self.session.playing and (kept := self._kept.get(self.session.frame)) is not None:
            return kept
        if self._image is None:
            size = self.pixel_size()
            look = PictureStyle(theme=Look.theme, fine=self._fine, line=1.5 * self.devicePixelRatioF())
            image = Picture(shared_renderer().draw(self.items(), self.view, size, look), self.devicePixelRatioF())
            self._image = image
            if self.session.playing and len(self._kept) * size[0] * size[1] * 4 < KEPT_BYTES:
                self._kept[self.session.frame] = image
        return self._image

    def set_view(self, view: View) -> None:
        """Look from elsewhere."""
        self.view = view
        self._kept.clear()
        self._redraw()
        self.view_changed.emit()

    def fit(self) -> None:
        """Fit the chosen control, or again everything."""
        points = [self.handle_of(c) for c in self.session.controls]
        around = (
            np.concatenate([np.array(points) + d for d in np.eye(3) * 0.35] + [np.array(points) - 0.3])
            if points
            else None
        )
        wanted = self.view.fitted(around, self.width() / self.height()) if around is not None else None
        if wanted is None or np.allclose(wanted.target, self.view.target, atol=1e-6):
            everything = np.concatenate([item.world[:, :3, 3] for item in self.items()] or [np.zeros((1, 3))])
            wanted = self.view.fitted(
                np.vstack([everything, everything + [0, 0.12, 0]]), self.width() / self.height(), 1.35
            )
        self.set_view(wanted)

    # -- places -------------------------------------------------------------------------------------------------------

    def _world(self) -> Floats:
        figure = self.session.figure
        assert figure is not None
        return world_at(self.session.seen_curves(figure.name), figure.rig, self.session.frame)

    def handle_of(self, control: int) -> Floats:
        """Where a control's square is, world space."""
        figure = self.session.figure
        assert figure is not None
        world = self._world()
        if posing.can_move(figure.rig, control):
            return posing.handle_place(figure.rig, self.session.values(), world, control)
        return posing.aim_place(figure.rig, world, control)

    def _pivot_of(self, control: int) -> Floats:
        figure = self.session.figure
        assert figure is not None
        return posing.handle_place(figure.rig, self.session.values(), self._world(), control)

    def on_screen(self, place: Floats) -> QPointF:
        """A world place in the widget's pixels."""
        x, y, _ = self.view.project(place, (self.width(), self.height()))
        return QPointF(float(x), float(y))

    def handle_points(self) -> dict[str, QPointF]:
        """The chosen handle's points on the stage: square, ring (its right end), and the four dots."""
        figure = self.session.figure
        if figure is None or not self.session.controls or self.session.clean:
            return {}
        control = self.session.controls[-1]
        points = {"square": self.on_screen(self.handle_of(control))}
        if posing.can_turn(figure.rig, control):
            centre = self.on_screen(self._pivot_of(control))
            points["centre"] = centre
            points["ring"] = centre + QPointF(RING * math.cos(0.7), RING * math.sin(0.7))
            for name, (x, y) in {"up": (0, -1), "right": (1, 0), "down": (0, 1), "left": (-1, 0)}.items():
                points[name] = centre + QPointF(x * RING, y * RING)
        return points

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._kept.clear()
        self._redraw()

    def sizeHint(self) -> QSize:
        return QSize(780, 470)

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if not self._drawable:
            self._paint_paper(painter)
            return
        painter.drawImage(QPoint(0, 0), self._picture())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.session.clean:
            if not self.session.playing:
                self._paint_handle(painter)
            self._paint_words(painter)
        painter.setPen(Look.pen("hairline"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)

    def _paint_paper(self, painter: QPainter) -> None:
        """Before the first picture the window stands already, so that nobody waits for the graphics driver."""
        painter.fillRect(self.rect(), Look.colour("stage_edge"))
        if self._fault:
            painter.setPen(Look.pen("ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._fault)
        else:
            QTimer.singleShot(0, self._start_drawing)

    def _start_drawing(self) -> None:
        try:
            shared_renderer()
        except NoPicture as error:
            self._fault = error.sentence
        self._drawable = not self._fault
        self.update()

    def _paint_handle(self, painter: QPainter) -> None:
        points = self.handle_points()
        if not points:
            return
        figure = self.session.figure
        assert figure is not None
        control = self.session.controls[-1]
        part = figure.rig.part_of(control)
        role = Look.side(figure.rig.parts[part].side) if part >= 0 else "accent"
        role = "accent" if role == "middle" else role
        if "centre" in points:
            painter.setBrush(Qt.BrushStyle.NoBrush)
            for pen in (QPen(Look.colour("raised", 0.7), 3.2), QPen(Look.colour("ink"), 1.3, Qt.PenStyle.DashLine)):
                painter.setPen(pen)
                painter.drawEllipse(points["centre"], RING, RING)
            painter.setPen(Look.pen("ink", 1.3))
            painter.setBrush(Look.colour("raised"))
            for name in ("up", "right", "down", "left"):
                painter.drawEllipse(points[name], DOT, DOT)
            if distance(points["centre"], points["square"]) > SQUARE:
                painter.drawLine(points["centre"], points["square"])
        elif figure.rig.controls[control].kind is ControlKind.POLE:
            painter.setPen(Look.pen(role, 1.4))
            joint = self._world()[figure.rig.controls[control].joint, :3, 3]
            painter.drawLine(self.on_screen(joint), points["square"])
        for other in self.session.controls[:-1]:
            self._paint_square(painter, self.on_screen(self.handle_of(other)), role, 0.7)
        self._paint_square(painter, points["square"], role, 1.0)

    def _paint_square(self, painter: QPainter, at: QPointF, role: str, size: float) -> None:
        half = SQUARE * size
        box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
        painter.setBrush(Look.colour(role, 0.16))
        for pen in (QPen(Look.colour("raised", 0.8), 4.6), QPen(Look.colour(role), 2.4)):
            painter.setPen(pen)
            painter.drawRoundedRect(box, 4, 4)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def _paint_words(self, painter: QPainter) -> None:
        words = chip_words(self.session)
        crowded = False
        if words:
            painter.setFont(text_font())
            width = QFontMetricsF(painter.font()).horizontalAdvance(words) + 22
            chip = QRectF(12, self.height() - 38, width, 26)
            crowded = chip.right() > self.width() - 210
            painter.setPen(Look.pen("hairline"))
            painter.setBrush(Look.colour("raised", 0.94))
            painter.drawRoundedRect(chip, 13, 13)
            painter.setPen(Look.pen("ink"))
            painter.drawText(chip, Qt.AlignmentFlag.AlignCenter, words)
        painter.setFont(number_font(12))
        painter.setPen(Look.pen("ink"))
        right = QRectF(self.width() - 270, self.height() - (64 if crowded else 38), 256, 26)
        painter.drawText(right, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, frame_words(self.session))


def distance(a: QPointF, b: QPointF) -> float:
    return math.hypot(a.x() - b.x(), a.y() - b.y())
