"""Cards of the pose book: click one to apply it, drag on it to apply a share."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen

from bovrin.caching import cached_by_identity
from bovrin.craft.poses import default_pose, pose_values
from bovrin.desk.book import Book
from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.look import SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.session import Session
from bovrin.desk.surface import Surface
from bovrin.errors import BovrinError
from bovrin.shot import Figure, Pose, Shot

ACROSS, WIDE, HIGH, GAP = 3, 82.0, 92.0, 6.0
FULL = 120.0
"""Pixels of a drag that stand for the whole pose."""
MOST = 1.5


@cached_by_identity(8)
def _default(figure: Figure) -> Pose:
    return replace(default_pose(figure.rig), figure=figure.name)


class PoseCards(Surface):
    """The open book as cards, the default pose first. `make` gives the shot with a share of a pose in it, mirrored or not."""

    picked = pyqtSignal(int)

    def __init__(self, session: Session, book: Book, pictures: CardPictures) -> None:
        super().__init__(session, "Pose book")
        self.book = book
        self.chosen = -1
        self.amount: float | None = None
        self._pictures = pictures
        self._pressed: QPointF | None = None
        self._card = -1
        self.make: Callable[[Pose, float, bool], Shot] = lambda _pose, _amount, _mirrored: session.shot
        book.changed.connect(self._on_book_changed)
        pictures.ready.connect(self.update)
        session.choice_changed.connect(self.update)
        self._on_book_changed()

    def poses(self) -> tuple[Pose, ...]:
        """What the cards show: the chosen figure's default pose, then the book."""
        figure = self.session.figure
        return self.book.poses if figure is None else (_default(figure), *self.book.poses)

    def _on_book_changed(self) -> None:
        rows = -(-len(self.poses()) // ACROSS)
        self.setMinimumHeight(int(rows * (HIGH + GAP)))
        self.chosen = min(self.chosen, len(self.poses()) - 1)
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(int(ACROSS * (WIDE + GAP)), self.minimumHeight())

    def card_rect(self, index: int) -> QRectF:
        """Where a card is."""
        row, column = divmod(index, ACROSS)
        return QRectF(column * (WIDE + GAP), row * (HIGH + GAP), WIDE, HIGH)

    def card_at(self, at: QPointF) -> int:
        """The card under a point, or -1."""
        return next((i for i in range(len(self.poses())) if self.card_rect(i).contains(at)), -1)

    # -- mouse --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self.amount is not None or event.button() == Qt.MouseButton.RightButton:
            self.cancel_drag()
            return
        self._card = self.card_at(event.position())
        if self._card < 0:
            return
        self.chosen = self._card
        self.picked.emit(self._card)
        self._pressed = event.position()
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pressed is None:
            self._hover(event.position())
            return
        way = event.position().x() - self._pressed.x()
        if self.amount is None and abs(way) < 4:
            return
        self.amount = float(np.clip(way / FULL, -MOST, MOST))
        self._show(mirrored=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def _hover(self, at: QPointF) -> None:
        card = self.card_at(at)
        if card < 0:
            self.setToolTip("")
            return
        pose = self.poses()[card]
        reference = f" Reference frame {pose.reference:g}." if pose.reference is not None else ""
        self.setToolTip(f"{pose.name}. {pose.note}{reference}".strip())
        self.session.hint(f"{pose.name}: click to apply it, drag sideways for a share of it, with Shift mirrored.")

    def _show(self, *, mirrored: bool) -> None:
        assert self.amount is not None
        try:
            self.session.preview(self.make(self.poses()[self._card], self.amount, mirrored))
        except BovrinError as error:
            self.cancel_drag()
            self.session.fail(error)
        self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._pressed is None or event.button() != Qt.MouseButton.LeftButton:
            return
        mirrored = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        amount = 1.0 if self.amount is None else self.amount
        self._pressed, self.amount = None, None
        self.apply(self._card, amount, mirrored=mirrored)

    def apply(self, card: int, amount: float = 1.0, *, mirrored: bool = False) -> bool:
        """Put a share of a card's pose on the current frame."""
        pose = self.poses()[card]
        words = f"Pose: {pose.name}" + (f" {amount:.0%}" if amount != 1.0 else "") + (" mirrored" if mirrored else "")

        def change(_shot: Shot) -> Shot:
            return self.make(pose, amount, mirrored)

        done = self.session.do_edit(words, change)
        self.update()
        return done

    def cancel_drag(self) -> bool:
        if self._pressed is None:
            return False
        self._pressed, self.amount = None, None
        self.session.preview(None)
        self.update()
        return True

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        seen = QRectF(event.rect())
        for index, pose in enumerate(self.poses()):
            rect = self.card_rect(index)
            if rect.intersects(seen):
                self._paint_card(painter, rect, pose, chosen=index == self.chosen, dragged=index == self._card)

    def _paint_card(self, painter: QPainter, rect: QRectF, pose: Pose, *, chosen: bool, dragged: bool) -> None:
        painter.setPen(QPen(Look.colour("accent" if chosen else "hairline"), 1.8 if chosen else 1.0))
        painter.setBrush(Look.colour("raised"))
        painter.drawRoundedRect(rect.adjusted(1, 1, -1, -1), 7, 7)
        figure = self._figure_of(pose)
        if figure is not None:
            rest = np.array(figure.rig.defaults)
            image = self._pictures.picture_for(figure, ("pose", id(pose)), lambda: pose_values(figure.rig, pose, rest))
            if image is not None:
                size = image.deviceIndependentSize()
                painter.drawImage(QPointF(rect.center().x() - size.width() / 2, rect.top() + 4), image)
        painter.setPen(Look.pen("ink"))
        painter.setFont(text_font(SIZE_SMALL))
        name = QFontMetricsF(painter.font()).elidedText(pose.name, Qt.TextElideMode.ElideRight, rect.width() - 10)
        painter.drawText(
            rect.adjusted(5, 0, -5, -5), Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignHCenter, name
        )
        if dragged and self.amount is not None:
            share = QRectF(
                rect.left() + 2, rect.bottom() - 5, (rect.width() - 4) * min(abs(self.amount) / MOST, 1.0), 3
            )
            painter.fillRect(share, Look.colour("accent"))
            painter.setFont(number_font())
            painter.drawText(rect.adjusted(6, 4, -6, 0), Qt.AlignmentFlag.AlignTop, f"{self.amount:.0%}")

    def _figure_of(self, pose: Pose) -> Figure | None:
        """Who the card shows: the figure the pose came from if it is here, else the chosen one if it has the parts."""
        cast = self.session.shown.cast
        own = next((figure for figure in cast if figure.name == pose.figure), None)
        chosen = self.session.figure
        return own if own is not None else chosen
