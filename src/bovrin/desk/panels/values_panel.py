"""The chosen controls' channels as numbers that can be typed, their rotation order and its gauge."""

from __future__ import annotations

import numpy as np
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QComboBox, QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from bovrin.craft.curves.rotation import ORDERS, WARN, alignment, calmest_order, lined_up_axes
from bovrin.desk.commands.posing import change_order, switch_mode
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import Panel, muted
from bovrin.desk.state.choosing.channel_rows import Row, rows_of
from bovrin.desk.state.document.editing import edit
from bovrin.desk.state.document.session import Session
from bovrin.figure.solve.plan import columns
from bovrin.shot import ChannelRole, Unit


class ValuesPanel(Panel):
    """Typing sets the channel of every chosen control that has one of that name."""

    def __init__(self, session: Session) -> None:
        super().__init__(title="Values")
        self.session = session
        self.name = muted()
        self.head.addWidget(self.name)
        self.empty = muted("Choose a control on the figure or its map.", wrap=True)
        self.column.addWidget(self.empty)
        self._host = QWidget()
        self.grid = QGridLayout(self._host)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setVerticalSpacing(3)
        self.column.addWidget(self._host)
        self.order = QComboBox()
        self.order.addItems(ORDERS)
        self.order.setFixedWidth(96)
        self.order.setToolTip("Rotation order: which axis turns first. The motion stays when it is changed.")
        self.order.activated.connect(lambda _index: self._on_order(self.order.currentText()))
        self.gauge = muted(wrap=True)
        self.better = QPushButton()
        self.better.setToolTip("Change to the order whose axes are farthest from lining up here; the motion stays")
        self.better.clicked.connect(lambda: self._on_order(self.better.text().split()[-1]))
        self._order_row = self._row(QLabel("Order"), self.order)
        self._gauge_row = self._row(self.gauge, self.better)
        for row in (self._order_row, self._gauge_row):
            self.column.addWidget(row)
        self.boxes: dict[int, NumberField] = {}
        self.switches: dict[int, QPushButton] = {}
        self._rows: list[Row] = []
        session.choice.changed.connect(self._on_choice_changed)
        session.document.changed.connect(self._on_values_changed)
        session.document.frame_changed.connect(self._on_values_changed)
        self._on_choice_changed()

    @staticmethod
    def _row(first: QWidget, second: QWidget) -> QWidget:
        host = QWidget()
        line = QHBoxLayout(host)
        line.setContentsMargins(0, 2, 0, 0)
        line.addWidget(first, 1)
        line.addWidget(second)
        return host

    def _on_choice_changed(self) -> None:
        rows = rows_of(self.session)
        self._rows = [r for r in rows if r.control == rows[-1].control] if rows else []
        while self.grid.count():
            item = self.grid.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.hide()
                widget.deleteLater()
        self.boxes, self.switches = {}, {}
        count = len(self.session.controls)
        more = f", and {count - 1} more" if count > 1 else ""
        self.name.setText(self._rows[0].control.capitalize() + more if self._rows else "")
        self.empty.setVisible(not self._rows)
        for row, (line, column) in zip(self._rows, _cells(self._rows), strict=True):
            label = QLabel(_channel(row).capitalize())
            label.setToolTip(row.technical)
            long = len(_channel(row)) > SHORT
            self.grid.addWidget(label, line, 2 * column, 1, 3 if long else 1)
            field = self._switch(row) if row.unit is Unit.SWITCH else self._box(row)
            self.grid.addWidget(field, line, 3 if long else 2 * column + 1)
        self._on_values_changed()

    def _box(self, row: Row) -> NumberField:
        box = NumberField(row.unit, row.suffix, row.words)
        rest = f"{row.default * row.factor:g}"
        words = f"{row.control} {_channel(row)}, technically {row.technical}. Default {rest}."
        box.setToolTip(f"{words} Sums and units can be typed.")
        box.taken.connect(lambda value, r=row: self._on_typed(r, value / r.factor))
        box.refused.connect(self.session.voice.tell)
        box.setFixedWidth(FIELD)
        self.boxes[row.channel] = box
        return box

    def _switch(self, row: Row) -> QPushButton:
        button = QPushButton()
        button.setCheckable(True)
        button.setFixedWidth(FIELD)
        button.setAccessibleName(row.words)
        tips: dict[str, str] = {
            ChannelRole.REACH: "Posed by its end, in reach (IK; on), or by its joints (FK; off); it does not jump (J)",
            ChannelRole.ANCHOR: "Anchored: it stays where it is (pinned) while the body moves (R)",
        }
        button.setToolTip(tips.get(row.technical, row.technical))
        button.clicked.connect(lambda on, r=row: self._on_switched(r, on=on))
        self.switches[row.channel] = button
        return button

    def _on_switched(self, row: Row, *, on: bool) -> None:
        if row.technical == ChannelRole.REACH:
            switch_mode(self.session)
        else:
            self._on_typed(row, float(on))

    def _on_typed(self, row: Row, value: float) -> None:
        figure = self.session.figure
        assert figure is not None
        same = {
            i: value
            for c in self.session.controls
            for i, channel in zip(figure.rig.span(c), figure.rig.controls[c].channels, strict=True)
            if channel.name == _channel(row)
        }
        edit(self.session, f"Set {row.control} {_channel(row)}", same)

    def _on_order(self, order: str) -> None:
        change_order(self.session, self._rows[0].control, order)
        self._on_values_changed()

    def _on_values_changed(self) -> None:
        figure = self.session.figure
        if figure is None or not self.isVisible():
            return
        now = self.session.stance().values
        for row in self._rows:
            if row.channel in self.boxes:
                self.boxes[row.channel].show_value(float(now[row.channel]) * row.factor)
            else:
                on = bool(now[row.channel] >= 0.5)
                self.switches[row.channel].setChecked(on)
                self.switches[row.channel].setText("on" if on else "off")
        self._show_gauge(now)

    def _show_gauge(self, now: np.ndarray) -> None:
        figure = self.session.figure
        control = self.session.controls[-1] if self._rows and self.session.controls else -1
        turning = figure is not None and control >= 0 and min(columns(figure.rig, control, "rotate")) >= 0
        self._order_row.setVisible(turning)
        self._gauge_row.hide()
        if not turning or figure is None:
            return
        self.order.setCurrentText(figure.rig.controls[control].order)
        share = alignment(figure.rig, control, now)
        if share > WARN:
            first, last = lined_up_axes(figure.rig, control)
            self.gauge.setText(f"{first.capitalize()} and {last} nearly line up ({share:.0%}).")
            self.better.setText(f"Use {calmest_order(figure.rig, control, now)}")
            self._gauge_row.show()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._on_values_changed()


FIELD = 76
SHORT = 8
"""Letters of a channel's word with which two fit side by side."""


def _cells(rows: list[Row]) -> list[tuple[int, int]]:
    """Line and column of each channel: moves to the left, turns to the right, others below; long words have a line alone."""
    filled = [0, 0]
    cells = []
    for row in rows:
        if len(_channel(row)) > SHORT:
            line, column = max(filled), 0
            filled = [line + 1, line + 1]
        elif row.technical.startswith(("translate", "rotate")):
            column = int(row.technical.startswith("rotate"))
            line = filled[column]
            filled[column] += 1
        else:
            column = int(filled[1] < filled[0])
            line = filled[column]
            filled[column] += 1
        cells.append((line, column))
    return cells


def _channel(row: Row) -> str:
    return row.words.removeprefix(f"{row.control} ")
