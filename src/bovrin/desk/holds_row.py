"""How many frames each pose holds and each move takes, as a bar under the cards."""

from __future__ import annotations

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from bovrin.desk.look import CENTRE, Look, number_font
from bovrin.desk.session import Session
from bovrin.desk.timescale import TimeScale
from bovrin.measure.holds import Stretch, holds_and_moves, share_held
from bovrin.shot import CurveSet, Shot

HEIGHT = 14


class HoldsRow:
    """Holds are hollow, moves are filled; the numbers are frames."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        self.session, self.scale = session, scale
        self._kept: tuple[tuple[CurveSet, str | None, float, float], list[Stretch]] | None = None

    def stretches(self, part: str | None) -> list[Stretch]:
        """The range as holds and moves. While something is dragged in a very long shot, those there were."""
        session = self.session
        if session.figure is None:
            return []
        if session.drags_in_a_long_shot() and self._kept is not None:
            return self._kept[1]
        shot: Shot = session.shown
        key = (shot.take.curves[session.figure_name], part, shot.first, shot.last)
        if self._kept is None or any(a is not b and a != b for a, b in zip(self._kept[0], key, strict=True)):
            self._kept = (key, holds_and_moves(shot, session.figure_name, None if part is None else [part]))
        return self._kept[1]

    def words(self, part: str | None) -> str:
        """The share of frames that are held."""
        return f"Held {share_held(self.stretches(part)):.0%}"

    def paint(self, painter: QPainter, stretches: list[Stretch], top: float, width: float) -> None:
        """Every stretch in sight."""
        painter.setFont(number_font(9))
        for one in stretches:
            left, right = self.scale.x(one.start), self.scale.x(one.start + one.frames)
            if right < 0 or left > width:
                continue
            rect = QRectF(left, top + 1, right - left - 2, HEIGHT - 2)
            painter.setPen(Qt.PenStyle.NoPen if one.moving else Look.pen("hairline"))
            painter.setBrush(Look.colour("accent_wash") if one.moving else Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(rect, 3, 3)
            if rect.width() > 15:
                painter.setPen(Look.pen("ink" if one.moving else "muted"))
                painter.drawText(rect, CENTRE, f"{one.frames}")
