"""The stage: choosing, dragging and looking round with the mouse."""

from __future__ import annotations

from functools import partial

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent

from bovrin.craft import posing
from bovrin.craft.body import follows_a_drag
from bovrin.desk.drags import (
    Drag,
    Held,
    body_mover,
    place_mover,
    ring_angle,
    size_drag,
    slide_drag,
    take_hold,
    turn_drag,
)
from bovrin.desk.session import Session
from bovrin.desk.stage_places import RING, distance
from bovrin.desk.stage_view import DOT, SQUARE, StageView
from bovrin.desk.stage_words import hint_words
from bovrin.errors import BovrinError
from bovrin.figure.staging import stance
from bovrin.picture.item import Item
from bovrin.picture.picked import Picked
from bovrin.picture.renderer import shared_renderer
from bovrin.shot import ControlKind

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
GRIPS = ("size", "x", "y", "z", "up", "right", "down", "left")
START = 3
"""Pixels a press may wander before it is a drag."""


class Stage(StageView):
    """Shows the shot and turns drags into poses."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._drag: Drag | None = None
        self._box_adds = SHIFT
        self._pressed = QPointF()
        self._navigating: Qt.MouseButton | None = None
        self.placing_pivot = False
        self.space_held = False
        self.space_used = False

    def busy(self) -> bool:
        return self._drag is not None or self._navigating is not None

    def _grip_at(self, at: QPointF) -> str:
        points = self.handle_points()
        for name in GRIPS:
            if name in points and distance(points[name], at) <= DOT + 4:
                return name
        if "square" in points and max(abs((points["square"] - at).x()), abs((points["square"] - at).y())) <= SQUARE + 2:
            return "square"
        if "centre" in points and abs(distance(points["centre"], at) - RING * self.handle_size) <= 6:
            return "ring"
        return ""

    # -- choosing -----------------------------------------------------------------------------------------------------

    def _picked(self) -> Picked | None:
        if not self._drawable:
            return None
        if self._pick is None:
            self._pick = shared_renderer().pick(
                self._touchable(), self.view, (max(16, self.width()), max(16, self.height()))
            )
        return self._pick

    def _touchable(self) -> list[Item]:
        """What a click can hit: the actors, and a set only while it is the chosen figure."""
        return [i for i in self.items() if not i.figure.is_set or i.figure.name == self.session.figure_name]

    def joint_at(self, at: QPointF) -> tuple[str, int] | None:
        """The figure and joint whose skin is under a point of the widget."""
        picked = self._picked()
        hit = None if picked is None else picked.at(int(at.x()), int(at.y()))
        return None if hit is None else (hit.figure.name, hit.joint)

    def control_at(self, at: QPointF) -> tuple[str, int] | None:
        """The figure and control under a point of the widget."""
        found = self.joint_at(at)
        return None if found is None else (found[0], self._control_of(*found))

    def _control_of(self, name: str, joint: int) -> int:
        return posing.control_for_joint(stance(self.session.seen, name, self.session.frame), joint)

    def _choose_at(self, at: QPointF, *, add: bool) -> None:
        found = self.control_at(at)
        assert found is not None
        name, control = found
        if add and name == self.session.figure_name:
            now = self.session.controls
            wanted = tuple(c for c in now if c != control) if control in now else (*now, control)
            self.session.choose(name, wanted)
        elif name != self.session.figure_name or control not in self.session.controls:
            self.session.choose(name, (control,))

    def _choose_in_box(self, box: QRectF, *, add: bool, take: bool) -> None:
        """Choose every control of one figure whose skin is seen in a box; add to what is chosen, or take away."""
        now = self.session.controls
        picked = self._picked()
        if picked is None:
            return
        area = box.toRect().intersected(self.rect())
        seen = picked.within(area.left(), area.top(), area.right(), area.bottom(), self.session.figure_name)
        if seen is None:
            self.session.choose(self.session.figure_name, now if add or take else ())
            return
        name = seen[0].name
        found = dict.fromkeys(self._control_of(name, joint) for joint in seen[1])
        if take:
            self.session.choose(name, [c for c in now if c not in found])
        else:
            self.session.choose(name, [*(now if add and name == self.session.figure_name else ()), *found])

    # -- mouse --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._drag is not None or self.box is not None:
            if event.button() == Qt.MouseButton.RightButton:
                self.cancel_drag()
            return
        self._pressed = event.position()
        held = event.button() == Qt.MouseButton.LeftButton and self.space_held
        if event.button() == Qt.MouseButton.MiddleButton or held:
            self.space_used = self.space_used or held
            self._navigating = event.button()
        elif event.button() == Qt.MouseButton.LeftButton and not self.session.playing:
            if self.placing_pivot:
                self._borrow_pivot(self._pressed)
            else:
                self._press(event.modifiers())

    def _press(self, keys: Qt.KeyboardModifier) -> None:
        """A grip of the handle, the figure itself, or empty stage."""
        grip = self._grip_at(self._pressed)
        if grip:
            self._begin(grip)
            return
        found = self.joint_at(self._pressed)
        add = bool(keys & (SHIFT | CTRL))
        if found is None:
            self.box = QRectF(self._pressed, self._pressed)
            return
        self._choose_at(self._pressed, add=add)
        if not add and self.session.controls:
            self._begin("figure")

    def _begin(self, grip: str) -> None:
        session = self.session
        if session.look_stepped:
            session.tell("The shot is being looked at as stepped. Turn that off to pose.")
            return
        if not session.unlocked(session.controls):
            return
        try:
            self._drag = self._drag_for(grip)
        except BovrinError as error:
            session.fail(error)

    def _drag_for(self, grip: str) -> Drag:
        session = self.session
        held = take_hold(
            session.shot,
            session.figure_name,
            session.frame,
            session.controls,
            session.scope,
            session.key_style,
            session.locked_channels(),
        )
        view, height = self.view, self.height()
        place = self.handle_of(session.controls[-1])
        if grip == "figure":
            joint = self._pulled_joint()
            if joint is not None:
                start = held.stance.seen(joint)
                return slide_drag(held, "Pull", view, height, start, body_mover(held, joint))
        if grip in ("figure", "square"):
            return slide_drag(held, "Move", view, height, place, place_mover(held))
        axes = self.turn_axes()
        pivot = self.shared_pivot()
        if grip in "xyz":
            axis = self.move_axes()["xyz".index(grip)]
            return slide_drag(held, "Move", view, height, place, place_mover(held), axis)
        if grip == "size":
            centre = self.handle_points()["centre"]
            reach = partial(_reach, centre, self._pressed)
            return size_drag(held, reach(0.0, 0.0), reach, pivot)
        if grip == "ring":
            centre = self.handle_points()["centre"]
            angle = ring_angle((centre.x(), centre.y()), (self._pressed.x(), self._pressed.y()))
            return turn_drag(held, axes[2], angle, pivot)
        if grip in ("up", "down"):
            return turn_drag(held, axes[0], lambda _dx, dy: dy * 0.011, pivot)
        return turn_drag(held, axes[1], lambda dx, _dy: dx * 0.011, pivot)

    def _pulled_joint(self) -> int | None:
        """The joint to pull the whole body by: of the bone under the pointer the nearer end; None for small parts."""
        figure = self.session.figure
        found = self.joint_at(self._pressed)
        if figure is None or found is None:
            return None
        if any(figure.rig.controls[c].kind is ControlKind.WHOLE for c in self.session.controls):
            return None
        joint = posing.leader_of(figure.rig, found[1])
        if not follows_a_drag(figure.rig, joint):
            return None
        ends = [joint, *(j for j in posing.children_of(figure.rig, joint) if follows_a_drag(figure.rig, j))]
        world = self.world()
        return min(ends, key=lambda j: distance(self.on_screen(world[j, :3, 3]), self._pressed))

    def _borrow_pivot(self, at: QPointF) -> None:
        """Put the borrowed pivot on the nearest joint under the pointer, or on the handle's own depth."""
        self.placing_pivot = False
        figure = self.session.figure
        if figure is None or not self.session.controls:
            return
        place = self.skin_place(at)
        if place is None:
            place = self.view.slide(
                self.handle_of(self.session.controls[-1]),
                *_way(self.on_screen(self.handle_of(self.session.controls[-1])), at),
                self.height(),
            )
        self.session.set_pivot(borrowed=np.asarray(place))
        self.session.tell("Turns and sizes now go about this point, until something else is chosen.")

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        moved = at - self._pressed
        if self._drag is not None:
            if self.session.previewing or moved.manhattanLength() >= START:
                self._step(moved, event.modifiers())
        elif self.box is not None:
            self.box = QRectF(self._pressed, at).normalized()
            self.update()
        elif self._navigating is not None:
            if event.modifiers() & SHIFT:
                self.set_view(self.view.moved(moved.x(), moved.y(), self.height()))
            else:
                self.set_view(self.view.turned(-moved.x() * 0.008, moved.y() * 0.008))
            self._pressed = at
        elif event.buttons() == Qt.MouseButton.NoButton:
            self._hover(at)

    def _step(self, moved: QPointF, keys: Qt.KeyboardModifier) -> None:
        assert self._drag is not None
        held = Held(moved.x(), moved.y(), bool(keys & SHIFT), bool(keys & CTRL), bool(keys & ALT))
        self.says = self._drag.says(held)
        try:
            self.session.preview(self._drag.step(held))
        except BovrinError as error:
            self.cancel_drag()
            self.session.fail(error)

    def _hover(self, at: QPointF) -> None:
        if self.placing_pivot:
            self.setCursor(Qt.CursorShape.CrossCursor)
            self.session.hint("Click where the chosen parts shall turn about. Esc leaves it.")
            return
        grip = self._grip_at(at)
        found = None if grip or self.session.playing else self.control_at(at)
        self.setCursor(Qt.CursorShape.PointingHandCursor if grip or found else Qt.CursorShape.ArrowCursor)
        self.session.hint(hint_words(self.session, grip, found))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._navigating == event.button():
            self._navigating = None
            self._rest.start()
        elif self._drag is not None and event.button() == Qt.MouseButton.LeftButton:
            shot, name = self.session.shown, self._drag.name
            self._drag, self.says = None, ""
            if self.session.previewing:
                self.session.commit_edit(f"{name} {self._chosen_words()}", shot)
            self._rest.start()
        elif self.box is not None and event.button() == Qt.MouseButton.LeftButton:
            box, self.box = self.box, None
            keys = event.modifiers()
            add, take = bool(keys & SHIFT), bool(keys & CTRL)
            if box.width() + box.height() >= START:
                self._choose_in_box(box, add=add, take=take)
            elif not (add or take):
                self.session.choose(self.session.figure_name, ())
            self.update()

    def _chosen_words(self) -> str:
        figure, chosen = self.session.figure, self.session.controls
        assert figure is not None
        return figure.rig.controls[chosen[0]].name if len(chosen) == 1 else f"{len(chosen)} controls"

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        grip = self._grip_at(event.position())
        if grip and event.button() == Qt.MouseButton.LeftButton:
            self._drag, self.says = None, ""
            self.session.preview(None)
            words = {"square": ("translate",), "size": ("size", "stretch")}
            self.session.reset_chosen(*words.get(grip, ("rotate",)))

    def cancel_drag(self) -> bool:
        """Put everything back; says whether a drag was under way."""
        if self._drag is None and self.box is None and not self.placing_pivot:
            return False
        self._drag, self.box, self.says, self.placing_pivot = None, None, "", False
        self.session.preview(None)
        self._rest.start()
        self.update()
        return True

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.set_view(self.view.nearer(1.0015 ** event.angleDelta().y()))


def _reach(centre: QPointF, start: QPointF, dx: float, dy: float) -> float:
    return distance(centre, start + QPointF(dx, dy))


def _way(start: QPointF, end: QPointF) -> tuple[float, float]:
    return end.x() - start.x(), end.y() - start.y()
