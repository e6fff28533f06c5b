"""Who travels, on the setup sheet: the hips, as the file has it, or the whole figure, way by way."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from bovrin.craft.pose.mirror_travel import travelling_hips
from bovrin.craft.recorded.travel import WAYS
from bovrin.desk.kit.widgets import muted
from bovrin.shot import Shot

TIPS = {
    "across": "To the sides, in the shot's directions",
    "up": "Up and down; leave it to the hips, and they bob over a figure that goes straight on",
    "forward": "Forward and backward, in the shot's directions",
    "turn": "Which way it faces",
}


class TravelRow(QWidget):
    """A line of ways that the whole figure can take over; with none chosen the travel stays in the hips."""

    def __init__(self, shot: Shot, figure: str) -> None:
        super().__init__()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(5)
        row.addWidget(muted("The hips travel. The whole figure takes over:"))
        self.buttons = {way: QPushButton(way) for way in WAYS}
        for way, button in self.buttons.items():
            button.setCheckable(True)
            button.setToolTip(TIPS[way])
            button.setAccessibleName(f"The whole figure takes over: {way}")
            row.addWidget(button)
        row.addStretch(1)
        takes = (shot.showing(take) for take in shot.all_takes)
        self.setVisible(any(travelling_hips(one, figure) is not None for one in takes))

    def ways(self) -> tuple[str, ...]:
        """What the whole figure takes over."""
        return tuple(way for way, button in self.buttons.items() if button.isChecked())
