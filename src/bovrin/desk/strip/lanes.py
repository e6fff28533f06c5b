"""The lanes of the strip: a line of key marks for each part, which opens to its controls and channels."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from bovrin.caching import cached_by_identity
from bovrin.craft.keying.lag import NOBODY, belonging, one_of_each_keying
from bovrin.desk.kit.look import LEFT, Look, text_font
from bovrin.frozen import frozen_equal
from bovrin.motion.grouping import least_on_each, rows_once
from bovrin.shot import Curve, CurveSet, Rig
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
Marks = tuple[Floats, NDArray[np.uint8]]

LANE = 15
INDENT = 11
BAND = 7.0


@frozen_equal
class StripLine:
    """One line: what it stands for, its channels, and the lanes inside it when it opens."""

    words: str
    depth: int
    channels: tuple[int, ...]
    controls: tuple[int, ...]
    side: str
    name: str = ""
    opens: bool = False


@cached_by_identity
def lanes_of(rig: Rig, opened: tuple[str, ...], search: str = "") -> tuple[StripLine, ...]:
    """The lanes of a figure, those in `opened` (by name) with their insides; with a search all that match it, flat."""
    lanes = []
    for index, part in enumerate(rig.parts):
        name = f"part {part.name}"
        here = StripLine(
            part.name.capitalize(), 0, rig.part_channels(index), part.controls, part.side, name, opens=True
        )
        lanes.append(here)
        if name in opened or search:
            for control in part.controls:
                lanes += _control_lanes(rig, control, part.side, opened, search)
    if not search:
        return tuple(lanes)
    wanted = search.lower().split()
    return tuple(
        StripLine(_full_words(rig, lane), 0, lane.channels, lane.controls, lane.side)
        for lane in lanes
        if all(word in _full_words(rig, lane).lower() for word in wanted)
    )


def _control_lanes(rig: Rig, control: int, side: str, opened: tuple[str, ...], search: str) -> list[StripLine]:
    what = rig.controls[control]
    name = f"control {what.name}"
    lanes = [StripLine(what.name, 1, tuple(rig.span(control)), (control,), side, name, opens=True)]
    if name in opened or search:
        lanes += [
            StripLine(channel.name, 2, (i,), (control,), side)
            for i, channel in zip(rig.span(control), what.channels, strict=True)
        ]
    return lanes


def _full_words(rig: Rig, lane: StripLine) -> str:
    if lane.depth == 2:
        return f"{rig.controls[lane.controls[0]].name} {lane.words}"
    return lane.words


@cached_by_identity
def lane_marks(curves: CurveSet, lanes: tuple[StripLine, ...]) -> list[Marks]:
    """For each lane the frames with keys and the strongest role there (key pose before breakdown before in-between)."""
    return [_marks(*(curves[i] for i in lane.channels if len(curves[i]))) for lane in lanes]


@cached_by_identity
def _marks(*kept: Curve) -> Marks:
    """Kept by lane, since a drag changes the curves of few. Channels that are keyed alike are taken once."""
    if not kept:
        return np.empty(0), np.empty(0, np.uint8)
    kept = tuple({(c.frames.tobytes(), c.role.tobytes()): c for c in kept}.values())
    return least_on_each(np.concatenate([c.frames for c in kept]), np.concatenate([c.role for c in kept]))


@cached_by_identity
def lane_tails(curves: CurveSet, lanes: tuple[StripLine, ...]) -> list[Floats]:
    """For each lane the stretches (n, 2), frames, from a pose to the keys of it that come late or early."""
    poses, owners = belonging(curves)
    found = []
    for lane in lanes:
        rows = [
            np.stack([poses.frames[own[own != NOBODY]], curves[i].frames[own != NOBODY]], -1)
            for i, own in ((i, owners[i]) for i in one_of_each_keying(curves, lane.channels))
        ]
        stretches = rows_once(np.concatenate(rows or [np.empty((0, 2))]))[0]
        found.append(stretches[np.abs(stretches[:, 1] - stretches[:, 0]) > SAME_FRAME])
    return found


def paint_tails(painter: QPainter, stretches: Floats, y: float, side: str) -> None:
    """How late keys come: a line from each pose to its key, pixels (n, 2), in the colour of the side."""
    painter.setPen(QPen(Look.colour(Look.side(side)), 2.5))
    for start, end in stretches.tolist():
        painter.drawLine(QPointF(start, y), QPointF(end, y))
        painter.drawLine(QPointF(start, y - 3), QPointF(start, y + 3))


def paint_bands(painter: QPainter, stretches: Floats, y: float, side: str) -> None:
    """Stretches with a key on every frame, pixels (n, 2)."""
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(Look.colour(Look.side(side), 0.4))
    for start, end in stretches.tolist():
        painter.drawRoundedRect(QRectF(start, y - BAND / 2, end - start, BAND), 2, 2)


def paint_lane_name(painter: QPainter, lane: StripLine, area: QRectF, *, opened: bool, chosen: bool) -> None:
    """The fold sign, the side's colour and the words of a lane."""
    x, y = area.left() + lane.depth * INDENT, area.center().y()
    if lane.opens:
        painter.setPen(QPen(Look.colour("muted"), 1.3))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        points = [(0, -1.5), (3, 1.5), (6, -1.5)] if opened else [(1.5, -3), (4.5, 0), (1.5, 3)]
        painter.drawPolyline(QPolygonF([QPointF(x + dx, y + dy) for dx, dy in points]))
    painter.setBrush(Look.colour(Look.side(lane.side)))
    painter.setPen(Qt.PenStyle.NoPen)
    if lane.depth == 0:
        painter.drawRoundedRect(QRectF(x + 10, y - 4, 8, 8), 2, 2)
    painter.setPen(Look.pen("ink" if lane.depth < 2 else "muted"))
    painter.setFont(text_font(12, bold=chosen and lane.depth < 2))
    left = x + (24 if lane.depth == 0 else 11)
    painter.drawText(QRectF(left, area.top(), area.right() - left, area.height()), LEFT, lane.words)
