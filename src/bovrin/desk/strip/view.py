"""What the pose strip shows: ruler, markers, a card for each pose, the timing chart, holds and moves, lanes of keys."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPen, QPixmap

from bovrin.desk.kit.look import CENTRE, LEFT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.marks import paint_chosen, paint_marks
from bovrin.desk.kit.surface import Surface
from bovrin.desk.kit.timescale import GUTTER
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.desk.strip.card_paint import CardLook, paint_card
from bovrin.desk.strip.chart_row import HEIGHT as CHART
from bovrin.desk.strip.dense import NEAR, bands
from bovrin.desk.strip.film import film_places
from bovrin.desk.strip.holds_row import HEIGHT as HOLDS
from bovrin.desk.strip.lanes import (
    LANE,
    Marks,
    StripLine,
    lane_marks,
    lane_tails,
    paint_bands,
    paint_lane_name,
    paint_tails,
)
from bovrin.desk.strip.layout import RULER, CardPlace, StripLayout

if TYPE_CHECKING:
    from bovrin.desk.strip.run_row import ShownRun

Film = list[tuple[float, float]]
"""Pixels from a card's left, and frames, of the pictures of a recorded stretch."""
NO_POSES = "No poses yet: pose the figure on the stage, or press K to key what you see."
ON_CLIPS = "No keys on top of the clips: what you pose here is added to them."
NARROWEST = 20.0
"""Pixels of a card below which it shows no picture."""


