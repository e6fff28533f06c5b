"""The figure map: the chosen figure's joints as shapes, made from its rig, to choose controls with."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QWidget

from bovrin.caching import cached_by_identity
from bovrin.craft.posing import control_for_joint
from bovrin.desk.look import Look
from bovrin.desk.session import Session
from bovrin.figure.plan import plan_of
from bovrin.shot import ControlKind, Figure

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False, repr=False)
class Shape:
    """A joint on the map: from, to (metres, seen from the front) and radius."""

    joint: int
    start: Floats
    end: Floats
    radius: float


@cached_by_identity(8)
def shapes_of(figure: Figure) -> list[Shape]:
    """A capsule for each joint that a control drives, thicker where the bone is longer; thick ones first."""
    rest = plan_of(figure.rig).rest_world[:, :3, 3]
    helpers = {f.joint for f in figure.rig.follows}
    driven = {c.joint for c in figure.rig.controls if c.kind is ControlKind.JOINT}
    driven |= {limb.end for limb in figure.rig.limbs}
    widths = _middle_widths(figure)
    found = []
    for joint in sorted(driven - helpers):
        children = [i for i, j in enumerate(figure.rig.joints) if j.parent == joint and i not in helpers]
        end = rest[children[0]] if children else rest[joint] - plan_of(figure.rig).rest_world[joint, :3, 1] * 0.05
        length = float(np.linalg.norm(end - rest[joint]))
        radius = max(min(max(0.27 * length, 0.017), 0.062), widths.get(joint, 0.0))
        shrink = (end - rest[joint]) * min(radius / max(length, 1e-6) * 0.8, 0.4)
        found.append(Shape(joint, (rest[joint] + shrink)[:2], (end - shrink)[:2], radius))
    return sorted(found, key=lambda s: -s.radius)


def _middle_widths(figure: Figure) -> dict[int, float]:
    """Radii for joints of the trunk and head, from how wide the mesh is there."""
    places = plan_of(figure.rig).rest_world[:, 0, 3]
    positions = np.concatenate([p.positions[:, 0] for p in figure.model.pieces] or [np.zeros(0, np.float32)])
    strongest = np.concatenate([p.joints[:, 0] for p in figure.model.pieces] or [np.zeros(0, np.uint16)])
    found = {}
    for joint in np.flatnonzero(np.abs(places) < 1e-6):
        own = np.abs(positions[strongest == joint])
        if len(own) > 40:
            found[int(joint)] = min(0.62 * float(np.percentile(own, 85)), 0.1)
    return found


class FigureMap(QWidget):
    """Click a shape to choose its control; Shift adds."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setMouseTracking(True)
        self.setMinimumHeight(190)
        self.setAccessibleName("Figure map")
        for signal in (session.choice_changed, session.frame_changed, session.committed):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(160, 240)

    def _bounds(self) -> tuple[Floats, float]:
        """The map's lowest left corner in metres and pixels per metre."""
        figure = self.session.figure
        shapes = shapes_of(figure) if figure is not None else []
        ends = [p for s in shapes for p in (s.start, s.end)]
        points = np.array(ends) if ends else np.array([[-0.5, 0.0], [0.5, 1.0]])
        low, high = points.min(0) - 0.09, points.max(0) + 0.12
        size = np.maximum(high - low, 0.2)
        scale = float(min((self.width() - 8) / size[0], (self.height() - 26) / size[1]))
        middle = (low + high) / 2
        spare = max((self.height() - 26) / scale - size[1], 0.0)
        return np.array([middle[0] - self.width() / 2 / scale, low[1] - spare / 2]), scale

    def _point(self, place: Floats, corner: Floats, scale: float) -> QPointF:
        return QPointF((place[0] - corner[0]) * scale, self.height() - 20 - (place[1] - corner[1]) * scale)

    def _whole_rect(self) -> QRectF:
        corner, scale = self._bounds()
        ground = self._point(np.array([0.0, -0.05]), corner, scale)
        return QRectF(ground.x() - 34, min(ground.y(), self.height() - 14), 68, 9)

    def point_of(self, joint_name: str) -> QPointF:
        """Where the middle of a joint's shape is on the map."""
        figure = self.session.figure
        assert figure is not None
        corner, scale = self._bounds()
        joint = figure.rig.joint(joint_name)
        shape = next(s for s in shapes_of(figure) if s.joint == joint)
        return self._point((shape.start + shape.end) / 2, corner, scale)

    def control_at(self, at: QPointF) -> int | None:
        """The control whose shape is under a point."""
        figure = self.session.figure
        if figure is None:
            return None
        if self._whole_rect().adjusted(-4, -4, 4, 4).contains(at):
            return next((i for i, c in enumerate(figure.rig.controls) if c.kind is ControlKind.WHOLE), None)
        corner, scale = self._bounds()
        best, found = 4.0, None
        for shape in reversed(shapes_of(figure)):
            a, b = self._point(shape.start, corner, scale), self._point(shape.end, corner, scale)
            gap = _gap(at, a, b) - max(shape.radius * scale, 3.0)
            if gap < best:
                best, found = gap, shape.joint
                if gap < 0:
                    break
        return None if found is None else control_for_joint(figure.rig, self.session.values(), found)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        control = self.control_at(event.position())
        if event.button() != Qt.MouseButton.LeftButton:
            return
        now = self.session.controls
        add = bool(event.modifiers() & (Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier))
        if control is None:
            self.session.choose(self.session.figure_name, now if add else ())
        elif add:
            wanted = tuple(c for c in now if c != control) if control in now else (*now, control)
            self.session.choose(self.session.figure_name, wanted)
        else:
            self.session.choose(self.session.figure_name, (control,))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        control = self.control_at(event.position())
        figure = self.session.figure
        if control is not None and figure is not None:
            name = figure.rig.controls[control].name
            self.setToolTip(name.capitalize())
            self.session.hint(f"{name.capitalize()}: click to choose, Shift adds.")
        else:
            self.setToolTip("")

    def paintEvent(self, event: QPaintEvent | None) -> None:
        figure = self.session.figure
        if figure is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        corner, scale = self._bounds()
        values = self.session.values()
        chosen = set(self.session.controls)
        whole = next((i for i, c in enumerate(figure.rig.controls) if c.kind is ControlKind.WHOLE), -1)
        painter.setPen(QPen(Look.colour("ink"), 2) if whole in chosen else Qt.PenStyle.NoPen)
        painter.setBrush(Look.colour("middle", 0.55))
        painter.drawRoundedRect(self._whole_rect(), 5, 5)
        for shape in shapes_of(figure):
            control = control_for_joint(figure.rig, values, shape.joint)
            part = figure.rig.part_of(control)
            side = figure.rig.parts[part].side if part >= 0 else ""
            a, b = self._point(shape.start, corner, scale), self._point(shape.end, corner, scale)
            width = max(2 * shape.radius * scale, 5.0)
            rings = [("ink", width + 4.5)] if control in chosen else []
            for role, thick in [*rings, ("panel", width + 1.6), (Look.side(side), width)]:
                pen = QPen(Look.colour(role), thick)
                pen.setCapStyle(Qt.PenCapStyle.RoundCap)
                painter.setPen(pen)
                painter.drawLine(a, b if _far(a, b) else a + QPointF(0.01, 0))


def _far(a: QPointF, b: QPointF) -> bool:
    return (a - b).manhattanLength() > 0.05


def _gap(p: QPointF, a: QPointF, b: QPointF) -> float:
    ab, ap = b - a, p - a
    length2 = ab.x() ** 2 + ab.y() ** 2
    t = min(max((ap.x() * ab.x() + ap.y() * ab.y()) / length2, 0.0), 1.0) if length2 > 1e-9 else 0.0
    off = ap - ab * t
    return float((off.x() ** 2 + off.y() ** 2) ** 0.5)
