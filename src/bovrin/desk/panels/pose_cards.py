"""Cards of the pose book: click one to apply it, drag on it to apply a share."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QMouseEvent, QPainter, QPaintEvent, QPen

from bovrin.caching import cached_by_identity
from bovrin.craft.pose.pose_copies import default_pose, pose_values
from bovrin.desk.commands.book import posed
from bovrin.desk.kit.gesture import Drag, Gesture
from bovrin.desk.kit.look import SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.surface import Surface
from bovrin.desk.state.book import Book
from bovrin.desk.state.document.editing import EditTarget, do_edit
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.shot import Figure, Pose, Shot

ACROSS, WIDE, HIGH, GAP = 3, 82.0, 92.0, 6.0
FULL = 120.0
"""Pixels of a drag that stand for the whole pose."""
MOST = 1.5


@cached_by_identity
def _default(figure: Figure) -> Pose:
    return replace(default_pose(figure.rig), figure=figure.name)


def share_words(pose: Pose, amount: float, *, mirrored: bool) -> str:
    """What putting a share of a pose on a frame is called."""
    share = f" {amount:.0%}" if amount != 1.0 else ""
    return f"Pose: {pose.name}{share}{' mirrored' if mirrored else ''}"


class ShareDrag(Drag[Shot]):
    """A card dragged sideways: a share of its pose, past its end or the other way; with Shift mirrored."""

    def __init__(self, session: Session, pose: Pose, card: int, pressed: QPointF) -> None:
        self._session, self._pose, self._pressed, self.card = session, pose, pressed, card
        self.amount = 0.0
        self.frame = session.frame

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        self.amount = float(np.clip((at.x() - self._pressed.x()) / FULL, -MOST, MOST))
        mirrored = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        self.words = share_words(self._pose, self.amount, mirrored=mirrored)
        shot = posed(self._session, self._pose, self.amount, mirrored=mirrored)
        return shot, f"{self.amount:.0%} of {self._pose.name}. Esc puts it back."


class PoseCards(Surface):
    """The open book as cards, the default pose first."""

    picked = pyqtSignal(int)

    def __init__(self, session: Session, book: Book, pictures: CardPictures) -> None:
        super().__init__("Pose book")
        self.session, self.book = session, book
        self.chosen = -1
        self._pictures = pictures
        self._gesture: Gesture[Shot] = Gesture(EditTarget(session))
        book.changed.connect(self._on_book_changed)
        pictures.ready.connect(self.update)
        session.choice.changed.connect(self.update)
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
        if event.button() == Qt.MouseButton.RightButton:
            self._gesture.cancel()
            self.update()
            return
        card = self.card_at(event.position())
        if card < 0 or event.button() != Qt.MouseButton.LeftButton:
            return
        self.chosen = card
        self.picked.emit(card)
        mirrored = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
        drag = ShareDrag(self.session, self.poses()[card], card, event.position())
        self._gesture.press(event.position(), event.modifiers(), drag, lambda: self.apply(card, mirrored=mirrored))
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if not self._gesture.active:
            self._hover(event.position())
        elif self._gesture.move(event.position(), event.modifiers()):
            self.update()

    def _hover(self, at: QPointF) -> None:
        card = self.card_at(at)
        if card < 0:
            self.setToolTip("")
            return
        pose = self.poses()[card]
        reference = f" Reference frame {pose.reference:g}." if pose.reference is not None else ""
        self.setToolTip(f"{pose.name}. {pose.note}{reference}".strip())
        self.session.voice.hint(
            f"{pose.name}: click to apply it, drag sideways for a share of it, with Shift mirrored."
        )

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            self._gesture.release()
            self.update()

    def apply(self, card: int, amount: float = 1.0, *, mirrored: bool = False) -> bool:
        """Put a share of a card's pose on the current frame."""
        pose = self.poses()[card]
        words = share_words(pose, amount, mirrored=mirrored)
        done = do_edit(self.session, words, lambda _shot: posed(self.session, pose, amount, mirrored=mirrored))
        self.update()
        return done

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        assert event is not None
        drag = self._gesture.drag if self._gesture.moved else None
        share = drag if isinstance(drag, ShareDrag) else None
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        seen = QRectF(event.rect())
        for index, pose in enumerate(self.poses()):
            rect = self.card_rect(index)
            if rect.intersects(seen):
                amount = share.amount if share is not None and share.card == index else None
                self._paint_card(painter, rect, pose, amount, chosen=index == self.chosen)

    def _paint_card(self, painter: QPainter, rect: QRectF, pose: Pose, amount: float | None, *, chosen: bool) -> None:
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
        if amount is not None:
            share = QRectF(rect.left() + 2, rect.bottom() - 5, (rect.width() - 4) * min(abs(amount) / MOST, 1.0), 3)
            painter.fillRect(share, Look.colour("accent"))
            painter.setFont(number_font())
            painter.drawText(rect.adjusted(6, 4, -6, 0), Qt.AlignmentFlag.AlignTop, f"{amount:.0%}")

    def _figure_of(self, pose: Pose) -> Figure | None:
        """Who the card shows: the figure the pose came from if it is here, else the chosen one if it has the parts."""
        cast = self.session.shown.cast
        own = next((figure for figure in cast if figure.name == pose.figure), None)
        chosen = self.session.figure
        return own if own is not None else chosen
