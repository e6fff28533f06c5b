"""The curve desk's picture: where keys and handles are, and how curves are drawn. No mouse here."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap, QPolygonF

from bovrin.craft.bending import Side
from bovrin.desk.curve_rows import Row, rows_of
from bovrin.desk.look import LEFT, RIGHT, SIZE_SMALL, Look, draw_mark, number_font, text_font
from bovrin.desk.session import Session
from bovrin.desk.surface import Surface
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.shot import Curve, HandleKind, Unit

ROW, TOP = 17, 24
Chosen = set[tuple[int, float]]
"""Chosen keys: (channel, frame)."""


class CurvePlot(Surface):
    """Draws the channels of the chosen controls; dots are frames."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        super().__init__(session, "Curve desk")
        self.scale = scale
        self._only: set[int] = set()
        self._low, self._high = -1.0, 1.0
        self._kept: tuple[tuple[object, ...], QPixmap, list[Curve]] | None = None
        self.setMinimumHeight(110)

    def dragged_channels(self) -> set[int]:
        """Channels that a drag changes now."""
        return set()

    def dragged_box(self) -> QRectF | None:
        """The box that is being drawn to choose keys."""
        return None

    # -- what is shown ------------------------------------------------------------------------------------------------

    def rows(self) -> list[Row]:
        """The channels listed on the left."""
        return rows_of(self.session)

    def shown_rows(self) -> list[Row]:
        """The channels whose curves are drawn: all, or the ones picked in the list."""
        rows = self.rows()
        picked = [row for row in rows if row.channel in self._only]
        return picked or rows

    def curve(self, channel: int) -> Curve:
        """The curve of a channel as shown."""
        curves = self.session.curves
        assert curves is not None
        return curves[channel]

    def fit(self) -> None:
        """Fit the values of the shown curves."""
        values = [self.curve(r.channel).values * r.factor for r in self.shown_rows() if len(self.curve(r.channel))]
        if values:
            low, high = min(v.min() for v in values), max(v.max() for v in values)
            margin = max((high - low) * 0.18, 0.5)
            self._low, self._high = low - margin, high + margin
        else:
            self._low, self._high = -1.0, 1.0
        self.update()

    def y_of(self, value: float | NDArray[np.float64]):  # type: ignore[no-untyped-def]
        """Pixels from the top of a shown value (a number or an array)."""
        height = self.height() - TOP - 10
        return TOP + (self._high - value) / (self._high - self._low) * height

    def value_at(self, y: float) -> float:
        """The shown value at a pixel."""
        height = self.height() - TOP - 10
        return self._high - (y - TOP) / height * (self._high - self._low)

    def key_point(self, row: Row, index: int) -> QPointF:
        """Where a key is drawn."""
        curve = self.curve(row.channel)
        return QPointF(self.scale.x(curve.frames[index]), self.y_of(curve.values[index] * row.factor))

    def handle_points(self, row: Row, index: int) -> dict[Side, QPointF]:
        """Where the ends of a key's handles are drawn."""
        curve = self.curve(row.channel)
        now = gather([curve])
        frame, value = curve.frames[index], curve.values[index]
        points: dict[Side, QPointF] = {}
        if index > 0 and curve.out_kind[index - 1] != HandleKind.STEPPED:
            length = now.in_length[index]
            points["in"] = QPointF(
                self.scale.x(frame - length), self.y_of((value - now.in_slope[index] * length) * row.factor)
            )
        if index + 1 < len(curve) and curve.out_kind[index] != HandleKind.STEPPED:
            length = now.out_length[index]
            points["out"] = QPointF(
                self.scale.x(frame + length), self.y_of((value + now.out_slope[index] * length) * row.factor)
            )
        return points

    @property
    def chosen(self) -> Chosen:
        """The chosen keys of the channels that are listed."""
        listed = {row.channel for row in self.rows()}
        return {(c, float(f)) for c, frames in self.session.keys.by_channel.items() if c in listed for f in frames}

    def chosen_indices(self) -> dict[int, NDArray[np.intp]]:
        """Chosen keys as indices by channel, of the channels that are listed."""
        listed = {row.channel for row in self.rows()}
        found = {
            c: np.flatnonzero(np.isin(self.curve(c).frames, frames))
            for c, frames in self.session.keys.by_channel.items()
            if c in listed
        }
        return {c: which for c, which in found.items() if len(which)}

    # -- paint ------------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        rows = self.rows()
        if rows:
            moving = self.dragged_channels()
            shown = self.shown_rows()
            painter.drawPixmap(0, 0, self._still([row for row in shown if row.channel not in moving]))
            for row in shown:
                if row.channel in moving:
                    self._paint_curve(painter, row)
                    self._paint_keys(painter, row)
        else:
            painter.setPen(Look.pen("muted"))
            area = QRectF(GUTTER + 16, 0, self.width() - GUTTER - 30, self.height())
            painter.drawText(area, LEFT, "Choose a control on the figure or its map to see its curves.")
        x = self.scale.x(self.session.frame)
        painter.setPen(Look.pen("alert", 1.6))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        box = self.dragged_box()
        if box is not None:
            painter.setPen(Look.pen("accent"))
            painter.setBrush(Look.colour("accent", 0.12))
            painter.drawRect(box)
        painter.restore()
        self._paint_rows(painter, rows)

    def _still(self, rows: list[Row]) -> QPixmap:
        """The grid and the curves that no drag changes, painted anew only when something in them changed."""
        ratio = self.devicePixelRatioF()
        curves = [self.curve(row.channel) for row in rows]
        key = (
            [(id(curve), row.role, row.factor) for curve, row in zip(curves, rows, strict=True)],
            (self._low, self._high, self.scale.first, self.scale.per_frame, self.size(), ratio, Look.theme.name),
            frozenset(self.chosen),
        )
        if self._kept is None or self._kept[0] != key:
            pixmap = self.blank_layer()
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_grid(painter)
            for row in rows:
                self._paint_curve(painter, row)
            for row in rows:
                self._paint_keys(painter, row)
            painter.end()
            self._kept = (key, pixmap, curves)
        return self._kept[1]

    def _paint_grid(self, painter: QPainter) -> None:
        span = self._high - self._low
        step = 10 ** np.floor(np.log10(span / 3))
        step *= 5 if span / step > 15 else 2 if span / step > 6 else 1
        painter.setFont(number_font(10))
        for value in np.arange(np.ceil(self._low / step) * step, self._high, step):
            y = self.y_of(float(value))
            painter.setPen(Look.pen("hairline", 1, 0.8))
            painter.drawLine(QPointF(GUTTER, y), QPointF(self.width(), y))
            painter.setPen(Look.pen("muted"))
            painter.drawText(
                QRectF(self.width() - 56, y - 13, 50, 12), RIGHT, f"{value:g}" if abs(value) > 1e-9 else "0"
            )

    def _paint_curve(self, painter: QPainter, row: Row) -> None:
        curve = self.curve(row.channel)
        low, high = self.scale.seen()
        count = max(8, int(self.width() - GUTTER) // 3)
        at = np.linspace(low, high, count)
        if len(curve):
            at = np.union1d(at, np.concatenate([curve.frames, curve.frames - 1e-4]))
            at = at[(at >= low) & (at <= high)]
        values = curve_values(curve, at, row.default) * row.factor
        xs, ys = self.scale.x(0) + at * self.scale.per_frame, self.y_of(values)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        pen = Look.pen(row.role, 1.8, 1.0 if len(curve) else 0.35)
        if row.unit is Unit.ANGLE:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]))
        if self.scale.per_frame >= 5 and len(curve) > 1:
            frames = np.arange(np.ceil(max(low, curve.frames[0])), min(high, curve.frames[-1]) + 1)
            dots = self.y_of(curve_values(curve, frames, row.default) * row.factor)
            xs = self.scale.x(0) + frames * self.scale.per_frame
            pen = QPen(Look.colour(row.role), 3.8)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPoints(QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), dots.tolist(), strict=True)]))

    def _paint_keys(self, painter: QPainter, row: Row) -> None:
        curve = self.curve(row.channel)
        chosen = self.chosen_indices().get(row.channel, np.empty(0, np.intp))
        for index in chosen:
            at = self.key_point(row, int(index))
            for point in self.handle_points(row, int(index)).values():
                painter.setPen(Look.pen("ink", 1.3))
                painter.drawLine(at, point)
                painter.setBrush(Look.colour("raised"))
                painter.drawEllipse(point, 4.2, 4.2)
        for index in range(len(curve)):
            at = self.key_point(row, index)
            if GUTTER - 8 < at.x() < self.width() + 8:
                picked = index in chosen
                if picked:
                    painter.setPen(QPen(Look.colour("accent"), 1.6))
                    painter.setBrush(Look.colour("accent_wash"))
                    painter.drawEllipse(at, 7.5, 7.5)
                draw_mark(painter, at, int(curve.role[index]), 4.0)

    def _paint_rows(self, painter: QPainter, rows: list[Row]) -> None:
        painter.setFont(text_font(bold=True))
        painter.setPen(Look.pen("ink"))
        name = rows[0].control.capitalize() if rows else "No control chosen"
        painter.drawText(QRectF(14, 2, GUTTER - 18, 22), LEFT, name)
        for index, row in enumerate(rows):
            y = TOP + index * ROW
            faint = bool(self._only) and row.channel not in self._only
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(Look.colour(row.role, 0.3 if faint else 1.0))
            painter.drawRoundedRect(QRectF(14, y + 4, 9, 9), 2, 2)
            if row.unit is Unit.ANGLE:
                painter.fillRect(QRectF(17, y + 3, 3, 11), Look.colour("panel"))
            painter.setFont(text_font(12))
            painter.setPen(Look.pen("ink" if len(self.curve(row.channel)) and not faint else "muted"))
            painter.drawText(QRectF(30, y, 76, ROW), LEFT, row.words)
            painter.setFont(number_font(SIZE_SMALL))
            now = float(curve_values(self.curve(row.channel), [self.session.frame], row.default)[0]) * row.factor
            painter.drawText(QRectF(88, y, GUTTER - 96, ROW), RIGHT, f"{round(now, 1) + 0.0:.1f}")
        painter.setPen(Look.pen("hairline"))
        painter.drawLine(QPointF(GUTTER - 0.5, 0), QPointF(GUTTER - 0.5, self.height()))
