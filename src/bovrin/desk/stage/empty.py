"""The empty stage: a box drawn there chooses; and the next click while a pivot is borrowed."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.desk.kit.gesture import THRESHOLD, Drag, Modifiers, Press
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.drags.handle_places import HandlePlaces
from bovrin.desk.stage.overlay import ARROW, CROSS, Hit
from bovrin.desk.stage.scene import Scene
from bovrin.shot import Shot

EMPTY = (
    "Drag a box to choose; Shift adds, Ctrl takes away. Middle drag (or Space and drag) turns the view, "
    "with Shift it slides, the wheel goes nearer."
)
PLACE = "Click where the chosen parts shall turn about. Esc leaves it."


class ControlBoxDrag(Drag[Shot]):
    """A box: every control of one figure whose skin is seen in it. Shift adds to what is chosen, Ctrl takes away."""

    def __init__(self, scene: Scene, pressed: QPointF) -> None:
        self._scene, self._pressed = scene, pressed
        self._modifiers = Modifiers.NoModifier
        self.box = QRectF(pressed, pressed)

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[None, str]:
        self.box, self._modifiers = QRectF(self._pressed, at).normalized(), modifiers
        return None, ""

    def done(self) -> None:
        session, keys = self._scene.session, self._modifiers
        now, name = session.controls, session.figure_name
        add, take = bool(keys & Modifiers.ShiftModifier), bool(keys & Modifiers.ControlModifier)
        found = self._scene.controls_in(self.box.toRect())
        if found is None:
            session.choose(name, now if add or take else ())
        elif take:
            session.choose(found[0], [c for c in now if c not in found[1]])
        else:
            session.choose(found[0], [*(now if add and found[0] == name else ()), *found[1]])


class EmptyStage:
    """Where nothing else is under the pointer."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self.drag: ControlBoxDrag | None = None

    def hit(self, at: QPointF) -> Hit | None:
        """Everywhere, farther away than anything else."""
        return Hit(float("inf"), ARROW, EMPTY)

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """A box; a click lets go of what is chosen."""
        session = self.scene.session
        self.drag = ControlBoxDrag(self.scene, at)

        def click() -> None:
            if not modifiers & (Modifiers.ShiftModifier | Modifiers.ControlModifier):
                session.choose(session.figure_name)

        return Press(self.drag, click)

    def reset(self, hit: Hit) -> None:
        """A double click on nothing does nothing."""

    def paint(self, painter: QPainter) -> None:
        """The box while it is drawn."""
        if self.drag is not None and max(self.drag.box.width(), self.drag.box.height()) >= THRESHOLD:
            painter.setPen(QPen(Look.colour("accent"), 1.2, Qt.PenStyle.DashLine))
            painter.setBrush(Look.colour("accent", 0.08))
            painter.drawRect(self.drag.box)

    def let_go(self) -> None:
        """The gesture is over."""
        self.drag = None


class PivotPlacing:
    """While a pivot is borrowed the next click says where it is."""

    def __init__(self, scene: Scene) -> None:
        self.scene = scene
        self.on = False

    def hit(self, at: QPointF) -> Hit | None:
        """Everywhere, nearer than anything else."""
        return Hit(-1.0, CROSS, PLACE) if self.on else None

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """Put it on the skin under the pointer, or on the handle's own depth."""
        self.on = False
        scene, session = self.scene, self.scene.session
        if session.figure is None or not session.controls:
            return Press()
        place = scene.skin_place(at)
        if place is None:
            handle = HandlePlaces(scene).place_of(session.controls[-1])
            way = at - scene.on_screen(handle)
            place = scene.view.slide(handle, way.x(), way.y(), scene.size.height())
        x, y, z = np.asarray(place).tolist()
        session.change_looking(borrowed=(x, y, z))
        session.voice.tell("Turns and sizes now go about this point, until something else is chosen.")
        return Press()

    def reset(self, hit: Hit) -> None:
        """The first click has said it."""

    def paint(self, painter: QPainter) -> None:
        """The handle shows it."""
