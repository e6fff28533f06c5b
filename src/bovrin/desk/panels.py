"""The right column's smaller panels: what an edit keys, values by number, and stepped or splined."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QDoubleSpinBox, QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from bovrin.craft.keys import SCOPES
from bovrin.craft.splining import splined, stepped
from bovrin.desk.curve_rows import Row, rows_of
from bovrin.desk.session import Session
from bovrin.desk.widgets import Panel, Pills, muted, title
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Shot, Unit

SCOPE_TIPS = (
    "An edit keys the whole figure, so that no old pose leaks in",
    "An edit keys the part it belongs to",
    "An edit keys only the channels it changes",
)


class KeysPanel(Panel):
    """What an edit keys."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column.addWidget(title("Keys go on"))
        self.pills = Pills(list(SCOPES), session.set_scope, SCOPE_TIPS)
        self.column.addWidget(self.pills)
        session.look_changed.connect(self._on_scope_changed)
        self._on_scope_changed()

    def _on_scope_changed(self) -> None:
        self.pills.show_chosen(self.session.scope)


class ValuesPanel(Panel):
    """The chosen control's channels as numbers that can be typed."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column.addWidget(title("Values"))
        self.name = muted(wrap=True)
        self.column.addWidget(self.name)
        self._host = QWidget()
        self.grid = QGridLayout(self._host)
        self.grid.setContentsMargins(0, 0, 0, 0)
        self.grid.setVerticalSpacing(3)
        self.column.addWidget(self._host)
        self.column.addStretch(1)
        self.boxes: dict[int, QDoubleSpinBox] = {}
        self._rows: list[Row] = []
        session.choice_changed.connect(self._on_choice_changed)
        session.shot_changed.connect(self._on_values_changed)
        session.frame_changed.connect(self._on_values_changed)
        self._on_choice_changed()

    def _on_choice_changed(self) -> None:
        rows = rows_of(self.session)
        self._rows = [r for r in rows if r.control == rows[-1].control] if rows else []
        while self.grid.count():
            item = self.grid.takeAt(0)
            if item is not None and (widget := item.widget()) is not None:
                widget.deleteLater()
        self.boxes = {}
        self.name.setText(
            self._rows[0].control.capitalize() if self._rows else "Choose a control on the figure or its map."
        )
        for index, row in enumerate(self._rows):
            label = QLabel(row.words.split()[-1].capitalize())
            label.setToolTip(row.technical)
            self.grid.addWidget(label, index, 0)
            box = self._box(row)
            self.grid.addWidget(box, index, 1)
            self.boxes[row.channel] = box
        self._on_values_changed()

    def _box(self, row: Row) -> QDoubleSpinBox:
        box = QDoubleSpinBox()
        switch = row.unit is Unit.SWITCH
        box.setRange(0 if switch else -1e6, 1 if switch else 1e6)
        box.setDecimals(0 if switch else 1)
        box.setSingleStep(1.0)
        box.setButtonSymbols(QDoubleSpinBox.ButtonSymbols.NoButtons)
        box.setFixedWidth(96)
        box.setSuffix(f" {row.suffix}" if row.suffix == "cm" else row.suffix)
        box.setKeyboardTracking(False)
        box.setAlignment(Qt.AlignmentFlag.AlignRight)
        box.setAccessibleName(row.words)
        box.setToolTip(f"{row.control} {row.words}, technically {row.technical}. Default {row.default * row.factor:g}.")
        box.valueChanged.connect(lambda value, r=row: self._on_typed(r, value))
        return box

    def _on_typed(self, row: Row, value: float) -> None:
        self.session.edit(f"Set {row.control} {row.words.split()[-1]}", {row.channel: value / row.factor})

    def _on_values_changed(self) -> None:
        figure = self.session.figure
        if figure is None or not self.isVisible():
            return
        now = channel_values(self.session.seen_curves(figure.name), figure.rig, [self.session.frame])[0]
        for row in self._rows:
            box = self.boxes[row.channel]
            box.blockSignals(True)
            box.setValue(float(now[row.channel]) * row.factor)
            box.blockSignals(False)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._on_values_changed()


def whole_cast(change: Callable[[Shot, str], Shot]) -> Callable[[Shot], Shot]:
    """A change of one figure made to every figure of the shot."""

    def changed(shot: Shot) -> Shot:
        for figure in shot.cast:
            shot = change(shot, figure.name)
        return shot

    return changed


class SpanPanel(Panel):
    """Stepped or splined: the hold at the current frame, or the whole shot."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.column.addWidget(title("Held or eased"))
        for words, tip, on_step, on_spline in (
            ("Whole shot", "every pose of the whole cast", self.step_all, self.spline_all),
            ("This span", "the span from this pose to the next", self.step_span, self.spline_span),
        ):
            host = QWidget()
            row = QHBoxLayout(host)
            row.setContentsMargins(0, 0, 0, 0)
            label = QLabel(words)
            label.setFixedWidth(84)
            row.addWidget(label)
            for name, action, verb in (("Stepped", on_step, "Let hold"), ("Splined", on_spline, "Let ease")):
                button = QPushButton(name)
                button.setToolTip(f"{verb}: {tip}")
                button.clicked.connect(lambda _checked, run=action: run())
                row.addWidget(button)
            row.addStretch(1)
            self.column.addWidget(host)

    def _span(self) -> tuple[float, float | None] | None:
        poses = self.session.poses
        start = poses.held_at(self.session.frame)
        if start is None:
            self.session.tell("There is no pose at or before this frame. Make a key pose first.")
            return None
        return start, poses.after(start)

    def step_all(self) -> None:
        """Every pose holds until the next."""
        self.session.do("Stepped: whole shot", whole_cast(stepped))

    def spline_all(self) -> None:
        """Every pose eases into the next."""
        self.session.do("Splined: whole shot", whole_cast(splined))

    def step_span(self) -> None:
        """The pose here holds until the next."""
        if (span := self._span()) is not None:
            self.session.do("Stepped: this span", lambda shot: stepped(shot, self.session.figure_name, *span))

    def spline_span(self) -> None:
        """The pose here eases into the next."""
        if (span := self._span()) is not None:
            self.session.do("Splined: this span", lambda shot: splined(shot, self.session.figure_name, *span))
