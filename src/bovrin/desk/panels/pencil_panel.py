"""The pencil in the right column."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QSize
from PyQt6.QtWidgets import QToolButton

from bovrin.craft.drawings import drawing_at
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.widgets import Panel, Pills, dot_icon, muted, push_button
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.pencil import ONTO, SEEN, SIZES
from bovrin.picture.theme import PENCIL_ROLES
from bovrin.shot import PENCILS


class PencilPanel(Panel):
    """Draw, rub out, on what, in which colour; and the drawings of the shot."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Pencil")
        self.session = session
        self.draw = push_button("Draw", tooltip("pencil.draw"), lambda: run("pencil.draw"), ticked=True)
        self.rubber = push_button("Rub out", tooltip("pencil.rubber"), lambda: run("pencil.rubber"), ticked=True)
        self.add_row(self.draw, self.rubber)
        self.colours: dict[str, QToolButton] = {}
        for name in PENCILS:
            button = QToolButton()
            button.setIconSize(QSize(20, 20))
            button.setCheckable(True)
            button.setToolTip(name.capitalize())
            button.setAccessibleName(f"{name} pencil")
            button.clicked.connect(lambda _checked, n=name: self._change(colour=n, rubber=False, on=True))
            self.colours[name] = button
        self.add_row(*self.colours.values())
        self.size_pills = Pills(list(SIZES), lambda word: self._change(size=word))
        self.add_row(self.size_pills)
        self.onto = Pills(list(ONTO), lambda word: self._change(onto=word), list(ONTO.values()))
        self.add_row(self.onto)
        self.where = muted(wrap=True)
        self.column.addWidget(self.where)
        self.new, self.copy, self.remove = (
            push_button(words, tooltip(command), lambda c=command: run(c))  # type: ignore[misc]
            for words, command in (
                ("New here", "pencil.new"),
                ("Copy here", "pencil.copy"),
                ("Remove", "pencil.remove"),
            )
        )
        self.add_row(self.new, self.copy, self.remove)
        self.seen = Pills(list(SEEN), lambda word: self._change(seen=word), list(SEEN.values()))
        self.add_row(self.seen)
        for signal in (session.looking_changed, session.document.committed, session.document.frame_changed):
            signal.connect(self._show_all)
        self._show_all()

    def _change(self, **changes: object) -> None:
        self.session.change_looking(pencil=replace(self.session.looking.pencil, **changes))  # type: ignore[arg-type]

    def _show_all(self) -> None:
        session, pencil = self.session, self.session.looking.pencil
        self.draw.setChecked(pencil.on and not pencil.rubber)
        self.rubber.setChecked(pencil.on and pencil.rubber)
        for name, button in self.colours.items():
            chosen = name == pencil.colour
            button.setIcon(dot_icon(Look.colour(PENCIL_ROLES[name]), 20, 17 if chosen else 9, 9))
            button.setChecked(chosen)
        self.size_pills.show_chosen(pencil.size)
        self.onto.show_chosen(pencil.onto)
        self.seen.show_chosen(pencil.seen)
        here, shot = drawing_at(session.shot, session.frame), session.shot
        if here is None:
            words = "Nothing is drawn here. A line begins a drawing, which holds until the next."
        else:
            at = shot.drawings.index(here)
            after = shot.drawings[at + 1].frame - 1 if at + 1 < len(shot.drawings) else shot.last
            count = f"{len(here.strokes)} line{'s' if len(here.strokes) != 1 else ''}" if here.strokes else "blank"
            words = f"Drawing {at + 1} of {len(shot.drawings)}, from {here.frame:g} to {after:g}: {count}"
        self.where.setText(words)
        self.remove.setEnabled(here is not None)
        self.copy.setEnabled(here is not None and bool(here.strokes) and here.frame != session.frame)
        self.new.setEnabled(here is None or here.frame != session.frame)
