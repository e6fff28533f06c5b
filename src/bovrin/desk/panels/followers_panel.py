"""What of the chosen figure moves by rule: followers, in the order in which they are added."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

import numpy as np
from PyQt6.QtWidgets import QMenu, QPushButton, QVBoxLayout, QWidget

from bovrin.desk.commands.following_table import WORDS
from bovrin.desk.commands.menus import add_commands
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.menus import popup
from bovrin.desk.kit.widgets import Panel, muted
from bovrin.desk.state.document.session import Session
from bovrin.shot import Follower
from bovrin.shot.follower import PRESETS

if TYPE_CHECKING:
    from bovrin.desk.panels.follower_row import FollowerRow

EMPTY = (
    "Choose a tail, an ear, a chest, and say what it does by itself. It counts on top of its keys, and what hangs below it"
    " goes along."
)
DOTS = 160
"""Frames, at most, of what a graph shows."""


class FollowersPanel(Panel):
    """The chosen figure's followers; one is open at a time."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Followers")
        self.session, self._run = session, run
        self.empty = muted(EMPTY, wrap=True)
        self.column.addWidget(self.empty)
        self._host = QWidget()
        self._rows_column = QVBoxLayout(self._host)
        self._rows_column.setContentsMargins(0, 0, 0, 0)
        self._rows_column.setSpacing(2)
        self.column.addWidget(self._host)
        self.rows: list[FollowerRow] = []
        self.opened = ""
        self.buttons = {kind: self._button(kind) for kind in WORDS}
        self.presets = QPushButton("Like a… ▾")
        self.presets.setToolTip("A tail, an ear, a rope …: a rule told accordingly, to be changed like any other")
        self.presets.clicked.connect(lambda _checked: self._open_presets())
        buttons = list(self.buttons.values())
        self.add_row(*buttons[:3])
        self.to_keys = QPushButton("Into keys")
        self.to_keys.setToolTip(tooltip("hang.to_keys"))
        self.to_keys.clicked.connect(lambda _checked: run("hang.to_keys"))
        self.add_row(*buttons[3:], self.presets)
        self.add_row(self.to_keys)
        self._shown: tuple[object, ...] = ()
        self._of, self._own = "", tuple[Follower, ...]()
        for signal in (session.document.committed, session.choice.changed, session.document.frame_changed):
            signal.connect(self._on_changed)
        self._on_changed()

    def _button(self, kind: str) -> QPushButton:
        button = QPushButton(kind.capitalize())
        button.setToolTip(tooltip(f"follow.{kind}"))
        button.clicked.connect(lambda _checked: self._run(f"follow.{kind}"))
        return button

    def _open_presets(self) -> None:
        menu = QMenu()
        add_commands(menu, self._run, *(f"follow.as_{name.replace(' ', '_')}" for name in PRESETS))
        popup(menu, self.presets.mapToGlobal(self.presets.rect().bottomLeft()), self.presets)

    def _on_open(self, name: str) -> None:
        self.opened = "" if self.opened == name else name
        session, figure = self.session, self.session.figure
        if self.opened and figure is not None:
            session.choose(figure.name, [figure.rig.control(name)])
        self._on_changed()

    def _on_changed(self) -> None:
        session = self.session
        own = () if session.figure is None else session.shot.followers(session.figure_name)
        new = [one.name for one in own if one.name not in {old.name for old in self._own}]
        if new and self._of == session.figure_name:
            self.opened = new[-1]  # what was just made is what one wants to tell
        shown = (session.figure_name, own, self.opened)
        if self._shown != shown:
            self._shown, self._of, self._own = shown, session.figure_name, own
            self._rebuild(own)
        for row in self.rows:
            row.show_here()
        self._measure()

    def _rebuild(self, own: tuple[Follower, ...]) -> None:
        for row in self.rows:
            row.hide()
            row.deleteLater()
        self.rows = [self._row(one) for one in own]
        for row in self.rows:
            self._rows_column.addWidget(row)
        self.empty.setVisible(not own)
        self._host.setVisible(bool(own))
        self.to_keys.setVisible(bool(own))
        self.updateGeometry()

    def _row(self, one: Follower) -> FollowerRow:
        from bovrin.desk.panels.follower_row import FollowerRow  # noqa: PLC0415 - kept out of the window's start

        return FollowerRow(self.session, one, opened=one.name == self.opened, on_open=self._on_open)

    def _measure(self) -> None:
        """What the open follower adds, worked out beside the window."""
        session, row = self.session, next((row for row in self.rows if row.graph is not None), None)
        if row is None or row.graph is None:
            return
        from bovrin.measure.following import added  # noqa: PLC0415 - kept out of the window's start

        shot, figure, name, graph = session.shot, session.figure_name, row.one.name, row.graph
        if graph.shot is shot:
            return
        graph.shot = shot
        frames = np.linspace(shot.first, shot.last, min(int(shot.last - shot.first) + 1, DOTS))
        session.background.latest("followers", lambda: added(shot, figure, name, frames), graph.show_added)
