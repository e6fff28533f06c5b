"""Drags on the stage: from pointer movement to a provisional shot. One object lives for one drag."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF

from bovrin.craft.keying.edits import Scope, edited, edited_ready, prepared
from bovrin.craft.keying.keys import KeyStyle
from bovrin.craft.pose import posing
from bovrin.craft.pose.body import BodyDrag, anchored
from bovrin.craft.pose.pivot import sized, turned_about
from bovrin.desk.kit.gesture import Drag, Modifiers
from bovrin.desk.stage.overlays.ruler_mark import is_over_an_end, over_an_end
from bovrin.desk.stage.scene import Scene
from bovrin.desk.state.document.session import Session
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import stance
from bovrin.frozen import frozen, frozen_equal
from bovrin.picture.view import View
from bovrin.shot import ChannelRole, Rig, Shot

Floats = NDArray[np.float64]

STEP_MOVE = 0.05
STEP_TURN = math.radians(15)
STEP_SIZE = 0.1


@frozen_equal
class Pointer:
    """The pointer during a drag: pixels right and down since it began, and the keys that are down."""

    dx: float
    dy: float
    shift: bool = False
    ctrl: bool = False
    alt: bool = False


@frozen
class Grip:
    """What a drag works on: the shot before it, the figure and controls, its stance then, and what an edit keys."""

    shot: Shot
    figure: str
    frame: float
    controls: tuple[int, ...]
    stance: Stance
    base: Shot
    scope: Scope
    style: KeyStyle
    pressed: QPointF

    @property
    def rig(self) -> Rig:
        """The figure's rig."""
        return self.shot.figure(self.figure).rig

    def with_values(self, changes: dict[int, float]) -> Shot:
        """The provisional shot with some channels changed."""
        if not changes:
            return self.shot
        if self.scope is Scope.WHOLE:
            return edited_ready(self.shot, self.base, self.figure, self.frame, changes, self.style)
        return edited(self.shot, self.figure, self.frame, changes, self.scope, self.style)


def take_hold(session: Session, pressed: QPointF) -> Grip:
    """Prepare a drag of what is chosen: what it will key is keyed once, so that each step only sets what moves."""
    shot, name, frame, controls = session.shot, session.figure_name, session.frame, session.controls
    scope, style = session.keying.scope, session.keying.style_in(session.pass_)
    base = prepared(shot, name, frame, controls, scope, style)
    return Grip(shot, name, frame, controls, stance(shot, name, frame), base, scope, style, pressed)


class StageDrag(Drag[Shot]):
    """A drag that poses: from where the pointer is to a provisional shot, and what it says about itself."""

    def __init__(
        self,
        grip: Grip,
        name: str,
        step: Callable[[Pointer], Shot],
        says: Callable[[Pointer], str],
        rests: Rest = lambda: True,
    ) -> None:
        rig, chosen = grip.rig, grip.controls
        self.words = f"{name} {rig.controls[chosen[0]].name if len(chosen) == 1 else f'{len(chosen)} controls'}"
        self.frame = grip.frame
        self._pressed, self._step, self._says, self._rests = grip.pressed, step, says, rests

    @property
    def at_rest(self) -> bool:
        return self._rests()

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Shot, str]:
        way = at - self._pressed
        down = (
            bool(modifiers & one) for one in (Modifiers.ShiftModifier, Modifiers.ControlModifier, Modifiers.AltModifier)
        )
        pointer = Pointer(way.x(), way.y(), *down)
        return self._step(pointer), self._says(pointer)


Mover = Callable[[Floats, Pointer], dict[int, float]]
Rest = Callable[[], bool]
"""Whether what a drag poses is where the pointer leads it."""


def _snapped(by: Floats, pointer: Pointer) -> Floats:
    return np.round(by / STEP_MOVE) * STEP_MOVE if pointer.ctrl else by


def slide_drag(
    grip: Grip,
    name: str,
    scene: Scene,
    place: Floats,
    mover: Mover,
    axis: Floats | None = None,
    rests: Rest = lambda: True,
    more: Callable[[], str] = lambda: "",
) -> StageDrag:
    """Move something in the view's plane, or along a world axis (3,). The mover takes the world way and the keys held; `more`:
    what else there is to say.

    Where Shift has no other meaning it keeps the way level or upright on the screen.
    """
    view, height = scene.view, scene.size.height()
    limb = any(posing.limb_joint(grip.rig, c) is not None for c in grip.controls)

    def way(pointer: Pointer) -> Floats:
        dx, dy = pointer.dx, pointer.dy
        if pointer.shift and not limb:
            dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
        if axis is not None:
            return _snapped(np.array([_along(view, place, axis, dx, dy, height)]), pointer) * axis
        by = _snapped(view.slide(place, dx, dy, height) - place, pointer)
        over = None if pointer.ctrl else over_an_end(scene, place + by)
        return by if over is None else over - place

    def says(pointer: Pointer) -> str:
        by = way(pointer)
        words = f"{float(np.linalg.norm(by)) * 100:.1f} cm{more()}"
        if pointer.ctrl:
            return words + f" · in steps of {STEP_MOVE * 100:g} cm"
        return words + (" · over the ruler's end" if axis is None and is_over_an_end(scene, place + by) else "")

    return StageDrag(
        grip, name, lambda pointer: grip.with_values(_with_anchors(grip, mover(way(pointer), pointer))), says, rests
    )


