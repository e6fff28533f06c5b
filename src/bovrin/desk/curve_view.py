"""How the curve desk is drawn: grid, curves with a dot per frame, keys and handles, traces, and the list of channels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QPen, QPixmap

from bovrin.craft.traces import traces_of
from bovrin.desk.curve_plot import ROW, TOP, CurvePlot, Floats
from bovrin.desk.curve_rows import Heading, Row
from bovrin.desk.lanes import paint_chosen, paint_marks
from bovrin.desk.look import LEFT, RIGHT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.polygons import polygon
from bovrin.desk.session import Session
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.motion.evaluate import around, compile_curves, curve_values, evaluate
from bovrin.shot import Curve, HandleKind, Unit

CROWDED = 5.0
"""Pixels between keys below which they are drawn as points."""
STEPS = 400
"""Jumps in sight up to which each is drawn upright."""


class CurveView(CurvePlot):
    """Draws the channels of the chosen controls. No mouse here."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        super().__init__(session, scale)
        self.box: QRectF | None = None
        self.lasso: list[QPointF] = []
        self._kept: tuple[tuple[object, ...], QPixmap, list[Curve]] | None = None

    def dragged_channels(self) -> set[int]:
        """Channels that a drag changes now."""
        return set()

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        if self.rows():
            moving = self.dragged_channels()
            shown = self.shown_rows()
            painter.drawPixmap(0, 0, self.still([row for row in shown if row.channel not in moving]))
            self._paint_rows(painter, [row for row in shown if row.channel in moving])
        else:
            painter.setPen(Look.pen("muted"))
            area = QRectF(GUTTER + 16, 0, self.width() - GUTTER - 30, self.height())
            words = (
                "No channel has those words."
                if self.search
                else "Choose a control on the figure or its map to see its curves."
            )
            painter.drawText(area, LEFT, words)
        x = self.scale.x(self.session.frame)
        painter.setPen(Look.pen("alert", 1.6))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        painter.setPen(Look.pen("accent"))
        painter.setBrush(Look.colour("accent", 0.12))
        if self.box is not None:
            painter.drawRect(self.box)
        if self.lasso:
            painter.drawPolygon(self.lasso)  # type: ignore[call-overload]
        painter.restore()
        self._paint_list(painter)

    def still(self, rows: list[Row]) -> QPixmap:
        """The grid and the curves that no drag changes, painted anew only when something in them changed."""
        ratio = self.devicePixelRatioF()
        curves = [self.curve(row.channel) for row in rows]
        key = (
            [(id(curve), row.role, row.factor) for curve, row in zip(curves, rows, strict=True)],
            (self._low, self._high, self.one_height, self.scale.first, self.scale.per_frame),
            (self.size(), ratio, Look.theme.name, id(self.session.keys.by_channel)),
            [id(trace) for trace in self.traces()],
        )
        if self._kept is None or self._kept[0] != key:
            pixmap = self.blank_layer()
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_grid(painter)
            self._paint_traces(painter, rows)
            self._paint_rows(painter, rows)
            painter.end()
            self._kept = (key, pixmap, curves)
        return self._kept[1]

    def traces(self) -> list:  # type: ignore[type-arg]
        """The traces that are shown."""
        session = self.session
        return [
            t for t in traces_of(session.shown, session.figure_name) if (t.figure, t.name) in session.showing.traces
        ]

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
            words = f"{value:g}" if abs(value) > step * 1e-6 else "0"
            painter.drawText(
                QRectF(self.width() - 76, y - 13, 70, 12), RIGHT, f"{value:.0%}" if self.one_height else words
            )

    def _paint_traces(self, painter: QPainter, rows: list[Row]) -> None:
        pen = Look.pen("before", 1.3, 0.8)
        for trace in self.traces():
            at, values = self._sampled([trace.curves[row.channel] for row in rows], rows)
            xs = self.scale.x(0.0) + at * self.scale.per_frame
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(pen)
            for row, column in zip(rows, values.T, strict=True):
                if len(trace.curves[row.channel]):
                    painter.drawPolyline(polygon(xs, self.y_of(self.plot_of(row, column))))

    def _sampled(self, curves: list[Curve], rows: list[Row]) -> tuple[Floats, Floats]:
        """Frames (F,), a pixel apart and beside every jump in sight, and the values of all curves there (F, C)."""
        low, high = self.scale.seen()
        at = np.linspace(low, high, max(8, int(self.width() - GUTTER)))
        jumps = [
            c.frames[1:][(c.out_kind[:-1] == HandleKind.STEPPED) & (c.frames[1:] > low) & (c.frames[1:] < high)]
            for c in curves
            if len(c) > 1
        ]
        upright = np.unique(np.concatenate(jumps)) if jumps else np.empty(0)
        if 0 < len(upright) < STEPS:
            at = np.union1d(at, np.concatenate([upright, upright - 1e-4]))
        near = [around(c, low, high) for c in curves]
        return at, evaluate(compile_curves(near, [row.default for row in rows]), at)

    def _paint_rows(self, painter: QPainter, rows: list[Row]) -> None:
        """The curves of some channels, then their keys on top."""
        if not rows:
            return
        curves = [self.curve(row.channel) for row in rows]
        at, values = self._sampled([c.silenced(False) for c in curves], rows)
        for row, curve, column in zip(rows, curves, values.T, strict=True):
            self._paint_curve(painter, row, curve, at, column)
        for row in rows:
            self._paint_keys(painter, row)

    def _paint_curve(self, painter: QPainter, row: Row, curve: Curve, at: Floats, values: Floats) -> None:
        xs, ys = self.scale.x(0.0) + at * self.scale.per_frame, self.y_of(self.plot_of(row, values))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        loud = 0.25 if curve.muted else 1.0
        first, last = (curve.frames[0], curve.frames[-1]) if len(curve) else (np.inf, np.inf)
        stretches: tuple[tuple[NDArray[np.bool_], float], ...] = (
            (at <= first, 0.4),
            ((at >= first) & (at <= last), 1.0),
            (at >= last, 0.4),
        )
        for inside, strength in stretches:
            if inside.any():
                pen = Look.pen(row.role, 1.8, loud * strength)
                if row.unit is Unit.ANGLE:
                    pen.setStyle(Qt.PenStyle.DashLine)
                painter.setPen(pen)
                painter.drawPolyline(polygon(xs[inside], ys[inside]))
        if self.scale.per_frame >= 5 and len(curve) > 1 and not curve.muted:
            self._paint_dots(painter, row, curve)

    def frame_dots(self, row: Row) -> tuple[Floats, Floats]:
        """The whole frames in sight between a channel's keys (F,), and where their dots are drawn (F, 2)."""
        curve = self.curve(row.channel)
        low, high = self.scale.seen()
        if len(curve) < 2:
            return np.empty(0), np.empty((0, 2))
        frames = np.arange(np.ceil(max(low, curve.frames[0])), np.floor(min(high, curve.frames[-1])) + 1)
        if not len(frames):
            return frames, np.empty((0, 2))
        values = curve_values(around(curve, frames[0], frames[-1]), frames, row.default)
        return frames, np.stack(
            [self.scale.x(0.0) + frames * self.scale.per_frame, self.y_of(self.plot_of(row, values))], 1
        )

    def _paint_dots(self, painter: QPainter, row: Row, curve: Curve) -> None:
        _, dots = self.frame_dots(row)
        pen = QPen(Look.colour(row.role), 3.8)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        painter.drawPoints(polygon(dots[:, 0], dots[:, 1]))

    def _paint_keys(self, painter: QPainter, row: Row) -> None:
        curve = self.curve(row.channel)
        if not len(curve):
            return
        low, high = np.searchsorted(curve.frames, [self.scale.frame(GUTTER - 8), self.scale.frame(self.width() + 8)])
        part = curve.sliced(int(low), int(high))
        xs = self.scale.x(0.0) + part.frames * self.scale.per_frame
        ys = self.y_of(self.plot_of(row, part.values))
        chosen = self.session.keys.by_channel.get(row.channel)
        if chosen is not None:
            self._paint_chosen(painter, row, xs[np.isin(part.frames, chosen)], ys[np.isin(part.frames, chosen)])
        if len(xs) > 1 and (xs[-1] - xs[0]) / (len(xs) - 1) < CROWDED:
            pen = QPen(Look.colour("ink"), 3.0)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPoints(polygon(xs, ys))
        else:
            paint_marks(painter, xs, ys, part.role)

    def _paint_chosen(self, painter: QPainter, row: Row, xs: Floats, ys: Floats) -> None:
        indices = self.chosen_indices().get(row.channel, np.empty(0, np.intp))
        if len(indices) <= 60:  # more handles than that are a thicket
            for index in indices.tolist():
                at = self.key_point(row, index)
                for point in self.handle_points(row, index).values():
                    painter.setPen(Look.pen("ink", 1.3))
                    painter.drawLine(at, point)
                    painter.setBrush(Look.colour("raised"))
                    painter.drawEllipse(point, 4.2, 4.2)
        paint_chosen(painter, xs, ys)

    # -- the list of channels -----------------------------------------------------------------------------------------

    def _paint_list(self, painter: QPainter) -> None:
        rows, lines = self.rows(), self.lines()
        painter.setFont(text_font(bold=True))
        painter.setPen(Look.pen("ink"))
        alone = len(lines) == len(rows)
        name = (
            rows[0].control.capitalize() if rows and alone else f"{len(rows)} channels" if rows else "No control chosen"
        )
        painter.drawText(QRectF(14, 2, GUTTER - 18, 22), LEFT, name)
        painter.save()
        painter.setClipRect(QRectF(0, TOP, GUTTER - 1, self.height() - TOP))
        locked = set(self.session.locked_channels())
        values = self._values_now(rows)
        for index, line in enumerate(lines):
            y = self.line_top(index)
            if isinstance(line, Heading):
                painter.setFont(text_font(12, bold=True))
                painter.setPen(Look.pen("ink"))
                painter.drawText(QRectF(14, y, GUTTER - 20, ROW), LEFT, line.words)
            else:
                self._paint_line(painter, line, y, values[line.channel], locked=line.channel in locked)
        painter.restore()
        painter.setPen(Look.pen("hairline"))
        painter.drawLine(QPointF(GUTTER - 0.5, 0), QPointF(GUTTER - 0.5, self.height()))

    def _values_now(self, rows: list[Row]) -> dict[int, float]:
        frame = self.session.frame
        near = [around(self.curve(row.channel), frame, frame) for row in rows]
        if not rows:
            return {}
        now = evaluate(compile_curves(near, [row.default for row in rows]), [frame])[0]
        return {row.channel: float(value) * row.factor for row, value in zip(rows, now, strict=True)}

    def _paint_line(self, painter: QPainter, row: Row, y: float, value: float, *, locked: bool) -> None:
        curve = self.curve(row.channel)
        faint = bool(self.picked) and row.channel not in self.picked
        if row.channel in self.picked:
            painter.fillRect(QRectF(8, y, GUTTER - 12, ROW), Look.colour("accent_wash"))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(Look.colour(row.role, 0.3 if faint or curve.muted else 1.0))
        painter.drawRoundedRect(QRectF(14, y + 4, 9, 9), 2, 2)
        if row.unit is Unit.ANGLE:
            painter.fillRect(QRectF(17, y + 3, 3, 11), Look.colour("panel"))
        font = text_font(12)
        font.setStrikeOut(curve.muted)
        painter.setFont(font)
        painter.setPen(Look.pen("ink" if len(curve) and not faint else "muted"))
        words = row.words.removeprefix(f"{row.control} ")
        painter.drawText(QRectF(30, y, 70, ROW), LEFT, words)
        painter.setFont(number_font(SIZE_SMALL))
        place = QRectF(86, y, GUTTER - 94, ROW)
        painter.drawText(place, RIGHT, "locked" if locked else shown_number(value))


def shown_number(value: float) -> str:
    """A value as short as it can be said: one place after the point, or a power of ten where that says nothing."""
    if value and not 0.05 <= abs(value) < 1e5:
        return f"{value:.1e}"
    return f"{round(value, 1) + 0.0:.1f}"
