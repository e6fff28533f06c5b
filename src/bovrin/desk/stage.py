"""The stage: choosing, dragging and looking round with the mouse."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QWheelEvent

from bovrin.craft import posing
from bovrin.desk.drags import Step, move_step, ring_angle, take_hold, turn_step
from bovrin.desk.session import Session
from bovrin.desk.stage_view import DOT, RING, SQUARE, StageView, distance
from bovrin.desk.stage_words import hint_words
from bovrin.motion.evaluate import channel_values
from bovrin.picture.renderer import shared_renderer


class Stage(StageView):
    """Shows the shot and turns drags into poses."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._step: Step | None = None
        self._step_name = ""
        self._pressed = QPointF()
        self._navigating: Qt.MouseButton | None = None
        self.space_held = False
        self.space_used = False

    def busy(self) -> bool:
        return self._step is not None or self._navigating is not None

    def _grip_at(self, at: QPointF) -> str:
        points = self.handle_points()
        for name in ("up", "right", "down", "left"):
            if name in points and distance(points[name], at) <= DOT + 4:
                return name
        if "square" in points and max(abs((points["square"] - at).x()), abs((points["square"] - at).y())) <= SQUARE + 2:
            return "square"
        if "centre" in points and abs(distance(points["centre"], at) - RING) <= 6:
            return "ring"
        return ""

    # -- choosing -----------------------------------------------------------------------------------------------------

    def control_at(self, at: QPointF) -> tuple[str, int] | None:
        """The figure and control under a point of the widget."""
        if not self._drawable:
            return None
        size = (max(16, self.width()), max(16, self.height()))
        items = self.items()
        if self._pick is None:
            self._pick = shared_renderer().pick(items, self.view, size)
        x, y = int(at.x()), int(at.y())
        if not (0 <= x < size[0] and 0 <= y < size[1]):
            return None
        low, high, number, _ = (int(n) for n in self._pick[y, x])
        if number == 0:
            return None
        figure = items[number - 1].figure
        values = channel_values(self.session.seen_curves(figure.name), figure.rig, [self.session.frame])[0]
        return figure.name, posing.control_for_joint(figure.rig, values, low + 256 * high)

    def _choose_at(self, at: QPointF, *, add: bool) -> None:
        found = self.control_at(at)
        if found is None:
            if not add:
                self.session.choose(self.session.figure_name, ())
            return
        name, control = found
        if add and name == self.session.figure_name:
            now = self.session.controls
            wanted = tuple(c for c in now if c != control) if control in now else (*now, control)
            self.session.choose(name, wanted)
        elif name != self.session.figure_name or control not in self.session.controls:
            self.session.choose(name, (control,))

    # -- mouse --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._step is not None:
            if event.button() == Qt.MouseButton.RightButton:
                self.cancel_drag()
            return
        self._pressed = event.position()
        held = event.button() == Qt.MouseButton.LeftButton and self.space_held
        if event.button() == Qt.MouseButton.MiddleButton or held:
            self.space_used = self.space_used or held
            self._navigating = event.button()
            return
        if event.button() == Qt.MouseButton.LeftButton and not self.session.playing:
            grip = self._grip_at(self._pressed)
            add = bool(event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
            if not grip:
                self._choose_at(self._pressed, add=add)
                found = self.control_at(self._pressed)
                grip = "square" if found is not None and not add else ""
            if grip and self.session.controls:
                self._begin(grip)

    def _begin(self, grip: str) -> None:
        session = self.session
        if session.look_stepped:
            session.tell("The shot is being looked at as stepped. Turn that off to pose.")
            return
        held = take_hold(
            session.shot, session.figure_name, session.frame, session.controls, session.scope, session.key_style
        )
        right, up, toward = self.view.axes()
        if grip == "square":
            places = {c: self.handle_of(c) for c in session.controls}
            self._step, self._step_name = move_step(held, self.view, self.height(), places), "Move"
        elif grip == "ring":
            centre = self.handle_points()["centre"]
            angle = ring_angle((centre.x(), centre.y()), (self._pressed.x(), self._pressed.y()))
            self._step, self._step_name = turn_step(held, toward, angle), "Turn"
        elif grip in ("up", "down"):
            self._step, self._step_name = turn_step(held, right, lambda _dx, dy: dy * 0.011), "Turn"
        else:
            self._step, self._step_name = turn_step(held, up, lambda dx, _dy: dx * 0.011), "Turn"

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        moved = at - self._pressed
        if self._step is not None:
            keys = event.modifiers()
            straight = bool(keys & Qt.KeyboardModifier.ShiftModifier)
            snapped = bool(keys & Qt.KeyboardModifier.ControlModifier)
            if self.session.previewing or moved.manhattanLength() >= 3:
                self.session.preview(self._step(moved.x(), moved.y(), straight, snapped))
        elif self._navigating is not None:
            if event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
                self.set_view(self.view.moved(moved.x(), moved.y(), self.height()))
            else:
                self.set_view(self.view.turned(-moved.x() * 0.008, moved.y() * 0.008))
            self._pressed = at
        elif event.buttons() == Qt.MouseButton.NoButton:
            self._hover(at)

    def _hover(self, at: QPointF) -> None:
        grip = self._grip_at(at)
        found = None if grip or self.session.playing else self.control_at(at)
        self.setCursor(Qt.CursorShape.PointingHandCursor if grip or found else Qt.CursorShape.ArrowCursor)
        self.session.hint(hint_words(self.session, grip, found))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._navigating == event.button():
            self._navigating = None
            self._rest.start()
        elif self._step is not None and event.button() == Qt.MouseButton.LeftButton:
            shot, self._step = self.session.shown, None
            if self.session.previewing:
                self.session.commit(f"{self._step_name} {self._chosen_words()}", shot)
            self._rest.start()

    def _chosen_words(self) -> str:
        figure, chosen = self.session.figure, self.session.controls
        assert figure is not None
        return figure.rig.controls[chosen[0]].name if len(chosen) == 1 else f"{len(chosen)} controls"

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        grip = self._grip_at(event.position())
        if grip and event.button() == Qt.MouseButton.LeftButton:
            self._step = None
            self.session.preview(None)
            self.session.reset_chosen("translate" if grip == "square" else "rotate")

    def cancel_drag(self) -> bool:
        """Put everything back; says whether a drag was under way."""
        if self._step is None:
            return False
        self._step = None
        self.session.preview(None)
        self._rest.start()
        return True

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.set_view(self.view.nearer(1.0015 ** event.angleDelta().y()))
