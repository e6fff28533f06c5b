"""A field that opens where words stand, and is gone when they are typed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QLineEdit, QWidget


class InlineEdit(QLineEdit):
    """Return (or a click elsewhere) takes the words, Escape leaves them as they were."""

    def __init__(self, parent: QWidget, place: QRectF, words: str, name: str, take: Callable[[str], object]) -> None:
        super().__init__(words, parent)
        self._was, self._take, self._over = words, take, False
        self.setAccessibleName(name)
        self.setPlaceholderText(name)
        self.setGeometry(place.toRect())
        self.returnPressed.connect(self._finish)
        self.show()
        self.selectAll()
        self.setFocus()

    def _finish(self) -> None:
        if self._over:
            return
        self._over = True
        words = self.text().strip()
        self.hide()
        self.deleteLater()
        if words != self._was:
            self._take(words)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self._was = self.text().strip()
            self._finish()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self._finish()
