"""A row with words, a slider and a number: how much there is of something, from nothing to a most."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bovrin.desk.kit.favour_slider import FavourSlider
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import muted
from bovrin.shot import Unit

WORDS, NUMBER, PAST = 66, 66, 0.15


class AmountRow(QWidget):
    """`moved` while it is dragged, `taken` when it is let go or typed, `cancelled` when it is put back; all in its unit."""

    moved = pyqtSignal(float)
    taken = pyqtSignal(float)
    cancelled = pyqtSignal()

    def __init__(
        self, words: str, tip: str, unit: Unit, suffix: str, most: float, usual: float, wide: int = WORDS
    ) -> None:
        super().__init__()
        self.most = most
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        self.label = muted(words)
        self.label.setFixedWidth(wide)
        self.slider = FavourSlider(role="accent", past=PAST, neutral=usual / most)
        self.slider.setMinimumWidth(60)
        self.slider.setToolTip(f"{tip}. Ctrl: finely; double click: {usual:.1f} {suffix}")
        self.slider.setAccessibleName(words)
        self.field = NumberField(unit, suffix, words)
        self.field.setFixedWidth(NUMBER)
        self.field.setToolTip(tip)
        for widget in (self.label, self.slider, self.field):
            row.addWidget(widget)
        self.slider.moved.connect(self._on_moved)
        self.slider.released.connect(lambda: self.taken.emit(self.slider.favour * self.most))
        self.slider.cancelled.connect(self.cancelled)
        self.field.taken.connect(self.taken)

    def show_amount(self, amount: float) -> None:
        """Show an amount without telling anybody."""
        self.slider.set_favour(min(max(amount / self.most, -PAST), 1 + PAST))
        self.field.show_value(amount)

    def _on_moved(self, share: float) -> None:
        self.field.show_value(share * self.most)
        self.moved.emit(share * self.most)
