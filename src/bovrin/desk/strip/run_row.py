"""Drawings that a part shows over time, as a row of small pictures in the part's lane."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QImage, QPainter, QPen

from bovrin.caching import cached_by_identity
from bovrin.craft.flat.drawings import shown_in
from bovrin.desk.kit.look import CENTRE, SIZE_SMALL, Look, text_font
from bovrin.desk.kit.timescale import TimeScale
from bovrin.desk.state.looking.drawing_pictures import fitted, pictures_of
from bovrin.desk.strip.lanes import StripLine
from bovrin.shot import ChannelRole, KeyRole, Rig, Shot

HIGH = 13.0
LEAST = 7.0
"""Pixels of a box below which it shows neither a picture nor its name."""


class ShownRun(NamedTuple):
    """A drawing that is shown from a frame up to another, and whether a pose begins it."""

    start: float
    end: float
    drawing: str
    posed: bool


def part_of_lane(rig: Rig, lane: StripLine) -> str:
    """The part whose drawings a lane shows: of a lane with one part that has several, or of that part's own lane."""
    own = [c for c in lane.controls if any(h.technical == ChannelRole.DRAWING for h in rig.controls[c].channels)]
    return rig.controls[own[0]].name if len(own) == 1 and lane.depth < 2 else ""


@cached_by_identity
def runs_of(shot: Shot, figure: str, part: str) -> tuple[ShownRun, ...]:
    """What a part shows besides what it shows at rest, and what follows a swap."""
    rig = shot.figure(figure).rig
    names = rig.channels[rig.channel(f"{part}/{ChannelRole.DRAWING}")].choices
    rows = [
        ShownRun(s.start, s.end, names[s.drawing], s.role != KeyRole.IN_BETWEEN) for s in shown_in(shot, figure, part)
    ]
    return tuple(row for row in rows if row.drawing != names[0] or not row.posed)


def lane_runs(shot: Shot, figure: str, lanes: tuple[StripLine, ...]) -> list[tuple[ShownRun, ...]]:
    """For each lane the drawings that its part shows."""
    what = shot.figure(figure)
    if not what.model.is_flat:
        return [()] * len(lanes)
    parts = [part_of_lane(what.rig, lane) for lane in lanes]
    return [runs_of(shot, figure, part) if part else () for part in parts]


def paint_runs(
    painter: QPainter, runs: tuple[ShownRun, ...], shot: Shot, figure: str, part: str, scale: TimeScale, y: float
) -> None:
    """A box for each drawing, with its picture, and its name where there is room."""
    pictures = pictures_of(shot.figure(figure))
    painter.setFont(text_font(SIZE_SMALL))
    metrics = QFontMetricsF(painter.font())
    for run in runs:
        left, right = scale.x(run.start), scale.x(min(run.end, shot.last + 1))
        box = QRectF(left + 0.5, y - HIGH / 2, max(right - left - 1, 2), HIGH)
        painter.setPen(QPen(Look.colour("after"), 1.0))
        painter.setBrush(Look.colour("raised"))
        painter.drawRoundedRect(box, 3, 3)
        if box.width() >= LEAST:
            _fill(painter, box, pictures.get((part, run.drawing)), run.drawing, metrics)


def _fill(painter: QPainter, box: QRectF, image: QImage | None, name: str, metrics: QFontMetricsF) -> None:
    room = box.adjusted(1.5, 1.5, -1.5, -1.5)
    wide = min(26.0, room.width())
    if image is not None:
        painter.drawImage(fitted(image, QRectF(room.left(), room.top(), wide, room.height())), image)
    left = room.width() - wide
    if left > 14:
        painter.setPen(Look.pen("after"))
        words = metrics.elidedText(name, Qt.TextElideMode.ElideRight, left - 4)
        painter.drawText(QRectF(room.left() + wide, box.top(), left, box.height()), CENTRE, words)
