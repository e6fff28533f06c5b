"""The curve desk: channels to pick, keys and handles and dots to drag."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QWheelEvent

from bovrin.craft.curves.bending import set_kind
from bovrin.desk.commands.curves import change_chosen, insert_keys
from bovrin.desk.curves.channel_list import TOP
from bovrin.desk.curves.drags import CurveDrag, CurveKeysDrag, HandleDrag, ShapeDrag
from bovrin.desk.curves.hits import Hits
from bovrin.desk.curves.menus import curve_menu, row_menu
from bovrin.desk.curves.plot import CurvePlot
from bovrin.desk.curves.view import CurvePainter
from bovrin.desk.kit.gesture import Gesture, Press
from bovrin.desk.kit.inline_edit import InlineEdit
from bovrin.desk.kit.menus import popup
from bovrin.desk.kit.numbers import typed_number
from bovrin.desk.kit.surface import Surface
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.state.choosing.channel_rows import Heading, Row
from bovrin.desk.state.document.editing import ShotTarget, edit
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.motion.evaluate import curve_values
from bovrin.shot import HandleKind, Shot

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
START = 3.0
"""Pixels a press on a curve may wander before it is a drag."""
VALUES = 96
"""Pixels from the left at which the list's numbers begin."""


class CurveDesk(Surface):
    """Curves of the chosen controls."""

    keys_changed = pyqtSignal()

    def __init__(self, session: Session, scale: TimeScale, run: Callable[[str], object]) -> None:
        super().__init__("Curve desk")
        self.setMinimumHeight(110)
        self.session, self.scale, self.run = session, scale, run
        self.plot = CurvePlot(session, scale, self)
        self.painter = CurvePainter(self.plot, self)
        self.hits = Hits(self.plot, self.painter)
        self.words: InlineEdit | None = None
        self._gesture: Gesture[Shot] = Gesture(ShotTarget(session), START)
        self._panning: QPointF | None = None
        for signal in (
            session.document.changed,
            session.document.frame_changed,
            session.looking_changed,
            session.keying_changed,
            scale.changed,
        ):
            signal.connect(self.update)
        session.keys.changed.connect(self._on_keys_chosen)
        session.choice.changed.connect(self._on_choice_changed)

    def _on_choice_changed(self) -> None:
        self.plot.list.begin_anew()
        self.keys_changed.emit()

    def _on_keys_chosen(self) -> None:
        self.keys_changed.emit()
        self.update()

    # -- mouse --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at, button = event.position(), event.button()
        if button == Qt.MouseButton.RightButton:
            if not self._gesture.cancel():
                self._open_menu(at)
        elif button == Qt.MouseButton.MiddleButton:
            self._panning = at
        elif button == Qt.MouseButton.LeftButton and not self._gesture.active and self.session.figure is not None:
            if at.x() < GUTTER:
                self._press_list(at, add=bool(event.modifiers() & (SHIFT | CTRL)))
            else:
                self._gesture.press(at, event.modifiers(), *self._press_at(at, event.modifiers()))

    def _press_list(self, at: QPointF, *, add: bool) -> None:
        line = self.plot.list.line_at(at.y())
        if isinstance(line, Heading):
            self.plot.list.pick({r.channel for r in self.plot.rows() if r.control.capitalize() == line.words}, add=add)
        elif line is not None:
            self.plot.list.pick({line.channel}, add=add)

    def _press_at(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> Press[Shot]:
        """A handle, a key, a dot, or a shape drawn over keys."""
        if (handle := self.hits.handle(at)) is not None:
            return Press(None if self._is_locked(handle[0]) else HandleDrag(self.plot, *handle))
        if (key := self.hits.key(at)) is not None:
            return self._press_key(*key, at, modifiers)
        if (dot := self.hits.dot(at)) is not None:
            return Press(None if self._is_locked(dot.row) else dot)
        return Press(ShapeDrag(self.plot, at, modifiers))

    def _press_key(self, row: Row, index: int, at: QPointF, modifiers: Qt.KeyboardModifier) -> Press[Shot]:
        """A key that is not chosen is at once; of one that is, a click says whether it stays so, alone or not at all."""
        chosen, own = self.session.keys, {row.channel: self.plot.curve(row.channel).frames[[index]]}
        click = chosen.clicked(own, add=bool(modifiers & SHIFT))
        drag = None if self._is_locked(row) else CurveKeysDrag(self.plot, row, index, at)
        return Press(drag, click)

    def _is_locked(self, row: Row) -> bool:
        locked = row.channel in self.session.keying.channels_locked(self.session.figure)
        if locked:
            self.session.voice.tell(f"'{row.words}' is locked. Unlock it with a right click in the list of channels.")
        return locked

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._panning is not None:
            self._pan(at)
        elif not self._gesture.active:
            self.session.voice.hint(LIST if at.x() < GUTTER else self.hits.words(at))
        elif self._gesture.move(at, event.modifiers()):
            self.update()

    def _pan(self, at: QPointF) -> None:
        assert self._panning is not None
        shift, plot = at - self._panning, self.plot
        self.scale.pan(shift.x())
        by = shift.y() / (self.height() - TOP - 10) * (plot.high - plot.low)
        plot.look(plot.low + by, plot.high + by)
        self._panning = at

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = None
        elif event.button() == Qt.MouseButton.LeftButton:
            self._gesture.release()
            self.keys_changed.emit()
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if at.x() < GUTTER:
            line = self.plot.list.line_at(at.y())
            if at.x() >= VALUES and isinstance(line, Row):
                self.type_value(line)
            return
        handle, row = self.hits.handle(at), None if self.hits.key(at) is not None else self.hits.curve(at)
        self.mousePressEvent(event)
        if handle is not None:
            self._gesture.second_click(lambda: self._reset_handle(handle[0], handle[1]))
        elif row is not None:
            self._gesture.second_click(lambda: insert_keys(self.session, [row], float(round(self.scale.frame(at.x())))))

    def _reset_handle(self, row: Row, index: int) -> None:
        """Let a key's handles find their own slope again."""
        only = {row.channel: self.plot.curve(row.channel).frames[[index]]}
        change_chosen(
            self.session, "Reset a handle", lambda c, which: set_kind(c, which, HandleKind.NO_OVERSHOOT), only
        )

    def type_value(self, row: Row) -> None:
        """Type the value of a channel at the current frame, in its place."""
        plot, session = self.plot, self.session
        index = next(n for n, line in enumerate(plot.list.lines()) if line == row)
        now = float(curve_values(plot.curve(row.channel), [session.frame], row.default)[0]) * row.factor
        place = QRectF(VALUES - 8, plot.list.line_top(index) - 3, GUTTER - VALUES + 6, 22)

        def take(words: str) -> None:
            try:
                value = typed_number(words, row.unit, now)
            except BovrinError as error:
                session.voice.fail(error)
                return
            edit(session, f"Set {row.control} {row.words}", {row.channel: value / row.factor})

        self.words = InlineEdit(self, place, f"{now:.6g}", f"{row.words} in {row.suffix or '0 or 1'}", take)

    def _open_menu(self, at: QPointF) -> None:
        line = self.plot.list.line_at(at.y()) if at.x() < GUTTER else None
        if self.session.figure is None or (at.x() < GUTTER and not isinstance(line, Row)):
            return
        menu = row_menu(self, line) if isinstance(line, Row) else curve_menu(self)
        popup(menu, self.mapToGlobal(at.toPoint()), self)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        factor = 1.0015 ** event.angleDelta().y()
        at = event.position()
        if at.x() < GUTTER:
            self.plot.list.scroll(-event.angleDelta().y() * 0.25)
        elif event.modifiers() & CTRL:
            self.scale.zoom(factor, at.x())
        else:
            self.plot.stretch(factor, at.y())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        drag = self._gesture.drag if self._gesture.moved else None
        moving = drag.channels if isinstance(drag, CurveDrag) and self.session.document.previewing else set()
        painter = QPainter(self)
        self.painter.paint(painter, moving, drag.outline if isinstance(drag, ShapeDrag) else None)
        painter.end()


LIST = "Click a channel to see it alone, Shift adds. Double click its number to type one, right click for more."
