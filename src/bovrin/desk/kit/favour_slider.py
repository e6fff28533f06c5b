"""A slider from the pose before to the pose after, and some way past both."""

from __future__ import annotations

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPolygonF
from PyQt6.QtWidgets import QSizePolicy, QWidget

from bovrin.desk.kit.gesture import Drag, Gesture
from bovrin.desk.kit.look import CENTRE, Look, number_font
from bovrin.errors import BovrinError

PAST = 0.3
"""How far past either pose the slider goes, unless it is told otherwise."""


FINE = 0.1
"""How far it follows a pointer with Ctrl."""
NUDGES: dict[int, float] = {Qt.Key.Key_Left: -0.01, Qt.Key.Key_Right: 0.01}


class FavourSlider(QWidget):
    """Drag the triangle, finely with Ctrl; arrows nudge by a percent, with Shift by ten; double click goes to neutral.

    `big` shows the poses' frames; `past` is how far past either pose it goes.
    """

    moved = pyqtSignal(float)
    released = pyqtSignal()
    cancelled = pyqtSignal()

    def __init__(self, *, big: bool = False, role: str = "ochre", past: float = PAST, neutral: float = 0.5) -> None:
        super().__init__()
        self.big, self.role, self.past, self.neutral = big, role, past, neutral
        self.favour = neutral
        self.ends = ("", "")
        self._gesture: Gesture[float] = Gesture(self, threshold=0)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.setToolTip(
            "0 % is the pose before, 100 % the pose after; it resists going past. Double click goes halfway."
        )

    def sizeHint(self) -> QSize:
        return QSize(150, 46 if self.big else 20)

    def set_favour(self, favour: float) -> None:
        """Show a favour without telling anybody."""
        if favour != self.favour:
            self.favour = favour
            self.update()

    def x_of(self, favour: float) -> float:
        """Where a favour lies, pixels."""
        pad = 14.0 if self.big else 6.0
        return pad + (favour + self.past) / (1 + 2 * self.past) * (self.width() - 2 * pad)

    def favour_at(self, x: float, digits: int = 2) -> float:
        """The favour for a pointer; past either pose it follows at half the way only, so that one feels the end."""
        raw = (x - self.x_of(0)) / (self.x_of(1) - self.x_of(0))
        inside = min(max(raw, 0.0), 1.0)
        return self._bounded(inside + (raw - inside) / 2, digits)

    def _bounded(self, favour: float, digits: int = 2) -> float:
        return round(min(max(favour, -self.past), 1 + self.past), digits)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.RightButton:
            self._gesture.cancel()
        elif event.button() == Qt.MouseButton.LeftButton:
            self.setFocus()
            self._gesture.press(event.position(), event.modifiers(), SliderDrag(self))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._gesture.move(event.position(), event.modifiers())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            self._gesture.release()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        self.mousePressEvent(event)
        self._gesture.second_click(self._back_to_neutral)

    def _back_to_neutral(self) -> None:
        self._move(self.neutral)
        self.released.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape and self._gesture.active:
            self._gesture.cancel()
        elif event.key() in NUDGES:
            much = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            self._move(self._bounded(self.favour + NUDGES[event.key()] * much))
            self.released.emit()
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent | None) -> bool:
        """The arrows are the slider's while it has the keyboard."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.ShortcutOverride and event.key() in NUDGES:
            event.accept()
            return True
        return super().event(event)

    def preview(self, value: float | None) -> None:
        """A gesture has got there, or is put back."""
        if value is None:
            self.cancelled.emit()
        else:
            self._move(value)

    def commit(self, words: str, value: float) -> bool:
        """A gesture has ended."""
        self.released.emit()
        return True

    def hint(self, words: str) -> None:
        """The slider shows by itself where it is."""

    def fail(self, error: BovrinError) -> None:
        """No place of the slider is wrong."""

    def _move(self, favour: float) -> None:
        self.favour = favour
        self.update()
        self.moved.emit(favour)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        y = self.height() / 2 + (6 if self.big else 0)
        left, right = self.x_of(0), self.x_of(1)
        painter.setPen(Look.pen("hairline", 1.4))
        painter.drawLine(QPointF(self.x_of(-self.past), y), QPointF(self.x_of(1 + self.past), y))
        painter.setPen(Look.pen("ink" if self.big else "muted", 1.4))
        painter.drawLine(QPointF(left, y), QPointF(right, y))
        for third in (0.0, 1 / 3, 0.5, 2 / 3, 1.0):
            painter.drawLine(QPointF(self.x_of(third), y - 4), QPointF(self.x_of(third), y + 4))
        if self.big:
            painter.setFont(number_font(10))
            for x, words in ((left, self.ends[0]), (right, self.ends[1])):
                painter.setBrush(Look.colour("raised"))
                painter.setPen(Look.pen("ink", 1.4))
                painter.drawEllipse(QPointF(x, y), 13, 13)
                painter.drawText(QRectF(x - 20, y - 8, 40, 16), CENTRE, words)
        size = 8.5 if self.big else 6.5
        at = QPointF(self.x_of(self.favour), y)
        painter.setBrush(Look.colour(self.role))
        painter.setPen(QPen(Look.colour("panel"), 1.2))
        painter.drawPolygon(
            QPolygonF([at + QPointF(0, -size), at + QPointF(size, size * 0.8), at + QPointF(-size, size * 0.8)])
        )
        if self.hasFocus():
            painter.setPen(QPen(Look.colour("accent"), 1, Qt.PenStyle.DotLine))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 4, 4)


class SliderDrag(Drag[float]):
    """The triangle along its line."""

    def __init__(self, slider: FavourSlider) -> None:
        self._slider = slider
        self._last: float | None = None
        self._x = 0.0

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[float, str]:
        fine = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        self._x = at.x() if self._last is None else self._x + (at.x() - self._last) * (FINE if fine else 1.0)
        self._last = at.x()
        return self._slider.favour_at(self._x, 3 if fine else 2), ""
