"""The command finder."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QDialog, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from bovrin.desk.commands.command import Command
from bovrin.desk.commands.port import Port
from bovrin.desk.commands.synonyms import ALSO
from bovrin.desk.kit.widgets import muted

MOST = 14
"""Lines that are seen without scrolling."""


def matching(table: Sequence[Command], text: str) -> list[Command]:
    """Commands that hold all typed words: in their own words, tip and group, or in what the trade calls them otherwise;
    those whose own words begin with the text first, then those whose own words hold it."""
    words = text.lower().split()
    found = [c for c in table if all(w in _all_words(c) for w in words)]
    return sorted(
        found,
        key=lambda c: (not c.words.lower().startswith(text.lower()), not all(w in c.words.lower() for w in words)),
    )


def _all_words(command: Command) -> str:
    return f"{command.words} {command.tip} {command.group} {ALSO.get(command.id, '')}".lower()


class Finder(QDialog):
    """Type, choose, Enter."""

    def __init__(self, port: Port, table: Sequence[Command], parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self._port, self._table = port, table
        self.setObjectName("Finder")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.setFixedWidth(430)
        column = QVBoxLayout(self)
        self.line = QLineEdit()
        self.line.setPlaceholderText("Find a command…")
        self.line.textChanged.connect(self._on_text_changed)
        self.line.installEventFilter(self)
        self.list = QListWidget()
        self.list.itemActivated.connect(self._run)
        self.list.itemClicked.connect(self._run)
        self.nothing = muted(wrap=True)
        for widget in (self.line, self.list, self.nothing):
            column.addWidget(widget)
        self._on_text_changed("")

    def open_under(self, anchor: QWidget) -> None:
        """Show below a widget, empty."""
        self.line.clear()
        self._on_text_changed("")
        corner = anchor.mapToGlobal(anchor.rect().bottomRight())
        self.move(corner.x() - self.width(), corner.y() + 4)
        self.show()
        self.line.setFocus()

    def _on_text_changed(self, text: str) -> None:
        self.list.clear()
        session = self._port.session
        named = text.strip().lower()
        for command in sorted(
            matching(self._table, text), key=lambda c: not (c.applies(session) or c.words.lower() == named)
        ):
            item = QListWidgetItem(f"{command.words}  ·  {command.key}" if command.key else command.words)
            item.setToolTip(command.tip)
            item.setData(Qt.ItemDataRole.UserRole, command.id)
            if not command.applies(session):
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        count = self.list.count()
        self.list.setVisible(count > 0)
        self.nothing.setVisible(count == 0)
        self.nothing.setText(
            f"No command is called '{text.strip()}', here or elsewhere in the trade. Try a shorter word."
        )
        self.list.setFixedHeight(max(self.list.sizeHintForRow(0), 20) * min(max(count, 1), MOST) + 6)
        self.adjustSize()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress:
            step = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}.get(Qt.Key(event.key()))
            if step:
                self.list.setCurrentRow(min(max(self.list.currentRow() + step, 0), self.list.count() - 1))
                return True
            if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
                item = self.list.currentItem()
                if item is not None:
                    self._run(item)
                return True
        return super().eventFilter(watched, event)

    def _run(self, item: QListWidgetItem) -> None:
        if item.flags() & Qt.ItemFlag.ItemIsEnabled:
            self.close()
            self._port.run(item.data(Qt.ItemDataRole.UserRole))
