"""The pose strip: cards and rungs that are dragged, numbers that are scrubbed."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QMenu

from bovrin.craft.chart import PRESETS
from bovrin.craft.timing import lengthen, move_pose
from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.chart_row import Ladder
from bovrin.desk.session import Session
from bovrin.desk.strip_view import RULER, StripView
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.errors import BovrinError
from bovrin.shot import Shot


@dataclass
class CardDrag:
    """A drag of a card: its frame, whether its right edge is held, and the shot before."""

    frame: float
    edge: bool
    shot: Shot
    pressed: float
    moved: bool = False


@dataclass
class RungDrag:
    """A drag of a rung of the timing chart: its span, its frame, and the shot before."""

    ladder: Ladder
    frame: float
    shot: Shot


class PoseStrip(StripView):
    """Poses are the timeline."""

    def __init__(self, session: Session, scale: TimeScale, pictures: CardPictures) -> None:
        super().__init__(session, scale, pictures)
        self._drag: CardDrag | None = None
        self._rung: RungDrag | None = None
        self._scrubbing = False
        self._panning: float | None = None

    # -- mouse --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() == Qt.MouseButton.RightButton and (self._drag is not None or self._rung is not None):
            self.cancel_drag()
        elif event.button() == Qt.MouseButton.RightButton and self._in_chart(at):
            self._open_chart_menu(at)
        elif event.button() == Qt.MouseButton.LeftButton and self._in_chart(at) and self._drag is None:
            rung = self.chart.rung_at(at.x())
            self._rung = None if rung is None else RungDrag(*rung, self.session.shot)
        elif event.button() == Qt.MouseButton.MiddleButton:
            self._panning = at.x()
        elif event.button() == Qt.MouseButton.LeftButton and self._drag is None and at.x() >= GUTTER:
            card = self._card_at(at) if at.y() >= RULER else None
            if card is not None:
                self._drag = CardDrag(card[0], card[1], self.session.shot, at.x())
            else:
                self._press_lanes(at)

    def _press_lanes(self, at: QPointF) -> None:
        frame = self.scale.frame(at.x())
        if at.y() >= self._lanes_top():
            frames = self.session.poses.frames
            near = frames[np.abs(frames - frame) * self.scale.per_frame < 8] if len(frames) else frames
            frame = float(near[0]) if len(near) else frame
        self._scrubbing = True
        self.session.go_to(frame)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._panning is not None:
            self.scale.pan(at.x() - self._panning)
            self._panning = at.x()
        elif self._scrubbing:
            self.session.go_to(self.scale.frame(at.x()))
        elif self._rung is not None:
            self._drag_rung(at.x())
        elif self._drag is not None:
            self._drag_card(at.x())
        else:
            self._hover(at)

    def _drag_card(self, x: float) -> None:
        drag = self._drag
        assert drag is not None
        if not drag.moved and abs(x - drag.pressed) < 4:
            return
        drag.moved = True
        by = round((x - drag.pressed) / self.scale.per_frame)
        name = self.session.figure_name
        if drag.edge:
            shot = lengthen(drag.shot, name, drag.frame, by) if by else drag.shot
        else:
            shot = move_pose(drag.shot, name, drag.frame, drag.frame + by) if by else drag.shot
        self.session.preview(shot)
        self.session.hint(
            f"{'Hold' if drag.edge else 'Move'} the pose at {drag.frame:g} by {by:+d} frames. Esc puts it back."
        )

    def _drag_rung(self, x: float) -> None:
        rung = self._rung
        assert rung is not None
        share = self.chart.share_of(rung.ladder, x)
        try:
            shot = self.chart.moved(rung.shot, rung.ladder, rung.ladder.with_rung(rung.frame, share))
        except BovrinError as error:
            self.cancel_drag()
            self.session.fail(error)
            return
        self.session.preview(shot)
        self.chart.ladders(shot)
        self.session.hint(f"Frame {rung.frame:g} at {share:.0%} of the way. Esc puts it back.")

    def _open_chart_menu(self, at: QPointF) -> None:
        ladder = self.chart.ladder_at(at.x())
        if ladder is None:
            return
        menu = QMenu(self)
        for name in PRESETS:
            action = menu.addAction(name.capitalize())
            assert action is not None
            action.triggered.connect(lambda _checked, n=name: self.apply_preset(ladder, n))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.mapToGlobal(at.toPoint()))

    def apply_preset(self, ladder: Ladder, name: str) -> None:
        """Space a span by the name of a chart."""
        self.session.do(f"Chart: {name}", lambda shot: self.chart.moved(shot, ladder, ladder.preset(name)))

    def _hover(self, at: QPointF) -> None:
        if self._in_chart(at):
            rung = self.chart.rung_at(at.x())
            self.setCursor(Qt.CursorShape.ArrowCursor if rung is None else Qt.CursorShape.SizeHorCursor)
            part = self.chart.part()
            of = f"Timing chart of the {part}." if part else "Timing chart of the whole figure."
            self.session.hint(f"{of} Drag a rung to set how far its frame has got; right click for charts by name.")
            return
        card = self._card_at(at)
        if card is None:
            self.setCursor(Qt.CursorShape.ArrowCursor)
            words = "Drag along the numbers to scrub. The wheel with Ctrl makes frames wider, middle drag slides them."
        elif card[1]:
            self.setCursor(Qt.CursorShape.SplitHCursor)
            words = "Drag the edge to hold this pose longer or shorter; everything later moves along."
        else:
            self.setCursor(Qt.CursorShape.PointingHandCursor)
            words = "Click to go to this pose, drag to move it in time. Del removes it."
        self.session.hint(words)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._scrubbing = False
        if self._rung is not None:
            self._rung = None
            if self.session.previewing:
                self.session.commit("Timing chart", self.session.shown)
            return
        drag, self._drag = self._drag, None
        if drag is None:
            return
        if not drag.moved:
            self.session.go_to(drag.frame)
            return
        words = "Hold longer or shorter" if drag.edge else "Move the pose"
        shown = self.session.shown
        by = round((event.position().x() - drag.pressed) / self.scale.per_frame)
        if self.session.commit(words, shown) and not drag.edge:
            self.session.go_to(drag.frame + by)

    def cancel_drag(self) -> bool:
        """Put everything back; says whether a drag was under way."""
        if self._drag is None and self._rung is None:
            return False
        self._drag, self._rung = None, None
        self.session.preview(None)
        return True

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        turn = event.angleDelta()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.scale.zoom(1.0015 ** turn.y(), event.position().x())
        else:
            self.scale.pan((turn.x() or turn.y()) * 0.5)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.scale.set_width(self.width())
