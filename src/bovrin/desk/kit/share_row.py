"""A row with words, a slider and a number: one share."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QLabel, QSpinBox, QWidget

from bovrin.desk.kit.favour_slider import FavourSlider

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
        self.box = QSpinBox()
        self.box.setRange(round(-past * 100), round((1 + past) * 100))
        self.box.setSuffix(" %")
        self.box.setKeyboardTracking(False)
        self.box.setButtonSymbols(QSpinBox.ButtonSymbols.NoButtons)
        self.box.setFixedSize(NUMBER, 21)
        self.box.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.box.setAccessibleName(words)
        if tip:
            self.slider.setToolTip(tip)
            self.box.setToolTip(tip)
        for widget in (label, self.slider, self.box):
            row.addWidget(widget)
        self.slider.moved.connect(self._on_moved)
        self.slider.released.connect(lambda: self.taken.emit(self.slider.favour))
        self.slider.cancelled.connect(self.cancelled)
        self.box.valueChanged.connect(self._on_typed)

    def show_share(self, share: float) -> None:
        """Show a share without telling anybody."""
        self.slider.set_favour(share)
        self.box.blockSignals(True)
        self.box.setValue(round(share * 100))
        self.box.blockSignals(False)

    def _on_moved(self, share: float) -> None:
        self.show_share(share)
        self.moved.emit(share)

    def _on_typed(self, percent: int) -> None:
        self.slider.set_favour(percent / 100)
        self.taken.emit(percent / 100)
