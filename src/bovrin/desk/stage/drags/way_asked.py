"""A way dragged on the stage: the bow of an arc, or where a hold drifts. Asked for by a command, it takes the next drag."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.craft.arcs.cleaner_arcs import on_an_arc
from bovrin.craft.between.moving_hold import moving_hold
from bovrin.desk.kit.gesture import Drag, Modifiers, Press
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.overlay import CROSS, Hit
from bovrin.desk.stage.scene import Scene
from bovrin.desk.state.document.editing import chosen_parts
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.arcs import spot_of
from bovrin.desk.state.spans import hold_span, work_span
from bovrin.errors import BadMotion
from bovrin.shot import Shot, Spot

Floats = NDArray[np.float64]

BOW, DRIFT = "bow", "drift"
WORDS = {
    BOW: "Drag the way in which the middle of the path bows out. Escape: none",
    DRIFT: "Drag the way in which the hold drifts. Escape: none",
}


class WayAsked:
    """`what`: the bow, or the drift that the next drag says; "": none."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.session, self.what = scene, scene.session, ""
        self._from: QPointF | None = None
        self._to: QPointF | None = None

    def hit(self, at: QPointF) -> Hit | None:
        """Everywhere, nearer than anything else."""
        return Hit(-1.0, CROSS, WORDS[self.what]) if self.what else None

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """The way begins here."""
        what, self.what = self.what, ""
        self._from = self._to = at
        return Press(WayDrag(self, what, at), self.done)

    def done(self) -> None:
        """Nothing is dragged any more."""
        self._from = self._to = None

    def goes_to(self, at: QPointF) -> None:
        """How far the way has come."""
        self._to = at

    def reset(self, hit: Hit) -> None:
        """A double click says no way."""

    def paint(self, painter: QPainter) -> None:
        """The way as it is dragged."""
        if self._from is None or self._to is None:
            return
        for pen in (QPen(Look.colour("raised", 0.8), 5.0), QPen(Look.colour("accent"), 1.8)):
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawLine(self._from, self._to)
        painter.setBrush(Look.colour("accent"))
        painter.drawEllipse(self._to, 3.0, 3.0)


class WayDrag(Drag[Shot]):
    """A way in the plane of the screen, metres at the depth of what it is about."""

    def __init__(self, asked: WayAsked, what: str, pressed: QPointF) -> None:
        self.words = "On an arc" if what == BOW else "Drift by hand"
        self._asked, self._what, self._pressed = asked, what, pressed
        session = asked.session
        self._session, self._shot = session, session.shot
        figure = session.figure
        self._spots: list[Spot] = [] if figure is None else [spot_of(figure, control) for control in session.controls]
        self._span = work_span(session, self._shot) if what == BOW else hold_span(session)
        self._parts = chosen_parts(session) or None
        self._place = _middle(session)

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Shot, str]:
        """The shot with that bow or drift."""
        self._asked.goes_to(at)
        scene, way = self._asked.scene, at - self._pressed
        by = scene.view.slide(self._place, way.x(), way.y(), scene.size.height()) - self._place
        start, end = self._span
        said = f"{np.linalg.norm(by) * 100:.1f} cm from {start:g} to {end:g}. Esc puts it back."
        if self._what == DRIFT:
            return moving_hold(self._shot, self._session.figure_name, start, end, 1.0, by, self._parts), f"Drift {said}"
        if not self._spots:
            raise BadMotion("nothing is chosen to be bowed.", advice="Choose a part first.")
        made = self._shot
        for spot in self._spots:
            made = on_an_arc(made, spot, start, end, by)
        return made, f"Bow {said}"

    def done(self) -> None:
        """It was taken over."""
        self._asked.done()

    def put_back(self) -> None:
        """It was given up."""
        self._asked.done()


def _middle(session: Session) -> Floats:
    """Where the chosen part, or else the figure, is: the depth at which ways are measured."""
    figure = session.figure
    if figure is None:
        return np.zeros(3)
    world = session.stance().world
    joints = [figure.rig.controls[c].joint for c in session.controls] or [min(1, len(figure.rig.joints) - 1)]
    return np.asarray(world[joints, :3, 3].mean(0))
