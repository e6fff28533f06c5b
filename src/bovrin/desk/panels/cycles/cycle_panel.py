"""The cycle in the right column: the wheel, whether its halves mirror one another, and what the body does."""

from __future__ import annotations

from collections.abc import Callable

from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.widgets import Panel, muted, push_button
from bovrin.desk.panels.cycles.new_cycle_form import NewCycleForm
from bovrin.desk.panels.cycles.wheel import CycleWheel
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures


class CyclePanel(Panel):
    """A wheel where there is a cycle, else what it takes to make one."""

    def __init__(self, session: Session, pictures: CardPictures, run: Callable[[str], object]) -> None:
        super().__init__(title="Cycle wheel")
        self.session = session
        self.what = muted()
        self.head.addWidget(self.what)
        self.wheel = CycleWheel(session, pictures)
        self.column.addWidget(self.wheel)
        self.mirror = push_button("mirror halves", tooltip("cycle.mirror"), lambda: run("cycle.mirror"), ticked=True)
        self.round = push_button("goes round", tooltip("cycle.close"), lambda: run("cycle.close"), ticked=True)
        self.anew = push_button("New…", "Lay out another cycle in place of this one", self._show_form)
        self.row = self.add_row(self.mirror, self.round, self.anew)
        self.hint = muted(wrap=True)
        self.column.addWidget(self.hint)
        self.form = NewCycleForm(session, self._hide_form)
        self.column.addWidget(self.form)
        self._asked = False
        session.going.changed.connect(self._show_what)
        self._show_what()

    def _show_form(self) -> None:
        self._asked = not self._asked
        self._show_what()

    def ask(self) -> None:
        """Offer the form, and take the keyboard there."""
        self._asked = True
        self._show_what()
        self.form.frames.setFocus()

    def _hide_form(self) -> None:
        self._asked = False
        self._show_what()

    def _show_what(self) -> None:
        session = self.session
        figure, cycle = session.figure, None if session.figure is None else session.shot.cycle(session.figure_name)
        reading = self.wheel.reading()
        self.wheel.setVisible(reading is not None)
        self.mirror.setVisible(cycle is not None)
        self.anew.setVisible(cycle is not None)
        self.round.setVisible(figure is not None)
        self.round.setChecked(cycle is not None)
        self.mirror.setChecked(cycle is not None and cycle.mirrored)
        self.mirror.setEnabled(figure is not None and bool(figure.rig.pairs))
        self.what.setText("" if cycle is None else f"{cycle.gait or 'loop'} · {cycle.length:g} frames")
        self.hint.setText(_hint(session))
        self.hint.setVisible(bool(self.hint.text()))
        self.form.setVisible(cycle is None or self._asked)
        self.form.show_figure(figure)
        self.updateGeometry()


def _hint(session: Session) -> str:
    if session.figure is None:
        return "Choose a figure to see its cycle."
    if session.shot.cycle(session.figure_name) is None:
        return "No cycle yet. Lay one out, or pose a loop and let it go round over the range."
    return ""