def _along(view: View, place: Floats, axis: Floats, dx: float, dy: float, height: int) -> float:
    """How far along an axis the pointer has gone: its way on the screen, seen along the axis's own."""
    size = (height, height)
    a, b = (np.array(view.project(p, size)[:2], float) for p in (place, place + axis * 0.1))
    shown = b - a
    length2 = float(shown @ shown)
    return 0.1 * float(np.array([dx, dy]) @ shown) / length2 if length2 > 1.0 else 0.0


def _with_anchors(grip: Grip, changes: dict[int, float]) -> dict[int, float]:
    """What is posed on purpose is anchored."""
    if changes:
        for control in grip.controls:
            column = posing.anchor_column(grip.rig, control)
            if column >= 0:
                changes = {**changes, column: 1.0}
    return changes


def body_drag(grip: Grip, scene: Scene, joint: int) -> StageDrag:
    """Pull one joint; the body follows and anchors hold. Alt keeps the turn of a limb's end, or lets a foot follow. A pull that
    goes on where the last one ended follows the same way, as if the pointer had not been let go."""
    rig, now = grip.rig, grip.stance
    anchors, last = anchored(now), scene.session.pulled
    drags: dict[bool, BodyDrag] = {}
    start = now.seen(joint)
    stands = any(limb.end == joint and limb.foot is not None for limb in rig.limbs)

    def move(by: Floats, pointer: Pointer) -> dict[int, float]:
        keep = pointer.alt != stands
        if keep not in drags:
            drags[keep] = last.drag(now, joint, anchors, keep_turn=keep)
        return drags[keep].to(start + by)

    return slide_drag(grip, "Pull", scene, start, move, rests=lambda: all(drag.at_rest for drag in drags.values()))


def turn_drag(grip: Grip, axis: Floats, angle_of: Callable[[float, float], float], pivot: Floats | None) -> StageDrag:
    """Turn controls about a world axis (3,): each about its own pivot, or all about one place (3,)."""

    def angle(pointer: Pointer) -> float:
        turned = angle_of(pointer.dx, pointer.dy)
        return round(turned / STEP_TURN) * STEP_TURN if pointer.ctrl else turned

    def step(pointer: Pointer) -> Shot:
        changes = turned_about(grip.stance, grip.controls, axis, angle(pointer), pivot)
        return grip.with_values(_with_anchors(grip, changes))

    def says(pointer: Pointer) -> str:
        steps = f" · in steps of {math.degrees(STEP_TURN):g}°" if pointer.ctrl else ""
        return f"{math.degrees(angle(pointer)):.1f}°{steps}"

    return StageDrag(grip, "Turn", step, says)


def size_drag(grip: Grip, start: float, reach: Callable[[float, float], float], pivot: Floats | None) -> StageDrag:
    """Make controls larger or smaller by how far the pointer is from the middle; with Shift longer or flatter."""

    def factor(pointer: Pointer) -> float:
        grown = max(reach(pointer.dx, pointer.dy) / max(start, 1.0), 0.1)
        return max(round(grown / STEP_SIZE) * STEP_SIZE, STEP_SIZE) if pointer.ctrl else grown

    def step(pointer: Pointer) -> Shot:
        role = ChannelRole.STRETCH if pointer.shift else ChannelRole.SIZE
        return grip.with_values(sized(grip.stance, grip.controls, role, factor(pointer), pivot))

    def says(pointer: Pointer) -> str:
        word = "longer, volume kept" if pointer.shift else "size"
        steps = f" · in steps of {STEP_SIZE * 100:g} %" if pointer.ctrl else ""
        return f"{factor(pointer) * 100:.0f} % {word}{steps}"

    return StageDrag(grip, "Size", step, says)


def ring_angle(centre: tuple[float, float], start: tuple[float, float]) -> Callable[[float, float], float]:
    """The angle by which the pointer has gone round a centre on the screen, counter-clockwise, radians."""
    ax, ay = start[0] - centre[0], start[1] - centre[1]

    def angle(dx: float, dy: float) -> float:
        now = math.atan2(-(ay + dy), ax + dx)
        turned = now - math.atan2(-ay, ax)
        return (turned + math.pi) % (2 * math.pi) - math.pi

    return angle
