"""What lies under the stage: the pose strip, and in passes with curves the curves below it."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.passes.registry import on_desk
from bovrin.desk.shelf.shelf import MotionShelf
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.desk.state.player import Player
from bovrin.desk.strip.layout import RULER
from bovrin.desk.strip.strip import PoseStrip
from bovrin.desk.transport import Transport

if TYPE_CHECKING:
    from bovrin.desk.curves.area import CurveArea

Seen = tuple[float, float, tuple[float, float] | None]
"""First frame, pixels of a frame, and the plot units in sight."""


class Bottom(QWidget):
    """A panel that changes with the pass."""

    def __init__(self, session: Session, player: Player, pictures: CardPictures, run: Callable[[str], object]) -> None:
        super().__init__()
        self.setObjectName("Panel")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)
        self.session, self._pictures, self._run = session, pictures, run
        self.scale = TimeScale()
        self.strip = PoseStrip(session, self.scale, pictures, run)
        self.transport = Transport(session, player, self.strip)
        self.transport.setGeometry(8, 0, GUTTER - 16, RULER + 2)
        self._curves: CurveArea | None = None
        self._shelf: MotionShelf | None = None
        self._seen: dict[str, Seen] = {}
        self._pass = session.pass_
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(1, 4, 1, 4)
        self._column.setSpacing(0)
        self._column.addWidget(self.strip, 1)
        session.pass_changed.connect(self._on_pass_changed)
        self._on_pass_changed()

    @property
    def curves(self) -> CurveArea:
        """The curves, made when they are first needed."""
        if self._curves is None:
            from bovrin.desk.curves.area import CurveArea  # noqa: PLC0415 - kept out of the window's start

            self._curves = CurveArea(self.session, self.scale, self._run)
            self._column.addWidget(self._curves, 1)
            self._curves.hide()
        return self._curves

    @property
    def made_curves(self) -> CurveArea | None:
        """The curves, if they were needed yet."""
        return self._curves

    @property
    def shelf(self) -> MotionShelf:
        """The motion shelf, made when it is first needed."""
        if self._shelf is None:
            self._shelf = MotionShelf(self.session, self.scale, self._pictures, self._run)
            self._column.addWidget(self._shelf, 1)
            self._shelf.hide()
        return self._shelf

    def _on_pass_changed(self) -> None:
        """Other things under the stage; what each pass looked at is kept for when one comes back."""
        scale, curves, shelf = self.scale, on_desk(self.session.pass_).curves, on_desk(self.session.pass_).shelf
        values = None if self._curves is None else self._curves.seen_values()
        self._seen[self._pass.name] = (scale.first, scale.per_frame, values)
        self._pass = self.session.pass_
        self.strip.set_slim(curves or shelf)
        if curves or self._curves is not None:
            self.curves.setVisible(curves)
        if shelf or self._shelf is not None:
            self.shelf.setVisible(shelf)
        seen = self._seen.get(self._pass.name)
        if seen is not None:
            scale.see(*seen[:2])
        if curves and seen is not None and seen[2] is not None:
            self.curves.see_values(seen[2])
        elif curves:
            self.curves.fit()
