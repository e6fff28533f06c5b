"""The take that is worked on, in the top bar: a click shows the others."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtWidgets import QMenu, QPushButton

from bovrin.craft.takes import chosen_take, copied_take, next_name, renamed_take, without_take
from bovrin.desk.command import Command
from bovrin.desk.inline_edit import InlineEdit

if TYPE_CHECKING:
    from bovrin.desk.session import Session
    from bovrin.desk.window import Window


def _next(desk: Window) -> None:
    session = desk.session
    names = [take.name for take in session.shot.all_takes]
    after = names[(names.index(session.shot.take.name) + 1) % len(names)]
    _choose(session, after)


def _choose(session: Session, name: str) -> None:
    session.do(f"Take {name}", lambda shot: chosen_take(shot, name))


def _rename(desk: Window) -> None:
    desk.topbar.take.rename()


def _several(session: Session) -> bool:
    return bool(session.shot.takes)


TAKES = (
    Command(
        "take.new",
        "Shot",
        "New take",
        "",
        "Keep this take and go on in a copy of it",
        lambda d: d.session.do("New take", lambda shot: copied_take(shot, next_name(shot))),
    ),
    Command("take.next", "Shot", "Next take", "", "Work on the take after this one", _next, _several),
    Command("take.rename", "Shot", "Rename this take…", "", "Give this take another name", _rename),
    Command(
        "take.remove",
        "Shot",
        "Remove this take",
        "",
        "Take this take out of the shot",
        lambda d: d.session.do("Remove take", lambda shot: without_take(shot, shot.take.name)),
        _several,
    ),
)


class TakeButton(QPushButton):
    """Says which take is worked on; its menu has the others and what can be done with takes."""

    def __init__(self, desk: Window) -> None:
        super().__init__()
        self.desk = desk
        self.setObjectName("Pass")
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setToolTip("The take that is worked on; click for the others")
        self.clicked.connect(self.open_menu)
        for signal in (desk.session.committed, desk.session.file_changed):
            signal.connect(self._on_take_changed)
        self._on_take_changed()

    def _on_take_changed(self) -> None:
        self.setText(f"Take {self.desk.session.shot.take.name} ▾")

    def build_menu(self) -> QMenu:
        """The takes, then what can be done with them."""
        session = self.desk.session
        menu = QMenu(self)
        for take in session.shot.all_takes:
            action = menu.addAction(f"Take {take.name}")
            assert action is not None
            action.setCheckable(True)
            action.setChecked(take.name == session.shot.take.name)
            action.triggered.connect(lambda _checked, n=take.name: _choose(session, n))
        menu.addSeparator()
        for command in TAKES:
            action = menu.addAction(command.words)
            assert action is not None
            action.setToolTip(command.tip)
            action.setEnabled(command.applies(session))
            action.triggered.connect(lambda _checked, c=command.id: self.desk.run(c))
        return menu

    def open_menu(self) -> None:
        """Show the menu under the button."""
        menu = self.build_menu()
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.mapToGlobal(self.rect().bottomLeft()))

    def rename(self) -> InlineEdit:
        """Type another name in place."""
        session = self.desk.session

        def take_name(words: str) -> None:
            session.do("Rename take", lambda shot: renamed_take(shot, words))

        room = QRectF(self.rect()).adjusted(0, 0, 60, 0).translated(self.pos().toPointF())
        parent = self.parentWidget()
        assert parent is not None
        return InlineEdit(parent, room, session.shot.take.name, "Name of the take", take_name)
