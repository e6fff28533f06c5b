"""Named groups of controls in the left column: keep, recall, add, take away, show alone."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QLineEdit, QMenu, QPushButton, QWidget

from bovrin.craft.pose.groups import group_controls, group_named, keep_group, remove_group
from bovrin.desk.kit.flow import Flow
from bovrin.desk.kit.menus import add_action, popup
from bovrin.desk.state.document.session import Session

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
TIP = "Click to choose, Shift adds, Ctrl takes away, right click for more"


class GroupPill(QPushButton):
    """One group."""

    def __init__(self, panel: GroupsPanel, name: str) -> None:
        super().__init__(name)
        self._panel, self.kept = panel, name
        self.setToolTip(TIP)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(lambda at: panel.open_menu(self, at))

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            keys = event.modifiers()
            self._panel.recall(self.kept, add=bool(keys & SHIFT), take=bool(keys & CTRL))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._panel.recall(self.kept)
        else:
            super().keyPressEvent(event)


class GroupsPanel(QWidget):
    """The shot's groups as pills, and one to keep what is chosen."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self._flow = Flow(self)
        self.pills: dict[str, GroupPill] = {}
        self.keep_button = QPushButton("+ Keep")
        self.keep_button.setToolTip("Keep what is chosen as a group; it is saved with the project")
        self.keep_button.clicked.connect(self.begin_keeping)
        self.field = QLineEdit()
        self.field.setPlaceholderText("Name of the group")
        self.field.setAccessibleName("Name of the group")
        self.field.setFixedWidth(140)
        self.field.returnPressed.connect(self._on_named)
        self.field.editingFinished.connect(self._stop_naming)
        self.field.hide()
        session.document.changed.connect(self._on_shot_changed)
        self._shown: object = None
        self._on_shot_changed()

    def _on_shot_changed(self) -> None:
        groups = self.session.shot.groups
        if self._shown == groups:
            return
        self._shown = groups
        while (item := self._flow.takeAt(0)) is not None:
            widget = item.widget()
            if isinstance(widget, GroupPill):
                widget.deleteLater()
        self.pills = {group.name: GroupPill(self, group.name) for group in groups}
        for widget in (*self.pills.values(), self.keep_button, self.field):
            self._flow.addWidget(widget)
        self._flow.invalidate()
        self.updateGeometry()

    def recall(self, name: str, *, add: bool = False, take: bool = False) -> None:
        """Choose a group's controls on the chosen figure, add them, or take them away."""
        session = self.session
        figure = session.figure
        if figure is None:
            return
        found, missing = group_controls(figure.rig, group_named(session.shot, name))
        if not found:
            session.voice.tell(f"'{figure.name}' has none of the parts of the group '{name}'.")
            return
        if take:
            session.choose(figure.name, [c for c in session.controls if c not in found])
        else:
            session.choose(figure.name, [*(session.controls if add else ()), *found])
        if missing:
            session.voice.tell(f"'{figure.name}' has no {', '.join(missing[:4])}; the rest of '{name}' is chosen.")

    def show_alone(self, name: str) -> None:
        """Draw only the parts of a group."""
        figure = self.session.figure
        if figure is None:
            return
        found, _ = group_controls(figure.rig, group_named(self.session.shot, name))
        parts = frozenset(figure.rig.parts_of(found))
        self.session.change_looking(alone=(figure.name, parts) if parts else None)

    def begin_keeping(self) -> None:
        """Ask for the name of a new group."""
        if not self.session.controls:
            self.session.voice.tell("Choose the parts of the group first.")
            return
        self.field.clear()
        self.field.show()
        self.field.setFocus()
        self._flow.invalidate()

    def _on_named(self) -> None:
        name, session = self.field.text(), self.session
        self.field.hide()
        session.do(
            f"Keep group {name.strip()}", lambda shot: keep_group(shot, name, session.figure_name, session.controls)
        )

    def _stop_naming(self) -> None:
        if not self.field.hasFocus():
            self.field.hide()

    def open_menu(self, pill: GroupPill, at: QPoint) -> None:
        """What else can be done with a group."""
        menu = QMenu()
        for words, run in (
            ("Add to what is chosen", lambda: self.recall(pill.kept, add=True)),
            ("Take away from what is chosen", lambda: self.recall(pill.kept, take=True)),
            ("Show alone", lambda: self.show_alone(pill.kept)),
            ("Remove the group", lambda: self.remove(pill.kept)),
        ):
            add_action(menu, words, run)
        popup(menu, pill.mapToGlobal(at), self)

    def remove(self, name: str) -> None:
        """Forget a group."""
        self.session.do(f"Remove group {name}", lambda shot: remove_group(shot, name))
