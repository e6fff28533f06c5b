"""The right column's smaller panels: what an edit keys, and stepped or splined."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton

from bovrin.craft.keying.edits import Scope
from bovrin.desk.kit.widgets import Panel, Pills, muted
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.looking import AXES

SCOPE_TIPS = (
    "An edit keys the whole figure, so that no old pose leaks in",
    "An edit keys the part it belongs to",
    "An edit keys only the channels it changes",
)


AXES_TIPS = (
    "Handles go along the view",
    "Handles go along the world's axes",
    "Handles go along the axes of what carries the control",
    "Handles go along the control's own axes",
)


TAKES = ("the figure", "all")
TAKES_TIPS = (
    "Moving a pose, or holding it longer or shorter, retimes this figure alone (Shift: all)",
    "Moving a pose takes along what lies on its frame in the whole cast, and markers; holding it what comes after (Shift: alone)",
)


class KeysPanel(Panel):
    """What an edit keys, and what handles go along."""

    def __init__(self, session: Session) -> None:
        super().__init__(title="Keys go on")
        self.session = session
        self.pills = Pills(
            [scope.value for scope in Scope],
            lambda word: session.change_keying(scope=Scope(word)),
            [f"{tip} (W)" for tip in SCOPE_TIPS],
        )
        self.column.addWidget(self.pills)
        self.only_k = QPushButton("only when K is pressed")
        self.only_k.setCheckable(True)
        self.only_k.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.only_k.setToolTip("Show changes without keying them: K keeps one, D drops it")
        self.only_k.clicked.connect(lambda on: session.change_keying(only_k=on))
        self.column.addWidget(self.only_k, 0, Qt.AlignmentFlag.AlignLeft)
        self.axes = Pills(
            list(AXES), lambda word: session.change_looking(axes=word), [f"{tip} (Q)" for tip in AXES_TIPS]
        )
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(muted("Along"))
        row.addWidget(self.axes)
        self.column.addLayout(row)
        self.takes = Pills(list(TAKES), self._on_takes, TAKES_TIPS)
        row = QHBoxLayout()
        row.setSpacing(6)
        row.addWidget(muted("Retiming takes"))
        row.addWidget(self.takes)
        self.column.addLayout(row)
        session.keying_changed.connect(self._on_scope_changed)
        session.looking_changed.connect(self._on_scope_changed)
        session.document.changed.connect(self._show_takes)
        self._on_scope_changed()

    def _on_takes(self, word: str) -> None:
        wanted = TAKES.index(word) > 0
        self.session.do("What retiming takes", lambda shot: replace(shot, retimes_all=wanted))
        self._show_takes()

    def _show_takes(self) -> None:
        self.takes.show_chosen(TAKES[self.session.shot.retimes_all])

    def _on_scope_changed(self) -> None:
        self.pills.show_chosen(self.session.keying.scope.value)
        self.axes.show_chosen(self.session.looking.axes)
        self._show_takes()
        self.only_k.setChecked(self.session.keying.only_k)
