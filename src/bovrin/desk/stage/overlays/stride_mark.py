"""On the ground of the stage: where feet stand, the stride between them, and the ground that runs under a walk on the spot."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.desk.kit.look import Look
from bovrin.desk.kit.polygons import polygon
from bovrin.desk.stage.overlay import Mark
from bovrin.desk.stage.overlays.chip import paint_measure
from bovrin.desk.stage.scene import Scene
from bovrin.desk.state.looking.going import FeetReading, Print

Floats = NDArray[np.float64]

LONG, WIDE = 0.085, 0.04
"""Half of a footprint's length and width, metres."""
_ANGLES = np.linspace(0, 2 * math.pi, 25)
LEG = 0.53
"""The leg of a foot that is as large as that, metres."""
OUTLINE = np.stack([np.sin(_ANGLES), np.cos(_ANGLES)], 1)
LINES = 9
"""Lines of the running ground on either side of the figure."""
HALF = 0.7
"""Metres that a line of the ground goes to either side."""
BOTTOM = 56.0
"""Pixels from the lower edge within which other words stand."""
ASIDE = 0.34
"""Metres beside the figure at which the ruler lies."""


class StrideMark(Mark):
    """Drawn while the chosen figure is seen and nothing is dragged."""

    def __init__(self, scene: Scene) -> None:
        super().__init__(scene)

    def paint(self, painter: QPainter) -> None:
        """Ground, prints and ruler."""
        session = self.scene.session
        reading = session.going.reading()
        if reading is None or not session.looking.shows(reading.figure):
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        way = np.array([0.0, 0.0, 1.0]) if reading.stride is None else np.array(reading.stride.way)
        if np.linalg.norm(reading.ground) > 0:
            self._paint_ground(painter, reading, way)
        self._paint_prints(painter, reading, way)
        if not session.playing:
            self._paint_ruler(painter, reading, way)

    def _gone(self, reading: FeetReading, since: float) -> Floats:
        """How far the ground went since a frame (3,)."""
        return np.asarray(reading.ground * (self.scene.session.frame - since))

    def _line(self, painter: QPainter, a: Floats, b: Floats) -> None:
        painter.drawLine(self.scene.on_screen(a), self.scene.on_screen(b))

    def _paint_ground(self, painter: QPainter, reading: FeetReading, way: Floats) -> None:
        """Lines across, a step apart, that run under the figure."""
        if reading.stride is None or reading.stride.step <= 0 or not reading.prints:
            return
        step, side = reading.stride.step, _aside(way)
        base = reading.prints[0].place * [1.0, 0.0, 1.0]
        base = base - side * float(base @ side) + self._gone(reading, reading.prints[0].middle)
        along = float(base @ way) % step
        middle = way * along + side * float(reading.prints[0].place @ side)
        painter.setPen(QPen(Look.colour("ground_line", 0.9), 1.6))
        for n in range(-LINES, LINES + 1):
            at = middle + way * n * step
            self._line(painter, at - side * HALF, at + side * HALF)

    def _paint_prints(self, painter: QPainter, reading: FeetReading, way: Floats) -> None:
        """All outlines are placed at once: many feet stand in a long shot."""
        if not reading.prints:
            return
        frame, side = self.scene.session.frame, _aside(way)
        gone = reading.ground * (frame - np.array([one.middle for one in reading.prints]))[:, None]
        middles = (np.array([one.place for one in reading.prints]) + gone) * [1.0, 0.0, 1.0]
        sizes = np.array([reading.feet[one.foot].leg for one in reading.prints]) / LEG
        outline = LONG * OUTLINE[:, 1:] * way + WIDE * OUTLINE[:, :1] * side
        points = middles[:, None] + sizes[:, None, None] * outline
        size = self.scene.size.width(), self.scene.size.height()
        seen = self.scene.view.project(points.reshape(-1, 3), size)[:, :2].reshape(*points.shape[:2], 2)
        painter.setPen(Qt.PenStyle.NoPen)
        for one, around in zip(reading.prints, seen, strict=True):
            bears = one.span[0] - 1e-6 <= frame <= one.span[1] + 1e-6
            role = "left" if reading.feet[one.foot].rest[0] > 0 else "right"
            painter.setBrush(Look.colour(role, 0.55 if bears else 0.24))
            painter.drawPolygon(polygon(*around.T))

    def _paint_ruler(self, painter: QPainter, reading: FeetReading, way: Floats) -> None:
        """From a print to the same foot's next, beside the figure."""
        pair = self._pair(reading)
        if pair is None or reading.stride is None:
            return
        side = _aside(way)
        first = (pair[0].place + self._gone(reading, pair[0].middle)) * [1.0, 0.0, 1.0]
        first = first + side * (ASIDE if first @ side >= 0 else -ASIDE)
        last = first + way * reading.stride.length
        painter.setPen(QPen(Look.colour("ink"), 1.5))
        self._line(painter, first, last)
        for end in (first, last):
            self._line(painter, end - side * 0.05, end + side * 0.05)
        words = f"stride {reading.stride.length * 100:.0f} cm · {reading.stride.speed:.2f} m/s"
        middle = self.scene.on_screen((first + last) / 2) + QPointF(0, 16)
        middle.setY(min(middle.y(), self.scene.size.height() - BOTTOM))
        paint_measure(painter, middle, words, "ink")

    def _pair(self, reading: FeetReading) -> tuple[Print, Print | None] | None:
        """The last print of the first foot that is not later than the current frame, and its next."""
        frame = self.scene.session.frame
        own = [one for one in reading.prints if one.foot == reading.prints[0].foot]
        earlier = [n for n, one in enumerate(own) if one.span[0] <= frame]
        if not own:
            return None
        at = earlier[-1] if earlier else 0
        return own[at], own[at + 1] if at + 1 < len(own) else None


def _aside(way: Floats) -> Floats:
    """Across a way on the ground, to the figure's left."""
    return np.array([way[2], 0.0, -way[0]])
