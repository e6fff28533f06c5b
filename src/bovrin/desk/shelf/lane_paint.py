"""How the lanes of the motion shelf look."""

from __future__ import annotations

from typing import Protocol

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPainterPath, QPen

from bovrin.desk.kit.look import LEFT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.desk.state.shelf import Place
from bovrin.shot import Laid, Lane

LANE, GAP = 40.0, 3.0
PICTURE = (28.0, 30.0)
STEP = 64.0
ROLES = ("accent", "ochre", "after", "before")


class Rows(Protocol):
    """What the painter asks of the lanes."""

    session: Session
    scale: TimeScale
    pictures: CardPictures

    def width(self) -> int: ...
    def height(self) -> int: ...
    def top_of(self, lane: int) -> float: ...
    def box(self, lane: int, laid: Laid) -> QRectF: ...
    def ear(self, lane: int) -> QRectF: ...


class LanePainter:
    """Draws names, bars with pictures, ends of rounds, and fades."""

    def __init__(self, rows: Rows) -> None:
        self.rows = rows

    def paint(self, painter: QPainter) -> None:
        """All lanes."""
        lanes = self.rows.session.shelf.lanes()
        if not lanes:
            self._paint_empty(painter)
        for number, lane in enumerate(lanes):
            self._paint_name(painter, number, muted=lane.muted)
        painter.setClipRect(QRectF(GUTTER, 0, self.rows.width() - GUTTER, self.rows.height()))
        for number, lane in enumerate(lanes):
            painter.setOpacity(0.35 if lane.muted else 1.0)
            for index, laid in enumerate(lane.laid):
                self._paint_laid(painter, Place(number, index), laid, self._alone(lane, index))
            for before, after in zip(lane.laid, lane.laid[1:], strict=False):
                self._paint_fade(painter, number, before, after)
            painter.setOpacity(1.0)
        x = self.rows.scale.x(self.rows.session.frame)
        painter.setPen(Look.pen("alert", 1.4))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.rows.height()))

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(Look.colour("muted"))
        painter.setFont(text_font(SIZE_SMALL + 1))
        words = "Motion shelf: keep a clip in the panel, and lay it here."
        painter.drawText(QRectF(12, 0, self.rows.width() - 24, self.rows.height()), LEFT, words)

    def _paint_name(self, painter: QPainter, lane: int, *, muted: bool) -> None:
        top = self.rows.top_of(lane)
        painter.setFont(text_font(SIZE_SMALL + 1))
        painter.setPen(Look.colour("muted" if muted else "ink"))
        painter.drawText(QRectF(12, top, GUTTER - 60, LANE), LEFT, f"lane {lane + 1}")
        painter.setPen(Look.colour("muted"))
        painter.setFont(text_font(SIZE_SMALL))
        painter.drawText(self.rows.ear(lane), LEFT, "silent" if muted else "heard")

    def _alone(self, lane: Lane, index: int) -> tuple[float, float]:
        """Where a clip begins and ends that is in no fade, in pixels: there its words and pictures are."""
        laid, x = lane.laid[index], self.rows.scale.x
        begin = max([laid.at, *(one.end for one in lane.laid[:index])])
        end = min([laid.end, *(one.at for one in lane.laid[index + 1 :])])
        if x(end) - x(begin) < PICTURE[0]:
            return x(laid.at), x(laid.end)
        return x(begin), x(end)

    def _paint_laid(self, painter: QPainter, place: Place, laid: Laid, alone: tuple[float, float]) -> None:
        box, chosen = self.rows.box(place.lane, laid), self.rows.session.shelf.place == place
        role = ROLES[sorted({c.name for c in self.rows.session.shown.clips}).index(laid.clip) % len(ROLES)]
        painter.setPen(QPen(Look.colour("ink" if chosen else role), 2.0 if chosen else 1.0))
        painter.setBrush(Look.colour(role, 0.28 if laid.how == "over" else 0.12))
        painter.drawRoundedRect(box, 7, 7)
        painter.save()
        painter.setClipRect(box.intersected(QRectF(GUTTER, 0, self.rows.width() - GUTTER, self.rows.height())))
        if not place.lane:
            self._paint_film(painter, box, *alone)
        self._paint_rounds(painter, laid, box, role)
        painter.setPen(Look.colour("ink"))
        painter.setFont(text_font(SIZE_SMALL + 1, bold=True))
        left = max(alone[0], GUTTER) + 8
        painter.drawText(QRectF(left, box.top() + 1, box.right() - left, 15), LEFT, laid.clip)
        painter.setFont(number_font(SIZE_SMALL - 1))
        painter.setPen(Look.colour("muted"))
        painter.drawText(QRectF(left, box.top() + 14, box.right() - left, 13), LEFT, told(laid))
        painter.restore()

    def _paint_rounds(self, painter: QPainter, laid: Laid, box: QRectF, role: str) -> None:
        """Dashed lines where a round ends."""
        painter.setPen(QPen(Look.colour(role), 1.0, Qt.PenStyle.DashLine))
        span = (laid.last - laid.first) / laid.speed
        first, last = (self.rows.scale.frame(x) for x in (GUTTER, self.rows.width()))
        begin, end = max(int((first - laid.at) / span), 1), int(np.ceil(min(laid.repeats, (last - laid.at) / span + 1)))
        if end - begin > self.rows.width():
            return
        for n in range(begin, end):
            x = self.rows.scale.x(laid.at + n * span)
            painter.drawLine(QPointF(x, box.top() + 2), QPointF(x, box.bottom() - 2))

    def _paint_film(self, painter: QPainter, box: QRectF, begin: float, end: float) -> None:
        """What the figure does, a picture every so often."""
        if self.rows.session.document.previewing or box.width() < STEP:
            return
        xs = np.arange(begin + 74, end - PICTURE[0], STEP)
        xs = xs[(xs > GUTTER) & (xs < self.rows.width())]
        frames = np.round([self.rows.scale.frame(x + PICTURE[0] / 2) for x in xs])
        made: list[QImage | None] = self.rows.pictures.pictures(frames) if len(frames) else []
        for x, picture in zip(xs.tolist(), made, strict=False):
            if picture is not None:
                painter.drawImage(QRectF(x, box.bottom() - PICTURE[1] - 1, *PICTURE), picture)

    def _paint_fade(self, painter: QPainter, lane: int, before: Laid, after: Laid) -> None:
        """A falling line through the frames in which one clip gives way to the next."""
        left, right = self.rows.scale.x(after.at), self.rows.scale.x(min(before.end, after.end))
        if right <= left:
            return
        top, bottom = self.rows.top_of(lane) + 4, self.rows.top_of(lane) + LANE - 4
        path = QPainterPath(QPointF(left, top))
        middle = (left + right) / 2
        path.cubicTo(QPointF(middle, top), QPointF(middle, bottom), QPointF(right, bottom))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(Look.colour("raised"), 4.0))
        painter.drawPath(path)
        painter.setPen(QPen(Look.colour("ink"), 1.8))
        painter.drawPath(path)


def told(laid: Laid) -> str:
    """What is unusual about a laid clip, in short."""
    words = []
    if laid.repeats != 1.0:
        words.append(f"×{laid.repeats:.3g}")
    if laid.speed != 1.0:
        words.append(f"{laid.speed:.0%} fast")
    if laid.strength != 1.0:
        words.append(f"{laid.strength:.0%} strong")
    if laid.how == "added":
        words.append("added")
    if laid.backwards:
        words.append("backwards")
    if laid.mute:
        words.append(f"{len(laid.mute)} muted")
    return " ".join(words)
