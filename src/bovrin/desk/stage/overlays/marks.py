"""Marks over the stage's picture: anchors, joints seen through the mesh, the ring and the arms of the handle."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.craft.pose.body import anchored
from bovrin.desk.kit.look import SIZE_SMALL, Look, text_font
from bovrin.desk.kit.marks import draw_hatch
from bovrin.desk.stage.overlay import Mark

DOT, HATCH = 5.0, 8.0
ARMS = {"x": "across", "y": "up", "z": "forward"}


class Anchors(Mark):
    """Ground hatching under each anchored joint of the chosen figure, as on a drawing of what stands fast."""

    def paint(self, painter: QPainter) -> None:
        """Draw it."""
        session = self.scene.session
        if session.figure is None or session.playing:
            return
        stance = session.stance()
        for joint in anchored(stance):
            draw_hatch(painter, self.scene.on_screen(stance.seen(joint)) + QPointF(0, 12), HATCH)


class Joints(Mark):
    """Bones and joints of the chosen figure, through the mesh, when they are asked for."""

    def paint(self, painter: QPainter) -> None:
        """Draw them."""
        session = self.scene.session
        figure = session.figure
        if figure is None or session.playing or not session.looking.joints:
            return
        stance, on_screen = session.stance(), self.scene.on_screen
        helpers = {follow.joint for follow in figure.rig.follows}
        for index, joint in enumerate(figure.rig.joints):
            if index in helpers:
                continue
            at = on_screen(stance.seen(index))
            if joint.parent > 0:
                above = on_screen(stance.seen(joint.parent))
                for pen in (QPen(Look.colour("raised", 0.7), 3.4), QPen(Look.colour("ink"), 1.2)):
                    painter.setPen(pen)
                    painter.drawLine(above, at)
            painter.setPen(Look.pen("ink", 1.2))
            painter.setBrush(Look.colour("raised"))
            painter.drawEllipse(at, 2.6, 2.6)


def paint_ring(painter: QPainter, points: dict[str, QPointF], *, borrowed: bool) -> None:
    """The dashed ring with its dots; a borrowed pivot has a cross in its middle."""
    if "centre" not in points:
        return
    centre = points["centre"]
    radius = abs(points["right"].x() - centre.x())
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(Look.colour("raised", 0.7), 3.2), QPen(Look.colour("ink"), 1.3, Qt.PenStyle.DashLine)):
        painter.setPen(pen)
        painter.drawEllipse(centre, radius, radius)
    painter.setPen(Look.pen("ink", 1.3))
    painter.setBrush(Look.colour("raised"))
    if (centre - points["square"]).manhattanLength() > 15:
        painter.drawLine(centre, points["square"])
    for name in ("up", "right", "down", "left"):
        painter.drawEllipse(points[name], DOT, DOT)
    if "size" in points:
        at = points["size"]
        painter.drawRect(int(at.x() - DOT), int(at.y() - DOT), round(2 * DOT), round(2 * DOT))
    if borrowed:
        painter.setPen(Look.pen("alert", 1.8))
        painter.drawLine(centre + QPointF(-7, 0), centre + QPointF(7, 0))
        painter.drawLine(centre + QPointF(0, -7), centre + QPointF(0, 7))


def paint_arms(painter: QPainter, points: dict[str, QPointF]) -> None:
    """One arm for each axis that the handle moves along, a dot and its word at the end."""
    painter.setFont(text_font(SIZE_SMALL))
    for name, word in ARMS.items():
        if name not in points:
            continue
        for pen in (QPen(Look.colour("raised", 0.85), 4.0), QPen(Look.colour("ink"), 1.3)):
            painter.setPen(pen)
            painter.drawLine(points["square"], points[name])
        painter.setBrush(Look.colour("raised"))
        painter.drawEllipse(points[name], DOT, DOT)
        away = points[name] - points["square"]
        painter.drawText(points[name] + QPointF(8 if away.x() >= 0 else -8 - 7 * len(word) * 0.8, 4), word)
