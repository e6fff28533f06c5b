"""What hangs on what, on the stage: a thin line from what hangs to what carries it, and a hook. Asked for, the next click says
what shall carry what is chosen."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.craft.hanging.offsets import held_at
from bovrin.desk.kit.gesture import Modifiers, Press
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.overlay import CROSS, Hit
from bovrin.desk.stage.scene import Scene
from bovrin.desk.state.hanging import hang_chosen, onto_chosen
from bovrin.figure.stages.hanging import frames_of
from bovrin.figure.staging import staged
from bovrin.shot import TO_GROUND, Shot

Floats = NDArray[np.float64]

HANG, SNAP = "hang", "onto"
WORDS = {
    HANG: "Click what it shall hang on: a part of a figure, or the ground. Escape: nothing",
    SNAP: "Click what it shall be put onto: a part of a figure, or the ground. Escape: nothing",
}
HOOK = 5.0
"""The radius of the hook, pixels."""


class HangMark:
    """`what`: whether the next click says what carries it, or onto what it is put; "": neither."""

    def __init__(self, scene: Scene) -> None:
        self.scene, self.session, self.what = scene, scene.session, ""

    def lines(self) -> list[tuple[QPointF, QPointF, float]]:
        """Of the chosen figure: where what hangs is seen, where what carries it is, and how far it hangs."""
        session = self.session
        figure, shot = session.figure, session.seen
        if figure is None or session.playing or not shot.attachments(figure.name) or not session.looking.shows(figure):
            return []
        own, found = staged(shot, figure.name, session.frame), []
        for held in held_at(shot, figure.name, session.frame):
            place = frames_of(own.rig, held.control, own.values, own.world)[0][0]
            for hook, share in zip(held.hooks, held.share.tolist(), strict=True):
                if share > 0.0:
                    one = hook.attachment
                    carrier = place * [1.0, 0.0, 1.0]
                    if one.carrier != TO_GROUND:
                        carrier = staged(shot, one.carrier, session.frame).world[0, hook.joint, :3, 3]
                    found.append((self.scene.on_screen(place), self.scene.on_screen(carrier), share))
        return found

    def paint(self, painter: QPainter) -> None:
        """Lines to what carries, with a hook at what hangs."""
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for at, to, share in self.lines():
            hook = QRectF(at.x() - HOOK, at.y() - 3.2 * HOOK, 2 * HOOK, 2 * HOOK)
            for wide, colour in ((3.4, Look.colour("raised", 0.7)), (1.2, Look.colour("accent", 0.35 + 0.65 * share))):
                painter.setPen(QPen(colour, wide, Qt.PenStyle.DotLine if wide < 2 else Qt.PenStyle.SolidLine))
                painter.drawLine(at, to)
                painter.setPen(QPen(colour, wide + 0.6))
                painter.drawArc(hook, -60 * 16, 240 * 16)
                painter.drawLine(QPointF(at.x(), hook.bottom()), at)

    def hit(self, at: QPointF) -> Hit | None:
        """Everywhere, nearer than anything else, while it is asked for."""
        return Hit(-1.0, CROSS, WORDS[self.what]) if self.what else None

    def begin(self, hit: Hit, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
        """What carries it was said."""
        what, self.what = self.what, ""
        found = self.scene.skin_at(at)
        to = (TO_GROUND, "") if found is None else (found.figure.name, found.figure.rig.joints[found.joint].name)
        (hang_chosen if what == HANG else onto_chosen)(self.session, to)
        return Press()

    def reset(self, hit: Hit) -> None:
        """A double click says nothing more."""
