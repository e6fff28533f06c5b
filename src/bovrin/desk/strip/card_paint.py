"""How a card of the pose strip is drawn."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QImage, QPainter

from bovrin.desk.kit.look import LEFT, RIGHT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.marks import draw_mark
from bovrin.desk.strip.layout import CardPlace
from bovrin.frozen import frozen_equal
from bovrin.shot import KeyRole


@frozen_equal
class CardLook:
    """What a card shows besides its pose."""

    picture: QImage | None
    name: str
    chosen: bool
    unkeyed: bool
    slim: bool
    film: tuple[tuple[float, QImage | None], ...] = ()


def paint_card(painter: QPainter, card: CardPlace, look: CardLook) -> None:
    """Paper, picture, mark, frame, name and how long it is held; as much of it as has room."""
    rect = card.rect
    painter.setBrush(_paper(card, look))
    pen = Look.pen("ochre" if card.role == KeyRole.BREAKDOWN else "hairline")
    if look.unkeyed:
        pen = Look.pen("alert", 1.6)
        pen.setStyle(Qt.PenStyle.DashLine)
    painter.setPen(pen)
    painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
    if rect.width() < 9:
        return
    painter.save()
    painter.setClipRect(rect.adjusted(1, 1, -1, -1), Qt.ClipOperation.IntersectClip)
    _paint_picture(painter, rect, look)
    middle = rect.height() / 2 if look.slim else 10
    draw_mark(painter, QPointF(rect.left() + 9, rect.top() + middle), card.role, 3.6)
    _paint_words(painter, card, look)
    painter.restore()


def _paper(card: CardPlace, look: CardLook) -> QColor:
    if look.chosen:
        return Look.colour("accent_wash")
    return Look.colour("ochre_wash" if card.role == KeyRole.BREAKDOWN else "raised")


def _paint_picture(painter: QPainter, rect: QRectF, look: CardLook) -> None:
    if look.film:
        _paint_film(painter, rect, ((0.0, look.picture), *look.film))
    elif look.picture is not None and look.slim:
        painter.drawImage(QRectF(rect.left() + 16, rect.top() + 1, 26, 28), look.picture)
    elif look.picture is not None:
        size = look.picture.deviceIndependentSize()
        left = rect.left() + min(26, max(2, (rect.width() - size.width()) / 2))
        painter.drawImage(QPointF(left, rect.bottom() - size.height() - 1), look.picture)


def _paint_film(painter: QPainter, rect: QRectF, pictures: Iterable[tuple[float, QImage | None]]) -> None:
    """Pictures side by side, with lines between them."""
    painter.setPen(Look.pen("hairline"))
    for left, picture in pictures:
        x = rect.left() + left
        if left:
            painter.drawLine(QPointF(x, rect.top() + 1), QPointF(x, rect.bottom() - 1))
        if picture is not None:
            painter.drawImage(QPointF(x + 4, rect.bottom() - picture.deviceIndependentSize().height() - 1), picture)


def _paint_words(painter: QPainter, card: CardPlace, look: CardLook) -> None:
    rect = card.rect
    painter.setFont(number_font(SIZE_SMALL))
    painter.setPen(Look.pen("ink"))
    line = QRectF(rect.left() + 18, rect.top() + 1, 60, 18)
    if look.slim:
        line = QRectF(rect.left() + 44, rect.top(), 60, rect.height())
    if rect.width() > (74 if look.slim else 46):
        painter.drawText(line, LEFT, f"{card.frame:g}")
    held = rect.width() > (110 if look.slim else 84) and not look.unkeyed
    if held:
        painter.setPen(Look.pen("muted"))
        place = QRectF(
            rect.right() - 86,
            rect.top() if look.slim else rect.top() + 2 if card.film else rect.bottom() - 18,
            80,
            rect.height() if look.slim else 16,
        )
        painter.drawText(place, RIGHT, f"{card.held:g} frames" if card.film else f"×{card.held:g}")
    if look.slim or not (look.name or look.unkeyed):
        return
    painter.setFont(text_font(SIZE_SMALL))
    words = "not keyed" if look.unkeyed else look.name
    room = rect.width() - 12 - (32 if held else 0)
    words = QFontMetricsF(painter.font()).elidedText(words, Qt.TextElideMode.ElideRight, room)
    place = QRectF(rect.left() + 5, rect.bottom() - 17, QFontMetricsF(painter.font()).horizontalAdvance(words) + 6, 15)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(_paper(card, look))
    painter.drawRoundedRect(place, 4, 4)
    painter.setPen(Look.pen("alert" if look.unkeyed else "ink"))
    painter.drawText(place.adjusted(3, 0, 0, 0), LEFT, words)
