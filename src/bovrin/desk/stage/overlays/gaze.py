"""Where a figure looks, on the stage: a ring before its eyes while one of them is chosen, and dragged it turns them."""

from __future__ import annotations

import math

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.craft.keying.edits import edited
from bovrin.craft.pose.gaze import Place, gaze_of, gaze_values, look_at, look_values, set_gaze
from bovrin.desk.kit.gesture import Drag, Modifiers, Press
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.overlay import CROSS, HAND, Hit
from bovrin.desk.stage.scene import Scene
from bovrin.figure.stages.gaze import Eye, eyes_of, gaze_places, gaze_plan
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import stance
from bovrin.shot import ControlKind, Figure, Shot

Floats = NDArray[np.float64]

FAR, RING, REACH = 1.0, 9.0, 11.0
"""Metres before the eyes at which the ring lies, its radius and how near the pointer takes it, pixels."""
HEAD = 0.35
"""The share of the way that the head takes with Alt, and when a place is clicked."""
PICK = "Click where it should look: a figure, the ground, anywhere. Escape: none"


class GazeMark:
    """`on`: whether the next click says where the chosen figure looks."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.session, self.on = scene, scene.session, False

    def eyes(self) -> tuple[Figure, tuple[Eye, ...]] | None:
        """The figure one of whose eyes is chosen."""
        figure = self.session.figure
        if figure is None or not self.session.controls or self.session.playing:
            return None
        eyes = eyes_of(figure.rig)
        own = {eye.control for eye in eyes} | {
            c for c, w in enumerate(figure.rig.controls) if w.kind is ControlKind.GAZE
        }
        return (figure, eyes) if eyes and not own.isdisjoint(self.session.controls) else None

    def target(self) -> tuple[Figure, Floats, QPointF] | None:
        """The figure, where the ring lies (3,), and where it is seen."""
        found = self.eyes()
        if found is None or not self.session.looking.shows(found[0]):
            return None
        now = stance(self.session.seen, found[0].name, self.session.frame)
        if is_looking(found[0], now):
            place = gaze_places(found[0].rig, now.values[None], now.world[None])[0]
        else:
            place = gaze_of(self.session.seen, found[0].name, self.session.frame, FAR)
        return found[0], place, self.scene.on_screen(place)

    def paint(self, painter: QPainter) -> None:
        """Lines from the eyes to the ring."""
        found = self.target()
        if found is None:
            return
        figure, _place, at = found
        world = stance(self.session.seen, figure.name, self.session.frame).world
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for wide, colour in ((4.0, Look.colour("raised", 0.6)), (1.3, Look.colour("accent"))):
            painter.setPen(QPen(colour, wide, Qt.PenStyle.DashLine if wide < 2 else Qt.PenStyle.SolidLine))
            for eye in eyes_of(figure.rig):
                painter.drawLine(self.scene.on_screen(world[eye.joint, :3, 3]), at)
            painter.setPen(QPen(colour, wide + 0.6))
            painter.drawEllipse(at, RING, RING)
        painter.setBrush(Look.colour("accent"))
        painter.drawEllipse(at, 2.5, 2.5)

    def hit(self, at: QPointF) -> Hit | None:
        """The ring; everywhere while a place is asked for."""
        if self.on:
            return Hit(-1.0, CROSS, PICK)
        found = self.target()
        if found is None:
            return None
        off = math.hypot(at.x() - found[2].x(), at.y() - found[2].y())
        return Hit(off - REACH, HAND, "Drag where the eyes look. Alt: the head goes along") if off <= REACH else None

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """The ring is taken, or a place was said."""
        if self.on:
            self.on = False
            self._look_there(at)
            return Press()
        found = self.target()
        return Press() if found is None else Press(GazeDrag(self.scene, found[0], found[1], at))

    def reset(self, hit: Hit) -> None:
        """A double click on the ring is two clicks."""

    def _look_there(self, at: QPointF) -> None:
        session = self.session
        figure = session.figure
        if figure is None:
            return
        scene, found = self.scene, self.scene.skin_at(at)
        place: Place = scene.view.on_ground(at.x(), at.y(), (scene.size.width(), scene.size.height()))
        if found is not None and found.figure.name != figure.name:
            place = (found.figure.name, found.figure.rig.joints[found.joint].name)
        style = session.keying.style_in(session.pass_)
        on = is_looking(figure, stance(session.shot, figure.name, session.frame))

        def change(shot: Shot) -> Shot:
            if on:
                return set_gaze(shot, figure.name, session.frame, place, style=style)
            return look_at(shot, figure.name, session.frame, place, HEAD, style)

        session.do("Look there", change)


def is_looking(figure: Figure, now: Stance) -> bool:
    """Whether a figure's gaze is on in a stance."""
    plan = gaze_plan(figure.rig)
    return plan is not None and bool(now.values[plan.look] > 0)


class GazeDrag(Drag[Shot]):
    """The ring dragged in the plane of the screen."""

    words = "Look"

    def __init__(self, scene: Scene, figure: Figure, place: Floats, pressed: QPointF) -> None:
        session = scene.session
        self._scene, self._figure, self._place, self._pressed = scene, figure, place, pressed
        self._shot, self.frame = session.shot, session.frame
        self._now = stance(self._shot, figure.name, self.frame)
        self._style, self._scope = session.keying.style_in(session.pass_), session.keying.scope

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Shot, str]:
        """The shot in which the eyes look to where the pointer is."""
        way = at - self._pressed
        scene = self._scene
        place = scene.view.slide(self._place, way.x(), way.y(), scene.size.height())
        head = HEAD if modifiers & Modifiers.AltModifier else 0.0
        if is_looking(self._figure, self._now):
            values = gaze_values(self._figure, self._now, np.asarray(place))
            made = edited(self._shot, self._figure.name, self.frame or 0.0, values, self._scope, self._style)
            return made, "The gaze is there; both eyes stay on it"
        values = look_values(self._figure, self._now, np.asarray(place), head)
        assert self.frame is not None
        made = edited(self._shot, self._figure.name, self.frame, values, self._scope, self._style)
        return made, "The eyes look there" + (", the head along" if head else ". Alt: the head goes along")
