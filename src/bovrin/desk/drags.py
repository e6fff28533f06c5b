"""Drags on the stage: from pointer movement to a provisional shot. One object lives for one drag."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bovrin.craft import posing
from bovrin.craft.keys import KeyStyle, prepared, set_channels
from bovrin.motion.evaluate import channel_values
from bovrin.picture.view import View
from bovrin.shot import Rig, Shot

Floats = NDArray[np.float64]

STEP_MOVE = 0.05
STEP_TURN = math.radians(15)


@dataclass(frozen=True, eq=False, repr=False)
class Grip:
    """What a drag works on: the shot before it, the figure and controls, and the values then (C,)."""

    shot: Shot
    figure: str
    frame: float
    controls: tuple[int, ...]
    values: Floats
    base: Shot

    @property
    def rig(self) -> Rig:
        """The figure's rig."""
        return self.shot.figure(self.figure).rig

    def with_values(self, changes: dict[int, float]) -> Shot:
        """The provisional shot with some channels changed."""
        return set_channels(self.base, self.figure, self.frame, changes) if changes else self.shot


def take_hold(shot: Shot, figure: str, frame: float, controls: Iterable[int], scope: str, style: KeyStyle) -> Grip:
    """Prepare a drag: what it will key is keyed once, so that each step only sets what moves."""
    chosen = tuple(controls)
    rig = shot.figure(figure).rig
    values = channel_values(shot.curves(figure), rig, [frame])[0]
    base = prepared(shot, figure, frame, chosen, scope, style)
    for control in chosen:
        touched = {i: float(values[i]) for i in rig.span(control) if base.curves(figure)[i].index_at(frame) is None}
        base = set_channels(base, figure, frame, touched, style)
    return Grip(shot, figure, frame, chosen, values, base)


Step = Callable[[float, float, bool, bool], Shot]
"""A drag's step: pixels right and down since it began, Shift held, Ctrl held -> provisional shot."""


def move_step(grip: Grip, view: View, height: int, places: dict[int, Floats]) -> Step:
    """Move controls in the view's plane; those that only turn swing their bone to the pointer. places: world handles."""

    def step(dx: float, dy: float, straight: bool, snapped: bool) -> Shot:
        if straight:
            dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
        changes: dict[int, float] = {}
        values = grip.values.copy()
        for control in grip.controls:
            place = places[control]
            to = view.slide(place, dx, dy, height)
            if posing.can_move(grip.rig, control):
                by = to - place
                if snapped:
                    by = np.round(by / STEP_MOVE) * STEP_MOVE
                new = posing.moved(grip.rig, values, control, by)
            else:
                new = posing.swung(grip.rig, values, control, to)
            changes |= new
            for index, value in new.items():
                values[index] = value
        return grip.with_values(changes)

    return step


def turn_step(grip: Grip, axis: Floats, angle_of: Callable[[float, float], float]) -> Step:
    """Turn controls, each about its own pivot, about a world axis (3,)."""

    def step(dx: float, dy: float, _straight: bool, snapped: bool) -> Shot:
        angle = angle_of(dx, dy)
        if snapped:
            angle = round(angle / STEP_TURN) * STEP_TURN
        changes: dict[int, float] = {}
        values = grip.values.copy()
        for control in grip.controls:
            new = posing.turned(grip.rig, values, control, axis, angle)
            changes |= new
            for index, value in new.items():
                values[index] = value
        return grip.with_values(changes)

    return step


def ring_angle(centre: tuple[float, float], start: tuple[float, float]) -> Callable[[float, float], float]:
    """The angle by which the pointer has gone round a centre on the screen, counter-clockwise, radians."""
    ax, ay = start[0] - centre[0], start[1] - centre[1]

    def angle(dx: float, dy: float) -> float:
        now = math.atan2(-(ay + dy), ax + dx)
        turned = now - math.atan2(-ay, ax)
        return (turned + math.pi) % (2 * math.pi) - math.pi

    return angle
