"""The row of drawings under the ruler: each from its frame on until the next; dragged, and with Ctrl copied."""

from __future__ import annotations

from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen, QPolygonF

from bovrin.craft.drawings import copied_drawing, moved_drawing
from bovrin.desk.kit.gesture import Drag, Press
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.timescale import TimeScale
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.passes import PLAN
from bovrin.picture.theme import PENCIL_ROLES
from bovrin.shot import Drawing, Shot

ROW, LEAF = 13, 9.0
CTRL = Qt.KeyboardModifier.ControlModifier


class DrawingRow:
    """Seen where there is a drawing, and in the pass in which one draws."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        self.session, self.scale = session, scale

    def height(self) -> int:
        """How high the row is; 0 where it is not seen."""
        return ROW if self.session.shown.drawings or self.session.pass_ is PLAN else 0

    def drawing_at(self, x: float) -> Drawing | None:
        """The drawing whose leaf is under a pixel."""
        near = [d for d in self.session.shot.drawings if -3 <= x - self.scale.x(d.frame) <= LEAF + 3]
        return near[-1] if near else None

    def press(self, at: QPointF) -> Press[Shot]:
        """A leaf is dragged, or gone to; beside leaves the frame is gone to."""
        session, drawing = self.session, self.drawing_at(at.x())
        if drawing is None:
            return Press(None, lambda: session.go_to(self.scale.frame(at.x())))
        return Press(DrawingDrag(session, self.scale, drawing, at), lambda: session.go_to(drawing.frame))

    def paint(self, painter: QPainter, top: float, width: float) -> None:
        """Leaves with a turned corner, and lines for as long as they hold; blank ones are hollow."""
        shot = self.session.shown
        ends = [*(d.frame for d in shot.drawings[1:]), shot.last + 1]
        for drawing, end in zip(shot.drawings, ends, strict=bool(shot.drawings)):
            left, right = self.scale.x(drawing.frame), self.scale.x(end) - 3
            if right < 0 or left > width:
                continue
            colour = Look.colour(PENCIL_ROLES[drawing.strokes[-1].pencil] if drawing.strokes else "muted")
            painter.setPen(QPen(colour, 1.2))
            if drawing.strokes and right > left + LEAF:
                painter.drawLine(QLineF(left + LEAF + 2, top + ROW / 2, right, top + ROW / 2))
            painter.setBrush(Qt.BrushStyle.NoBrush if not drawing.strokes else colour)
            box = QRectF(left, top + 2, LEAF, LEAF)
            corner = box.bottomRight()
            painter.drawPolygon(
                QPolygonF(
                    [box.topLeft(), box.topRight(), corner - QPointF(0, 3), corner - QPointF(3, 0), box.bottomLeft()]
                )
            )


class DrawingDrag(Drag[Shot]):
    """A drawing moved to another frame, or with Ctrl copied there."""

    words = "Move the drawing"

    def __init__(self, session: Session, scale: TimeScale, drawing: Drawing, pressed: QPointF) -> None:
        self._shot, self._scale, self._drawing, self._pressed = session.shot, scale, drawing, pressed

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        """The shot with the drawing under the pointer."""
        by = round((at.x() - self._pressed.x()) / self._scale.per_frame)
        frame = self._drawing.frame
        copy = bool(modifiers & CTRL)
        self.words = "Copy the drawing" if copy else "Move the drawing"
        if not by:
            return self._shot, "Drag to another frame. Ctrl: a copy."
        if copy:
            return copied_drawing(self._shot, frame, frame + by), f"A copy on {frame + by:g}. Esc puts it back."
        return moved_drawing(
            self._shot, frame, frame + by
        ), f"The drawing from {frame + by:g} on. Ctrl: a copy. Esc puts it back."
