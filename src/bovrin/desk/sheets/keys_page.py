"""The page of keys: every command with its key."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHeaderView, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from bovrin.desk.commands.command import Command
from bovrin.desk.kit.widgets import muted, title


class KeysPage(QDialog):
    """Every command with its key."""

    def __init__(self, table: Sequence[Command], parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("All keys")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.resize(620, 560)
        column = QVBoxLayout(self)
        column.addWidget(title("All keys"))
        column.addWidget(muted("Everything is also in the command finder (Ctrl+K)."))
        self.table = QTableWidget(len(table), 3)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setShowGrid(False)
        for row, command in enumerate(table):
            for col, words in enumerate((command.words, command.key, command.tip)):
                self.table.setItem(row, col, QTableWidgetItem(words))
        side, head = self.table.verticalHeader(), self.table.horizontalHeader()
        assert side is not None and head is not None
        side.hide()
        side.setDefaultSectionSize(22)
        head.hide()
        head.setSectionResizeMode(QHeaderView.ResizeMode.ResizeToContents)
        head.setStretchLastSection(True)
        column.addWidget(self.table)
