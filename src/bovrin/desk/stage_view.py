"""What the stage shows: the shot's picture, and the chosen handle with its places on the screen. No mouse here."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QImage, QPainter, QPaintEvent, QPen, QResizeEvent

from bovrin.desk.images import Picture
from bovrin.desk.light_table import ghosts
from bovrin.desk.look import Look, number_font, text_font
from bovrin.desk.session import Session
from bovrin.desk.showing import only_parts
from bovrin.desk.stage_marks import paint_anchors, paint_arms, paint_joints, paint_ring
from bovrin.desk.stage_places import StagePlaces
from bovrin.desk.stage_words import chip_words, chosen_words, frame_words
from bovrin.errors import NoPicture
from bovrin.figure.body_plan import movers
from bovrin.figure.staging import stance
from bovrin.picture.item import Ghost, Item, item_of
from bovrin.picture.picked import Picked
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS, View
from bovrin.shot import Figure

Floats = NDArray[np.float64]

SQUARE, DOT = 11.0, 5.0
REST = 160
KEPT_BYTES = 256_000_000


class StageView(StagePlaces):
    """Draws the shot at the current frame: plain while things move, fine when they rest."""

    view_changed = pyqtSignal()
    first_drawn = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session, "Stage")
        self.view: View = VIEWS["three-quarter"]
        self.setMinimumSize(320, 220)
        self._image: QImage | None = None
        self._fine = False
        self._drawable = self._has_drawn = False
        self._fault = ""
        self.box: QRectF | None = None
        self.says = ""
        self._pick: Picked | None = None
        self._kept: dict[float, QImage] = {}
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(REST)
        self._rest.timeout.connect(self._settle)
        session.shot_changed.connect(self._on_shot_changed)
        session.frame_changed.connect(self._on_frame_changed)
        session.choice_changed.connect(self._on_choice_changed)
        session.look_changed.connect(self._on_shot_changed)

    def busy(self) -> bool:
        """Whether a drag is under way."""
        return False

    # -- pictures -----------------------------------------------------------------------------------------------------

    def _on_shot_changed(self) -> None:
        self._kept.clear()
        self._redraw()

    def _on_choice_changed(self) -> None:
        if self.session.light_table.on:
            self._redraw()
        self.update()

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
        showing = self.session.showing
        shown = [figure for figure in shot.cast if showing.shows(figure)]
        frame = self.session.frame
        return [self._seen(item_of(figure, stance(self.session.seen, figure.name, frame))) for figure in shown]

    def _ghosts(self) -> list[Ghost]:
        """What lies on the light table: drawings of the chosen figure around the current frame."""
        session = self.session
        figure = session.figure
        if figure is None or not session.light_table.on or session.playing or not session.showing.shows(figure):
            return []
        shot = session.shown
        around = session.light_table.frames_shown(session.frame, session.card_poses, shot.first, shot.last, shot.second)
        joint = self._table_joint(figure)
        return ghosts(session.light_table, session.seen, figure, around, session.frame, Look.theme, joint)

    def _table_joint(self, figure: Figure) -> int:
        """The joint that drawings are lined up on: the chosen control's, else what carries the body."""
        if self.session.controls:
            return figure.rig.controls[self.session.controls[-1]].joint
        carriers = movers(figure.rig)
        return max(carriers) if carriers else 0

    def _seen(self, item: Item) -> Item:
        parts = self.session.showing.seen_parts(item.figure)
        return item if parts is None else Item(only_parts(item.figure, parts), item.world, item.values)

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
            drawn = shared_renderer().draw(self.items(), self.view, size, look, self._ghosts())
            image = Picture(drawn, self.devicePixelRatioF())
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
            wanted = self.fitted_to_all()
        self.set_view(wanted)

    def fitted_to_all(self) -> View:
        """The view from here in which all that is shown is seen."""
        everything = np.concatenate([item.world[:, :3, 3] for item in self.items()] or [np.zeros((1, 3))])
        return self.view.fitted(np.vstack([everything, everything + [0, 0.12, 0]]), self.width() / self.height(), 1.35)

    def wants_words(self) -> bool:
        """Whether the stage says what is chosen and where in time it is."""
        return True

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
            self._paint_over(painter)
        painter.setPen(Look.pen("hairline"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
        if not self._has_drawn:
            self._has_drawn = True
            self.first_drawn.emit()

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

    def _paint_over(self, painter: QPainter) -> None:
        if self.session.figure is not None and not self.session.playing:
            if self.session.showing.joints:
                paint_joints(painter, self)
            paint_anchors(painter, self)
            self._paint_handle(painter)
        if self.box is not None:
            painter.setPen(QPen(Look.colour("accent"), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Look.colour("accent", 0.08))
            painter.drawRect(self.box)
        if self.wants_words():
            self._paint_words(painter)

    def role_of(self, control: int) -> str:
        """The colour role of a control: its side's, or the accent in the middle."""
        figure = self.session.figure
        assert figure is not None
        part = figure.rig.part_of(control)
        role = Look.side(figure.rig.parts[part].side) if part >= 0 else "accent"
        return "accent" if role == "middle" else role

    def _paint_handle(self, painter: QPainter) -> None:
        points = self.handle_points()
        if not points:
            return
        paint_ring(painter, points, borrowed=self.session.borrowed is not None)
        paint_arms(painter, points)
        for other in self.session.controls[:-1]:
            self._paint_square(painter, self.on_screen(self.handle_of(other)), self.role_of(other), 0.7)
        self._paint_square(painter, points["square"], self.role_of(self.session.controls[-1]), 1.0)

    def _paint_square(self, painter: QPainter, at: QPointF, role: str, size: float) -> None:
        half = SQUARE * size
        box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
        painter.setBrush(Look.colour(role, 0.16))
        for pen in (QPen(Look.colour("raised", 0.8), 4.6), QPen(Look.colour(role), 2.4)):
            painter.setPen(pen)
            painter.drawRoundedRect(box, 4, 4)
            painter.setBrush(Qt.BrushStyle.NoBrush)

    def _chip(self) -> str:
        """What is chosen and keyed, or during a drag how far it has gone."""
        return f"{chosen_words(self.session)} · {self.says}" if self.says else chip_words(self.session)

    def _paint_words(self, painter: QPainter) -> None:
        words = self._chip()
        crowded = False
        if words:
            painter.setFont(text_font())
            metrics = QFontMetricsF(painter.font())
            words = metrics.elidedText(words, Qt.TextElideMode.ElideRight, self.width() - 48)
            width = metrics.horizontalAdvance(words) + 22
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
