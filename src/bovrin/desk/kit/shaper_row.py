"""A row with a slider that rests in the middle, or at its left, words at its ends, and a number: an amount that is used up."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bovrin.desk.kit.favour_slider import FavourSlider
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import muted
from bovrin.shot import Unit

WORDS, NUMBER, PAST = 50, 46, 0.2


class ShaperRow(QWidget):
    """`moved` while it is dragged and `let_go` after, with a share from -1 to 1 and a little past both; from 0 to 1 where there
    are no words at its left; `typed` with a number; `cancelled` when it is put back."""

    moved = pyqtSignal(float)
    let_go = pyqtSignal(float)
    typed = pyqtSignal(float)
    cancelled = pyqtSignal()

    def __init__(self, ends: tuple[str, str], tip: str, suffix: str = "%") -> None:
        super().__init__()
        self.one_sided = not ends[0]
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        left, right = (muted(words) for words in ends)
        left.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        left.setFixedWidth(WORDS)
        right.setFixedWidth(WORDS + 14)
        neutral, past = (0.0, 0.0) if self.one_sided else (0.5, PAST)
        self.slider = FavourSlider(role="accent", past=past, neutral=neutral)
        self.slider.setMinimumWidth(60)
        self.slider.setToolTip(f"{tip}. Ctrl: finely; double click: nothing")
        self.slider.setAccessibleName(ends[1])
        self.field = NumberField(Unit.AMOUNT if suffix == "%" else Unit.SWITCH, suffix, ends[1])
        self.field.setFixedWidth(NUMBER)
        self.field.setToolTip(tip)
        for widget in (right, self.slider, self.field) if self.one_sided else (left, self.slider, right, self.field):
            row.addWidget(widget)
        self.slider.moved.connect(lambda _favour: self.moved.emit(self.share()))
        self.slider.released.connect(lambda: self.let_go.emit(self.share()))
        self.slider.cancelled.connect(self.cancelled)
        self.field.taken.connect(self.typed)
        self.rest()

    def share(self) -> float:
        """Where the slider is."""
        favour = self.slider.favour
        return favour if self.one_sided else 2 * favour - 1

    def rest(self) -> None:
        """Back to where nothing is done."""
        self.slider.set_favour(self.slider.neutral)
        self.field.show_value(0.0)
