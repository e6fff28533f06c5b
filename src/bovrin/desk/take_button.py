"""The take that is worked on, in the top bar: a click shows the others."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtWidgets import QMenu, QPushButton

from bovrin.craft.takes import renamed_take
from bovrin.desk.commands.port import Port
from bovrin.desk.commands.takes import TAKES, choose_take, compare_with
from bovrin.desk.kit.inline_edit import InlineEdit
from bovrin.desk.kit.menus import add_action, add_menu, popup


class TakeButton(QPushButton):
    """Says which take is worked on; its menu has the others and what can be done with takes."""

    def __init__(self, port: Port) -> None:
        super().__init__()
        self._port, self.session = port, port.session
        self.setObjectName("Pass")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setToolTip("The take that is worked on; click for the others")
        self.clicked.connect(lambda _checked: self.open_menu())
        for signal in (self.session.document.committed, self.session.document.file_changed):
            signal.connect(self._on_take_changed)
        self._on_take_changed()

    def _on_take_changed(self) -> None:
        self.setText(f"Take {self.session.shot.take.name} ▾")

    def open_menu(self) -> None:
        """Show the menu under the button."""
        popup(self.build_menu(), self.mapToGlobal(self.rect().bottomLeft()), self)

    def build_menu(self) -> QMenu:
        """The takes, then what can be done with them."""
        session, shot = self.session, self.session.shot
        menu = QMenu()
        for take in shot.all_takes:
            here = take.name == shot.take.name
            add_action(menu, f"Take {take.name}", lambda n=take.name: choose_take(session, n), ticked=here)  # type: ignore[misc]
        compared = session.looking.compared
        others = [take.name for take in shot.all_takes if take.name != shot.take.name]
        if others:
            inner = add_menu(menu, "Compare with")
            for name in others:
                seen = compared is not None and compared.take == name
                add_action(inner, f"Take {name}", lambda n=name: compare_with(session, n), ticked=seen)  # type: ignore[misc]
        menu.addSeparator()
        for command in TAKES:
            action = menu.addAction(command.words)
            assert action is not None
            action.setToolTip(command.tip)
            action.setEnabled(command.applies(session))
            action.triggered.connect(lambda _checked, c=command.id: self._port.run(c))
        return menu

    def rename(self) -> InlineEdit:
        """Type another name in place."""

        def take_name(words: str) -> None:
            self.session.do("Rename take", lambda shot: renamed_take(shot, words))

        room = QRectF(self.rect()).adjusted(0, 0, 60, 0).translated(self.pos().toPointF())
        parent = self.parentWidget()
        assert parent is not None
        return InlineEdit(parent, room, self.session.shot.take.name, "Name of the take", take_name)
