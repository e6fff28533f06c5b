"""The top bar: name, shot, passes, finder, undo and redo, menu."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QLabel, QMenu, QPushButton, QWidget

from bovrin.desk.commands.port import Port
from bovrin.desk.commands.table import told
from bovrin.desk.kit.menus import popup
from bovrin.desk.kit.widgets import SignButton, muted
from bovrin.desk.passes.registry import PASSES
from bovrin.desk.table import BY_ID, TABLE
from bovrin.desk.take_button import TakeButton

FIND = ("Find a command…   Ctrl+K", "Find…   Ctrl+K", "Find…")
"""What stands on the finder's button, the longest first."""


class TopBar(QWidget):
    """44 pixels of what matters everywhere."""

    def __init__(self, port: Port) -> None:
        super().__init__()
        self._port, self.session = port, port.session
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
        self.take = TakeButton(port)
        row.addWidget(self.take)
        row.addStretch(1)
        self.pass_buttons = self._add_passes(row)
        row.addStretch(2)
        self.find_button = QPushButton(FIND[0])
        self.find_button.setToolTip(told(BY_ID["help.find"]))
        self.find_button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.find_button.clicked.connect(lambda _checked: port.run("help.find"))
        row.addWidget(self.find_button)
        self.undo = SignButton("undo", told(BY_ID["edit.undo"]), lambda: port.run("edit.undo"))
        self.redo = SignButton("redo", told(BY_ID["edit.redo"]), lambda: port.run("edit.redo"))
        self.menu = SignButton("menu", "All commands", self.open_menu)
        for sign in (self.undo, self.redo, self.menu):
            row.addWidget(sign)
        document = self.session.document
        self.session.pass_changed.connect(self._on_pass_changed)
        self.session.looking_changed.connect(self._on_looking_changed)
        document.file_changed.connect(self._on_file_changed)
        document.committed.connect(self._on_file_changed)
        document.undo_stack.indexChanged.connect(self._on_undo_changed)
        self._on_pass_changed()
        self._on_file_changed()
        self._on_undo_changed()

    def _add_passes(self, row: QHBoxLayout) -> dict[str, QPushButton]:
        group, buttons = QButtonGroup(self), {}
        for one in PASSES:
            button = QPushButton(one.pass_.name)
            button.setObjectName("Pass")
            button.setCheckable(True)
            button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
            button.setToolTip(told(BY_ID[one.pass_.command]))
            button.clicked.connect(lambda _checked, c=one.pass_.command: self._port.run(c))
            group.addButton(button)
            buttons[one.pass_.name] = button
            row.addWidget(button)
        return buttons

    def _on_pass_changed(self) -> None:
        self.pass_buttons[self.session.pass_.name].setChecked(True)

    def _on_file_changed(self) -> None:
        unsaved = "" if self.session.document.undo_stack.isClean() else " · not saved"
        self.shot_words.setText(f"{self.session.shot.title}{unsaved}")
        self._fit()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """The finder's words are as long as there is room for."""
        row = self.layout()
        assert row is not None
        for words in FIND:
            self.find_button.setText(words)
            if row.sizeHint().width() <= self.width():
                return

    def _on_undo_changed(self, _index: int = 0) -> None:
        stack = self.session.document.undo_stack
        self.undo.setEnabled(stack.canUndo())
        self.redo.setEnabled(stack.canRedo())
        plain = told(BY_ID["edit.undo"]), told(BY_ID["edit.redo"])
        self.undo.setToolTip(f"Undo: {stack.undoText()} (Ctrl+Z)" if stack.canUndo() else plain[0])
        self.redo.setToolTip(f"Redo: {stack.redoText()} (Ctrl+Shift+Z)" if stack.canRedo() else plain[1])

    def _on_looking_changed(self) -> None:
        """Signs in the theme's colour."""
        for sign in (self.undo, self.redo, self.menu):
            sign.refresh()

    def build_menu(self) -> QMenu:
        """All commands by group."""
        menu = QMenu()
        for group in dict.fromkeys(command.group for command in TABLE):
            part = menu.addMenu(group)
            assert part is not None
            part.setToolTipsVisible(True)
            for command in TABLE:
                if command.group == group:
                    action = part.addAction(f"{command.words}\t{command.key}" if command.key else command.words)
                    assert action is not None
                    action.setToolTip(command.tip)
                    action.setEnabled(command.applies(self.session))
                    action.triggered.connect(lambda _checked, c=command.id: self._port.run(c))
        return menu

    def open_menu(self) -> None:
        """Show the menu under its button."""
        popup(self.build_menu(), self.menu.mapToGlobal(self.menu.rect().bottomLeft()), self)
