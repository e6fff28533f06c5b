"""Travel and planted feet in the right column: on the spot and back, directions, and what the stride measures."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtWidgets import QPushButton

from bovrin.craft.cycle.spot import DIRECTIONS
from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.amount_row import AmountRow
from bovrin.desk.kit.widgets import Panel, muted, push_button
from bovrin.desk.state.document.session import Session
from bovrin.measure.gait.stride import Stride
from bovrin.shot import Unit

STEADY = "Only what one speed makes is taken out or put back; what goes faster and slower stays"
RULERS = {"cycle.ruler": "As a ruler", "cycle.ruler_turn": "Turn 90°", "cycle.ruler_away": "Put away"}
BLEND = "Frames over which a planted foot comes to its place and leaves it"


class TravelPanel(Panel):
    """Buttons act on the chosen figure; the numbers below are those of its cycle, or of its going over the shot."""

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__(title="Travel and feet")
        self.session = session
        self.spot = push_button("On the spot", tooltip("cycle.spot"), lambda: run("cycle.spot"))
        self.travel = push_button("Travelling", tooltip("cycle.travel"), lambda: run("cycle.travel"))
        self.root = push_button("To the root", tooltip("cycle.root"), lambda: run("cycle.root"))
        self.add_row(self.spot, self.travel, self.root)
        self.ways = {way: self._way(way) for way in DIRECTIONS}
        self.steady = push_button("one speed", STEADY, self._toggle_steady, ticked=True)
        self.add_row(*self.ways.values())
        self.add_row(self.steady)
        self.plant = push_button("Plant feet", tooltip("cycle.plant"), lambda: run("cycle.plant"))
        self.slide = muted()
        self.ground = push_button("on the set", tooltip("cycle.ground"), lambda: run("cycle.ground"), ticked=True)
        self.add_row(self.plant, self.ground)
        self.column.addWidget(self.slide)
        self.blend = AmountRow("blend", BLEND, Unit.SWITCH, "", 12.0, 5.0)
        self.blend.moved.connect(self._on_blend)
        self.blend.taken.connect(self._on_blend)
        self.blend.field.refused.connect(session.voice.tell)
        self.column.addWidget(self.blend)
        self.numbers = muted(wrap=True)
        self.column.addWidget(self.numbers)
        self.rulers = {name: push_button(words, tooltip(name), partial(run, name)) for name, words in RULERS.items()}
        self.add_row(*self.rulers.values())
        session.going.changed.connect(self._show_what)
        session.keying_changed.connect(self._show_what)
        self._show_what()

    def _way(self, way: str) -> QPushButton:
        return push_button(way, f"Take out and put back what goes {way}", lambda: self._toggle(way), ticked=True)

    def _toggle(self, way: str) -> None:
        now = self.session.keying.travel
        chosen = tuple(w for w in DIRECTIONS if (w in now) != (w == way))
        if not chosen:
            self.session.voice.tell("One direction at least is taken out.")
            chosen = now
        self.session.change_keying(travel=chosen)

    def _toggle_steady(self) -> None:
        self.session.change_keying(travel_steady=not self.session.keying.travel_steady)

    def _on_blend(self, frames: float) -> None:
        self.session.change_keying(plant_blend=float(min(max(round(frames), 1), 48)))

    def _show_what(self) -> None:
        session, reading = self.session, self.session.going.reading()
        for way, button in self.ways.items():
            button.setChecked(way in session.keying.travel)
        for button in (self.spot, self.travel, self.root, self.plant):
            button.setEnabled(reading is not None)
        self.rulers["cycle.ruler"].setEnabled(session.figure is not None)
        for name in ("cycle.ruler_turn", "cycle.ruler_away"):
            self.rulers[name].setVisible(session.shot.ruler is not None)
        self.steady.setChecked(session.keying.travel_steady)
        self.ground.setChecked(session.shot.on_set)
        self.blend.show_amount(session.keying.plant_blend)
        if reading is None:
            self.slide.setText("")
            self.numbers.setText("Choose a figure with feet.")
            return
        self.slide.setText(f"feet slide {reading.worst * 1000:.1f} mm")
        self.numbers.setText(reading.why if reading.stride is None else told(reading.stride))


def told(stride: Stride) -> str:
    """What a stride measures, in words."""
    words = (
        f"stride {stride.length * 100:.1f} cm, step {stride.step * 100:.1f} cm, {stride.speed:.2f} m/s\n"
        f"{stride.cadence:.0f} steps a minute, width {stride.width * 100:.1f} cm, down {stride.support:.0%} of the time"
    )
    if stride.unequal:
        long, short, gap = stride.unequal[0]
        words += f"\n{long} is {gap * 100:.1f} cm longer than {short}: it will limp."
    return words
