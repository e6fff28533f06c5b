"""The left column: the cast, the figure map and the groups."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QHBoxLayout, QListWidget, QListWidgetItem, QWidget

from bovrin.desk.kit.widgets import Panel, SignButton, dot_icon, title
from bovrin.desk.panels.figure_map import FigureMap
from bovrin.desk.panels.groups_panel import GroupsPanel
from bovrin.desk.state.document.session import Session

LEAST_ROWS = 3
"""Rows of the cast that are seen in the smallest window."""


class CastPanel(Panel):
    """Who is in the shot, and what can be posed of the chosen one."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__()
        self.session = session
        self.column.addWidget(title("Cast"))
        self.list = QListWidget()
        self.list.setResizeMode(QListWidget.ResizeMode.Adjust)
        self.list.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(self._on_row_chosen)
        self.column.addWidget(self.list)
        self.column.addWidget(title("Figure map"))
        self.map = FigureMap(session, run)
        self.column.addWidget(self.map, 1)
        session.document.committed.connect(self._on_cast_changed)
        session.choice.changed.connect(self._on_choice_changed)
        self.column.addWidget(title("Groups"))
        self.groups = GroupsPanel(session)
        self.column.addWidget(self.groups)
        session.looking_changed.connect(self._on_look_changed)
        self.eyes: dict[str, SignButton] = {}
        self._names: list[str] = []
        self._on_cast_changed()

    def _on_cast_changed(self) -> None:
        names = [figure.name for figure in self.session.shot.cast]
        if names == self._names:
            return
        self._names = names
        self.list.blockSignals(True)
        self.list.clear()
        self.eyes = {}
        for figure in self.session.shot.cast:
            item = QListWidgetItem(dot_icon(QColor.fromRgbF(*figure.colour), 24, 14, 7), figure.name.capitalize())
            self.list.addItem(item)
            self.list.setItemWidget(item, self._eye(figure.name))
        self.list.blockSignals(False)
        row = self.list.sizeHintForRow(0)
        self.list.setMinimumHeight(row * min(len(names), LEAST_ROWS) + 4 if names else 24)
        self.list.setMaximumHeight(row * len(names) + 4 if names else 24)
        self._on_choice_changed()

    def _eye(self, name: str) -> QWidget:
        """A row's sign that shows or hides its figure."""
        host = QWidget()
        line = QHBoxLayout(host)
        line.setContentsMargins(0, 0, 2, 0)
        line.addStretch(1)
        eye = SignButton("seen", f"Show or hide {name}", lambda: self.toggle_seen(name))
        eye.setFixedSize(24, 22)
        line.addWidget(eye)
        self.eyes[name] = eye
        return host

    def toggle_seen(self, name: str) -> None:
        """Show or hide a figure on the stage; it stays in the shot."""
        self.session.change_looking(hidden=self.session.looking.hidden ^ {name})

    def _on_look_changed(self) -> None:
        for name, eye in self.eyes.items():
            eye.refresh("hidden" if name in self.session.looking.hidden else "seen")
        self.map.update()

    def _on_choice_changed(self) -> None:
        if self.session.figure_name in self._names:
            self.list.blockSignals(True)
            self.list.setCurrentRow(self._names.index(self.session.figure_name))
            self.list.blockSignals(False)

    def _on_row_chosen(self) -> None:
        row = self.list.currentRow()
        if 0 <= row < len(self._names) and self._names[row] != self.session.figure_name:
            self.session.choose(self._names[row], ())
