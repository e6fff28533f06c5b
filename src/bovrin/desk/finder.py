"""The command finder and the page of keys."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import (
    QDialog,
    QHeaderView,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from bovrin.desk.command import Command
from bovrin.desk.commands import COMMANDS
from bovrin.desk.widgets import muted, title

if TYPE_CHECKING:
    from bovrin.desk.window import Window


def matching(text: str) -> list[Command]:
    """Commands whose words or tip hold all typed words; those that begin with the text first."""
    words = text.lower().split()
    found = [c for c in COMMANDS if all(w in f"{c.words} {c.tip} {c.group}".lower() for w in words)]
    return sorted(
        found,
        key=lambda c: (not c.words.lower().startswith(text.lower()), not all(w in c.words.lower() for w in words)),
    )


class Finder(QDialog):
    """Type, choose, Enter."""

    def __init__(self, desk: Window) -> None:
        super().__init__(desk, Qt.WindowType.Popup)
        self.desk = desk
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
        column.addWidget(self.line)
        column.addWidget(self.list)
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
        session = self.desk.session
        for command in sorted(matching(text), key=lambda c: not c.applies(session)):
            item = QListWidgetItem(f"{command.words}  ·  {command.key}" if command.key else command.words)
            item.setToolTip(command.tip)
            item.setData(Qt.ItemDataRole.UserRole, command.id)
            if not command.applies(session):
                item.setFlags(item.flags() & ~Qt.ItemFlag.ItemIsEnabled)
            self.list.addItem(item)
        self.list.setCurrentRow(0)
        shown = min(max(self.list.count(), 1), 14)
        self.list.setFixedHeight(max(self.list.sizeHintForRow(0), 20) * shown + 6)
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
            self.desk.run(item.data(Qt.ItemDataRole.UserRole))


class KeysPage(QDialog):
    """Every command with its key."""

    def __init__(self, desk: Window) -> None:
        super().__init__(desk)
        self.setWindowTitle("All keys")
        self.resize(620, 560)
        column = QVBoxLayout(self)
        column.addWidget(title("All keys"))
        column.addWidget(muted("Everything is also in the command finder (Ctrl+K)."))
        table = QTableWidget(len(COMMANDS), 3)
        table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        table.setShowGrid(False)
        for row, command in enumerate(COMMANDS):
            for col, words in enumerate((command.words, command.key, command.tip)):
                table.setItem(row, col, QTableWidgetItem(words))
        side, head = table.verticalHeader(), table.horizontalHeader()
        assert side is not None and head is not None
        side.hide()
        side.setDefaultSectionSize(22)
        head.hide()
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setStretchLastSection(True)
        column.addWidget(table)
        self.table = table
