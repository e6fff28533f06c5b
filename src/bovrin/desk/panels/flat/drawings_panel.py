"""Drawings of a flat figure's parts, and what else is done to parts."""

from __future__ import annotations

from collections.abc import Callable

from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.widgets import Panel, Pills, muted, push_button
from bovrin.desk.panels.flat.drawing_sheet import DrawingSheet
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.flat import lay_run, parts_with_drawings, show_drawing

EVERY = {"on ones": 1, "on twos": 2, "on threes": 3}
EMPTY = (
    "No part has a second drawing. Hidden layers that are named after a part, such as “hand:fist”,"
    " are further drawings of it."
)


class DrawingsPanel(Panel):
    """The sheet of drawings, how long each of a run is shown, and the buttons for chosen parts."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Drawings")
        self.session = session
        self.every = "on twos"
        self.empty = muted(EMPTY, wrap=True)
        self.column.addWidget(self.empty)
        self.sheet = DrawingSheet(session)
        self.sheet.shown.connect(lambda part, drawing: show_drawing(session, part, drawing))
        self.sheet.run.connect(lambda part, names: lay_run(session, part, names, EVERY[self.every]))
        self.column.addWidget(self.sheet)
        self.pills = Pills(
            list(EVERY), self._on_every, [f"Each drawing of a run is shown {n} frames" for n in EVERY.values()]
        )
        self.pills.show_chosen(self.every)
        self.column.addWidget(self.pills)
        rows = (("flat.rejoin", "Rejoin"), ("flat.flip", "Flip"), ("flat.bend", "Bend along a curve"))
        self.buttons = {i: push_button(w, tooltip(i), lambda c=i: run(c)) for i, w in rows}  # type: ignore[misc]
        self.add_row(*self.buttons.values())
        for signal in (session.choice.changed, session.document.committed):
            signal.connect(self._on_changed)
        self._on_changed()

    def _on_every(self, words: str) -> None:
        self.every = words
        self.pills.show_chosen(words)

    def _on_changed(self) -> None:
        some = bool(parts_with_drawings(self.session))
        self.empty.setVisible(not some)
        self.sheet.setVisible(some)
        self.pills.setVisible(some)
        self.updateGeometry()
