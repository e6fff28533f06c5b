"""How the curve desk is drawn: grid, curves with a dot per frame, keys and handles, traces, and the list of channels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPixmap, QPolygonF

from bovrin.craft.traces import traces_of
from bovrin.desk.curves.channel_list import ROW, TOP
from bovrin.desk.curves.plot import CurvePlot, Floats
from bovrin.desk.kit.look import LEFT, RIGHT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.marks import paint_chosen, paint_marks
from bovrin.desk.kit.polygons import polygon
from bovrin.desk.kit.surface import Surface
from bovrin.desk.kit.timescale import GUTTER
from bovrin.desk.state.choosing.channel_rows import Heading, Row
from bovrin.motion.evaluate import around, compile_curves, curve_values, evaluate
from bovrin.shot import Curve, HandleKind, Trace, Unit

NO_MATCH = "No channel has those words."
NO_CONTROL = "Choose a control on the figure or its map to see its curves."
CROWDED = 5.0
"""Pixels between keys below which they are drawn as points."""
STEPS = 400
"""Jumps in sight up to which each is drawn upright."""


class CurvePainter:
    """Draws the channels of the chosen controls."""

    def __init__(self, plot: CurvePlot, surface: Surface) -> None:
        self.plot, self._surface = plot, surface
        self.session, self.scale = plot.session, plot.scale
        self._kept: tuple[tuple[object, ...], QPixmap, list[Curve]] | None = None

    def paint(self, painter: QPainter, moving: set[int], outline: QPolygonF | None) -> None:
        """Everything. moving: channels that a drag changes now; outline: what is drawn to choose keys."""
        plot, surface = self.plot, self._surface
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, surface.width() - GUTTER, surface.height()))
        if plot.rows():
            shown = plot.shown_rows()
            painter.drawPixmap(0, 0, self.still([row for row in shown if row.channel not in moving]))
            self._paint_rows(painter, [row for row in shown if row.channel in moving])
        else:
            painter.setPen(Look.pen("muted"))
            area = QRectF(GUTTER + 16, 0, surface.width() - GUTTER - 30, surface.height())
            painter.drawText(area, LEFT, NO_MATCH if plot.list.search else NO_CONTROL)
        x = self.scale.x(self.session.frame)
        painter.setPen(Look.pen("alert", 1.6))
        painter.drawLine(QPointF(x, 0), QPointF(x, surface.height()))
        if outline is not None:
            painter.setPen(Look.pen("accent"))
            painter.setBrush(Look.colour("accent", 0.12))
            painter.drawPolygon(outline)
        painter.restore()
        self._paint_list(painter)

    def still(self, rows: list[Row]) -> QPixmap:
        """The grid and the curves that no drag changes, painted anew only when something in them changed."""
        ratio = self._surface.devicePixelRatioF()
        curves = [self.plot.curve(row.channel) for row in rows]
        key = (
            [(id(curve), row.role, row.factor) for curve, row in zip(curves, rows, strict=True)],
            (self.plot.low, self.plot.high, self.plot.one_height, self.scale.first, self.scale.per_frame),
            (self._surface.size(), ratio, Look.theme.name, id(self.session.keys.by_channel)),
            [id(trace) for trace in self.traces()],
        )
        if self._kept is None or self._kept[0] != key:
            pixmap = self._surface.blank_layer()
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_grid(painter)
            self._paint_traces(painter, rows)
            self._paint_rows(painter, rows)
            painter.end()
            self._kept = (key, pixmap, curves)
        return self._kept[1]

    def traces(self) -> list[Trace]:
        """The traces that are shown."""
        session = self.session
        return [
            t for t in traces_of(session.shown, session.figure_name) if (t.figure, t.name) in session.looking.traces
        ]

    def _paint_grid(self, painter: QPainter) -> None:
        span = self.plot.high - self.plot.low
        step = 10 ** np.floor(np.log10(span / 3))
        step *= 5 if span / step > 15 else 2 if span / step > 6 else 1
        painter.setFont(number_font(10))
        for value in np.arange(np.ceil(self.plot.low / step) * step, self.plot.high, step):
            y = self.plot.y_of(float(value))
            painter.setPen(Look.pen("hairline", 1, 0.8))
            painter.drawLine(QPointF(GUTTER, y), QPointF(self._surface.width(), y))
            painter.setPen(Look.pen("muted"))
            words = f"{value:g}" if abs(value) > step * 1e-6 else "0"
            painter.drawText(
                QRectF(self._surface.width() - 76, y - 13, 70, 12),
                RIGHT,
                f"{value:.0%}" if self.plot.one_height else words,
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
                    painter.drawPolyline(polygon(xs, self.plot.y_of(self.plot.plot_of(row, column))))

    def _sampled(self, curves: list[Curve], rows: list[Row]) -> tuple[Floats, Floats]:
        """Frames (F,), a pixel apart and beside every jump in sight, and the values of all curves there (F, C)."""
        low, high = self.scale.seen()
        at = np.linspace(low, high, max(8, int(self._surface.width() - GUTTER)))
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
        curves = [self.plot.curve(row.channel) for row in rows]
        at, values = self._sampled([c.silenced(False) for c in curves], rows)
        for row, curve, column in zip(rows, curves, values.T, strict=True):
            self._paint_curve(painter, row, curve, at, column)
        for row in rows:
            self._paint_keys(painter, row)

    def _paint_curve(self, painter: QPainter, row: Row, curve: Curve, at: Floats, values: Floats) -> None:
        xs, ys = self.scale.x(0.0) + at * self.scale.per_frame, self.plot.y_of(self.plot.plot_of(row, values))
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
        curve = self.plot.curve(row.channel)
        low, high = self.scale.seen()
        if len(curve) < 2:
            return np.empty(0), np.empty((0, 2))
        frames = np.arange(np.ceil(max(low, curve.frames[0])), np.floor(min(high, curve.frames[-1])) + 1)
        if not len(frames):
            return frames, np.empty((0, 2))
        values = curve_values(around(curve, frames[0], frames[-1]), frames, row.default)
        return frames, np.stack(
            [self.scale.x(0.0) + frames * self.scale.per_frame, self.plot.y_of(self.plot.plot_of(row, values))], 1
        )

    def _paint_dots(self, painter: QPainter, row: Row, curve: Curve) -> None:
        _, dots = self.frame_dots(row)
        pen = QPen(Look.colour(row.role), 3.8)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        painter.drawPoints(polygon(dots[:, 0], dots[:, 1]))

    def _paint_keys(self, painter: QPainter, row: Row) -> None:
        curve = self.plot.curve(row.channel)
        if not len(curve):
            return
        low, high = np.searchsorted(
            curve.frames, [self.scale.frame(GUTTER - 8), self.scale.frame(self._surface.width() + 8)]
        )
        part = curve.sliced(int(low), int(high))
        xs = self.scale.x(0.0) + part.frames * self.scale.per_frame
        ys = self.plot.y_of(self.plot.plot_of(row, part.values))
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
        indices = self.plot.chosen_indices().get(row.channel, np.empty(0, np.intp))
        if len(indices) <= 60:  # more handles than that are a thicket
            for index in indices.tolist():
                at = self.plot.key_point(row, index)
                for point in self.plot.handle_points(row, index).values():
                    painter.setPen(Look.pen("ink", 1.3))
                    painter.drawLine(at, point)
                    painter.setBrush(Look.colour("raised"))
                    painter.drawEllipse(point, 4.2, 4.2)
        paint_chosen(painter, xs, ys)

    # -- the list of channels -----------------------------------------------------------------------------------------

    def _paint_list(self, painter: QPainter) -> None:
        rows, lines = self.plot.rows(), self.plot.list.lines()
        painter.setFont(text_font(bold=True))
        painter.setPen(Look.pen("ink"))
        alone = len(lines) == len(rows)
        name = (
            rows[0].control.capitalize() if rows and alone else f"{len(rows)} channels" if rows else "No control chosen"
        )
        painter.drawText(QRectF(14, 2, GUTTER - 18, 22), LEFT, name)
        painter.save()
        painter.setClipRect(QRectF(0, TOP, GUTTER - 1, self._surface.height() - TOP))
        locked = set(self.session.keying.channels_locked(self.session.figure))
        values = self._values_now(rows)
        for index, line in enumerate(lines):
            y = self.plot.list.line_top(index)
            if isinstance(line, Heading):
                painter.setFont(text_font(12, bold=True))
                painter.setPen(Look.pen("ink"))
                painter.drawText(QRectF(14, y, GUTTER - 20, ROW), LEFT, line.words)
            else:
                self._paint_line(painter, line, y, values[line.channel], locked=line.channel in locked)
        painter.restore()
        painter.setPen(Look.pen("hairline"))
        painter.drawLine(QPointF(GUTTER - 0.5, 0), QPointF(GUTTER - 0.5, self._surface.height()))

    def _values_now(self, rows: list[Row]) -> dict[int, float]:
        frame = self.session.frame
        near = [around(self.plot.curve(row.channel), frame, frame) for row in rows]
        if not rows:
            return {}
        now = evaluate(compile_curves(near, [row.default for row in rows]), [frame])[0]
        return {row.channel: float(value) * row.factor for row, value in zip(rows, now, strict=True)}

    def _paint_line(self, painter: QPainter, row: Row, y: float, value: float, *, locked: bool) -> None:
        curve = self.plot.curve(row.channel)
        faint = bool(self.plot.list.picked) and row.channel not in self.plot.list.picked
        if row.channel in self.plot.list.picked:
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
