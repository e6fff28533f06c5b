"""Markers over the cards: stretches and moments with words, in as many rows as they need."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter

from bovrin.caching import cached_by_identity
from bovrin.desk.kit.look import LEFT, SIZE_SMALL, Look, text_font
from bovrin.desk.kit.timescale import TimeScale
from bovrin.frozen import frozen_equal
from bovrin.picture.theme import PENCIL_ROLES
from bovrin.shot import Marker

ROW, MOST = 14, 3
EDGE = 5.0
ROOM = 40.0
"""Pixels that a marker's words have at the least."""


@frozen_equal
class MarkerPlace:
    """A marker and the row it lies in."""

    marker: Marker
    row: int


@cached_by_identity
def rows_of(markers: tuple[Marker, ...], per_frame: float) -> tuple[MarkerPlace, ...]:
    """Markers laid in rows so that none covers another's words: sections first, then as they come."""
    ends: list[float] = []
    found = []
    for marker in sorted(markers, key=lambda m: (m.kind != "section", m.start, m.end)):
        start, end = marker.start * per_frame, max(marker.end * per_frame, marker.start * per_frame + ROOM)
        row = next((n for n, taken in enumerate(ends) if start >= taken - 0.5), len(ends))
        row = min(row, MOST - 1)
        if row == len(ends):
            ends.append(end)
        ends[row] = max(ends[row], end)
        found.append(MarkerPlace(marker, row))
    return tuple(found)


class MarkerRow:
    """Where markers are, and how they are drawn."""

    def __init__(self, scale: TimeScale) -> None:
        self.scale = scale

    def placed(self, markers: tuple[Marker, ...]) -> tuple[MarkerPlace, ...]:
        """All markers with their rows."""
        return rows_of(markers, self.scale.per_frame)

    def height(self, markers: tuple[Marker, ...]) -> int:
        """The height of all rows; one row stands empty."""
        return ROW * max((p.row + 1 for p in self.placed(markers)), default=1)

    def rect(self, placed: MarkerPlace, top: float) -> QRectF:
        """Where a marker is drawn; a moment is a flag as wide as its words."""
        marker = placed.marker
        left, right = self.scale.x(marker.start), self.scale.x(marker.end)
        if right - left < 4:
            right = left + min(QFontMetricsF(text_font(SIZE_SMALL)).horizontalAdvance(marker.words) + 10, 120)
        return QRectF(left, top + placed.row * ROW + 1, right - left, ROW - 2)

    def marker_at(self, markers: tuple[Marker, ...], at: QPointF, top: float) -> tuple[Marker, str] | None:
        """The marker under a point, and what of it: "start", "end" or "body"."""
        for placed in reversed(self.placed(markers)):
            rect = self.rect(placed, top)
            if rect.adjusted(-EDGE, 0, EDGE, 0).contains(at):
                if at.x() >= rect.right() - EDGE and placed.marker.end > placed.marker.start:
                    return placed.marker, "end"
                if at.x() <= rect.left() + EDGE and placed.marker.end > placed.marker.start and rect.width() > 3 * EDGE:
                    return placed.marker, "start"
                return placed.marker, "body"
        return None

    def paint(self, painter: QPainter, markers: tuple[Marker, ...], top: float, width: float) -> None:
        """All that is in sight."""
        painter.setFont(text_font(SIZE_SMALL))
        metrics = QFontMetricsF(painter.font())
        for placed in self.placed(markers):
            rect = self.rect(placed, top)
            if rect.right() < 0 or rect.left() > width:
                continue
            role = PENCIL_ROLES[placed.marker.pencil]
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(Look.colour(role, 0.30 if placed.marker.kind == "section" else 0.16))
            painter.drawRoundedRect(rect, 3, 3)
            painter.setBrush(Look.colour(role))
            painter.drawRect(QRectF(rect.left(), rect.top(), 2, rect.height()))
            words = f"“{placed.marker.words}”" if placed.marker.kind == "dialogue" else placed.marker.words
            painter.setPen(Look.pen("ink"))
            room = rect.width() - 8
            painter.drawText(
                QRectF(rect.left() + 6, rect.top() - 1, room, rect.height() + 2),
                LEFT,
                metrics.elidedText(words, Qt.TextElideMode.ElideRight, room),
            )
