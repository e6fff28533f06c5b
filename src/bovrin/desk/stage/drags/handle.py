"""The one handle: a square to drag, a dashed ring to turn, four dots for the axes, arms to go along one."""

from __future__ import annotations

from functools import partial

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.desk.kit.gesture import Press
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.drags.gripping import grip_here
from bovrin.desk.stage.drags.handle_places import RING, HandlePlaces, distance
from bovrin.desk.stage.drags.place_drag import place_drag
from bovrin.desk.stage.drags.posing import Grip, StageDrag, ring_angle, size_drag, turn_drag
from bovrin.desk.stage.overlay import HAND, Hit, Modifiers
from bovrin.desk.stage.overlays.marks import DOT, paint_arms, paint_ring
from bovrin.desk.stage.scene import Scene
from bovrin.desk.stage.words import grip_words
from bovrin.desk.state.document.editing import reset_chosen
from bovrin.shot import Shot

Floats = NDArray[np.float64]

GRIPS = ("size", "x", "y", "z", "up", "right", "down", "left")
SQUARE = 11.0
PER_PIXEL = 0.011
"""Radians that a dot turns for a pixel."""
RESETS = {"square": ("translate",), "size": ("size", "stretch")}
SAID = {"translate": "place", "rotate": "turn"}


class Handle:
    """The handle of what is chosen."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.session = scene, scene.session
        self.places = HandlePlaces(scene)

    # -- under the pointer --------------------------------------------------------------------------------------------

    def hit(self, at: QPointF) -> Hit | None:
        """The grip under a point."""
        if self.session.playing:
            return None
        points = self.places.points()
        for name in GRIPS:
            if name in points and distance(points[name], at) <= DOT + 4:
                return self._hit(name, distance(points[name], at))
        if "square" in points:
            off = points["square"] - at
            if max(abs(off.x()), abs(off.y())) <= SQUARE + 2:
                return self._hit("square", distance(points["square"], at))
        if "centre" in points:
            off_ring = abs(distance(points["centre"], at) - RING * self.scene.handle_size)
            if off_ring <= 6:
                return self._hit("ring", off_ring)
        return None

    def _hit(self, grip: str, far: float) -> Hit:
        return Hit(far, HAND, grip_words(self.session, grip), grip)

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """The drag of a grip."""
        grip = grip_here(self.session, at)
        return Press() if grip is None else Press(self._drag_for(grip, str(hit.what), at))

    def _drag_for(self, grip: Grip, name: str, at: QPointF) -> StageDrag:
        scene, places = self.scene, self.places
        place = places.place_of(self.session.controls[-1])
        if name in ("square", "x", "y", "z"):
            axis = None if name == "square" else places.move_axes()["xyz".index(name)]
            return place_drag(grip, scene, place, axis)
        axes, pivot = places.turn_axes(), places.shared_pivot()
        if name in ("size", "ring"):
            centre = places.points()["centre"]
            if name == "size":
                reach = partial(_reach, centre, at)
                return size_drag(grip, reach(0.0, 0.0), reach, pivot)
            angle = ring_angle((centre.x(), centre.y()), (at.x(), at.y()))
            return turn_drag(grip, axes[2], angle, pivot)
        if name in ("up", "down"):
            return turn_drag(grip, axes[0], lambda _dx, dy: dy * PER_PIXEL, pivot)
        return turn_drag(grip, axes[1], lambda dx, _dy: dx * PER_PIXEL, pivot)

    def reset(self, hit: Hit) -> None:
        """What the grip changes goes back to the default."""
        what = RESETS.get(str(hit.what), ("rotate",))
        before = self.session.shot
        reset_chosen(self.session, *what)
        if self.session.shot is not before:
            words = " and ".join(SAID.get(name, name) for name in what)
            self.session.voice.tell(f"Back at the default: {words} of what is chosen. Undo puts it back.")

    # -- paint --------------------------------------------------------------------------------------------------------

    def paint(self, painter: QPainter) -> None:
        """Ring, arms, and a square for each chosen control."""
        points = self.places.points()
        if not points or self.session.playing:
            return
        paint_ring(painter, points, borrowed=self.session.looking.borrowed is not None)
        paint_arms(painter, points)
        for other in self.session.controls[:-1]:
            self._paint_square(painter, self.scene.on_screen(self.places.place_of(other)), self._role_of(other), 0.7)
        self._paint_square(painter, points["square"], self._role_of(self.session.controls[-1]), 1.0)

    def _role_of(self, control: int) -> str:
        """The colour role of a control: its side's, or the accent in the middle."""
        figure = self.session.figure
        assert figure is not None
        part = figure.rig.part_of(control)
        role = Look.side(figure.rig.parts[part].side) if part >= 0 else "accent"
        return "accent" if role == "middle" else role

    def _paint_square(self, painter: QPainter, at: QPointF, role: str, size: float) -> None:
        half = SQUARE * size
        box = QRectF(at.x() - half, at.y() - half, 2 * half, 2 * half)
        painter.setBrush(Look.colour(role, 0.16))
        for pen in (QPen(Look.colour("raised", 0.8), 4.6), QPen(Look.colour(role), 2.4)):
            painter.setPen(pen)
            painter.drawRoundedRect(box, 4, 4)
            painter.setBrush(Qt.BrushStyle.NoBrush)


def _reach(centre: QPointF, start: QPointF, dx: float, dy: float) -> float:
    return distance(centre, start + QPointF(dx, dy))
