"""Drawing on the stage: what is drawn is seen there, and while the pencil is out the mouse draws or rubs out."""

from __future__ import annotations

import math
import time

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QColor, QPainter, QPen

from bovrin.craft.drawings import drawing_at, drawn, neighbours, rubbed_out
from bovrin.desk.kit.gesture import Drag, Modifiers, Press
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.overlay import CROSS, Hit
from bovrin.desk.stage.scene import Scene
from bovrin.desk.state.pencil import DIMMED, PICTURE, SIZES, WORLD
from bovrin.errors import BovrinError
from bovrin.figure.staging import staged
from bovrin.picture.strokes import on_picture
from bovrin.picture.theme import PENCIL_ROLES
from bovrin.shot import GROUND, Drawing, Pin, Shot, Stroke

Floats = NDArray[np.float64]

FAINT, ONION = 0.3, 0.28
RUBS = 9.0
"""Pixels from a line within which the rubber takes it."""
SLOW, FAST = 120.0, 2400.0
"""Pixels a second at which a line of the mouse is at its thickest and its thinnest."""
THINNEST = 0.35
NEAREST = 1.5
"""Pixels between two points of a line."""


class PencilMarks:
    """The drawing of the current frame, its neighbours with the light table on, and the pencil itself."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.session = scene, scene.session

    # -- paint --------------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """Neighbours first, faint and in the colours of before and after."""
        session, pencil = self.session, self.session.looking.pencil
        shot = session.seen
        if not pencil.sees or not shot.drawings:
            return
        if session.looking.light_table.on and not session.playing:
            for drawing, role in zip(neighbours(shot, session.frame), ("before", "after"), strict=True):
                if drawing is not None:
                    self._paint(painter, drawing, ONION, Look.colour(role))
        here = drawing_at(shot, session.frame)
        if here is not None:
            self._paint(painter, here, FAINT if pencil.seen == DIMMED else 1.0)

    def _paint(self, painter: QPainter, drawing: Drawing, strength: float, only: QColor | None = None) -> None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for stroke in drawing.strokes:
            places = self.on_screen(stroke)
            if places is None:
                continue
            colour = QColor(only or Look.colour(PENCIL_ROLES[stroke.pencil]))
            colour.setAlphaF(strength)
            self._paint_line(painter, places, stroke.widths * self.size[1] / 1000, colour)

    def _paint_line(self, painter: QPainter, places: Floats, widths: Floats, colour: QColor) -> None:
        points = [QPointF(x, y) for x, y in places.tolist()]
        pen = QPen(colour, 1.0, cap=Qt.PenCapStyle.RoundCap, join=Qt.PenJoinStyle.RoundJoin)
        if len(points) == 1:
            pen.setWidthF(max(float(widths[0]), 1.0))
            painter.setPen(pen)
            painter.drawPoint(points[0])
            return
        for a, b, wide in zip(points[:-1], points[1:], ((widths[:-1] + widths[1:]) / 2).tolist(), strict=True):
            pen.setWidthF(max(wide, 1.0))
            painter.setPen(pen)
            painter.drawLine(a, b)

    def on_screen(self, stroke: Stroke) -> Floats | None:
        """Where a stroke is seen now (N, 2), pixels."""
        return on_picture(self.session.seen, stroke, self.session.frame, self.scene.view, self.size)

    @property
    def size(self) -> tuple[int, int]:
        """Of the stage, pixels."""
        return self.scene.size.width(), self.scene.size.height()

    # -- mouse --------------------------------------------------------------------------------------------------------

    def hit(self, at: QPointF) -> Hit | None:
        """Everywhere, nearer than anything else, while the pencil is out."""
        pencil = self.session.looking.pencil
        if not pencil.on or self.session.playing:
            return None
        words = "Drag over lines to rub them out" if pencil.rubber else f"Draw on the {pencil.onto}"
        return Hit(-0.5, CROSS, f"{words}. Z puts the pencil away, Shift+Z changes pencil and rubber.")

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """A stroke begins, or rubbing out; a click is a dot."""
        session, pencil = self.session, self.session.looking.pencil
        if pencil.rubber:
            rub = RubOut(self, at)
            return Press(rub, lambda: session.do(rub.words, lambda shot: rub.without(shot, at)))
        try:
            line = Line(self, at)
        except BovrinError as error:
            session.voice.fail(error)
            return Press()
        return Press(line, lambda: session.do(line.words, lambda _shot: line.shot()))

    def reset(self, hit: Hit) -> None:
        """Two quick dots are two dots."""


class Line(Drag[Shot]):
    """A stroke as it grows."""

    words = "Draw"

    def __init__(self, marks: PencilMarks, at: QPointF) -> None:
        session = marks.session
        self._marks, self._shot, self._frame = marks, session.shot, session.frame
        pencil = session.looking.pencil
        self._wide, self._colour = SIZES[pencil.size], pencil.colour
        self._pin, self._back, self._through = self._pinned(pencil.onto)
        self._points: list[Floats] = []
        self._widths: list[float] = []
        self._last, self._when = at, time.monotonic()
        self._add(at)

    def _pinned(self, onto: str) -> tuple[Pin | None, Floats | None, Floats | None]:
        """What the line is pinned to, the way into its axes, and the place whose plane is drawn on."""
        session = self._marks.session
        if onto == PICTURE:
            return None, None, None
        if onto == WORLD:
            return GROUND, None, None
        figure = session.figure
        if figure is None or not session.controls:
            raise BovrinError(
                "no joint is chosen to draw on.", advice="Choose a part of the figure, or draw elsewhere."
            )
        joint = figure.rig.controls[session.controls[-1]].joint
        world = staged(session.shot, figure.name, session.frame).world[0, joint]
        return (figure.name, figure.rig.joints[joint].name), np.asarray(np.linalg.inv(world)), world[:3, 3]

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Shot, str]:
        """The shot with the stroke up to the pointer."""
        if math.hypot(at.x() - self._last.x(), at.y() - self._last.y()) >= NEAREST:
            self._add(at)
        return self.shot(), ""

    def shot(self) -> Shot:
        """The shot with the stroke as it is."""
        width, height = self._marks.scene.size.width(), self._marks.scene.size.height()
        aspect = width / height if self._pin is None else 0.0
        stroke = Stroke(np.array(self._points), np.array(self._widths), self._colour, self._pin, aspect)
        return drawn(self._shot, self._frame, stroke)

    def _add(self, at: QPointF) -> None:
        now = time.monotonic()
        self._points.append(self._place(at))
        self._widths.append(self._wide * self._weight(at, now))
        self._last, self._when = at, now

    def _weight(self, at: QPointF, now: float) -> float:
        """How thick the line is here: by the pen's pressure, else by the mouse's speed."""
        pressure = self._marks.scene.pressure
        if pressure is not None:
            return max(min(pressure, 1.0), 0.08) * 1.4
        if not self._widths:
            return 1.0
        speed = math.hypot(at.x() - self._last.x(), at.y() - self._last.y()) / max(now - self._when, 1e-3)
        share = 1.0 - min(max((speed - SLOW) / (FAST - SLOW), 0.0), 1.0) * (1.0 - THINNEST)
        return 0.7 * self._widths[-1] / self._wide + 0.3 * share

    def _place(self, at: QPointF) -> Floats:
        marks = self._marks
        if self._pin is None:
            return np.array([at.x() / marks.scene.size.width(), at.y() / marks.scene.size.height(), 0.0])
        if self._pin == GROUND:
            return marks.scene.view.on_ground(at.x(), at.y(), marks.size)
        assert self._back is not None and self._through is not None
        place = marks.scene.view.in_plane(at.x(), at.y(), marks.size, self._through)
        return np.asarray(self._back[:3, :3] @ place + self._back[:3, 3])


class RubOut(Drag[Shot]):
    """Lines that the pointer has gone over are gone."""

    words = "Rub out"

    def __init__(self, marks: PencilMarks, at: QPointF) -> None:
        self._marks, self._shot, self._frame, self._last = marks, marks.session.shot, marks.session.frame, at

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Shot, str]:
        """Between two places of the pointer nothing is left out."""
        way = at - self._last
        count = max(int(math.hypot(way.x(), way.y()) / (RUBS / 2)), 1)
        for n in range(1, count + 1):
            self._shot = self.without(self._shot, self._last + way * (n / count))
        self._last = at
        return self._shot, ""

    def without(self, shot: Shot, at: QPointF) -> Shot:
        """The shot without the lines at a point."""
        return rubbed_out(shot, self._frame, lambda stroke: self._is_at(stroke, at))

    def _is_at(self, stroke: Stroke, at: QPointF) -> bool:
        places = self._marks.on_screen(stroke)
        if places is None:
            return False
        point = np.array([at.x(), at.y()])
        a, b = places, np.concatenate([places[1:], places[-1:]])
        way = b - a
        share = np.clip(((point - a) * way).sum(1) / np.maximum((way**2).sum(1), 1e-12), 0, 1)
        return bool(np.linalg.norm(a + share[:, None] * way - point, axis=1).min() < RUBS)
