"""The light table's settings."""

from __future__ import annotations

from dataclasses import replace

from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSpinBox, QWidget

from bovrin.desk.kit.widgets import Panel, Pills, Toggles
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.light_table import KINDS, MOST, RANGE


class LightPanel(Panel):
    """Poses, frames or a range, how many before and after, lined up or not."""

    def __init__(self, session: Session) -> None:
        super().__init__(title="Light table")
        self.session = session
        row = QHBoxLayout()
        self.kind = Pills(list(KINDS), self._on_kind, list(KINDS.values()))
        row.addWidget(self.kind)
        tip = "Lay every drawing so that the chosen part covers itself; with nothing chosen the hips"
        self.lined_up = Toggles({"lined up": "lined"}, self._on_lined_up, lambda _command: tip)
        row.addWidget(self.lined_up)
        row.addStretch(1)
        self.column.addLayout(row)
        self._counts = QWidget()
        counts = QHBoxLayout(self._counts)
        counts.setContentsMargins(0, 0, 0, 0)
        self.before, self.after = self._count("before"), self._count("after")
        for words, box in (("Before", self.before), ("After", self.after)):
            counts.addWidget(QLabel(words))
            counts.addWidget(box)
        counts.addStretch(1)
        self.column.addWidget(self._counts)
        session.looking_changed.connect(self._on_look_changed)
        self._on_look_changed()

    def _count(self, which: str) -> QSpinBox:
        box = QSpinBox()
        box.setRange(0, MOST)
        box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        box.setFixedWidth(40)
        box.setAccessibleName(f"drawings {which}")
        box.setToolTip(f"How many drawings {which} this frame, 0 to {MOST}")
        box.valueChanged.connect(lambda value: self._change(**{which: value}))
        return box

    def _change(self, **changes: object) -> None:
        self.session.change_looking(light_table=replace(self.session.looking.light_table, **changes))  # type: ignore[arg-type]

    def _on_kind(self, word: str) -> None:
        self._change(kind=word)

    def _on_lined_up(self, _command: str) -> None:
        self._change(lined_up=not self.session.looking.light_table.lined_up)

    def _on_look_changed(self) -> None:
        table = self.session.looking.light_table
        self.kind.show_chosen(table.kind)
        self._counts.setVisible(table.kind != RANGE)
        self.lined_up.show_on("lined up", on=table.lined_up)
        for box, value in ((self.before, table.before), (self.after, table.after)):
            box.blockSignals(True)
            box.setValue(value)
            box.blockSignals(False)
