"""The curves under the stage: the row of handle kinds, the curve desk, and the speed strip when it is asked for."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bovrin.desk.curves.desk import CurveDesk
from bovrin.desk.curves.handle_row import HandleRow
from bovrin.desk.curves.speed_strip import SpeedStrip
from bovrin.desk.kit.timescale import TimeScale
from bovrin.desk.state.choosing.channel_rows import Row
from bovrin.desk.state.document.session import Session


class CurveArea(QWidget):
    """What commands ask of the curves they ask here."""

    def __init__(self, session: Session, scale: TimeScale, run: Callable[[str], object]) -> None:
        super().__init__()
        self.desk = CurveDesk(session, scale, run)
        self.handles = HandleRow(session, self.desk)
        self.speed = SpeedStrip(session, scale, self.desk)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.handles)
        column.addWidget(self.desk, 1)
        column.addWidget(self.speed)
        self.speed.hide()
        self.handles.speed_toggled.connect(self.speed.setVisible)

    def in_sight(self) -> bool:
        """Whether curves are seen."""
        return self.isVisible()

    def has_keyboard(self) -> bool:
        """Whether keys go to the curves."""
        return self.isVisible() and self.desk.hasFocus()

    def under_pointer(self) -> bool:
        """Whether the pointer is over the curves."""
        return self.isVisible() and self.desk.underMouse()

    def fit(self) -> None:
        """Fit the chosen keys, again all curves."""
        self.desk.plot.fit()

    def picked_channels(self) -> list[int]:
        """The channels that are picked in the list."""
        return sorted(self.desk.plot.list.picked)

    def listed_rows(self) -> list[Row]:
        """The channels that are listed."""
        return self.desk.plot.rows()

    def drawn_rows(self) -> list[Row]:
        """The channels whose curves are drawn."""
        return self.desk.plot.shown_rows()

    def toggle_still(self) -> None:
        """List only channels that change, or all again."""
        self.desk.plot.list.set_listing(hides_still=not self.desk.plot.list.hides_still)

    def toggle_one_height(self) -> None:
        """All curves at one height, or each at its own."""
        self.handles.height_pill.click()

    def toggle_speed(self) -> None:
        """Show or hide the speed strip."""
        self.handles.speed.click()

    def seen_values(self) -> tuple[float, float]:
        """The plot units in sight, to come back to."""
        return self.desk.plot.low, self.desk.plot.high

    def see_values(self, seen: tuple[float, float]) -> None:
        """Look at these plot units again."""
        self.desk.plot.look(*seen)
