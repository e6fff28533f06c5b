"""The motion shelf: lanes of clips, and under them when feet are down."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bovrin.desk.kit.timescale import TimeScale
from bovrin.desk.shelf.foot_rows import FootRows
from bovrin.desk.shelf.lane_rows import LaneRows
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures


class MotionShelf(QWidget):
    """What lies under the stage in the Cycle pass."""

    def __init__(
        self, session: Session, scale: TimeScale, pictures: CardPictures, run: Callable[[str], object]
    ) -> None:
        super().__init__()
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 4, 0, 0)
        column.setSpacing(2)
        self.lanes = LaneRows(session, scale, pictures, run)
        self.feet = FootRows(session, scale)
        column.addWidget(self.lanes)
        column.addWidget(self.feet, 1)
