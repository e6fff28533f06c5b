"""The ruler on the ground: dragged by an end or by its line; joints that are moved come over its ends."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QPainter, QPen

from bovrin.craft.stride_ruler import turned_ruler
from bovrin.desk.kit.gesture import Drag, Modifiers, Press
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.overlay import HAND, Hit
from bovrin.desk.stage.overlays.chip import paint_measure
from bovrin.desk.stage.scene import Scene
from bovrin.shot import Ruler, Shot

Floats = NDArray[np.float64]

REACH, NEAR = 7.0, 12.0
"""Pixels within which the pointer takes an end or the line, and within which a joint comes over an end."""
TICK = 0.06
"""Half of the line across an end, metres."""
STEP, TURN = 0.05, math.radians(15)
"""With Ctrl lengths are whole steps of it, metres, and ways whole turns."""
HIGH = 0.05
"""Metres by which a height is told from the screen."""
ENDS = ("start", "end")


def on_floor(at: tuple[float, float]) -> Floats:
    """A place on the ground (3,)."""
    return np.array([at[0], 0.0, at[1]])


def over_an_end(scene: Scene, place: Floats) -> Floats | None:
    """The place (3,) over an end of the ruler that a joint at a place (3,) comes to, as high as it is seen; None where none is
    near on the screen."""
    ruler = scene.session.shot.ruler
    if ruler is None:
        return None
    seen = scene.on_screen(place)
    best = NEAR, None
    for end in ruler:
        at = on_floor(end) + [0.0, place[1], 0.0]
        for _ in range(3):
            low, high = scene.on_screen(at), scene.on_screen(at + [0.0, HIGH, 0.0])
            up = high - low
            if QPointF.dotProduct(up, up) < 1.0:  # seen from above, heights say nothing
                break
            at[1] += HIGH * QPointF.dotProduct(seen - low, up) / QPointF.dotProduct(up, up)
        off = seen - scene.on_screen(at)
        far = math.hypot(off.x(), off.y())
        if far <= best[0]:
            best = far, at
    return best[1]


def is_over_an_end(scene: Scene, place: Floats) -> bool:
    """Whether a place (3,) lies over an end of the ruler."""
    ruler = scene.session.shot.ruler
    return ruler is not None and any(math.dist((place[0], place[2]), end) < 1e-6 for end in ruler)


class RulerMark:
    """Drawn wherever the shot has a ruler; nothing is drawn of it while playing."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene

    def _ruler(self) -> Ruler | None:
        session = self.scene.session
        return None if session.playing else session.shown.ruler

    def paint(self, painter: QPainter) -> None:
        """The line, its ends, and how long it is."""
        ruler = self._ruler()
        if ruler is None:
            return
        start, end = on_floor(ruler.start), on_floor(ruler.end)
        way = (end - start) / max(ruler.length, 1e-9)
        side = np.array([way[2], 0.0, -way[0]]) * TICK
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for wide, colour in ((4.0, Look.colour("raised", 0.7)), (1.8, Look.colour("accent"))):
            painter.setPen(QPen(colour, wide))
            for a, b in ((start, end), (start - side, start + side), (end - side, end + side)):
                painter.drawLine(self.scene.on_screen(a), self.scene.on_screen(b))
        middle = self.scene.on_screen((start + end) / 2) - QPointF(0, 15)
        paint_measure(painter, middle, f"{ruler.length * 100:.1f} cm", "accent")

    def hit(self, at: QPointF) -> Hit | None:
        """An end, or the line between."""
        ruler = self._ruler()
        if ruler is None:
            return None
        a, b = (self.scene.on_screen(on_floor(end)) for end in ruler)
        for name, point in zip(ENDS, (a, b), strict=True):
            off = math.hypot(at.x() - point.x(), at.y() - point.y())
            if off <= REACH:
                return Hit(
                    off, HAND, "Drag the ruler's end. Ctrl: steps of 5 cm and 15°. Double click: turned by 90°", name
                )
        off = _from_line(at, a, b)
        return Hit(off + 1.0, HAND, "Drag the ruler. Double click: turned by 90°", "line") if off <= REACH else None

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """It is taken."""
        ruler = self._ruler()
        return Press() if ruler is None else Press(RulerDrag(self.scene, ruler, str(hit.what), at))

    def reset(self, hit: Hit) -> None:
        """A quarter turn about its beginning, as a step aside wants it."""
        self.scene.session.do("Turn the ruler", turned_ruler)


def _from_line(at: QPointF, a: QPointF, b: QPointF) -> float:
    """How far a point is from the line between two, pixels."""
    way, off = b - a, at - a
    length2 = QPointF.dotProduct(way, way)
    share = min(max(QPointF.dotProduct(off, way) / length2, 0.0), 1.0) if length2 > 0 else 0.0
    nearest = a + way * share
    return math.hypot(at.x() - nearest.x(), at.y() - nearest.y())


class RulerDrag(Drag[Shot]):
    """An end of the ruler, or all of it, dragged over the ground."""

    words = "Lay the ruler"

    def __init__(self, scene: Scene, ruler: Ruler, what: str, pressed: QPointF) -> None:
        self._scene, self._ruler, self._what, self._shot = scene, ruler, what, scene.session.shot
        self._pressed = self._ground(pressed)

    def _ground(self, at: QPointF) -> Floats:
        size = self._scene.size.width(), self._scene.size.height()
        return np.asarray(self._scene.view.on_ground(at.x(), at.y(), size))

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Shot, str]:
        """The shot with the ruler where the pointer has it."""
        way = self._ground(at) - self._pressed
        across, forward = float(way[0]), float(way[2])
        ruler = self._ruler
        if self._what == "line":
            made = ruler.moved(across, forward)
        else:
            fixed, moved = (ruler.end, ruler.start) if self._what == "start" else (ruler.start, ruler.end)
            place = self._stepped(fixed, (moved[0] + across, moved[1] + forward), modifiers)
            made = Ruler(place, fixed) if self._what == "start" else Ruler(fixed, place)
        return replace(self._shot, ruler=made.checked()), f"{made.length * 100:.1f} cm"

    def _stepped(
        self, fixed: tuple[float, float], place: tuple[float, float], modifiers: Modifiers
    ) -> tuple[float, float]:
        if not modifiers & Modifiers.ControlModifier:
            return place
        x, z = place[0] - fixed[0], place[1] - fixed[1]
        long, angle = max(round(math.hypot(x, z) / STEP), 1) * STEP, round(math.atan2(x, z) / TURN) * TURN
        return fixed[0] + long * math.sin(angle), fixed[1] + long * math.cos(angle)
