"""Names in an order that is dragged."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QAbstractItemView, QListWidget

ROWS, ROW = 4, 21


class ChainList(QListWidget):
    """A short list whose rows are dragged up and down; tells the names in their new order."""

    def __init__(self, on_order: Callable[[list[str]], object]) -> None:
        super().__init__()
        self._names: list[str] = []
        self._on_order = on_order
        self.setAccessibleName("The chain in its order")
        self.setToolTip("Drag a part up or down: it comes sooner or later than the others")
        self.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        model = self.model()
        assert model is not None
        model.rowsMoved.connect(lambda *_args: QTimer.singleShot(0, self._tell))

    def names(self) -> list[str]:
        """As they stand."""
        found = (self.item(n) for n in range(self.count()))
        return [item.text() for item in found if item is not None]

    def show_names(self, names: list[str]) -> None:
        """Show others; the list is not seen without any."""
        if names != self.names():
            self._names = list(names)
            self.clear()
            self.addItems(names)
        self.setFixedHeight(min(len(names), ROWS) * ROW + 4)
        self.setVisible(bool(names))

    def _tell(self) -> None:
        names = self.names()
        if sorted(names) == sorted(self._names) and names != self._names:
            self._names = names
            self._on_order(names)
