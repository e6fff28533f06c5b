"""How many frames each pose holds and each move takes, as a bar under the cards."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter

from bovrin.desk.kit.look import CENTRE, Look, number_font
from bovrin.desk.kit.timescale import TimeScale
from bovrin.desk.state.document.session import Session
from bovrin.desk.strip.waiting import timing_waits
from bovrin.figure.staging import HangsOn, hangs_on
from bovrin.measure.holds import Stretch, holds_and_moves, share_held
from bovrin.shot import Shot

HEIGHT = 14
MANY = 300_000
"""Keys of a figure from which the row is measured aside."""
Key = tuple[HangsOn, str | None, float, float]


class HoldsRow:
    """Holds are hollow, moves are filled; the numbers are frames."""

    def __init__(self, session: Session, scale: TimeScale, on_ready: Callable[[], object]) -> None:
        self.session, self.scale, self._on_ready = session, scale, on_ready
        self._kept: tuple[Key, list[Stretch]] | None = None
        self._asked: Key | None = None

    def stretches(self, part: str | None) -> list[Stretch]:
        """The range as holds and moves. While a pose is dragged, or anything in a very long shot, those there were."""
        session = self.session
        if session.figure is None:
            return []
        if timing_waits(session) and self._kept is not None:
            return self._kept[1]
        shot: Shot = session.shown
        key = (hangs_on(shot, session.figure_name), part, shot.first, shot.last)
        if self._kept is None or self._kept[0] != key:
            name, parts = session.figure_name, None if part is None else [part]
            if sum(map(len, key[0][0].curves)) > MANY:
                self._measure_aside(key, lambda: holds_and_moves(shot, name, parts))
                return []
            self._kept = (key, holds_and_moves(shot, name, parts))
        return self._kept[1]

    def _measure_aside(self, key: Key, work: Callable[[], list[Stretch]]) -> None:
        """Measure very long motions beside the window; the row is empty until then."""
        if self._asked == key:
            return
        self._asked = key

        def done(found: list[Stretch]) -> None:
            self._kept, self._asked = (key, found), None
            self._on_ready()

        self.session.background.latest("holds", work, done)

    def words(self, part: str | None) -> str:
        """The share of frames that are held."""
        found = self.stretches(part)
        return f"Held {share_held(found):.0%}" if found else ""

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
