"""The picked note of the proof on the stage: the path of what it is about, or the weight over the feet."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.desk.kit.look import Look
from bovrin.desk.kit.polygons import polygon
from bovrin.desk.stage.overlay import Mark
from bovrin.desk.stage.overlays.weight_mark import WeightMark, on_screen
from bovrin.desk.stage.scene import Scene
from bovrin.desk.state.looking.proofread import controls_of
from bovrin.figure.staging import staged
from bovrin.measure.arcs import Walked
from bovrin.measure.proof import Note
from bovrin.shot import Figure

Floats = NDArray[np.float64]

AROUND = 4
"""Frames of the path before and after those of the note."""
LONGEST = 120
"""Frames of a path that is drawn."""
RING = 9.0


class NoteMark(Mark):
    """Drawn while a note is picked and nothing plays."""

    def __init__(self, scene: Scene) -> None:
        super().__init__(scene)
        self._walked, self._weight = Walked(), WeightMark(scene)

    def paint(self, painter: QPainter) -> None:
        """The note of the figure as it is seen now, on trial too."""
        session = self.scene.session
        note = session.looking.note
        if note is None or session.playing or note.figure not in [figure.name for figure in session.seen.cast]:
            return
        figure = session.seen.figure(note.figure)
        if not session.looking.shows(figure):
            return
        if note.kind == "balance":
            self._weight.paint_of(painter, figure)
            return
        for joint in _joints(figure, note):
            self._paint_path(painter, figure, joint, note)

    def _paint_path(self, painter: QPainter, figure: Figure, joint: int, note: Note) -> None:
        session = self.scene.session
        first, last = max(note.start - AROUND, session.shot.first), min(note.end + AROUND, session.shot.last)
        middle = np.clip(session.frame, first, last)
        first, last = max(first, middle - LONGEST), min(last, middle + LONGEST)
        frames = np.arange(np.ceil(first), np.floor(last) + 1)
        if not len(frames):
            return
        dots = on_screen(self.scene, self._walked.over(session.seen, figure.name, frames).places[:, joint])
        inside = (frames >= note.start) & (frames <= note.end)
        colour = Look.colour("alert")
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(Look.colour("raised", 0.75), 5.0), QPen(colour, 1.8)):
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPolyline(polygon(*dots.T))
        painter.setPen(QPen(colour, 5.0, cap=Qt.PenCapStyle.RoundCap))
        painter.drawPoints(polygon(*dots[inside].T))
        here = on_screen(self.scene, staged(session.seen, figure.name, session.frame).places[0, [joint]])[0]
        painter.setPen(QPen(colour, 1.6, Qt.PenStyle.DashLine))
        painter.drawEllipse(QPointF(*here), RING, RING)


def _joints(figure: Figure, note: Note) -> list[int]:
    """The joints whose paths show a note; three at most."""
    rig = figure.rig
    found = [limb.end for limb in rig.limbs if limb.name in note.at]
    if not found:
        found = [n for n, joint in enumerate(rig.joints) if joint.name in note.at]
    if not found:
        found = [rig.controls[c].joint for c in controls_of(rig, note)]
    return list(dict.fromkeys(found))[:3]
