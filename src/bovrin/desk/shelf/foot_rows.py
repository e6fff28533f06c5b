"""Under the stage: when each foot is down, how far it slides, and how high the body is, frame by frame."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPainterPath, QPaintEvent, QPen, QWheelEvent

from bovrin.desk.kit.gesture import Drag, Press
from bovrin.desk.kit.look import LEFT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.surface import DraggedSurface
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.state.contact_drag import ContactMove
from bovrin.desk.state.document.editing import ShotTarget
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.going import FeetReading
from bovrin.shot import Shot, Stretch

Floats = NDArray[np.float64]

BAND, PLOT, TOP = 20.0, 34.0, 4.0
GRAB = 6.0
LEAST_SLIDE, LEAST_RISE = 0.002, 0.02
"""Metres that the height of a plot stands for at least."""
Contact = tuple[str, Stretch, str]


class FootRows(DraggedSurface):
    """Bands of contacts, dragged by their ends or as a whole; curves of slide and height below them."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        super().__init__("Feet", ShotTarget(session))
        self.session, self.scale = session, scale
        self._hot: Contact | None = None
        document = session.document
        for signal in (document.changed, document.frame_changed, session.going.changed, scale.changed):
            signal.connect(self.update)
        session.going.changed.connect(self._on_going_changed)
        self._on_going_changed()

    def _on_going_changed(self) -> None:
        self.setMinimumHeight(int(self.needed_height()))
        self.updateGeometry()

    def needed_height(self) -> float:
        """Pixels for all rows."""
        reading = self.session.going.reading()
        feet = 2 if reading is None else len(reading.feet)
        return TOP + feet * BAND + 2 * PLOT

    def sizeHint(self) -> QSize:
        return QSize(1000, int(self.needed_height()))

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        reading = self.session.going.reading()
        if reading is None:
            painter.setPen(Look.colour("muted"))
            painter.setFont(text_font())
            painter.drawText(
                QRectF(14, TOP, self.width() - 28, 30), LEFT, "Choose a figure with feet to see when they are down."
            )
            painter.end()
            return
        self._paint_names(painter, reading)
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        for n, foot in enumerate(reading.feet):
            self._paint_bands(
                painter, n, foot.name, "left" if foot.rest[0] > 0 else "right", self._down(reading, foot.name)
            )
        self._paint_plot(painter, reading, 0, reading.slide.max(0, initial=0.0), "alert", LEAST_SLIDE, from_zero=True)
        self._paint_plot(painter, reading, 1, reading.height, "after", LEAST_RISE, from_zero=False)
        self._paint_current(painter)
        painter.end()

    def _down(self, reading: FeetReading, foot: str) -> list[Stretch]:
        """The stretches of a foot, as a drag shows them."""
        shown, cycle = self.session.shown.contacts(reading.figure.name).get(foot), reading.cycle
        if not self.session.document.previewing or shown is None:
            return reading.down.get(foot, [])
        if cycle is None:
            return list(shown)
        first, last = reading.frames[[0, -1]]
        rounds = range(int((first - cycle.last) // cycle.length), int((last - cycle.first) // cycle.length) + 2)
        return [(a + n * cycle.length, b + n * cycle.length) for n in rounds for a, b in shown]

    def _paint_names(self, painter: QPainter, reading: FeetReading) -> None:
        painter.setFont(text_font(SIZE_SMALL + 1))
        painter.setPen(Look.colour("ink"))
        for n, foot in enumerate(reading.feet):
            painter.drawText(QRectF(12, TOP + n * BAND, GUTTER - 20, BAND), LEFT, f"{foot.name} down")
        numbers = (
            f"{reading.worst * 1000:.1f} mm",
            f"{np.ptp(reading.height) * 100:.1f} cm" if len(reading.height) else "",
        )
        for n, words in enumerate(("feet slide", "body rises")):
            top = self._plot_top(reading, n)
            painter.setPen(Look.colour("ink"))
            painter.setFont(text_font(SIZE_SMALL + 1))
            painter.drawText(QRectF(12, top, GUTTER - 20, PLOT / 2 + 2), LEFT, words)
            painter.setPen(Look.colour("muted"))
            painter.setFont(number_font())
            painter.drawText(QRectF(12, top + PLOT / 2 - 2, GUTTER - 20, PLOT / 2), LEFT, numbers[n])

    def _paint_bands(self, painter: QPainter, row: int, foot: str, role: str, spans: list[Stretch]) -> None:
        y = TOP + row * BAND + BAND / 2
        painter.setPen(Look.pen("hairline"))
        painter.drawLine(QPointF(GUTTER, y), QPointF(self.width(), y))
        painter.setPen(Qt.PenStyle.NoPen)
        for a, b in spans:
            left, right = self.scale.x(a), self.scale.x(b)
            if right < GUTTER - 8 or left > self.width():
                continue
            lit = self._hot is not None and self._hot[:2] == (foot, (a, b))
            painter.setBrush(Look.colour(role, 1.0 if lit else 0.82))
            painter.drawRoundedRect(QRectF(left, y - 5, max(right - left, 3.0), 10), 5, 5)

    def _plot_top(self, reading: FeetReading, number: int) -> float:
        return TOP + len(reading.feet) * BAND + number * PLOT

    def _paint_plot(
        self,
        painter: QPainter,
        reading: FeetReading,
        number: int,
        values: Floats,
        role: str,
        least: float,
        *,
        from_zero: bool,
    ) -> None:
        if not len(values):
            return
        top = self._plot_top(reading, number) + 5
        low = 0.0 if from_zero else float(values.min())
        size = max(float(values.max()) - low, least)
        xs = GUTTER + (self.scale.x(float(reading.frames[0])) - GUTTER) + np.arange(len(values)) * self.scale.per_frame
        ys = top + (PLOT - 10) * (1 - (values - low) / size)
        path = QPainterPath(QPointF(xs[0], ys[0]))
        for x, y in zip(xs[1:].tolist(), ys[1:].tolist(), strict=True):
            path.lineTo(x, y)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(Look.colour(role), 1.5))
        painter.drawPath(path)

    def _paint_current(self, painter: QPainter) -> None:
        x = self.scale.x(self.session.frame)
        painter.setPen(Look.pen("alert", 1.4))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))

    # -- pointer ------------------------------------------------------------------------------------------------------

    def contact_at(self, at: QPointF) -> Contact | None:
        """The foot, the contact and which of its "start", "end" or "whole" is under a point."""
        reading = self.session.going.reading()
        row = int((at.y() - TOP) // BAND)
        if reading is None or at.x() < GUTTER or not 0 <= row < len(reading.feet):
            return None
        foot = reading.feet[row].name
        for span in reading.down.get(foot, []):
            left, right = self.scale.x(span[0]), self.scale.x(span[1])
            if abs(at.x() - left) <= GRAB:
                return foot, span, "start"
            if abs(at.x() - right) <= GRAB:
                return foot, span, "end"
            if left < at.x() < right:
                return foot, span, "whole"
        return None

    def press_at(self, at: QPointF) -> Press[Shot]:
        if at.x() < GUTTER:
            return Press()
        reading, contact = self.session.going.reading(), self.contact_at(at)

        def go() -> None:
            self.session.go_to(self.scale.frame(at.x()))

        if reading is None or contact is None:
            return Press(FootScrubDrag(self.session, self.scale), go)
        return Press(BandDrag(self.session.shot, self.scale, reading, contact, at), go)

    def hover_at(self, at: QPointF) -> None:
        contact = self.contact_at(at)
        self.setCursor(Qt.CursorShape.ArrowCursor if contact is None else Qt.CursorShape.SizeHorCursor)
        self.session.voice.hint("" if contact is None else _words(contact))
        if contact != self._hot:
            self._hot = contact
            self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hot = None
        self.update()
        super().leaveEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if event.angleDelta().y():
            self.scale.zoom(1.2 if event.angleDelta().y() > 0 else 1 / 1.2, event.position().x())


def _words(contact: Contact) -> str:
    foot, (start, end), _ = contact
    return f"{foot} is down from {start:g} to {end:g}: drag it"


class FootScrubDrag(Drag[Shot]):
    """The current frame under the pointer."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        self._session, self._scale, self._began = session, scale, session.frame

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot | None, str]:
        """Go there."""
        self._session.go_to(self._scale.frame(at.x()))
        return None, f"Frame {self._session.frame:g}"

    def put_back(self) -> None:
        """The frame it began on."""
        self._session.go_to(self._began)


class BandDrag(Drag[Shot]):
    """An end of a band, or all of it, on other frames."""

    def __init__(self, shot: Shot, scale: TimeScale, reading: FeetReading, contact: Contact, pressed: QPointF) -> None:
        foot, span, what = contact
        spans = reading.down if reading.cycle is None else reading.round
        self._move = ContactMove(shot, reading.figure.name, foot, span, what, spans.get(foot, []))
        self._scale, self._pressed = scale, pressed
        self.words = f"{foot.capitalize()} down"

    @property
    def at_rest(self) -> bool:
        return self._move.at_rest

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot | None, str]:
        """The shot with the band on whole frames under the pointer."""
        by = float(round((at.x() - self._pressed.x()) / self._scale.per_frame))
        return self._move.shot_at(by, modifiers)
