"""The form from which a cycle is laid out: a gait, so many frames, a stride."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QComboBox, QGridLayout, QLabel, QWidget

from bovrin.craft.cycle.gaits import gaits_for
from bovrin.craft.cycle.new_cycle import new_cycle
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import muted, push_button
from bovrin.desk.state.document.session import Session
from bovrin.figure.ground.feet import footholds
from bovrin.shot import Figure, Unit

USUAL = {
    "walk": (32, 1.5),
    "stroll": (40, 1.1),
    "run": (16, 2.2),
    "jump": (24, 1.2),
    "trot": (20, 1.6),
    "pace": (22, 1.6),
    "canter": (18, 2.2),
    "gallop": (14, 2.6),
    "bound": (16, 2.4),
}
"""Frames of a round at 24 a second, and leg lengths of a stride, unless they are typed."""
WHY = "Choose a figure with two or four legs that reach, or pose a loop by hand and close it."


class NewCycleForm(QWidget):
    """Shown where the chosen figure has no cycle yet, or one is laid out anew."""

    def __init__(self, session: Session, done: Callable[[], object]) -> None:
        super().__init__()
        self.session, self._done = session, done
        grid = QGridLayout(self)
        grid.setContentsMargins(0, 0, 0, 0)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(5)
        self.gait = QComboBox()
        self.gait.setAccessibleName("gait")
        self.gait.setToolTip("How its feet fall: the order and the share of the time that they are down")
        self.frames = NumberField(Unit.SWITCH, "", "frames of a round")
        self.frames.setToolTip(
            "Frames from a footfall to the same foot's next; even, so that halves fall on whole frames"
        )
        self.stride = NumberField(Unit.LENGTH, "cm", "stride")
        self.stride.setToolTip("How far a round goes: from where a foot comes down to where it comes down again")
        for field in (self.frames, self.stride):
            field.setFixedWidth(72)
            field.taken.connect(lambda number, f=field: f.show_value(number))
            field.refused.connect(session.voice.tell)
        for row, (words, widget) in enumerate((("gait", self.gait), ("frames", self.frames), ("stride", self.stride))):
            grid.addWidget(muted(words), row, 0)
            grid.addWidget(widget, row, 1)
        grid.setColumnStretch(2, 1)
        self.lay = push_button(
            "Lay out", "Key contact, down, passing and up with the feet where the gait has them", self.lay_out
        )
        self.lay.setObjectName("Primary")
        grid.addWidget(self.lay, 3, 1)
        self.why = QLabel()
        self.why.setObjectName("Muted")
        self.why.setWordWrap(True)
        grid.addWidget(self.why, 4, 0, 1, 3)
        self.gait.currentTextChanged.connect(self._on_gait)
        self._shown: Figure | None = None

    def show_figure(self, figure: Figure | None) -> None:
        """Offer the gaits of a figure."""
        if figure is self._shown:
            return
        self._shown = figure
        names = [] if figure is None else list(gaits_for(footholds(figure.rig)))
        self.gait.blockSignals(True)
        self.gait.clear()
        self.gait.addItems(names)
        self.gait.blockSignals(False)
        for widget in (self.gait, self.frames, self.stride, self.lay):
            widget.setEnabled(bool(names))
        self.why.setText("" if names else WHY)
        self.why.setVisible(not names)
        if names:
            self._on_gait(names[0])

    def _on_gait(self, name: str) -> None:
        figure = self._shown
        if figure is None or name not in USUAL:
            return
        leg = footholds(figure.rig)[0].leg
        usual, reach = USUAL[name]
        frames = round(usual * self.session.shot.frame_rate / 24 / 2) * 2
        self.frames.show_value(frames)
        self.stride.show_value(round(reach * leg * 20) * 5.0)

    def lay_out(self) -> None:
        """Make it the figure's motion."""
        session = self.session
        name, gait = session.figure_name, self.gait.currentText()
        frames, stride = int(self.frames.value()), self.stride.value() / 100
        if session.do(f"New {gait}", lambda shot: new_cycle(shot, name, gait, frames, stride)):
            session.going.laid_out.emit()
            self._done()
