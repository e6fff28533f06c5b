"""A row with words, a slider and a number: one share."""

from __future__ import annotations

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QWidget

from bovrin.desk.kit.favour_slider import FavourSlider
from bovrin.desk.kit.number_field import NumberField
from bovrin.shot import Unit

WORDS, NUMBER = 84, 54


class ShareRow(QWidget):
    """`moved` while it is dragged, `taken` when it is let go or typed, `cancelled` when it is put back."""

    moved = pyqtSignal(float)
    taken = pyqtSignal(float)
    cancelled = pyqtSignal()

    def __init__(self, words: str, tip: str = "", *, role: str = "accent", past: float = 0.0) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(6)
        label = QLabel(words)
        label.setFixedWidth(WORDS)
        self.slider = FavourSlider(role=role, past=past)
        self.past = past
        self.box = NumberField(Unit.AMOUNT, "%", words)
        self.box.setFixedSize(NUMBER, 21)
        if tip:
            self.slider.setToolTip(tip)
            self.box.setToolTip(tip)
        for widget in (label, self.slider, self.box):
            row.addWidget(widget)
        self.slider.moved.connect(self._on_moved)
        self.slider.released.connect(lambda: self.taken.emit(self.slider.favour))
        self.slider.cancelled.connect(self.cancelled)
        self.box.taken.connect(self._on_typed)

    def show_share(self, share: float) -> None:
        """Show a share without telling anybody."""
        self.slider.set_favour(share)
        self.box.show_value(share * 100)

    def _on_moved(self, share: float) -> None:
        self.show_share(share)
        self.moved.emit(share)

    def _on_typed(self, percent: float) -> None:
        share = min(max(percent / 100, -self.past), 1 + self.past)
        self.show_share(share)
        self.taken.emit(share)
