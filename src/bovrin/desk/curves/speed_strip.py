"""Speed under the curves: how far a channel, or the chosen control in space, goes on each frame."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen

from bovrin.desk.curves.desk import CurveDesk
from bovrin.desk.kit.look import LEFT, RIGHT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.polygons import polygon
from bovrin.desk.kit.surface import Surface
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.state.document.session import Session
from bovrin.measure.spacing import Spacing, channel_spacing, point_spacing
from bovrin.motion.evaluate import around

HIGH = 58
MOST = 4000
"""Frames in sight above which no speed is shown; a pixel would hold many."""


class SpeedStrip(Surface):
    """A bar for each frame, the mean across them. Click the words to change between the channel and the point in space."""

    def __init__(self, session: Session, scale: TimeScale, curves: CurveDesk) -> None:
        super().__init__("Speed")
        self.session, self.scale, self._plot = session, scale, curves.plot
        self.in_space = False
        self.setFixedHeight(HIGH)
        self.setToolTip(
            "How far it goes on each frame; the ochre mark: the largest change from one frame to the next."
            " Click the words to change between the channel and the point in space."
        )
        for signal in (session.document.changed, session.document.frame_changed, session.choice.changed, scale.changed):
            signal.connect(self.update)
        curves.keys_changed.connect(self.update)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.position().x() < GUTTER:
            self.in_space = not self.in_space
            self.update()
        else:
            self.session.go_to(self.scale.frame(event.position().x()))

    def spacing(self) -> tuple[Spacing, float, str, str] | None:
        """The steps in sight, their factor to the shown unit, that unit, and the words for what is measured."""
        session, rows = self.session, self._plot.shown_rows()
        figure, curves = session.figure, session.curves
        shot = session.shown
        low, high = self.scale.seen()
        first, last = max(np.floor(low), shot.first), min(np.ceil(high), shot.last)
        if figure is None or curves is None or not rows or last - first < 1 or last - first > MOST:
            return None
        frames = np.arange(first, last + 1)
        if self.in_space and session.controls:
            control = figure.rig.controls[session.controls[-1]]
            return point_spacing(shot, figure.name, control.joint, frames), 100.0, "cm", f"{control.name} in space"
        row = rows[0]
        found = channel_spacing(around(curves[row.channel], frames[0], frames[-1]), frames, row.default)
        return found, row.factor, row.suffix, f"{row.control} {row.words.removeprefix(row.control).strip()}"

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(Look.pen("hairline"))
        painter.drawLine(QPointF(GUTTER, 0.5), QPointF(self.width(), 0.5))
        painter.drawLine(QPointF(GUTTER - 0.5, 0), QPointF(GUTTER - 0.5, self.height()))
        found = self.spacing()
        if found is None:
            painter.setPen(Look.pen("muted"))
            painter.drawText(QRectF(GUTTER + 16, 0, 500, self.height()), LEFT, "Choose a control to see its speed.")
            return
        spacing, factor, unit, words = found
        self._paint_words(painter, spacing, factor, unit, words)
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        self._paint_bars(painter, spacing)

    def _paint_bars(self, painter: QPainter, spacing: Spacing) -> None:
        floor, tall = self.height() - 6.0, self.height() - 14.0
        most = max(float(spacing.steps.max()), 1e-12)
        xs = self.scale.x(0.0) + spacing.frames * self.scale.per_frame
        tops = floor - spacing.steps / most * tall
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(Look.colour("accent_wash"))
        width = max(self.scale.per_frame * 0.6, 1.0)
        for x, y in zip(xs.tolist(), tops.tolist(), strict=True):
            painter.drawRect(QRectF(x - width / 2, y, width, floor - y))
        pen = QPen(Look.colour("accent"), 4.0 if self.scale.per_frame >= 5 else 1.5)
        pen.setCapStyle(Qt.PenCapStyle.RoundCap)
        painter.setPen(pen)
        painter.drawPoints(polygon(xs, tops))
        change = spacing.largest_change
        if change is not None:
            at = self.scale.x(change)
            painter.setPen(Look.pen("ochre", 1.6))
            top = tops[int(np.abs(spacing.frames - change).argmin())]
            painter.drawLine(QPointF(at, max(top - 8, 1)), QPointF(at, max(top - 3, 4)))
            painter.drawLine(QPointF(at - 3, max(top - 8, 1)), QPointF(at + 3, max(top - 8, 1)))
        mean = floor - spacing.average / most * tall
        pen = Look.pen("muted", 1.0)
        pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawLine(QPointF(GUTTER, mean), QPointF(self.width(), mean))
        painter.setPen(Look.pen("alert", 1.6))
        x = self.scale.x(self.session.frame)
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))

    def _paint_words(self, painter: QPainter, spacing: Spacing, factor: float, unit: str, words: str) -> None:
        painter.setPen(Look.pen("ink"))
        painter.setFont(text_font(12, bold=True))
        painter.drawText(QRectF(14, 3, GUTTER - 18, 16), LEFT, "Speed")
        painter.setFont(text_font(SIZE_SMALL))
        painter.setPen(Look.pen("muted"))
        painter.drawText(QRectF(14, 19, GUTTER - 18, 15), LEFT, words)
        above, below = spacing.above_and_below()
        painter.drawText(QRectF(14, 36, GUTTER - 18, 15), LEFT, f"{above} above, {below} below")
        painter.setFont(number_font(SIZE_SMALL))
        at = np.flatnonzero(spacing.frames == self.session.frame)
        now = spacing.steps[at[0]] * factor if len(at) else None
        average = f"mean {spacing.average * factor:.2f} {unit}"
        here = "" if now is None else f" · here {now:.2f}"
        held, moving, settling = (round(share * 100) for share in spacing.shares())
        rest = f"held {held} %, moving {moving} %, settling {settling} % · "
        painter.drawText(QRectF(self.width() - 620, 4, 612, 14), RIGHT, rest + average + here)
