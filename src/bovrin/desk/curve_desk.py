"""The curve desk: the chosen control's channels as curves, keys and handles to drag, a dot for every frame."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QWheelEvent

from bovrin.craft.bending import Side, bend, move_keys
from bovrin.craft.keys import changed_curves
from bovrin.desk.curve_plot import ROW, TOP, Chosen, CurvePlot
from bovrin.desk.curve_rows import Row
from bovrin.desk.session import Session
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.shot import HandleKind, Shot

HIT = 7.0


@dataclass
class CurveDrag:
    """A drag on the curve desk: keys, one handle, or a box."""

    kind: str
    pressed: QPointF
    shot: Shot
    channel: int = -1
    index: int = -1
    side: Side = "out"
    keys: dict[int, NDArray[np.intp]] = field(default_factory=dict)
    box: QRectF = field(default_factory=QRectF)
    moved: bool = False


class CurveDesk(CurvePlot):
    """Curves of the chosen controls."""

    keys_changed = pyqtSignal()

    def __init__(self, session: Session, scale: TimeScale) -> None:
        super().__init__(session, scale)
        self._drag: CurveDrag | None = None
        self._panning: QPointF | None = None
        session.shot_changed.connect(self.update)
        session.keys.changed.connect(self._on_keys_chosen)
        session.frame_changed.connect(self.update)
        session.choice_changed.connect(self._on_choice_changed)
        scale.changed.connect(self.update)

    def _on_choice_changed(self) -> None:
        self._only.clear()
        self.fit()
        self.keys_changed.emit()

    def _on_keys_chosen(self) -> None:
        self.keys_changed.emit()
        self.update()

    def dragged_channels(self) -> set[int]:
        drag = self._drag
        if drag is None or not self.session.previewing:
            return set()
        return set(drag.keys) | ({drag.channel} if drag.kind == "handle" else set())

    def dragged_box(self) -> QRectF | None:
        drag = self._drag
        return drag.box if drag is not None and drag.kind == "box" and drag.moved else None

    def choose_keys(self, keys: Chosen) -> None:
        """Choose exactly these keys."""
        by_channel: dict[int, list[float]] = {}
        for channel, frame in sorted(keys):
            by_channel.setdefault(channel, []).append(frame)
        self.session.keys.choose({c: np.array(frames) for c, frames in by_channel.items()})

    # -- mouse --------------------------------------------------------------------------------------------------------

    def _hit_handle(self, at: QPointF) -> tuple[Row, int, Side] | None:
        indices = self.chosen_indices()
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
            if not len(curve):
                continue
            dx = np.abs(self.scale.x(0) + curve.frames * self.scale.per_frame - at.x())
            dy = np.abs(self.y_of(curve.values * row.factor) - at.y())
            index = int(np.argmin(dx + dy))
            if dx[index] + dy[index] < best:
                best, found = float(dx[index] + dy[index]), (row, index)
        return found

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() == Qt.MouseButton.RightButton:
            self.cancel_drag()
        elif event.button() == Qt.MouseButton.MiddleButton:
            self._panning = at
        elif event.button() == Qt.MouseButton.LeftButton and self._drag is None and self.session.figure is not None:
            if at.x() < GUTTER:
                self._press_row(at, bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier))
            else:
                self._press_curves(at, event.modifiers())

    def _press_row(self, at: QPointF, add: bool) -> None:
        index = int((at.y() - TOP) // ROW)
        rows = self.rows()
        if 0 <= index < len(rows):
            channel = rows[index].channel
            alone = self._only == {channel}
            self._only = (self._only ^ {channel}) if add else (set() if alone else {channel})
            self.fit()

    def _press_curves(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        add = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        handle = self._hit_handle(at)
        if handle is not None:
            self._drag = CurveDrag("handle", at, self.session.shot, handle[0].channel, handle[1], handle[2])
            return
        key = self._hit_key(at)
        if key is None:
            self._drag = CurveDrag("box", at, self.session.shot, box=QRectF(at, at))
            if not add:
                self.choose_keys(set())
            return
        name = (key[0].channel, float(self.curve(key[0].channel).frames[key[1]]))
        if add:
            self.choose_keys(self.chosen ^ {name})
        elif name not in self.chosen:
            self.choose_keys({name})
        self._drag = CurveDrag("keys", at, self.session.shot, keys=self.chosen_indices())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._panning is not None:
            shift = at - self._panning
            self.scale.pan(shift.x())
            by = shift.y() / (self.height() - TOP - 10) * (self._high - self._low)
            self._low, self._high = self._low + by, self._high + by
            self._panning = at
            self.update()
        elif self._drag is None:
            self._hover(at)
        elif self._drag.moved or (at - self._drag.pressed).manhattanLength() >= 3:
            self._drag.moved = True
            straight = bool(event.modifiers() & Qt.KeyboardModifier.ShiftModifier)
            {"handle": self._drag_handle, "keys": self._drag_keys, "box": self._drag_box}[self._drag.kind](at, straight)

    def _drag_handle(self, at: QPointF, _straight: bool) -> None:
        drag = self._drag
        assert drag is not None
        row = next(r for r in self.rows() if r.channel == drag.channel)
        curve = drag.shot.curves(self.session.figure_name)[drag.channel]
        frame, value = curve.frames[drag.index], curve.values[drag.index]
        run = (self.scale.frame(at.x()) - frame) * (1 if drag.side == "out" else -1)
        rise = self.value_at(at.y()) / row.factor - value
        new = bend(curve, drag.index, drag.side, run, rise)
        self.session.preview(changed_curves(drag.shot, self.session.figure_name, [drag.channel], lambda _c: new))

    def _drag_keys(self, at: QPointF, straight: bool) -> None:
        drag = self._drag
        assert drag is not None
        shift = at - drag.pressed
        dx, dy = shift.x(), shift.y()
        if straight:
            dx, dy = (dx, 0.0) if abs(dx) >= abs(dy) else (0.0, dy)
        frames = round(dx / self.scale.per_frame)
        rise = -dy / (self.height() - TOP - 10) * (self._high - self._low)
        shot, name = drag.shot, self.session.figure_name
        factors = {r.channel: r.factor for r in self.rows()}
        moved: Chosen = set()
        for channel, indices in drag.keys.items():
            curve = shot.curves(name)[channel]
            new = move_keys(curve, indices, frames, rise / factors[channel])
            moved |= {(channel, float(f)) for f in new.frames[indices]}
            shot = changed_curves(shot, name, [channel], lambda _c, n=new: n)  # type: ignore[misc]
        self.session.preview(shot)
        self.choose_keys(moved)

    def _drag_box(self, at: QPointF, _straight: bool) -> None:
        drag = self._drag
        assert drag is not None
        drag.box = QRectF(drag.pressed, at).normalized()
        keys: Chosen = set()
        for row in self.shown_rows():
            for index, frame in enumerate(self.curve(row.channel).frames):
                if drag.box.contains(self.key_point(row, index)):
                    keys.add((row.channel, float(frame)))
        self.choose_keys(keys)

    def _hover(self, at: QPointF) -> None:
        if at.x() < GUTTER:
            words = "Click a channel to see it alone, again for all; Shift adds."
        elif self._hit_handle(at) is not None:
            words = "Drag the handle to bend the curve. Double click lets it find its own slope again."
        elif self._hit_key(at) is not None:
            words = "Drag the key in time and value; Shift keeps to one of them. Del removes chosen keys."
        else:
            words = (
                "Dots are frames: close together is slow. Drag a box to choose keys, Ctrl and wheel make frames wider."
            )
        self.session.hint(words)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = None
        drag, self._drag = (self._drag, None) if event.button() == Qt.MouseButton.LeftButton else (None, self._drag)
        if drag is not None and drag.moved and drag.kind != "box":
            self.session.commit("Bend a curve" if drag.kind == "handle" else "Move keys", self.session.shown)
            self.keys_changed.emit()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        hit = self._hit_handle(event.position())
        if hit is not None:
            self._drag = None
            self.session.preview(None)
            self.session.set_handle_kind({hit[0].channel: np.array([hit[1]])}, HandleKind.NO_OVERSHOOT)

    def cancel_drag(self) -> bool:
        """Put everything back; says whether a drag was under way."""
        drag, self._drag = self._drag, None
        if drag is None:
            return False
        if drag.keys:
            curves = drag.shot.curves(self.session.figure_name)
            self.session.keys.choose({c: curves[c].frames[which] for c, which in drag.keys.items()})
        self.session.preview(None)
        return True

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        factor = 1.0015 ** event.angleDelta().y()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.scale.zoom(factor, event.position().x())
            return
        kept = self.value_at(event.position().y())
        self._low, self._high = kept + (self._low - kept) / factor, kept + (self._high - kept) / factor
        self.update()
