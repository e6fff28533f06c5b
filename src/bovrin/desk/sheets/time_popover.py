"""Range and speed in one small sheet: frame rate, range, second range, how playing goes on."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QLabel, QPushButton, QWidget

from bovrin.craft.ranges import add_in_front, fit_to_keys, set_range, set_rate, set_second
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import Pills, muted, title
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.player import MODES, Player
from bovrin.shot import Shot, Unit

RATES = ("12", "24", "25", "30", "48", "60")


class TimePopover(QFrame):
    """Opens above the state line, closes with a click elsewhere or Escape."""

    def __init__(self, session: Session, player: Player, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.session, self.player = session, player
        self.setObjectName("Popover")
        self.setAccessibleName("Range and speed")
        grid = QGridLayout(self)
        grid.setContentsMargins(14, 12, 14, 12)
        grid.setVerticalSpacing(7)
        grid.addWidget(title("Range and speed"), 0, 0, 1, 4)
        self.rate = self._field("frames a second", self._on_rate)
        self.rates = Pills(RATES, lambda word: self._on_rate(float(word)), ["Frames a second"] * len(RATES))
        self._add_row(grid, 1, "Frames a second", self.rate, self.rates)
        self.first = self._field("first frame", lambda v: self._do("Range", lambda s: set_range(s, v, s.last)))
        self.last = self._field("last frame", lambda v: self._do("Range", lambda s: set_range(s, s.first, v)))
        self.length = muted()
        self.loops = self._button(
            "goes round", "The end of this take goes on at its beginning; files say so", self._on_loops
        )
        self.loops.setCheckable(True)
        self._add_row(grid, 2, "Range", self.first, QLabel("to"), self.last, self.length, self.loops)
        fit = self._button("To the keys", "First key to last key", lambda: self._do("Range to the keys", fit_to_keys))
        front = self._button("12 more in front", "Frames before the first one; keys keep their numbers", self._on_front)
        self._add_row(grid, 3, "", fit, front)
        self.second_first = self._field("second range's first frame", lambda v: self._on_second(v, None))
        self.second_last = self._field("second range's last frame", lambda v: self._on_second(None, v))
        self.clear = self._button(
            "None", "Forget the second range", lambda: self._do("No second range", lambda s: set_second(s, None))
        )
        self._add_row(grid, 4, "Second range", self.second_first, QLabel("to"), self.second_last, self.clear)
        self.modes = Pills(list(MODES), player.set_mode, [f"Playing goes {words}" for words in MODES.values()])
        self._add_row(grid, 5, "Play", self.modes)
        self.which = Pills(
            ["whole range", "second range"],
            self._on_which,
            ["From the first to the last frame", "Only the frames kept aside"],
        )
        self._add_row(grid, 6, "", self.which)
        session.document.changed.connect(self._show_values)
        player.changed.connect(self._show_values)
        self._show_values()

    @staticmethod
    def _add_row(grid: QGridLayout, row: int, words: str, *widgets: QWidget) -> None:
        grid.addWidget(muted(words), row, 0)
        line = QHBoxLayout()
        line.setSpacing(6)
        for widget in widgets:
            line.addWidget(widget)
        line.addStretch(1)
        grid.addLayout(line, row, 1)

    def _field(self, name: str, taken: Callable[[float], object]) -> NumberField:
        field = NumberField(Unit.SWITCH, "", name)
        field.setFixedWidth(58)
        field.taken.connect(taken)
        field.refused.connect(self.session.voice.tell)
        return field

    def _button(self, words: str, tip: str, run: Callable[[], object]) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(tip)
        button.clicked.connect(lambda _checked: run())
        return button

    def _do(self, words: str, change: Callable[[Shot], Shot]) -> None:
        self.session.do(words, change)
        self.session.go_to(self.session.frame)

    def _on_rate(self, rate: float) -> None:
        self._do("Frames a second", lambda shot: set_rate(shot, rate))

    def _on_loops(self) -> None:
        self._do("Goes round", lambda shot: replace(shot, loops=not shot.loops))

    def _on_front(self) -> None:
        self._do("Frames in front", lambda shot: add_in_front(shot, 12))

    def _on_second(self, first: float | None, last: float | None) -> None:
        def change(shot: Shot) -> Shot:
            a, b = shot.second or (shot.first, shot.last)
            return set_second(shot, (a if first is None else first, b if last is None else last))

        self._do("Second range", change)

    def _on_which(self, word: str) -> None:
        if (word == "second range") != self.player.second:
            self.player.toggle_second()
        self._show_values()

    def _show_values(self) -> None:
        shot = self.session.shown
        self.rate.show_value(shot.frame_rate)
        self.rates.show_chosen(f"{shot.frame_rate:g}")
        self.first.show_value(shot.first)
        self.last.show_value(shot.last)
        frames = shot.last - shot.first + 1
        self.length.setText(f"{frames:g} frames · {frames / shot.frame_rate:.2f} s")
        self.loops.setChecked(shot.loops)
        self.clear.setEnabled(shot.second is not None)
        for field, value in zip((self.second_first, self.second_last), shot.second or (None, None), strict=True):
            if value is None:
                field.show_none()
            else:
                field.show_value(value)
        self.modes.show_chosen(self.player.mode)
        self.which.show_chosen("second range" if self.player.second else "whole range")

    def open_over(self, widget: QWidget) -> None:
        """Show the sheet above a widget, its right edges in line."""
        self.adjustSize()
        corner = widget.mapToGlobal(QPoint(widget.width() - self.width(), -self.height() - 4))
        self.move(corner)
        self.show()
        self.first.setFocus()
