"""The line at the bottom: what can be done with what is under the pointer, and how things stand."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.widgets import muted
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.player import Player


class StatusLine(QWidget):
    """Hints to the left; saved or not, rate and playing to the right, which open range and speed."""

    def __init__(self, session: Session, player: Player, run: Callable[[str], object]) -> None:
        super().__init__()
        self.session, self.player = session, player
        self.setFixedHeight(24)
        row = QHBoxLayout(self)
        row.setContentsMargins(8, 0, 8, 2)
        self.hint = muted()
        self.hint.setObjectName("Hint")
        row.addWidget(self.hint, 1)
        self.time = QPushButton()
        self.time.setObjectName("State")
        self.time.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.time.setToolTip(tooltip("time.settings"))
        self.time.clicked.connect(lambda _checked: run("time.settings"))
        row.addWidget(self.time)
        session.voice.hinted.connect(self.hint.setText)
        document = session.document
        for signal in (document.file_changed, document.undo_stack.indexChanged, player.changed):
            signal.connect(self._show_state)
        self._show_state()

    def _show_state(self, _index: int = 0) -> None:
        session, player = self.session, self.player
        there = "saved" if session.document.path is not None else "in no file yet"
        saved = there if session.document.undo_stack.isClean() else "not saved · recovery on"
        how = "second range" if player.second else player.mode
        rate = f"{session.shot.frame_rate:g} fps · {how}"
        if session.playing or player.shown:
            rate += f" · {player.dropped} dropped"
        self.time.setText(f"{saved} · {rate}")
