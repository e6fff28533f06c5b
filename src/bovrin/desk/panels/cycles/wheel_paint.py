"""How the cycle wheel looks: frames around it, poses at its spokes, a ring for each foot's time on the ground."""

from __future__ import annotations

import math

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen

from bovrin.desk.kit.look import CENTRE, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.marks import draw_mark
from bovrin.desk.state.looking.going import FeetReading
from bovrin.figure.ground.feet import Foothold
from bovrin.frozen import frozen_equal
from bovrin.shot import Cycle, KeyRole, Shot, Stretch

RIM, RING, GAP = 74.0, 8.0, 3.0
"""Pixels: the outermost ring's radius, how wide rings are, and what lies between them."""
SPOKE = 98.0
"""Pixels from the middle to a pose's picture."""
CARD = (34.0, 36.0)
MOST_TICKS = 96


@frozen_equal
class WheelPlace:
    """Where the wheel lies in its widget, and what a round is."""

    middle: QPointF
    cycle: Cycle

    def angle(self, frame: float) -> float:
        """Radians clockwise from the top at which a frame lies."""
        return 2 * math.pi * (frame - self.cycle.first) / self.cycle.length

    def at(self, frame: float, radius: float) -> QPointF:
        """The point of a frame at a radius."""
        angle = self.angle(frame)
        return self.middle + QPointF(math.sin(angle), -math.cos(angle)) * radius

    def frame_at(self, at: QPointF) -> float:
        """The frame of the round under a point, with its fraction."""
        way = at - self.middle
        share = (math.atan2(way.x(), -way.y()) / (2 * math.pi)) % 1.0
        return self.cycle.first + share * self.cycle.length

    def radius_of(self, ring: int) -> float:
        """The radius of the middle of a foot's ring, counted from the rim."""
        return RIM - RING / 2 - ring * (RING + GAP)

    def distance(self, at: QPointF) -> float:
        """Pixels from the middle."""
        way = at - self.middle
        return math.hypot(way.x(), way.y())


def side_role(foot: Foothold) -> str:
    """The colour that stands for a foot's side."""
    return "left" if foot.rest[0] > 0 else "right"


def paint_wheel(painter: QPainter, place: WheelPlace, reading: FeetReading, frame: float, hot: object) -> None:
    """Ticks, rings and the hand."""
    _paint_rim(painter, place)
    for n, foot in enumerate(reading.feet):
        _paint_ring(painter, place, n, foot, reading.round.get(foot.name, []), hot)
    _paint_hand(painter, place, frame, len(reading.feet))


def _paint_rim(painter: QPainter, place: WheelPlace) -> None:
    painter.setPen(Look.pen("hairline"))
    painter.setBrush(Look.colour("raised"))
    painter.drawEllipse(place.middle, RIM, RIM)
    length = round(place.cycle.length)
    step = max(1, length // MOST_TICKS + (length > MOST_TICKS))
    painter.setPen(Look.pen("muted", 1.0, 0.7))
    for n in range(0, length, step):
        long = 5.0 if n % 4 == 0 else 3.0
        frame = place.cycle.first + n
        painter.drawLine(place.at(frame, RIM + 2), place.at(frame, RIM + 2 + long))


def _paint_ring(
    painter: QPainter, place: WheelPlace, ring: int, foot: Foothold, spans: list[Stretch], hot: object
) -> None:
    radius, role = place.radius_of(ring), side_role(foot)
    box = QRectF(place.middle.x() - radius, place.middle.y() - radius, 2 * radius, 2 * radius)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(QPen(Look.colour(role, 0.14), RING, Qt.PenStyle.SolidLine, Qt.PenCapStyle.FlatCap))
    painter.drawEllipse(box)
    for span in spans:
        lit = hot == (foot.name, span)
        pen = QPen(Look.colour(role, 1.0 if lit else 0.88), RING + (1.5 if lit else 0.0))
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        start = 90.0 - math.degrees(place.angle(span[0]))
        painter.drawArc(box, round(start * 16), round(-math.degrees(place.angle(span[1]) - place.angle(span[0])) * 16))


def _paint_hand(painter: QPainter, place: WheelPlace, frame: float, rings: int) -> None:
    painter.setPen(Look.pen("alert", 1.4))
    painter.drawLine(place.at(frame, place.radius_of(rings - 1) - RING), place.at(frame, RIM + 8))
    painter.setBrush(Look.colour("alert"))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.drawEllipse(place.at(frame, RIM + 8), 4.5, 4.5)


def paint_spoke(
    painter: QPainter, place: WheelPlace, frame: float, role: KeyRole, picture: QImage | None, *, here: bool
) -> None:
    """A pose at its spoke: its picture, and the mark of what it is."""
    box = card_at(place, frame)
    painter.setBrush(Look.colour("accent_wash" if here else "raised"))
    painter.setPen(Look.pen("accent" if here else "hairline", 1.2))
    painter.drawRoundedRect(box, 6, 6)
    if picture is not None:
        painter.drawImage(box.adjusted(1, 1, -1, -1), picture)
    draw_mark(painter, place.at(frame, RIM + 1), role, 4.0)


def card_at(place: WheelPlace, frame: float) -> QRectF:
    """Where the picture of a pose lies."""
    middle = place.at(frame, SPOKE + 4)
    return QRectF(middle.x() - CARD[0] / 2, middle.y() - CARD[1] / 2, *CARD)


def paint_middle(painter: QPainter, place: WheelPlace, words: str, frame: float, picture: QImage | None) -> None:
    """What the figure does now, what that is called, and the frame."""
    middle = place.middle
    if picture is not None:
        painter.drawImage(QRectF(middle.x() - 22, middle.y() - 36, 44, 47), picture)
    painter.setPen(Look.colour("ink"))
    painter.setFont(text_font(SIZE_SMALL, bold=True))
    painter.drawText(QRectF(middle.x() - 50, middle.y() + 10, 100, 14), CENTRE, words)
    painter.setFont(number_font(SIZE_SMALL))
    painter.setPen(Look.colour("muted"))
    painter.drawText(QRectF(middle.x() - 50, middle.y() + 22, 100, 14), CENTRE, f"{frame:g}")


def words_at(shot: Shot, reading: FeetReading, frame: float) -> str:
    """What a pose of the round is called: its card's name, or which feet are down."""
    cycle = reading.cycle
    assert cycle is not None
    at = cycle.folded(frame)
    named = {cycle.folded(card.frame): card.name for card in shot.cards(reading.figure.name) if card.name}
    earlier = [f for f in named if f <= at]
    if named:
        return named[max(earlier)] if earlier else named[max(named)]
    down = [foot for foot in reading.feet if _is_down(reading.round.get(foot.name, []), at, cycle)]
    return {0: "in the air", 1: "one foot down"}.get(len(down), f"{len(down)} feet down")


def _is_down(spans: list[Stretch], frame: float, cycle: Cycle) -> bool:
    return any(a <= frame + n * cycle.length <= b for a, b in spans for n in (0, 1))
