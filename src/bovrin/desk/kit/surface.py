"""What the stage, the pose strip, the curve desk and the pose cards share: a surface that is painted and dragged on."""

from __future__ import annotations

from typing import Any

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QPixmap
from PyQt6.QtWidgets import QWidget

from bovrin.desk.kit.gesture import Gesture, Press, Target


class Surface(QWidget):
    """A widget that hears the pointer all the time, and takes the keyboard when it is clicked."""

    def __init__(self, name: str) -> None:
        super().__init__()
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setAccessibleName(name)

    def blank_layer(self) -> QPixmap:
        """A clear picture as large as the surface, to keep what does not change from paint to paint."""
        ratio = self.devicePixelRatioF()
        pixmap = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
        pixmap.setDevicePixelRatio(ratio)
        pixmap.fill(Qt.GlobalColor.transparent)
        return pixmap


class DraggedSurface(Surface):
    """A surface on which a press of the left button is a click or a drag, and the right one puts a drag back."""

    def __init__(self, name: str, target: Target[Any]) -> None:
        super().__init__(name)
        self._gesture: Gesture[Any] = Gesture(target)

    def press_at(self, at: QPointF) -> Press[Any]:
        """What a press on a place begins."""
        raise NotImplementedError

    def hover_at(self, at: QPointF) -> None:
        """The pointer is over a place, and nothing is dragged."""

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() == Qt.MouseButton.RightButton:
            self._gesture.cancel()
        elif event.button() == Qt.MouseButton.LeftButton and not self._gesture.active:
            press = self.press_at(at)
            self._gesture.press(at, event.modifiers(), press.drag, press.click)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._gesture.active:
            self._gesture.move(event.position(), event.modifiers())
        else:
            self.hover_at(event.position())

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            self._gesture.release()
