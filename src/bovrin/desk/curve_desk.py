"""The curve desk: channels to pick, keys and handles and dots to drag."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPolygonF, QWheelEvent

from bovrin.craft.bending import Side, set_kind
from bovrin.craft.key_sets import joined_keys
from bovrin.desk.curve_commands import change_chosen
from bovrin.desk.curve_drags import CurveDrag, DotDrag, HandleDrag, KeysDrag
from bovrin.desk.curve_menus import curve_menu, row_menu
from bovrin.desk.curve_plot import TOP, Chosen
from bovrin.desk.curve_rows import Heading, Row
from bovrin.desk.curve_view import CurveView
from bovrin.desk.inline_edit import InlineEdit
from bovrin.desk.numbers import typed_number
from bovrin.desk.session import Session
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.errors import BovrinError
from bovrin.motion.evaluate import curve_values
from bovrin.motion.insert import inserted
from bovrin.shot import HandleKind

HIT = 7.0
SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
VALUES = 96
"""Pixels from the left at which the list's numbers begin."""


class CurveDesk(CurveView):
    """Curves of the chosen controls."""

    keys_changed = pyqtSignal()

    def __init__(self, session: Session, scale: TimeScale) -> None:
        super().__init__(session, scale)
        self.run: Callable[[str], object] = lambda _command: None
        self._drag: CurveDrag | None = None
        self._pressed: QPointF | None = None
        self._moved = False
        self._panning: QPointF | None = None
        self._before: dict[int, np.ndarray] = {}
        self.words: InlineEdit | None = None
        session.shot_changed.connect(self.update)
        session.keys.changed.connect(self._on_keys_chosen)
        session.frame_changed.connect(self.update)
        session.look_changed.connect(self.update)
        session.choice_changed.connect(self._on_choice_changed)
        scale.changed.connect(self.update)

    def _on_choice_changed(self) -> None:
        self.picked.clear()
        self.scrolled = 0.0
        self.fit()
        self.keys_changed.emit()

    def _on_keys_chosen(self) -> None:
        self.keys_changed.emit()
        self.update()

    def dragged_channels(self) -> set[int]:
        return self._drag.channels if self._drag is not None and self.session.previewing else set()

    def choose_keys(self, keys: Chosen) -> None:
        """Choose exactly these keys."""
        by_channel: dict[int, list[float]] = {}
        for channel, frame in sorted(keys):
            by_channel.setdefault(channel, []).append(frame)
        self.session.keys.choose({c: np.array(frames) for c, frames in by_channel.items()})

    def set_listing(self, *, search: str | None = None, hides_still: bool | None = None) -> None:
        """What the list shows."""
        self.search = self.search if search is None else search
        self.hides_still = self.hides_still if hides_still is None else hides_still
        self.picked &= {row.channel for row in self.rows()}
        self._scroll(0.0)
        self.fit()

    def set_one_height(self, on: bool) -> None:
        """Draw all curves at one height, so that metres and degrees can be read together."""
        self.one_height = on
        self._low, self._high = 0.0, 0.0
        self.fit()

    # -- what is under the pointer ------------------------------------------------------------------------------------

    def _hit_handle(self, at: QPointF) -> tuple[Row, int, Side] | None:
        indices = self.chosen_indices()
        if sum(map(len, indices.values())) > 400:
            return None
        for row in self.shown_rows():
            for index in indices.get(row.channel, ()):
                for side, point in self.handle_points(row, int(index)).items():
                    if (point - at).manhattanLength() <= HIT + 2:
                        return row, int(index), side
        return None

    def _hit_key(self, at: QPointF) -> tuple[Row, int] | None:
        best, found = HIT + 3, None
        for row in self.shown_rows():
            curve = self.curve(row.channel)
            reach = 2 * HIT / self.scale.per_frame
            frame = self.scale.frame(at.x())
            low, high = np.searchsorted(curve.frames, [frame - reach, frame + reach])
            if low == high:
                continue
            part = curve.sliced(int(low), int(high))
            dx = np.abs(self.scale.x(0) + part.frames * self.scale.per_frame - at.x())
            dy = np.abs(self.y_of(self.plot_of(row, part.values)) - at.y())
            index = int(np.argmin(dx + dy))
            if dx[index] + dy[index] < best:
                best, found = float(dx[index] + dy[index]), (row, int(low) + index)
        return found

    def _hit_dot(self, at: QPointF) -> DotDrag | None:
        if self.scale.per_frame < 5:
            return None
        for row in self.shown_rows():
            frames, dots = self.frame_dots(row)
            if not len(frames):
                continue
            far = np.abs(dots - [at.x(), at.y()]).sum(1)
            nearest = int(far.argmin())
            keyed = self.curve(row.channel).index_at(float(frames[nearest])) is not None
            if far[nearest] <= HIT - 1 and not keyed:
                drag = DotDrag(self, row, float(frames[nearest]), at)
                return drag if drag.can else None
        return None

    def _hit_curve(self, at: QPointF) -> Row | None:
        """The drawn curve under a point."""
        frame = self.scale.frame(at.x())
        rows = self.shown_rows()
        ys = [
            float(self.y_of(self.plot_of(r, float(curve_values(self.curve(r.channel), [frame], r.default)[0]))))
            for r in rows
        ]
        near = min(range(len(rows)), key=lambda n: abs(ys[n] - at.y()), default=-1)
        return rows[near] if near >= 0 and abs(ys[near] - at.y()) <= HIT else None

    # -- pressing -----------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() == Qt.MouseButton.RightButton:
            if not self.cancel_drag():
                self._open_menu(at)
        elif event.button() == Qt.MouseButton.MiddleButton:
            self._panning = at
        elif event.button() == Qt.MouseButton.LeftButton and self._pressed is None and self.session.figure is not None:
            if at.x() < GUTTER:
                self._press_list(at, bool(event.modifiers() & (SHIFT | CTRL)))
            else:
                self._pressed, self._moved = at, False
                self._press_curves(at, event.modifiers())

    def _press_list(self, at: QPointF, add: bool) -> None:
        line = self.line_at(at.y())
        if line is None:
            return
        if isinstance(line, Heading):
            wanted = {r.channel for r in self.rows() if r.control.capitalize() == line.words}
        else:
            wanted = {line.channel}
        self.picked = (self.picked ^ wanted) if add else (set() if self.picked == wanted else wanted)
        self.fit()

    def _press_curves(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        session = self.session
        handle = self._hit_handle(at)
        key = None if handle is not None else self._hit_key(at)
        if handle is not None:
            self._drag = None if self._is_locked(handle[0]) else HandleDrag(self, *handle)
        elif key is not None:
            self._press_key(*key, at, keys)
        elif (dot := self._hit_dot(at)) is not None:
            self._drag = None if self._is_locked(dot.row) else dot
        else:
            self._before = session.keys.by_channel if keys & SHIFT else {}
            if not keys & SHIFT:
                session.keys.clear()
            if keys & ALT:
                self.lasso = [at]
            else:
                self.box = QRectF(at, at)

    def _press_key(self, row: Row, index: int, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        own = {row.channel: self.curve(row.channel).frames[[index]]}
        if keys & SHIFT:
            self.session.keys.toggle(own)
        elif not self.session.keys.holds(own):
            self.session.keys.choose(own)
        if self.session.keys.holds(own) and not self._is_locked(row):
            self._drag = KeysDrag(self, row, index, at)

    def _is_locked(self, row: Row) -> bool:
        locked = row.channel in self.session.locked_channels()
        if locked:
            self.session.tell(f"'{row.words}' is locked. Unlock it with a right click in the list of channels.")
        return locked

    # -- moving -------------------------------------------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._panning is not None:
            self._pan(at)
        elif self._pressed is None:
            self._hover(at)
        elif self._moved or (at - self._pressed).manhattanLength() >= 3:
            self._moved = True
            self._step(at, event.modifiers())

    def _pan(self, at: QPointF) -> None:
        assert self._panning is not None
        shift = at - self._panning
        self.scale.pan(shift.x())
        by = shift.y() / (self.height() - TOP - 10) * (self._high - self._low)
        self._low, self._high = self._low + by, self._high + by
        self._panning = at
        self.update()

    def _step(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        if self._drag is not None:
            try:
                shot, words = self._drag.step(at, keys)
            except BovrinError as error:
                self.session.hint(error.sentence)
                return
            self.session.preview(shot)
            self.session.hint(words)
            if isinstance(self._drag, KeysDrag):
                self.session.keys.choose(self._drag.after)
        elif self.lasso:
            self.lasso.append(at)
            self._choose_within(QPolygonF(self.lasso))
        elif self.box is not None and self._pressed is not None:
            self.box = QRectF(self._pressed, at).normalized()
            self.session.keys.choose(joined_keys(self._before, self.keys_in(self.box)))
        self.update()

    def _choose_within(self, shape: QPolygonF) -> None:
        found = {}
        for row in self.shown_rows():
            xs, ys = self.key_places(row)
            box = shape.boundingRect()
            near = (xs >= box.left()) & (xs <= box.right()) & (ys >= box.top()) & (ys <= box.bottom())
            fill = Qt.FillRule.OddEvenFill
            inside = [i for i in np.flatnonzero(near) if shape.containsPoint(QPointF(xs[i], ys[i]), fill)]
            if inside:
                found[row.channel] = self.curve(row.channel).frames[inside]
        self.session.keys.choose(joined_keys(self._before, found))

    def _hover(self, at: QPointF) -> None:
        if at.x() < GUTTER:
            words = "Click a channel to see it alone, Shift adds. Double click its number to type one, right click for more."
        elif self._hit_handle(at) is not None:
            words = "Drag the handle to bend the curve, with Shift only longer. Double click lets it find its own slope again."
        elif self._hit_key(at) is not None:
            words = "Drag the key in time and value; Shift keeps to one of them, Ctrl copies, Alt scales about the current frame."
        elif self._hit_dot(at) is not None:
            words = "Drag the dot along: what happens on its frame comes sooner or later. Both keys stay."
        else:
            words = "Dots are frames: close together is slow. Drag a box over keys (Alt: any shape), double click for a key."
        self.session.hint(words)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        drag, self._drag = self._drag, None
        self._pressed, self.box, self.lasso = None, None, []
        if drag is not None and self.session.previewing and self.session.commit(drag.words, self.session.shown):
            drag.done()
            self.keys_changed.emit()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() != Qt.MouseButton.LeftButton:
            return
        if at.x() < GUTTER:
            line = self.line_at(at.y())
            if at.x() >= VALUES and isinstance(line, Row):
                self.type_value(line)
            return
        hit = self._hit_handle(at)
        self._drag, self._pressed = None, None
        self.session.preview(None)
        if hit is not None:
            self.reset_handle(hit[0], hit[1])
        elif self._hit_key(at) is None and (row := self._hit_curve(at)) is not None:
            self.insert_keys([row], float(round(self.scale.frame(at.x()))))

    def reset_handle(self, row: Row, index: int) -> None:
        """Let a key's handles find their own slope again."""
        only = {row.channel: self.curve(row.channel).frames[[index]]}
        change_chosen(
            self.session, "Reset a handle", lambda c, which: set_kind(c, which, HandleKind.NO_OVERSHOOT), only
        )

    def insert_keys(self, rows: list[Row], frame: float) -> None:
        """A key more on some channels; no value changes."""
        defaults = {row.channel: row.default for row in rows}
        curves, name = self.session.curves, self.session.figure_name
        assert curves is not None
        made = {c: inserted(curves[c], frame, default) for c, default in defaults.items()}
        self.session.do("Insert a key", lambda shot: shot.with_curves(name, curves.replaced(made)))
        self.session.keys.choose({c: np.array([frame]) for c in made})

    def type_value(self, row: Row) -> None:
        """Type the value of a channel at the current frame, in its place."""
        index = next(n for n, line in enumerate(self.lines()) if line == row)
        now = float(curve_values(self.curve(row.channel), [self.session.frame], row.default)[0]) * row.factor
        place = QRectF(VALUES - 8, self.line_top(index) - 3, GUTTER - VALUES + 6, 22)

        def take(words: str) -> None:
            try:
                value = typed_number(words, row.unit, now)
            except BovrinError as error:
                self.session.fail(error)
                return
            self.session.edit(f"Set {row.control} {row.words}", {row.channel: value / row.factor})

        self.words = InlineEdit(self, place, f"{now:.6g}", f"{row.words} in {row.suffix or '0 or 1'}", take)

    def _open_menu(self, at: QPointF) -> None:
        if self.session.figure is None:
            return
        line = self.line_at(at.y()) if at.x() < GUTTER else None
        if at.x() < GUTTER and not isinstance(line, Row):
            return
        menu = row_menu(self, line) if isinstance(line, Row) else curve_menu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.mapToGlobal(at.toPoint()))

    def cancel_drag(self) -> bool:
        """Put everything back; says whether a drag was under way."""
        if self._drag is None and self.box is None and not self.lasso:
            return False
        drag, self._drag = self._drag, None
        self._pressed, self.box, self.lasso = None, None, []
        if isinstance(drag, KeysDrag):
            self.session.keys.choose({c: drag.curves[c].frames[which] for c, which in drag.indices.items()})
        self.session.preview(None)
        self.update()
        return True

    # -- looking ------------------------------------------------------------------------------------------------------

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        factor = 1.0015 ** event.angleDelta().y()
        at = event.position()
        if at.x() < GUTTER:
            self._scroll(-event.angleDelta().y() * 0.25)
        elif event.modifiers() & CTRL:
            self.scale.zoom(factor, at.x())
        else:
            self.stretch(factor, at.y())

    def stretch(self, factor: float, y: float) -> None:
        """Stretch the value axis about a height, pixels."""
        kept = self.value_at(y)
        low, high = kept + (self._low - kept) / factor, kept + (self._high - kept) / factor
        if 1e-9 < high - low < 1e12:
            self._low, self._high = low, high
            self.update()

    def _scroll(self, by: float) -> None:
        self.scrolled = min(max(self.scrolled + by, 0.0), self.most_scrolled())
        self.update()

    def seen_values(self) -> tuple[float, float]:
        """The plot units in sight, to come back to."""
        return self._low, self._high

    def see_values(self, seen: tuple[float, float]) -> None:
        """Look at these plot units again."""
        self._low, self._high = seen
        self.update()
