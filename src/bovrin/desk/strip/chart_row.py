"""The timing chart under the cards: the animator's ladder between two poses, whose rungs show and set the spacing."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPen

from bovrin.craft.between.chart import chart, is_stepped, set_chart
from bovrin.craft.between.ladder import Ladder
from bovrin.craft.keying.keys import pose_channels, whole_poses_of
from bovrin.craft.keying.lag import belonging, lags_at
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.marks import draw_mark
from bovrin.desk.kit.timescale import TimeScale
from bovrin.desk.state.document.session import Session
from bovrin.desk.strip.dense import NEAR, is_recorded
from bovrin.desk.strip.waiting import timing_waits
from bovrin.shot import CurveSet, Figure, KeyRole, Shot

Floats = NDArray[np.float64]

HEIGHT = 24.0
GRAB = 6.0
MOST_RUNGS = 400
MOST_LATE = 60
"""Poses in sight up to which lags are shown."""
LATE = 0.05
SIDE_ROLES = {"left": "left", "right": "right", "body": "ink"}
NARROWEST = 30.0
"""Pixels below which a span has no ladder."""


Span = tuple[float, float, tuple[float, ...], bool]
"""Start and end of a ladder, the frames of its drawings, and whether they hold."""


def _is_drawn(span: Span) -> bool:
    """Whether there is room for a rung, on whole frames; nobody reads a ladder of hundreds, as recorded motion would have."""
    start, end = span[:2]
    return 2 <= end - start <= MOST_RUNGS and start == round(start) and end == round(end)


def lags_in_sight(figure: Figure, curves: CurveSet, low: float, high: float) -> list[tuple[float, str, float]]:
    """Pose, part, and by how many frames that part comes to it late (below 0: sooner), from one frame to another."""
    poses = belonging(curves).poses.frames
    seen = poses[(poses >= low) & (poses <= high)]
    if len(seen) > MOST_LATE:
        return []
    found = []
    for frame in seen.tolist():
        lags = lags_at(curves, frame)
        for number, part in enumerate(figure.rig.parts):
            own = lags[list(figure.rig.part_channels(number))]
            late = float(own[np.abs(own).argmax()]) if len(own) else 0.0
            if abs(late) > LATE:
                found.append((frame, part.name, late))
    return found


class ChartRow:
    """The ladders of the chosen figure, or of the part that is chosen."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        self.session, self.scale = session, scale
        self._kept: tuple[CurveSet, str | None, dict[Span, Ladder]] | None = None
        self._sight: tuple[tuple[CurveSet, str | None, tuple[float, float]], list[Span]] | None = None
        self._late: tuple[tuple[CurveSet, tuple[float, float]], list[tuple[float, str, float]]] | None = None
        self._shot: Shot | None = None

    def part(self) -> str | None:
        """The part whose way is measured: the chosen one, if it is one."""
        figure = self.session.figure
        if figure is None or not self.session.controls:
            return None
        parts = {figure.rig.part_of(c) for c in self.session.controls}
        return figure.rig.parts[parts.pop()].name if len(parts) == 1 and min(parts) >= 0 else None

    def ladders(self, shot: Shot | None = None) -> list[Ladder]:
        """The spans in sight. While a pose is dragged, or anything elsewhere in a very long shot, those there were."""
        session = self.session
        figure = session.figure
        if figure is None:
            return []
        if shot is not None or self._shot is None or not timing_waits(session):
            self._shot = session.shown if shot is None else shot
        shown, part = self._shot, self.part()
        curves = shown.take.curves[figure.name]
        if self._kept is None or self._kept[0] is not curves or self._kept[1] != part:
            self._kept = (curves, part, {})
        made = self._kept[2]
        sight = (curves, part, self.scale.seen())
        if self._sight is None or self._sight[0][0] is not curves or self._sight[0][1:] != sight[1:]:
            self._sight = (sight, self._spans_in_sight(figure, curves, part))
        spans = self._sight[1]
        for span in spans:
            if span not in made:
                made[span] = self._measured(shown, figure, curves, span, part)
        return [made[span] for span in spans]

    def _spans_in_sight(self, figure: Figure, curves: CurveSet, part: str | None) -> list[Span]:
        """From key pose to key pose where poses hold, else from each pose to the next; frames of what is between."""
        channels = pose_channels(figure.rig, None if part is None else [part])
        poses = whole_poses_of(curves)
        keyed = np.flatnonzero(poses.roles == KeyRole.KEY_POSE)
        low, high = self.scale.seen()
        starts = poses.frames[keyed]
        first, last = np.searchsorted(starts, low, side="right"), np.searchsorted(starts, high)
        found: list[Span] = []
        for here, after in pairwise(keyed[max(first - 1, 0) : last + 1]):
            frames = [float(f) for f in poses.frames[here : after + 1]]
            if (frames[-1] - frames[0]) * self.scale.per_frame < NARROWEST:
                continue
            if is_stepped(curves, channels, frames[0]):
                found.append((frames[0], frames[-1], tuple(frames[1:-1]), True))
            else:
                found += [(a, b, (), False) for a, b in pairwise(frames)]
        far = self.scale.per_frame < NEAR
        return [span for span in found if _is_drawn(span) and not (far and is_recorded(curves, *span[:2]))]

    def _measured(self, shot: Shot, figure: Figure, curves: CurveSet, span: Span, part: str | None) -> Ladder:
        start, end, drawn, stepped = span
        return Ladder(start, end, np.array(chart(shot, figure.name, start, end, part)), stepped, drawn)

    def moved(self, shot: Shot, ladder: Ladder, shares: list[float]) -> Shot:
        """A shot with other shares in one span."""
        return set_chart(shot, self.session.figure_name, ladder.start, ladder.end, shares, self.part())

    # -- places -------------------------------------------------------------------------------------------------------

    def ends(self, ladder: Ladder) -> tuple[float, float]:
        """The left and the right end of a ladder in pixels."""
        return self.scale.x(ladder.start) + 8, self.scale.x(ladder.end) - 12

    def x_of(self, ladder: Ladder, share: float) -> float:
        """Where a share lies on a ladder."""
        left, right = self.ends(ladder)
        return left + (right - left) * min(max(share, -0.2), 1.2)

    def share_of(self, ladder: Ladder, x: float) -> float:
        """The share under a place on a ladder."""
        left, right = self.ends(ladder)
        return float(np.clip((x - left) / max(right - left, 1.0), 0.0, 1.0))

    def ladder_at(self, x: float) -> Ladder | None:
        """The span under a place."""
        return next((one for one in self.ladders() if self.scale.x(one.start) <= x < self.scale.x(one.end)), None)

    def rung_at(self, x: float) -> tuple[Ladder, float] | None:
        """The span and the frame of the rung under a place; on the ring of an empty stepped span, its middle frame."""
        ladder = self.ladder_at(x)
        if ladder is None:
            return None
        near = [(abs(self.x_of(ladder, share) - x), -frame) for frame, share in ladder.rungs()]
        if near and min(near)[0] <= GRAB:
            return ladder, -min(near)[1]
        if not ladder.rungs() and abs(self.ends(ladder)[0] - x) <= GRAB:
            return ladder, ladder.start + round((ladder.end - ladder.start) / 2)
        return None

    def lags(self) -> list[tuple[float, str, float]]:
        """Of the poses in sight: their frames, the parts that come to them later or sooner, and by how many frames."""
        figure = (
            self.session.figure
        )  # while something is dragged they stay as they were: that is worked out when it is let go
        curves = self.session.shot.take.curves.get(self.session.figure_name)
        if figure is None or curves is None:
            return []
        sight = (curves, self.scale.seen())
        if self._late is None or self._late[0][0] is not curves or self._late[0][1] != sight[1]:
            self._late = (sight, lags_in_sight(figure, curves, *sight[1]))
        return self._late[1]

    # -- paint --------------------------------------------------------------------------------------------------------

    def _paint_lags(self, painter: QPainter, top: float) -> None:
        """A tick for each part that is late, where it comes, in the colour of its side."""
        figure = self.session.figure
        assert figure is not None
        sides = {part.name: part.side or "body" for part in figure.rig.parts}
        for frame, part, lag in self.lags():
            x = self.scale.x(frame + lag) + 8
            painter.setPen(Look.pen(SIDE_ROLES.get(sides[part], "muted"), 2.0))
            painter.drawLine(QPointF(x, top + 2), QPointF(x, top + 8))

    def paint(self, painter: QPainter, top: float, width: float) -> None:
        """Every ladder that is seen, in a row that begins at a height, and the lags of parts over them."""
        y = top + HEIGHT / 2
        if self.session.figure is not None:
            self._paint_lags(painter, top)
        for ladder in self.ladders():
            left, right = self.ends(ladder)
            if right < 0 or left > width or right - left < 10:
                continue
            painter.setPen(Look.pen("ink", 1.3))
            painter.drawLine(QPointF(left, y), QPointF(right, y))
            painter.setBrush(Look.colour("raised"))
            painter.drawEllipse(QPointF(left, y), 3.4, 3.4)
            for frame, share in ladder.rungs():
                at = QPointF(self.x_of(ladder, share), y)
                if frame in ladder.drawn:
                    draw_mark(painter, at, KeyRole.BREAKDOWN, 4.0)
                else:
                    painter.setPen(QPen(Look.colour("ink"), 1.3))
                    painter.drawLine(at + QPointF(0, -5), at + QPointF(0, 5))
