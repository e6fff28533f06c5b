"""The thresholds of the proof: for each kind of note what it measures, and how much is a note."""

from __future__ import annotations

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QFrame, QGridLayout, QPushButton, QWidget

from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import muted, title
from bovrin.desk.state.looking.proofread import Proofread
from bovrin.measure.proof import KINDS, limit_of
from bovrin.shot import Unit

UNITS = {"cm": Unit.LENGTH, "degrees": Unit.ANGLE}


class ProofLimits(QFrame):
    """Opens over the middle of the window; a click elsewhere or Escape closes it. Each change is one undo step."""

    def __init__(self, proofread: Proofread, parent: QWidget) -> None:
        super().__init__(parent, Qt.WindowType.Popup)
        self.proofread = proofread
        self.setObjectName("Popover")
        self.setAccessibleName("Thresholds of the proof")
        grid = QGridLayout(self)
        grid.setContentsMargins(16, 12, 16, 12)
        grid.setVerticalSpacing(3)
        grid.setHorizontalSpacing(10)
        grid.addWidget(title("More than this is a note"), 0, 0, 1, 4)
        self.fields: dict[str, NumberField] = {}
        for row, kind in enumerate(KINDS.values(), 1):
            field = NumberField(Unit.SWITCH, "", f"{kind.title}: {kind.measure}")
            field.setFixedWidth(58)
            field.taken.connect(lambda value, name=kind.name: self._on_taken(name, value))
            field.refused.connect(proofread.session.voice.tell)
            self.fields[kind.name] = field
            grid.addWidget(muted(kind.title), row, 0)
            grid.addWidget(field, row, 1)
            grid.addWidget(muted(kind.unit), row, 2)
            grid.addWidget(muted(kind.measure), row, 3)
        self.usual = QPushButton("All as usual")
        self.usual.setToolTip("Let go of the shot's own thresholds")
        self.usual.clicked.connect(self._on_usual)
        grid.addWidget(self.usual, len(KINDS) + 1, 1, 1, 2)
        proofread.session.document.committed.connect(self._show_values)

    def open(self) -> None:
        """Show it."""
        self._show_values()
        self.adjustSize()
        window = self.parentWidget()
        assert window is not None
        self.move(
            window.mapToGlobal(
                QPoint((window.width() - self.width()) // 2, max(window.height() // 2 - self.height() // 2, 0))
            )
        )
        self.show()
        next(iter(self.fields.values())).setFocus()

    def _on_taken(self, kind: str, value: float) -> None:
        self.proofread.set_limit(kind, max(value, 0.0))
        self._show_values()

    def _on_usual(self) -> None:
        for kind, _limit in self.proofread.session.shot.limits:
            self.proofread.set_limit(kind, None)

    def _show_values(self) -> None:
        shot = self.proofread.session.shot
        for kind, field in self.fields.items():
            field.show_value(limit_of(shot, kind))
        self.usual.setEnabled(bool(shot.limits))
