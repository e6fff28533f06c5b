"""The top bar: name, shot, passes, finder, undo and redo, menu."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QMenu, QPushButton, QWidget

from bovrin.desk.commands import COMMANDS, tooltip
from bovrin.desk.passes import PASSES
from bovrin.desk.take_menu import TakeButton
from bovrin.desk.widgets import SignButton, muted

if TYPE_CHECKING:
    from bovrin.desk.window import Window


class TopBar(QWidget):
    """44 pixels of what matters everywhere."""

    def __init__(self, desk: Window) -> None:
        super().__init__()
        self.desk = desk
        self.setFixedHeight(44)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 4, 10, 4)
        row.setSpacing(6)
        name = QLabel("Bovrin")
        name.setObjectName("Name")
        row.addWidget(name)
        self.shot_words = muted()
        self.shot_words.setContentsMargins(14, 0, 0, 0)
        row.addWidget(self.shot_words)
        self.take = TakeButton(desk)
        row.addWidget(self.take)
        row.addStretch(1)
        self._passes = QButtonGroup(self)
        self.pass_buttons: dict[str, QPushButton] = {}
        for wanted in PASSES:
            button = QPushButton(wanted.name)
            button.setObjectName("Pass")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            command = f"pass.{wanted.name.lower().replace(' ', '_')}"
            button.setToolTip(tooltip(command))
            button.clicked.connect(lambda _checked, c=command: desk.run(c))
            self._passes.addButton(button)
            self.pass_buttons[wanted.name] = button
            row.addWidget(button)
        row.addStretch(2)
        self.find_button = QPushButton("Find a command…   Ctrl+K")
        self.find_button.setToolTip(tooltip("help.find"))
        self.find_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.find_button.clicked.connect(lambda: desk.run("help.find"))
        row.addWidget(self.find_button)
        self.undo = SignButton("undo", tooltip("edit.undo"), lambda: desk.run("edit.undo"))
        self.redo = SignButton("redo", tooltip("edit.redo"), lambda: desk.run("edit.redo"))
        self.menu = SignButton("menu", "All commands", self.open_menu)
        for sign in (self.undo, self.redo, self.menu):
            row.addWidget(sign)
        session = desk.session
        session.pass_changed.connect(self._on_pass_changed)
        session.file_changed.connect(self._on_file_changed)
        session.committed.connect(self._on_file_changed)
        session.undo_stack.indexChanged.connect(self._on_undo_changed)
        self._on_pass_changed()
        self._on_file_changed()
        self._on_undo_changed()

    def _on_pass_changed(self) -> None:
        self.pass_buttons[self.desk.session.pass_.name].setChecked(True)

    def _on_file_changed(self) -> None:
        session = self.desk.session
        unsaved = "" if session.undo_stack.isClean() else " · not saved"
        self.shot_words.setText(f"{session.shot.title}{unsaved}")

    def _on_undo_changed(self, _index: int = 0) -> None:
        stack = self.desk.session.undo_stack
        self.undo.setEnabled(stack.canUndo())
        self.redo.setEnabled(stack.canRedo())
        self.undo.setToolTip(f"Undo: {stack.undoText()} (Ctrl+Z)" if stack.canUndo() else tooltip("edit.undo"))
        self.redo.setToolTip(f"Redo: {stack.redoText()} (Ctrl+Shift+Z)" if stack.canRedo() else tooltip("edit.redo"))

    def refresh_signs(self) -> None:
        """After a change of theme."""
        for sign in (self.undo, self.redo, self.menu):
            sign.refresh()

    def build_menu(self) -> QMenu:
        """All commands by group."""
        menu = QMenu(self)
        for group in dict.fromkeys(command.group for command in COMMANDS):
            part = menu.addMenu(group)
            assert part is not None
            part.setToolTipsVisible(True)
            for command in COMMANDS:
                if command.group == group:
                    action = part.addAction(f"{command.words}\t{command.key}" if command.key else command.words)
                    assert action is not None
                    action.setToolTip(command.tip)
                    action.setEnabled(command.applies(self.desk.session))
                    action.triggered.connect(lambda _checked, c=command.id: self.desk.run(c))
        return menu

    def open_menu(self) -> None:
        """Show the menu under its button."""
        menu = self.build_menu()
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.menu.mapToGlobal(self.menu.rect().bottomLeft()))