class StripPainter:
    """Draws the strip: what follows the current frame over what does not, which is kept."""

    def __init__(self, layout: StripLayout, pictures: CardPictures, surface: Surface) -> None:
        self.layout, self.pictures, self._surface = layout, pictures, surface
        self.session, self.scale = layout.session, layout.scale
        self._kept: tuple[tuple[object, ...], QPixmap] | None = None

    def paint(self, painter: QPainter, box: QRectF | None) -> None:
        """Everything; `box`: the one that is drawn to choose keys."""
        layout, surface = self.layout, self._surface
        painter.drawPixmap(0, 0, self.still())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(GUTTER, 0, surface.width() - GUTTER, surface.height()))
        self._paint_held(painter)
        self._paint_current(painter)
        if box is not None and box.top() >= layout.lanes_top():
            painter.setPen(Look.pen("accent"))
            painter.setBrush(Look.colour("accent", 0.12))
            painter.drawRect(box)

    def still(self) -> QPixmap:
        """All that does not follow the current frame, painted anew only when something in it changed."""
        session, ratio = self.session, self._surface.devicePixelRatioF()
        curves, lanes, cards = session.curves, self.layout.lanes(), self.layout.cards_in_sight()
        marks = lane_marks(curves, lanes) if curves is not None and lanes else []
        runs = self._runs()
        films = self._films(cards)
        pictures = self._pictures(cards, films)
        shot, scale, keys = session.shown, self.scale, session.keys
        part = self.layout.chart.part()
        key = (
            [(c.frame, c.role, c.held, c.film) for c in cards],
            [(a.tobytes(), b.tobytes()) for a, b in marks],
            runs,
            [id(picture) for picture in pictures],
            (scale.first, scale.per_frame, self._surface.size(), ratio, self.layout.slim, Look.theme.name),
            (
                session.figure_name,
                session.controls,
                self.layout.opened,
                self.layout.search,
                self.layout.scrolled,
                keys.by_channel,
            ),
            (
                shot.markers,
                shot.drawings,
                session.pass_.name,
                shot.first,
                shot.last,
                shot.second,
                shot.unkeyed,
                shot.cards(session.figure_name),
            )
            if session.figure is not None
            else (),
            (shot.drawings, session.pass_.name, shot.last),
            None if self.layout.slim else (self.layout.chart.ladders(), self.layout.holds.stretches(part)),
        )
        if self._kept is None or not _same(self._kept[0], key):
            self._kept = (key, self.painted(cards, films, pictures, marks))
        return self._kept[1]

    def _runs(self) -> list[tuple[ShownRun, ...]]:
        """For each lane the drawings of a flat part that it shows."""
        session = self.session
        if session.figure is None or not session.figure.model.is_flat:
            return []
        from bovrin.desk.strip.run_row import lane_runs  # noqa: PLC0415 - kept out of the window's start

        return lane_runs(session.shown, session.figure_name, self.layout.lanes())

    def _paint_runs(self, painter: QPainter, lane: StripLine, y: float, runs: tuple[ShownRun, ...]) -> None:
        from bovrin.desk.strip.run_row import paint_runs, part_of_lane  # noqa: PLC0415 - kept out of the window's start

        session = self.session
        assert session.figure is not None
        part = part_of_lane(session.figure.rig, lane)
        paint_runs(painter, runs, session.shown, session.figure_name, part, self.scale, y)

    def _films(self, cards: list[CardPlace]) -> list[Film]:
        return [film_places(card, self.scale.per_frame) for card in cards]

    def _pictures(self, cards: list[CardPlace], films: list[Film]) -> list[QImage | None]:
        """A card's first picture, None where it is too narrow, then those of its film; card by card."""
        wide = [card.rect.width() >= NARROWEST for card in cards]
        rows = [
            [*([c.frame] if w else []), *(f for _, f in film)] for c, w, film in zip(cards, wide, films, strict=True)
        ]
        made = iter(self.pictures.pictures(np.array([frame for row in rows for frame in row])))
        found: list[QImage | None] = []
        for w, film in zip(wide, films, strict=True):
            found += [next(made, None) if w else None, *(next(made, None) for _ in film)]
        return found

    def painted(
        self, cards: list[CardPlace], films: list[Film], pictures: list[QImage | None], marks: list[Marks]
    ) -> QPixmap:
        """The still layer."""
        pixmap = self._surface.blank_layer()
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, self._surface.width() - GUTTER, self._surface.height()))
        self._paint_outside(painter)
        self._paint_ruler(painter)
        self._paint_cards(painter, cards, films, pictures)
        if self.layout.drawings.height():
            self.layout.drawings.paint(painter, RULER + 1, self._surface.width())
        if not self.layout.slim:
            self.layout.markers.paint(
                painter, self.session.shown.markers, self.layout.markers_top(), self._surface.width()
            )
            self.layout.chart.paint(painter, self.layout.chart_top(), self._surface.width())
            self.layout.holds.paint(
                painter,
                self.layout.holds.stretches(self.layout.chart.part()),
                self.layout.holds_top(),
                self._surface.width(),
            )
            self._paint_lanes(painter, marks)
        painter.restore()
        self._paint_gutter(painter)
        painter.end()
        return pixmap

    def _paint_held(self, painter: QPainter) -> None:
        held = self.session.poses.cards.held_at(self.session.frame)
        for card in self.layout.cards_in_sight():
            if card.frame == held:
                painter.setPen(Look.pen("accent", 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(card.rect.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)

    def _paint_outside(self, painter: QPainter) -> None:
        """What lies outside the shot's range is in shade."""
        shot = self.session.shown
        left, right = self.scale.x(shot.first), self.scale.x(shot.last + 1)
        shade = Look.colour("desk", 0.45)
        painter.fillRect(QRectF(GUTTER, RULER, left - GUTTER, self._surface.height()), shade)
        painter.fillRect(QRectF(right, RULER, self._surface.width() - right, self._surface.height()), shade)

    def _paint_ruler(self, painter: QPainter) -> None:
        shot = self.session.shown
        x0, x1 = self.scale.x(shot.first), self.scale.x(shot.last)
        painter.fillRect(QRectF(x0, RULER - 2, x1 - x0, 2), Look.colour("hairline"))
        if shot.second is not None:
            a, b = (self.scale.x(f) for f in shot.second)
            painter.fillRect(QRectF(a, RULER - 3, b - a, 4), Look.colour("accent"))
        low, high = self.scale.seen()
        if self.scale.per_frame >= 4:
            painter.setPen(Look.pen("muted", 1, 0.55))
            for frame in range(int(low), int(high) + 1):
                x = self.scale.x(frame)
                painter.drawLine(QPointF(x, RULER - 6), QPointF(x, RULER - 2))
        painter.setFont(number_font(SIZE_SMALL))
        painter.setPen(Look.pen("muted"))
        for frame in self.scale.numbers(shot.first):
            x = self.scale.x(frame)
            painter.drawLine(QPointF(x, RULER - 9), QPointF(x, RULER - 2))
            painter.drawText(QRectF(x - 30, 0, 60, RULER - 10), CENTRE, str(frame))
        painter.setPen(Look.pen("ink", 1.8))
        for x, way in ((x0, 1), (x1, -1)):  # the range's ends, as brackets that can be dragged
            painter.drawLine(QPointF(x, RULER - 9), QPointF(x, RULER))
            painter.drawLine(QPointF(x, RULER - 1), QPointF(x + 5 * way, RULER - 1))

    def _paint_cards(
        self, painter: QPainter, cards: list[CardPlace], films: list[Film], pictures: list[QImage | None]
    ) -> None:
        session = self.session
        shot, chosen = session.shown, session.keys.cards()
        names = {card.frame: card.name for card in shot.cards(session.figure_name)} if cards else {}
        unkeyed = {u.frame for u in shot.unkeyed if u.figure == session.figure_name}
        drawn = iter(pictures)
        for card, film in zip(cards, films, strict=True):
            first, name = next(drawn), names.get(card.frame, "")
            more = tuple((left, next(drawn)) for left, _ in film)
            look = CardLook(first, name, card.frame in chosen, card.frame in unkeyed, self.layout.slim, more)
            paint_card(painter, card, look)
        if not len(session.poses.cards):
            painter.setPen(Look.pen("muted"))
            painter.setFont(text_font())
            area = QRectF(
                GUTTER + 16, self.layout.cards_top(), self._surface.width() - GUTTER - 30, self.layout.cards_height()
            )
            painter.drawText(area.adjusted(12, 0, 0, 0), LEFT, ON_CLIPS if self.session.shelf.lanes() else NO_POSES)

    def _paint_lanes(self, painter: QPainter, marks: list[Marks]) -> None:
        painter.save()
        area = QRectF(
            GUTTER,
            self.layout.lanes_top(),
            self._surface.width() - GUTTER,
            self._surface.height() - self.layout.lanes_top(),
        )
        painter.setClipRect(area, Qt.ClipOperation.IntersectClip)
        low, high = self.scale.seen()
        chosen = self.session.keys.by_channel
        all_marks: list[tuple[np.ndarray, np.ndarray, np.ndarray]] = []
        lanes, curves = self.layout.lanes(), self.session.curves
        runs = self._runs()
        tails = lane_tails(curves, lanes) if curves is not None and lanes else []
        for index, (lane, (frames, roles)) in enumerate(zip(lanes, marks, strict=True)):
            y = self.layout.lane_y(index)
            if y < area.top() - LANE or y > area.bottom() + LANE:
                continue
            painter.setPen(Look.pen("hairline"))
            painter.drawLine(QPointF(GUTTER, y), QPointF(self._surface.width(), y))
            if runs and runs[index]:
                self._paint_runs(painter, lane, y, runs[index])
            late = tails[index]
            late = late[(late.max(1) >= low - 1) & (late.min(1) <= high + 1)] if len(late) else late
            paint_tails(painter, self.scale.x(0.0) + late * self.scale.per_frame, y, lane.side)
            if self.scale.per_frame < NEAR:
                stretches, hidden = bands(frames, roles)
                paint_bands(painter, self.scale.x(0.0) + stretches * self.scale.per_frame, y, lane.side)
                frames, roles = frames[~hidden], roles[~hidden]
            a, b = np.searchsorted(frames, [low - 1, high + 1])
            xs = self.scale.x(0.0) + frames[a:b] * self.scale.per_frame
            all_marks.append((xs, np.full(b - a, y), roles[a:b]))
            picked = [chosen[i] for i in lane.channels if i in chosen] if chosen else []
            if picked:
                at = np.unique(np.concatenate(picked))
                at = at[(at >= low - 1) & (at <= high + 1)]
                paint_chosen(painter, self.scale.x(0.0) + at * self.scale.per_frame, np.full(len(at), y))
        if all_marks:
            xs, ys, roles = (np.concatenate(column) for column in zip(*all_marks, strict=True))
            paint_marks(painter, xs, ys, roles)
        painter.restore()

    def _paint_current(self, painter: QPainter) -> None:
        x = self.scale.x(self.session.frame)
        painter.setPen(Look.pen("alert", 1.6))
        painter.drawLine(QPointF(x, RULER - 6), QPointF(x, self._surface.height()))
        for number in self.scale.numbers(self.session.shown.first):
            beside = self.scale.x(number)
            if abs(beside - x) < 36:  # a number half under the pill is worse than none
                painter.fillRect(QRectF(beside - 18, 0, 36, RULER - 9), Look.colour("panel"))
        painter.setBrush(Look.colour("alert"))
        painter.setPen(Qt.PenStyle.NoPen)
        pill = QRectF(x - 18, 1, 36, 16)
        painter.drawRoundedRect(pill, 8, 8)
        painter.setPen(QPen(Look.colour("raised")))
        painter.setFont(number_font(SIZE_SMALL))
        painter.drawText(pill, CENTRE, f"{self.session.frame:g}")

    def _paint_gutter(self, painter: QPainter) -> None:
        painter.setPen(Look.pen("hairline"))
        painter.drawLine(QPointF(GUTTER - 0.5, RULER), QPointF(GUTTER - 0.5, self._surface.height()))
        figure = self.session.figure
        if figure is None or self.layout.slim:
            return
        painter.setPen(Look.pen("ink"))
        painter.setFont(text_font(bold=True))
        painter.drawText(QRectF(14, self.layout.cards_top() + 6, GUTTER - 20, 20), LEFT, "Pose strip")
        painter.setFont(text_font(12))
        painter.setPen(Look.pen("muted"))
        count = len(self.session.poses.cards)
        words = f"{figure.name} · {count} pose{'s' if count != 1 else ''}"
        painter.drawText(QRectF(14, self.layout.cards_top() + 26, GUTTER - 20, 18), LEFT, words)
        painter.drawText(QRectF(14, self.layout.chart_top(), GUTTER - 20, CHART), LEFT, "Timing chart")
        painter.drawText(
            QRectF(14, self.layout.holds_top(), GUTTER - 20, HOLDS),
            LEFT,
            self.layout.holds.words(self.layout.chart.part()),
        )
        self._paint_names(painter)

    def _paint_names(self, painter: QPainter) -> None:
        top = self.layout.lanes_top()
        painter.setClipRect(QRectF(0, top, GUTTER - 1, self._surface.height() - top))
        chosen = set(self.session.controls)
        for index, lane in enumerate(self.layout.lanes()):
            y = self.layout.lane_y(index)
            if top - LANE < y < self._surface.height() + LANE:
                area = QRectF(6, y - LANE / 2, GUTTER - 10, LANE)
                paint_lane_name(
                    painter,
                    lane,
                    area,
                    opened=lane.name in self.layout.opened,
                    chosen=bool(chosen & set(lane.controls)),
                )


def _same(one: object, other: object) -> bool:
    """Whether two keys say the same; arrays are compared by content."""
    if isinstance(one, np.ndarray) and isinstance(other, np.ndarray):
        return one is other or np.array_equal(one, other)
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() == other.keys() and all(_same(one[k], other[k]) for k in one)
    if isinstance(one, list | tuple) and isinstance(other, list | tuple):
        return len(one) == len(other) and all(_same(a, b) for a, b in zip(one, other, strict=True))
    return one is other or bool(one == other)
