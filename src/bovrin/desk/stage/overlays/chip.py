"""The words on the stage: at the lower left what is chosen and what an edit keys, at the lower right the frame."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter

from bovrin.desk.kit.look import CENTRE, RIGHT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.stage.words import chip_words, chosen_words, frame_words
from bovrin.desk.state.document.session import Session


def chip(session: Session, says: str) -> str:
    """What is chosen and keyed, or during a drag (`says`) how far it has gone."""
    return f"{chosen_words(session)} · {says}" if says else chip_words(session)


def paint_measure(painter: QPainter, middle: QPointF, words: str, role: str) -> None:
    """A number that lies on the stage, on a pale ground about a place."""
    painter.setFont(number_font(SIZE_SMALL))
    wide = QFontMetricsF(painter.font()).horizontalAdvance(words) + 18
    box = QRectF(middle.x() - wide / 2, middle.y() - 9, wide, 18)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(Look.colour("raised", 0.85))
    painter.drawRoundedRect(box, 9, 9)
    painter.setPen(Look.colour(role))
    painter.drawText(box, CENTRE, words)


def paint_words(painter: QPainter, session: Session, size: QSize, says: str) -> None:
    """Draw both; where they would meet, the frame stands higher."""
    words, left = chip(session, says), 0.0
    if words:
        painter.setFont(text_font())
        metrics = QFontMetricsF(painter.font())
        words = metrics.elidedText(words, Qt.TextElideMode.ElideRight, size.width() - 48)
        box = QRectF(12, size.height() - 38, metrics.horizontalAdvance(words) + 22, 26)
        left = box.right()
        painter.setPen(Look.pen("hairline"))
        painter.setBrush(Look.colour("raised", 0.94))
        painter.drawRoundedRect(box, 13, 13)
        painter.setPen(Look.pen("ink"))
        painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)
    painter.setFont(number_font(12))
    painter.setPen(Look.pen("ink"))
    words = frame_words(session)
    wide = QFontMetricsF(painter.font()).horizontalAdvance(words)
    crowded = left + wide > size.width() - 28
    place = QRectF(12, size.height() - (64 if crowded else 38), size.width() - 26, 26)
    painter.drawText(place, RIGHT, words)
