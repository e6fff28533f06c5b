"""Where everything of the pose strip lies: rows from top to bottom, cards and lanes. Nothing is drawn here."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF
from PyQt6.QtWidgets import QWidget

from bovrin.craft.keying.key_sets import keys_on
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.state.document.session import Session
from bovrin.desk.strip.chart_row import HEIGHT as CHART
from bovrin.desk.strip.chart_row import ChartRow
from bovrin.desk.strip.dense import NEAR, in_band, is_recorded
from bovrin.desk.strip.drawing_row import DrawingRow
from bovrin.desk.strip.holds_row import HEIGHT as HOLDS
from bovrin.desk.strip.holds_row import HoldsRow
from bovrin.desk.strip.lanes import LANE, StripLine, lane_marks, lanes_of
from bovrin.desk.strip.marker_row import MarkerRow
from bovrin.frozen import frozen_equal
from bovrin.shot import Marker

RULER, SLIM, CARDS = 24, 30, 84
EDGE = 6
KEY_HIT = 6.0


@frozen_equal
class CardPlace:
    """A card in sight: which pose it is, its frame and role, how many frames it is held, where it is drawn, and whether it is a
    film: recorded from here to the next."""

    frame: float
    role: int
    held: float
    rect: QRectF
    film: bool = False


class StripLayout:
    """The geometry of the strip, in the pixels of the widget it lies on."""

    def __init__(self, session: Session, scale: TimeScale, host: QWidget) -> None:
        self.session, self.scale, self.host = session, scale, host
        self.slim = False
        self.chart = ChartRow(session, scale)
        self.holds = HoldsRow(session, scale, host.update)
        self.markers = MarkerRow(scale)
        self.drawings = DrawingRow(session, scale)
        self.opened: tuple[str, ...] = ()
        self.search = ""
        self.scrolled = 0.0

    def needed_height(self) -> int:
        """The height that shows every part's lane."""
        if self.slim:
            return int(self.cards_top()) + SLIM + 6
        parts = 0 if self.session.figure is None else len(self.session.figure.rig.parts)
        return int(self.lanes_top()) + parts * LANE + 4

    # -- rows ---------------------------------------------------------------------------------------------------------

    def markers_top(self) -> float:
        """Where the rows of markers begin."""
        return RULER + 2 + self.drawings.height()

    def cards_top(self) -> float:
        """Where the cards begin."""
        return (
            RULER + 4 + self.drawings.height() + (0 if self.slim else self.markers.height(self.session.shown.markers))
        )

    def cards_height(self) -> float:
        """How high cards are."""
        return SLIM if self.slim else CARDS

    def chart_top(self) -> float:
        """Where the row of the timing chart begins."""
        return self.cards_top() + self.cards_height() + 3

    def holds_top(self) -> float:
        """Where the row of holds and moves begins."""
        return self.chart_top() + CHART

    def lanes_top(self) -> float:
        """Where the lanes begin."""
        return self.chart_top() + (0 if self.slim else CHART + HOLDS) + 3

    def in_chart(self, at: QPointF) -> bool:
        """Whether a point lies in the timing chart."""
        return not self.slim and at.x() >= GUTTER and self.chart_top() <= at.y() < self.holds_top()

    def in_markers(self, at: QPointF) -> bool:
        """Whether a point lies in the rows of markers."""
        return not self.slim and at.x() >= GUTTER and self.markers_top() - 2 <= at.y() < self.cards_top()

    # -- cards --------------------------------------------------------------------------------------------------------

    def cards_in_sight(self) -> list[CardPlace]:
        """The cards that are seen, from left to right."""
        poses = self.session.poses.cards
        frames = poses.frames
        if not len(frames):
            return []
        ends = np.append(frames[1:], max(self.session.shown.last, frames[-1]) + 1)
        low, high = self.scale.seen()
        curves = self.session.shown.take.curves.get(self.session.figure_name)
        first = max(int(np.searchsorted(ends, low - 1)), 0)
        last = int(np.searchsorted(frames, high + 1))
        top, height = self.cards_top(), self.cards_height()
        found = []
        for n in range(first, last):
            left, right = self.scale.x(float(frames[n])), self.scale.x(float(ends[n])) - 2
            rect = QRectF(left, top, max(right - left, 3.0), height)
            frame, end = float(frames[n]), float(ends[n])
            film = curves is not None and not self.slim and is_recorded(curves, frame, end)
            found.append(CardPlace(frame, int(poses.roles[n]), end - frame, rect, film))
        return found

    def card_rects(self) -> list[tuple[float, QRectF]]:
        """The frame and the rectangle of each card in sight."""
        return [(card.frame, card.rect) for card in self.cards_in_sight()]

    def place_at(self, at: QPointF) -> CardPlace | None:
        """The card under a point."""
        if at.x() < GUTTER or not self.cards_top() <= at.y() <= self.cards_top() + self.cards_height():
            return None
        return next((c for c in self.cards_in_sight() if c.rect.adjusted(0, 0, EDGE / 2, 0).contains(at)), None)

    def card_at(self, at: QPointF) -> tuple[float, bool] | None:
        """The frame of the card under a point and whether its right edge is; a film has none."""
        card = self.place_at(at)
        if card is None:
            return None
        edge = at.x() >= card.rect.right() - EDGE and card.rect.width() > 2 * EDGE
        return card.frame, edge and not card.film

    # -- lanes --------------------------------------------------------------------------------------------------------

    def lanes(self) -> tuple[StripLine, ...]:
        """The lanes of the chosen figure, as they are opened and searched."""
        figure = self.session.figure
        return () if figure is None or self.slim else lanes_of(figure.rig, self.opened, self.search)

    def lane_y(self, index: int) -> float:
        """The middle of a lane."""
        return self.lanes_top() - self.scrolled + index * LANE + LANE / 2

    def lane_at(self, y: float) -> int | None:
        """The lane at a height."""
        if self.slim or y < self.lanes_top():
            return None
        index = int((y - self.lanes_top() + self.scrolled) // LANE)
        return index if 0 <= index < len(self.lanes()) else None

    def most_scrolled(self) -> float:
        """How far lanes can be scrolled."""
        return max(len(self.lanes()) * LANE - (self.host.height() - self.lanes_top() - 2), 0.0)

    def scroll(self, by: float) -> None:
        """Scroll the lanes by pixels, as far as they go."""
        self.scrolled = min(max(self.scrolled + by, 0.0), self.most_scrolled())
        self.host.update()

    def open_lane(self, name: str) -> None:
        """Open a lane, or fold it again."""
        self.opened = tuple(n for n in self.opened if n != name) if name in self.opened else (*self.opened, name)
        self.scroll(0.0)

    def find_lanes(self, words: str) -> None:
        """List only lanes with these words."""
        self.search = words.strip()
        self.scroll(-self.scrolled)

    def marker_at(self, at: QPointF) -> tuple[Marker, str] | None:
        """The marker under a point, and what of it."""
        return self.markers.marker_at(self.session.shot.markers, at, self.markers_top())

    def range_end_at(self, at: QPointF) -> str:
        """The end of a range that is drawn under a point of the ruler, or ""."""
        if not RULER - 11 <= at.y() <= RULER:
            return ""
        shot = self.session.shot
        ends = [("first", shot.first), ("last", shot.last)]
        if shot.second is not None:
            ends += [("second first", shot.second[0]), ("second last", shot.second[1])]
        return next((name for name, frame in reversed(ends) if abs(self.scale.x(frame) - at.x()) <= 5), "")

    def keys_at(self, at: QPointF) -> dict[int, np.ndarray]:
        """The keys under the mark at a point, by channel."""
        index, curves = self.lane_at(at.y()), self.session.curves
        if index is None or curves is None or at.x() < GUTTER:
            return {}
        reach = KEY_HIT / self.scale.per_frame
        frame = self.scale.frame(at.x())
        found = keys_on(curves, self.lanes()[index].channels, frame - reach, frame + reach)
        if not found:
            return {}
        nearest = min((float(f) for frames in found.values() for f in frames), key=lambda f: abs(f - frame))
        if self.scale.per_frame < NEAR and in_band(lane_marks(curves, self.lanes())[index], nearest):
            return {}
        return keys_on(curves, self.lanes()[index].channels, nearest, nearest)

    def keys_in(self, box: QRectF) -> dict[int, np.ndarray]:
        """The keys of the lanes in a box, by channel."""
        curves = self.session.curves
        if curves is None:
            return {}
        rows = [lane for n, lane in enumerate(self.lanes()) if box.top() <= self.lane_y(n) <= box.bottom()]
        channels = dict.fromkeys(i for lane in rows for i in lane.channels)
        return keys_on(curves, channels, self.scale.frame(box.left()), self.scale.frame(box.right()))
