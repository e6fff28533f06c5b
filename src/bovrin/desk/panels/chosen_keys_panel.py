"""What is done to chosen keys by number: where they are, how far apart, and what they are called."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QWidget

from bovrin.craft.curves.reshaping import scaled_keys
from bovrin.craft.keying.key_sets import scale_keys, scaled, set_role
from bovrin.desk.commands.curves import change_chosen
from bovrin.desk.commands.timing import move_chosen, spread_chosen
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import Panel, Pills, muted
from bovrin.desk.state.choosing.channel_rows import FACTORS, UNITS
from bovrin.desk.state.document.session import Session
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, CurveSet, KeyRole, Shot, Unit

ROLES = {"key pose": KeyRole.KEY_POSE, "breakdown": KeyRole.BREAKDOWN, "in-between": KeyRole.IN_BETWEEN}


class ChosenKeysPanel(Panel):
    """Seen while keys are chosen on the strip or the curve desk, but not just the card one is on."""

    wanted_changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(title="Chosen keys")
        self.session = session
        self.wanted = False
        self.words = muted(wrap=True)
        self.column.addWidget(self.words)
        host = QWidget()
        grid = QGridLayout(host)
        grid.setContentsMargins(0, 0, 0, 0)
        self.first = self._field(Unit.SWITCH, "", "first chosen frame", self._on_first)
        self.first.setToolTip("The frame of the first chosen key; all of them move along")
        self.scale = self._field(Unit.AMOUNT, "%", "scale in time", self._on_scale)
        self.scale.setToolTip("Draw the chosen keys apart or together about the current frame (Alt and drag)")
        self.spread = QPushButton("Spread evenly")
        self.spread.setToolTip("Put the chosen keys at even distances")
        self.spread.clicked.connect(self._on_spread)
        self.value_words = QLabel("Value")
        self.value = self._field(Unit.AMOUNT, "", "value of the chosen keys", self._on_value)
        self.value.setToolTip("All chosen keys at this value; seen when they measure the same")
        self.value_scale = self._field(Unit.AMOUNT, "%", "scale in value", self._on_value_scale)
        self.value_scale.setToolTip("Larger or smaller about where each curve is on the current frame (Alt and drag)")
        fields = (
            (QLabel("First on"), self.first),
            (QLabel("Scale to"), self.scale),
            (self.value_words, self.value),
            (QLabel("Height"), self.value_scale),
        )
        for n, (label, field) in enumerate(fields):
            grid.addWidget(label, n // 2, 2 * (n % 2))
            grid.addWidget(field, n // 2, 2 * (n % 2) + 1)
        self.column.addWidget(host)
        tips = ["A pose that tells the story (circle)", "A pose on the way (triangle)", "Anything between (tick)"]
        self.roles = Pills(list(ROLES), self._on_role, tips)
        self.column.addWidget(self.roles)
        self.column.addWidget(self.spread)
        session.keys.changed.connect(self.refresh)
        session.document.committed.connect(self.refresh)
        session.document.frame_changed.connect(self.refresh)

    def _field(self, unit: Unit, suffix: str, name: str, taken: Callable[[float], object]) -> NumberField:
        field = NumberField(unit, suffix, name)
        field.setFixedWidth(66)
        field.taken.connect(taken)
        field.refused.connect(self.session.voice.tell)
        return field

    def refresh(self) -> None:
        """Show what is chosen now; the panel is wanted while there is something."""
        keys = self.session.keys
        curves = self.session.curves
        seen = bool(keys) and curves is not None and keys.cards() != {self.session.frame}
        if seen != self.wanted:
            self.wanted = seen
            self.wanted_changed.emit()
        if not seen or curves is None:
            return
        frames = keys.frames()
        count = len(keys)
        where = f"frame {frames[0]:g}" if len(frames) == 1 else f"{len(frames)} frames, {frames[0]:g} to {frames[-1]:g}"
        self.words.setText(f"{count} key{'s' if count != 1 else ''} on {where}")
        self.first.show_value(float(frames[0]))
        self.scale.show_value(100.0)
        self.value_scale.show_value(100.0)
        self._show_value(curves)
        self.spread.setEnabled(len(frames) > 2)
        found = {
            role
            for i, own in keys.by_channel.items()
            for role in set(curves[i].role[np.isin(curves[i].frames, own)].tolist())
        }
        one = found.pop() if len(found) == 1 else None
        self.roles.show_chosen(next((w for w, r in ROLES.items() if r == one), ""))

    def _unit(self) -> Unit | None:
        """What all chosen keys measure, if it is one thing."""
        figure = self.session.figure
        assert figure is not None
        units = {figure.rig.channels[i].unit for i in self.session.keys.by_channel}
        return units.pop() if len(units) == 1 else None

    def _show_value(self, curves: CurveSet) -> None:
        """The value that all chosen keys have, while they measure the same."""
        unit = self._unit()
        for widget in (self.value, self.value_words):
            widget.setVisible(unit is not None)
        if unit is None:
            return
        self.value.measure(unit, UNITS[unit])
        keys = self.session.keys.by_channel
        values = {float(v) for i, own in keys.items() for v in curves[i].values[np.isin(curves[i].frames, own)]}
        if len(values) == 1:
            self.value.show_value(values.pop() * FACTORS[unit])
        else:
            self.value.show_none()

    def _on_value(self, value: float) -> None:
        unit = self._unit()
        if unit is not None:
            change_chosen(self.session, "Set keys", lambda c, which: _set(c, which, value / FACTORS[unit]))

    def _on_value_scale(self, percent: float) -> None:
        frame = self.session.frame

        def scale(curve: Curve, which: np.ndarray) -> Curve:
            about = (frame, float(curve_values(curve, [frame])[0]))
            return scaled_keys(curve, which, about, 1.0, percent / 100)

        change_chosen(self.session, "Scale keys in value", scale)
        self.refresh()

    def _on_first(self, frame: float) -> None:
        by = frame - float(self.session.keys.frames()[0])
        move_chosen(self.session, by)

    def _on_scale(self, percent: float) -> None:
        session, chosen, about = self.session, self.session.keys.by_channel, self.session.frame
        factor, before = percent / 100, session.curves

        def change(shot: Shot) -> Shot:
            return scale_keys(shot, session.figure_name, chosen, about, factor)

        if before is not None and session.do("Scale keys in time", change):
            session.keys.choose_there(scaled(before, chosen, about, factor))
        self.refresh()

    def _on_spread(self) -> None:
        spread_chosen(self.session)

    def _on_role(self, word: str) -> None:
        chosen, session = self.session.keys.by_channel, self.session
        session.do(f"Call it {word}", lambda shot: set_role(shot, session.figure_name, chosen, ROLES[word]))
        self.refresh()


def _set(curve: Curve, which: np.ndarray, value: float) -> Curve:
    values = curve.values.copy()
    values[which] = value
    return curve.changed(values=values)
