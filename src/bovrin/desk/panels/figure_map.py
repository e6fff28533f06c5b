"""The figure map: the chosen figure's joints as shapes, made from its rig, to choose controls with."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QMenu, QWidget

from bovrin.craft.pose.body import anchored
from bovrin.craft.pose.posing import control_for_joint, in_reach
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.marks import draw_hatch
from bovrin.desk.kit.menus import add_action, popup
from bovrin.desk.panels.map_shapes import MapShape, shapes_of
from bovrin.desk.state.document.session import Session
from bovrin.figure.stages.stance import Stance
from bovrin.shot import ControlKind

Floats = NDArray[np.float64]

ARROWS = {
    Qt.Key.Key_Left: (-1.0, 0.0),
    Qt.Key.Key_Right: (1.0, 0.0),
    Qt.Key.Key_Up: (0.0, -1.0),
    Qt.Key.Key_Down: (0.0, 1.0),
}
UNDER = 0.08
"""Metres that the ground lies under the lowest shape."""


class FigureMap(QWidget):
    """Click a shape to choose its control; Shift adds, Ctrl takes away. With the keyboard: Tab to it, then the arrows.

    A limb that reaches has a square at its end, one that is posed by its joints has dots; anchors are hatched.
    """

    def __init__(self, session: Session, run: Callable[[str], object]) -> None:
        super().__init__()
        self.session, self.run = session, run
        self.setMouseTracking(True)
        self.setMinimumHeight(110)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        self.setAccessibleName("Figure map")
        for signal in (session.choice.changed, session.document.frame_changed, session.document.committed):
            signal.connect(self.update)
        session.looking_changed.connect(self.update)
        session.keying_changed.connect(self.update)

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
        """What stands for the whole figure: the ground under it, wherever its file has it at rest."""
        corner, scale = self._bounds()
        shapes = shapes_of(self.session.figure) if self.session.figure is not None else []
        low = min((min(s.start[1], s.end[1]) for s in shapes), default=0.0)
        ground = self._point(np.array([0.0, low - UNDER]), corner, scale)
        ground.setX(min(max(ground.x(), 38.0), self.width() - 38.0))
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
        best, found = np.inf, None
        for shape in reversed(
            shapes_of(figure)
        ):  # where small shapes lie on large ones, the one hit nearest its middle
            a, b = self._point(shape.start, corner, scale), self._point(shape.end, corner, scale)
            radius = max(shape.radius * scale, 3.0)
            far = _gap(at, a, b)
            if far < radius + 4.0 and far / radius < best:
                best, found = far / radius, shape.joint
        return None if found is None else control_for_joint(self.session.stance(), found)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        keys = event.modifiers()
        self._choose(
            self.control_at(event.position()),
            add=bool(keys & Qt.KeyboardModifier.ShiftModifier),
            take=bool(keys & Qt.KeyboardModifier.ControlModifier),
        )

    def _choose(self, control: int | None, *, add: bool = False, take: bool = False) -> None:
        now, name = self.session.controls, self.session.figure_name
        if control is None:
            self.session.choose(name, now if add or take else ())
        elif take or (add and control in now):
            self.session.choose(name, [c for c in now if c != control])
        else:
            self.session.choose(name, [*(now if add else ()), control])

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        """What can be done with the part under the pointer."""
        assert event is not None
        figure = self.session.figure
        control = self.control_at(QPointF(event.pos()))
        if figure is None or control is None or figure.rig.part_of(control) < 0:
            return
        if control not in self.session.controls:
            self._choose(control)
        part = figure.rig.parts[figure.rig.part_of(control)].name
        looking, locked = self.session.looking, self.session.keying.locked
        place = (figure.name, part)
        rows = {
            f"All of the {part}": "choose.part",
            "Everything below as well": "choose.branch",
            f"{'Show' if place in looking.hidden_parts else 'Hide'} the {part}": "show.hide",
            f"Show only the {part}" if looking.alone is None else "Show everything": "show.alone",
            f"{'Unlock' if place in locked else 'Lock'} the {part}": "show.lock",
        }
        menu = QMenu()
        for words, command in rows.items():
            add_action(menu, words, lambda c=command: self.run(c))  # type: ignore[misc]
        popup(menu, event.globalPos(), self)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        way = ARROWS.get(Qt.Key(event.key()))
        if way is None:
            super().keyPressEvent(event)
            return
        found = self._beside(np.array(way))
        if found is not None:
            self._choose(found, add=bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))

    def wants_key(self, key: int) -> bool:
        """Whether the map, having the focus, takes a key before the window's shortcuts do."""
        return key in ARROWS

    def _beside(self, way: Floats) -> int | None:
        """The control whose shape lies nearest in a direction (2,) of the screen from the one chosen last."""
        figure = self.session.figure
        if figure is None:
            return None
        corner, scale = self._bounds()
        stance = self.session.stance()
        places: dict[int, Floats] = {}
        for shape in shapes_of(figure):
            at = self._point((shape.start + shape.end) / 2, corner, scale)
            places.setdefault(control_for_joint(stance, shape.joint), np.array([at.x(), at.y()]))
        if not self.session.controls or self.session.controls[-1] not in places:
            return next(iter(places), None)
        here = places.pop(self.session.controls[-1])
        best, found = np.inf, None
        for control, place in places.items():
            along = float((place - here) @ way)
            aside = float(abs((place - here) @ way[::-1]))
            if along > 2 and along + 2.5 * aside < best:
                best, found = along + 2.5 * aside, control
        return found

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        control = self.control_at(event.position())
        figure = self.session.figure
        if control is None or figure is None:
            self.setToolTip("")
            return
        name = figure.rig.controls[control].name.capitalize()
        self.setToolTip(name)
        self.session.voice.hint(
            f"{name}: click to choose, Shift adds, Ctrl takes away. Right click: show, hide or lock its part."
        )

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        figure = self.session.figure
        if figure is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if self.hasFocus():
            painter.setPen(Look.pen("accent", 1.2))
            painter.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 6, 6)
        whole = next((i for i, c in enumerate(figure.rig.controls) if c.kind is ControlKind.WHOLE), -1)
        painter.setPen(QPen(Look.colour("ink"), 2) if whole in self.session.controls else Qt.PenStyle.NoPen)
        painter.setBrush(Look.colour("middle", 0.55))
        painter.drawRoundedRect(self._whole_rect(), 5, 5)
        stance = self.session.stance()
        bounds = self._bounds()
        for shape in shapes_of(figure):
            self._paint_shape(painter, shape, control_for_joint(stance, shape.joint), bounds)
        self._paint_modes(painter, stance)
        self._paint_anchors(painter, stance)

    def _paint_shape(self, painter: QPainter, shape: MapShape, control: int, bounds: tuple[Floats, float]) -> None:
        figure = self.session.figure
        assert figure is not None
        part = figure.rig.part_of(control)
        place = (figure.name, figure.rig.parts[part].name) if part >= 0 else ("", "")
        corner, scale = bounds
        a, b = self._point(shape.start, corner, scale), self._point(shape.end, corner, scale)
        width = max(2 * shape.radius * scale, 5.0)
        seen = self.session.looking.seen_parts(figure)
        faint = 0.3 if seen is not None and part not in seen else 1.0
        rings = [("ink", width + 4.5, 1.0)] if control in self.session.controls else []
        side = figure.rig.parts[part].side if part >= 0 else ""
        for role, thick, alpha in [*rings, ("panel", width + 1.6, 1.0), (Look.side(side), width, faint)]:
            pen = QPen(Look.colour(role, alpha), thick)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawLine(a, b if _far(a, b) else a + QPointF(0.01, 0))
        if place in self.session.keying.locked:
            pen = QPen(Look.colour("ink"), 1.4, Qt.PenStyle.DotLine)
            painter.setPen(pen)
            painter.drawLine(a, b)

    def _paint_modes(self, painter: QPainter, stance: Stance) -> None:
        """A square at the end of a limb that reaches, a dot on each joint of one that does not."""
        figure = self.session.figure
        assert figure is not None
        painter.setPen(Look.pen("ink", 1.1))
        painter.setBrush(Look.colour("raised"))
        for index, limb in enumerate(figure.rig.limbs):
            reach = in_reach(stance, index)
            for joint in (limb.end,) if reach else (limb.upper, limb.middle, limb.end):
                at = self._start_of(joint)
                if at is None:
                    continue
                if reach:
                    painter.drawRoundedRect(QRectF(at.x() - 3, at.y() - 3, 6, 6), 1.5, 1.5)
                else:
                    painter.drawEllipse(at, 2.3, 2.3)

    def _paint_anchors(self, painter: QPainter, stance: Stance) -> None:
        figure = self.session.figure
        assert figure is not None
        for joint in anchored(stance):
            at = self._start_of(joint)
            if at is not None:
                draw_hatch(painter, at + QPointF(0, 7), 5.5)

    def _start_of(self, joint: int) -> QPointF | None:
        """Where a joint's shape begins on the map."""
        figure = self.session.figure
        assert figure is not None
        corner, scale = self._bounds()
        shape = next((s for s in shapes_of(figure) if s.joint == joint), None)
        return None if shape is None else self._point(shape.start, corner, scale)


def _far(a: QPointF, b: QPointF) -> bool:
    return (a - b).manhattanLength() > 0.05


def _gap(p: QPointF, a: QPointF, b: QPointF) -> float:
    ab, ap = b - a, p - a
    length2 = ab.x() ** 2 + ab.y() ** 2
    t = min(max((ap.x() * ab.x() + ap.y() * ab.y()) / length2, 0.0), 1.0) if length2 > 1e-9 else 0.0
    off = ap - ab * t
    return float((off.x() ** 2 + off.y() ** 2) ** 0.5)
