"""A layout that goes on in the next row."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, QRect, QSize
from PyQt6.QtWidgets import QLayout, QLayoutItem, QWidget


class Flow(QLayout):
    """Lays pills side by side and goes on in the next row."""

    def __init__(self, parent: QWidget, gap: int = 4) -> None:
        super().__init__(parent)
        self._gap = gap
        self._kept: list[QLayoutItem] = []
        self.setContentsMargins(0, 0, 0, 0)

    def addItem(self, item: QLayoutItem | None) -> None:
        assert item is not None
        self._kept.append(item)

    def count(self) -> int:
        return len(self._kept)

    def itemAt(self, index: int) -> QLayoutItem | None:
        return self._kept[index] if 0 <= index < len(self._kept) else None

    def takeAt(self, index: int) -> QLayoutItem | None:
        return self._kept.pop(index) if 0 <= index < len(self._kept) else None

    def hasHeightForWidth(self) -> bool:
        return True

    def heightForWidth(self, width: int) -> int:
        return self._place(QRect(0, 0, width, 0), move=False)

    def sizeHint(self) -> QSize:
        return QSize(120, self.heightForWidth(156))

    def minimumSize(self) -> QSize:
        return QSize(60, self.heightForWidth(156))

    def setGeometry(self, rect: QRect) -> None:
        super().setGeometry(rect)
        self._place(rect, move=True)

    def _place(self, rect: QRect, *, move: bool) -> int:
        x, y, row = rect.left(), rect.top(), 0
        for item in self._kept:
            size = item.sizeHint()
            if x > rect.left() and x + size.width() > rect.right() + 1:
                x, y = rect.left(), y + row + self._gap
            if move:
                item.setGeometry(QRect(QPoint(x, y), size))
            x, row = x + size.width() + self._gap, max(row, size.height())
        return y + row - rect.top()
