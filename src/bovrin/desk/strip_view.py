"""What the pose strip shows: ruler, markers, a card for each pose, the timing chart, holds and moves, lanes of keys."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen, QPixmap

from bovrin.desk.card_paint import CardLook, paint_card
from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.chart_row import HEIGHT as CHART
from bovrin.desk.holds_row import HEIGHT as HOLDS
from bovrin.desk.lanes import LANE, Marks, lane_marks, paint_chosen, paint_lane_name, paint_marks
from bovrin.desk.look import CENTRE, LEFT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.session import Session
from bovrin.desk.strip_layout import CARDS, RULER, CardPlace, StripLayout
from bovrin.desk.timescale import GUTTER, TimeScale

NARROWEST = 20.0
"""Pixels of a card below which it shows no picture."""


class StripView(StripLayout):
    """Draws the strip. No mouse here."""

    def __init__(self, session: Session, scale: TimeScale, pictures: CardPictures) -> None:
        super().__init__(session, scale, pictures)
        self.box: QRectF | None = None
        self._kept: tuple[tuple[object, ...], QPixmap] | None = None
        for signal in (
            session.shot_changed,
            session.frame_changed,
            session.choice_changed,
            session.pass_changed,
            session.keys.changed,
            scale.changed,
        ):
            signal.connect(self.update)
        pictures.ready.connect(self.update)

    def set_slim(self, slim: bool) -> None:
        """Low cards and no lanes, over the curve desk."""
        self.slim = slim
        self.setMinimumHeight(self.needed_height() if slim else RULER + CARDS + int(CHART) + HOLDS + 3 * LANE)
        self.setMaximumHeight(self.needed_height() if slim else 16777215)
        self.update()

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self.still())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        self._paint_held(painter)
        self._paint_current(painter)
        if self.box is not None:
            painter.setPen(Look.pen("accent"))
            painter.setBrush(Look.colour("accent", 0.12))
            painter.drawRect(self.box)

    def still(self) -> QPixmap:
        """All that does not follow the current frame, painted anew only when something in it changed."""
        session, ratio = self.session, self.devicePixelRatioF()
        curves, lanes, cards = session.curves, self.lanes(), self.cards_in_sight()
        marks = lane_marks(curves, lanes) if curves is not None and lanes else []
        pictures = self._pictures(cards)
        shot, scale, keys = session.shown, self.scale, session.keys
        part = self.chart.part()
        key = (
            [(c.frame, c.role, c.held) for c in cards],
            [(a.tobytes(), b.tobytes()) for a, b in marks],
            [id(picture) for picture in pictures],
            (scale.first, scale.per_frame, self.size(), ratio, self.slim, Look.theme.name),
            (session.figure_name, session.controls, self.opened, self.search, self.scrolled, keys.by_channel),
            (shot.markers, shot.first, shot.last, shot.second, shot.unkeyed, shot.cards(session.figure_name))
            if session.figure is not None
            else (),
            None if self.slim else (self.chart.ladders(), self.holds.stretches(part)),
        )
        if self._kept is None or not _same(self._kept[0], key):
            self._kept = (key, self.painted(cards, pictures, marks))
        return self._kept[1]

    def _pictures(self, cards: list[CardPlace]) -> list[QImage | None]:
        wide = [card.rect.width() >= NARROWEST for card in cards]
        frames = np.array([card.frame for card, w in zip(cards, wide, strict=True) if w])
        made = iter(self.pictures.pictures(frames))
        return [next(made, None) if w else None for w in wide]

    def painted(self, cards: list[CardPlace], pictures: list[QImage | None], marks: list[Marks]) -> QPixmap:
        """The still layer."""
        pixmap = self.blank_layer()
        painter = QPainter(pixmap)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        self._paint_outside(painter)
        self._paint_ruler(painter)
        self._paint_cards(painter, cards, pictures)
        if not self.slim:
            self.markers.paint(painter, self.session.shown.markers, self.markers_top(), self.width())
            self.chart.paint(painter, self.chart_top(), self.width())
            self.holds.paint(painter, self.holds.stretches(self.chart.part()), self.holds_top(), self.width())
            self._paint_lanes(painter, marks)
        painter.restore()
        self._paint_gutter(painter)
        painter.end()
        return pixmap

    def _paint_held(self, painter: QPainter) -> None:
        held = self.session.card_poses.held_at(self.session.frame)
        for card in self.cards_in_sight():
            if card.frame == held:
                painter.setPen(Look.pen("accent", 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(card.rect.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)

    def _paint_outside(self, painter: QPainter) -> None:
        """What lies outside the shot's range is in shade."""
        shot = self.session.shown
        left, right = self.scale.x(shot.first), self.scale.x(shot.last + 1)
        shade = Look.colour("desk", 0.45)
        painter.fillRect(QRectF(GUTTER, RULER, left - GUTTER, self.height()), shade)
        painter.fillRect(QRectF(right, RULER, self.width() - right, self.height()), shade)

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

    def _paint_cards(self, painter: QPainter, cards: list[CardPlace], pictures: list[QImage | None]) -> None:
        session = self.session
        shot, chosen = session.shown, session.keys.cards()
        names = {card.frame: card.name for card in shot.cards(session.figure_name)} if cards else {}
        unkeyed = {u.frame for u in shot.unkeyed if u.figure == session.figure_name}
        for card, picture in zip(cards, pictures, strict=True):
            look = CardLook(picture, names.get(card.frame, ""), card.frame in chosen, card.frame in unkeyed, self.slim)
            paint_card(painter, card, look)
        if not len(session.card_poses):
            painter.setPen(Look.pen("muted"))
            painter.setFont(text_font())
            area = QRectF(GUTTER + 16, self.cards_top(), self.width() - GUTTER - 30, self.cards_height())
            painter.drawText(area, LEFT, "No poses yet: pose the figure on the stage, or press K to key what you see.")

    def _paint_lanes(self, painter: QPainter, marks: list[Marks]) -> None:
        painter.save()
        area = QRectF(GUTTER, self.lanes_top(), self.width() - GUTTER, self.height() - self.lanes_top())
        painter.setClipRect(area, Qt.ClipOperation.IntersectClip)
        low, high = self.scale.seen()
        chosen = self.session.keys.by_channel
        all_marks: list[tuple[np.ndarray, np.ndarray, np.ndarray]] = []
        for index, (lane, (frames, roles)) in enumerate(zip(self.lanes(), marks, strict=True)):
            y = self.lane_y(index)
            if y < area.top() - LANE or y > area.bottom() + LANE:
                continue
            painter.setPen(Look.pen("hairline"))
            painter.drawLine(QPointF(GUTTER, y), QPointF(self.width(), y))
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
        painter.drawLine(QPointF(x, RULER - 6), QPointF(x, self.height()))
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
        painter.drawLine(QPointF(GUTTER - 0.5, RULER), QPointF(GUTTER - 0.5, self.height()))
        figure = self.session.figure
        if figure is None or self.slim:
            return
        painter.setPen(Look.pen("ink"))
        painter.setFont(text_font(bold=True))
        painter.drawText(QRectF(14, self.cards_top() + 6, GUTTER - 20, 20), LEFT, "Pose strip")
        painter.setFont(text_font(12))
        painter.setPen(Look.pen("muted"))
        count = len(self.session.card_poses)
        words = f"{figure.name} · {count} pose{'s' if count != 1 else ''}"
        painter.drawText(QRectF(14, self.cards_top() + 26, GUTTER - 20, 18), LEFT, words)
        painter.drawText(QRectF(14, self.chart_top(), GUTTER - 20, CHART), LEFT, "Timing chart")
        painter.drawText(QRectF(14, self.holds_top(), GUTTER - 20, HOLDS), LEFT, self.holds.words(self.chart.part()))
        self._paint_names(painter)

    def _paint_names(self, painter: QPainter) -> None:
        top = self.lanes_top()
        painter.setClipRect(QRectF(0, top, GUTTER - 1, self.height() - top))
        chosen = set(self.session.controls)
        for index, lane in enumerate(self.lanes()):
            y = self.lane_y(index)
            if top - LANE < y < self.height() + LANE:
                area = QRectF(6, y - LANE / 2, GUTTER - 10, LANE)
                paint_lane_name(
                    painter, lane, area, opened=lane.name in self.opened, chosen=bool(chosen & set(lane.controls))
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
