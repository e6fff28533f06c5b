"""Dragging a dot of an arc: the pose on its frame gives way, or the handles around it, while another frame is looked at."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF

from bovrin.craft.arcs.arc_pull import BREAKDOWN, HANDLES, POSE, PointPull, pulled, way_of
from bovrin.desk.kit.gesture import Drag, Modifiers
from bovrin.desk.state.document.session import Session
from bovrin.figure.staging import stance
from bovrin.picture.view import View
from bovrin.shot import Shot, Spot

Floats = NDArray[np.float64]

SAYS = {POSE: "in the pose there", HANDLES: "by the handles around it", BREAKDOWN: "in a breakdown there"}


class Dot(NamedTuple):
    """A dot: its point, its frame, where it is drawn (3,), and the turn (3, 3) from ways as drawn to ways in the world."""

    spot: Spot
    frame: float
    shown: Floats
    turn: Floats


class ArcDrag(Drag[Shot]):
    """One drag of a dot."""

    def __init__(self, session: Session, dot: Dot, pressed: QPointF, view: View, height: int) -> None:
        self.words, self.frame = f"Drag the arc of {dot.spot.joint}", dot.frame
        self._session, self._dot, self._pressed = session, dot, pressed
        self._view, self._height = view, height
        self._shot = session.shot
        self._now = stance(self._shot, dot.spot.figure, dot.frame)
        self._pulls: dict[bool, PointPull] = {}
        self._style, self._scope = session.keying.style_in(session.pass_), session.keying.scope

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Shot | None, str]:
        """Where the pointer is in the view's plane, at the dot's depth."""
        dot, way = self._dot, at - self._pressed
        by = dot.turn @ (self._view.slide(dot.shown, way.x(), way.y(), self._height) - dot.shown)
        pull = self._pull(bool(modifiers & Modifiers.AltModifier))
        values = pull.to(pull.place + by)
        if not values:
            return None, "It cannot go there."
        shift = bool(modifiers & Modifiers.ShiftModifier)
        how = way_of(self._shot, dot.spot.figure, dot.frame, values, breakdown=shift)
        made = pulled(self._shot, dot.spot.figure, dot.frame, values, how, self._scope, self._style)
        return made, f"{np.linalg.norm(by) * 100:.1f} cm on frame {dot.frame:g}, {SAYS[how]}"

    @property
    def at_rest(self) -> bool:
        return all(pull.at_rest for pull in self._pulls.values())

    def _pull(self, whole: bool) -> PointPull:
        if whole not in self._pulls:
            joint = self._now.rig.joint(self._dot.spot.joint)
            self._pulls[whole] = PointPull(self._now, joint, np.array(self._dot.spot.at), whole=whole, paced=True)
        return self._pulls[whole]


def arc_drag(session: Session, dot: Dot, pressed: QPointF, view: View, height: int) -> ArcDrag | None:
    """A drag of a dot; None, with a word why, when nothing can be posed now."""
    if session.looking.stepped:
        session.voice.tell("The shot is being looked at as stepped. Turn that off to pose.")
        return None
    return ArcDrag(session, dot, pressed, view, height)
