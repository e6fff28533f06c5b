"""What is done to chosen keys by number: where they are, how far apart, and what they are called."""

from __future__ import annotations

from PyQt6.QtWidgets import QGridLayout, QLabel, QPushButton, QWidget

from bovrin.craft.key_sets import scale_keys, scaled, set_role
from bovrin.desk.number_field import NumberField
from bovrin.desk.session import Session
from bovrin.desk.timing_commands import move_chosen, spread_chosen
from bovrin.desk.widgets import Panel, Pills, muted
from bovrin.shot import KeyRole, Unit

ROLES = {"key pose": KeyRole.KEY_POSE, "breakdown": KeyRole.BREAKDOWN, "in-between": KeyRole.IN_BETWEEN}


class ChosenKeysPanel(Panel):
    """Seen while keys are chosen on the strip or the curve desk, but not just the card one is on."""

    def __init__(self, session: Session) -> None:
        super().__init__(title="Chosen keys")
        self.session = session
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
        for column, (words, field) in enumerate((("First on", self.first), ("Scale to", self.scale))):
            grid.addWidget(QLabel(words), 0, 2 * column)
            grid.addWidget(field, 0, 2 * column + 1)
        self.column.addWidget(host)
        tips = ["A pose that tells the story (circle)", "A pose on the way (triangle)", "Anything between (tick)"]
        self.roles = Pills(list(ROLES), self._on_role, tips)
        self.column.addWidget(self.roles)
        self.column.addWidget(self.spread)
        session.keys.changed.connect(self._on_keys_changed)
        session.committed.connect(self._on_keys_changed)
        session.frame_changed.connect(self._on_keys_changed)
        self._on_keys_changed()

    def _field(self, unit: Unit, suffix: str, name: str, taken) -> NumberField:  # type: ignore[no-untyped-def]
        field = NumberField(unit, suffix, name)
        field.setFixedWidth(66)
        field.taken.connect(taken)
        field.refused.connect(self.session.tell)
        return field

    def _on_keys_changed(self) -> None:
        keys = self.session.keys
        curves = self.session.curves
        seen = bool(keys) and curves is not None and keys.cards() != {self.session.frame}
        self.setVisible(seen)
        if not seen or curves is None:
            return
        frames = keys.frames()
        count = len(keys)
        where = f"frame {frames[0]:g}" if len(frames) == 1 else f"{len(frames)} frames, {frames[0]:g} to {frames[-1]:g}"
        self.words.setText(f"{count} key{'s' if count != 1 else ''} on {where}")
        self.first.show_value(float(frames[0]))
        self.scale.show_value(100.0)
        self.spread.setEnabled(len(frames) > 2)
        found = {
            int(curves[i].role[at])
            for i, own in keys.by_channel.items()
            for frame in own
            if (at := curves[i].index_at(float(frame))) is not None
        }
        one = found.pop() if len(found) == 1 else None
        self.roles.show_chosen(next((w for w, r in ROLES.items() if r == one), ""))

    def _on_first(self, frame: float) -> None:
        by = frame - float(self.session.keys.frames()[0])
        move_chosen(self.session, by)

    def _on_scale(self, percent: float) -> None:
        session, chosen, about = self.session, self.session.keys.by_channel, self.session.frame
        factor = percent / 100
        if session.do("Scale keys in time", lambda s: scale_keys(s, session.figure_name, chosen, about, factor)):
            session.keys.choose(scaled(chosen, about, factor))
        self._on_keys_changed()

    def _on_spread(self) -> None:
        spread_chosen(self.session)

    def _on_role(self, word: str) -> None:
        chosen, session = self.session.keys.by_channel, self.session
        session.do(f"Call it {word}", lambda shot: set_role(shot, session.figure_name, chosen, ROLES[word]))
        self._on_keys_changed()
