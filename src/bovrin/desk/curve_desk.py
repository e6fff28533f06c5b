"""The curve desk: the chosen control's channels as curves, keys and handles to drag, a dot for every frame."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap, QPolygonF, QWheelEvent
from PyQt6.QtWidgets import QWidget

from bovrin.craft.bending import Side, bend, move_keys
from bovrin.craft.keys import changed_curves
from bovrin.desk.curve_rows import Row, rows_of
from bovrin.desk.look import LEFT, RIGHT, SIZE_SMALL, Look, draw_mark, number_font, text_font
from bovrin.desk.session import Session
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.shot import Curve, HandleKind, Shot, Unit

ROW, TOP, HIT = 17, 24, 7.0
Chosen = set[tuple[int, float]]
"""Chosen keys: (channel, frame)."""


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


class CurveDesk(QWidget):
    """Curves of the chosen controls."""

    keys_changed = pyqtSignal()

    def __init__(self, session: Session, scale: TimeScale) -> None:
        super().__init__()
        self.session, self.scale = session, scale
        self.chosen: Chosen = set()
        self._only: set[int] = set()
        self._low, self._high = -1.0, 1.0
        self._drag: CurveDrag | None = None
        self._panning: QPointF | None = None
        self._kept: tuple[tuple[object, ...], QPixmap, list[Curve]] | None = None
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.ClickFocus)
        self.setMinimumHeight(110)
        self.setAccessibleName("Curve desk")
        session.shot_changed.connect(self._on_shot_changed)
        session.frame_changed.connect(self.update)
        session.choice_changed.connect(self._on_choice_changed)
        scale.changed.connect(self.update)

    # -- what is shown ------------------------------------------------------------------------------------------------

    def rows(self) -> list[Row]:
        """The channels listed on the left."""
        return rows_of(self.session)

    def shown_rows(self) -> list[Row]:
        """The channels whose curves are drawn: all, or the ones picked in the list."""
        rows = self.rows()
        picked = [row for row in rows if row.channel in self._only]
        return picked or rows

    def _on_choice_changed(self) -> None:
        self.chosen.clear()
        self._only.clear()
        self.fit()
        self.keys_changed.emit()

    def _on_shot_changed(self) -> None:
        curves = self.session.curves
        if curves is not None and not self.session.previewing:
            self.chosen = {(c, f) for c, f in self.chosen if c < len(curves) and curves[c].index_at(f) is not None}
        self.update()

    def curve(self, channel: int) -> Curve:
        """The curve of a channel as shown."""
        curves = self.session.curves
        assert curves is not None
        return curves[channel]

    def fit(self) -> None:
        """Fit the values of the shown curves."""
        values = [self.curve(r.channel).values * r.factor for r in self.shown_rows() if len(self.curve(r.channel))]
        if values:
            low, high = min(v.min() for v in values), max(v.max() for v in values)
            margin = max((high - low) * 0.18, 0.5)
            self._low, self._high = low - margin, high + margin
        else:
            self._low, self._high = -1.0, 1.0
        self.update()

    def y_of(self, value: float | NDArray[np.float64]):  # type: ignore[no-untyped-def]
        """Pixels from the top of a shown value (a number or an array)."""
        height = self.height() - TOP - 10
        return TOP + (self._high - value) / (self._high - self._low) * height

    def value_at(self, y: float) -> float:
        """The shown value at a pixel."""
        height = self.height() - TOP - 10
        return self._high - (y - TOP) / height * (self._high - self._low)

    def key_point(self, row: Row, index: int) -> QPointF:
        """Where a key is drawn."""
        curve = self.curve(row.channel)
        return QPointF(self.scale.x(curve.frames[index]), self.y_of(curve.values[index] * row.factor))

    def handle_points(self, row: Row, index: int) -> dict[Side, QPointF]:
        """Where the ends of a key's handles are drawn."""
        curve = self.curve(row.channel)
        now = gather([curve])
        frame, value = curve.frames[index], curve.values[index]
        points: dict[Side, QPointF] = {}
        if index > 0 and curve.out_kind[index - 1] != HandleKind.STEPPED:
            length = now.in_length[index]
            points["in"] = QPointF(
                self.scale.x(frame - length), self.y_of((value - now.in_slope[index] * length) * row.factor)
            )
        if index + 1 < len(curve) and curve.out_kind[index] != HandleKind.STEPPED:
            length = now.out_length[index]
            points["out"] = QPointF(
                self.scale.x(frame + length), self.y_of((value + now.out_slope[index] * length) * row.factor)
            )
        return points

    def chosen_indices(self) -> dict[int, NDArray[np.intp]]:
        """Chosen keys as indices by channel."""
        found: dict[int, list[int]] = {}
        for channel, frame in self.chosen:
            index = self.curve(channel).index_at(frame)
            if index is not None:
                found.setdefault(channel, []).append(index)
        return {c: np.array(sorted(i), np.intp) for c, i in found.items()}

    def choose_keys(self, keys: Chosen) -> None:
        """Choose exactly these keys."""
        self.chosen = set(keys)
        self.keys_changed.emit()
        self.update()

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
        self.chosen = moved
        self.session.preview(shot)

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
            self.chosen = {
                (c, float(drag.shot.curves(self.session.figure_name)[c].frames[i]))
                for c, ix in drag.keys.items()
                for i in ix
            }
        self.session.preview(None)
        return True

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape and self.cancel_drag():
            return
        super().keyPressEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        factor = 1.0015 ** event.angleDelta().y()
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.scale.zoom(factor, event.position().x())
            return
        kept = self.value_at(event.position().y())
        self._low, self._high = kept + (self._low - kept) / factor, kept + (self._high - kept) / factor
        self.update()

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.save()
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        rows = self.rows()
        if rows:
            moving = self._dragged_channels()
            shown = self.shown_rows()
            painter.drawPixmap(0, 0, self._still([row for row in shown if row.channel not in moving]))
            for row in shown:
                if row.channel in moving:
                    self._paint_curve(painter, row)
                    self._paint_keys(painter, row)
        else:
            painter.setPen(Look.pen("muted"))
            area = QRectF(GUTTER + 16, 0, self.width() - GUTTER - 30, self.height())
            painter.drawText(area, LEFT, "Choose a control on the figure or its map to see its curves.")
        x = self.scale.x(self.session.frame)
        painter.setPen(Look.pen("alert", 1.6))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        if self._drag is not None and self._drag.kind == "box" and self._drag.moved:
            painter.setPen(Look.pen("accent"))
            painter.setBrush(Look.colour("accent", 0.12))
            painter.drawRect(self._drag.box)
        painter.restore()
        self._paint_rows(painter, rows)

    def _dragged_channels(self) -> set[int]:
        drag = self._drag
        if drag is None or not self.session.previewing:
            return set()
        return set(drag.keys) | ({drag.channel} if drag.kind == "handle" else set())

    def _still(self, rows: list[Row]) -> QPixmap:
        """The grid and the curves that no drag changes, painted anew only when something in them changed."""
        ratio = self.devicePixelRatioF()
        curves = [self.curve(row.channel) for row in rows]
        key = (
            [(id(curve), row.role, row.factor) for curve, row in zip(curves, rows, strict=True)],
            (self._low, self._high, self.scale.first, self.scale.per_frame, self.size(), ratio, Look.theme.name),
            frozenset(self.chosen),
        )
        if self._kept is None or self._kept[0] != key:
            pixmap = QPixmap(round(self.width() * ratio), round(self.height() * ratio))
            pixmap.setDevicePixelRatio(ratio)
            pixmap.fill(Qt.GlobalColor.transparent)
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            self._paint_grid(painter)
            for row in rows:
                self._paint_curve(painter, row)
            for row in rows:
                self._paint_keys(painter, row)
            painter.end()
            self._kept = (key, pixmap, curves)
        return self._kept[1]

    def _paint_grid(self, painter: QPainter) -> None:
        span = self._high - self._low
        step = 10 ** np.floor(np.log10(span / 3))
        step *= 5 if span / step > 15 else 2 if span / step > 6 else 1
        painter.setFont(number_font(10))
        for value in np.arange(np.ceil(self._low / step) * step, self._high, step):
            y = self.y_of(float(value))
            painter.setPen(Look.pen("hairline", 1, 0.8))
            painter.drawLine(QPointF(GUTTER, y), QPointF(self.width(), y))
            painter.setPen(Look.pen("muted"))
            painter.drawText(
                QRectF(self.width() - 56, y - 13, 50, 12), RIGHT, f"{value:g}" if abs(value) > 1e-9 else "0"
            )

    def _paint_curve(self, painter: QPainter, row: Row) -> None:
        curve = self.curve(row.channel)
        low, high = self.scale.seen()
        count = max(8, int(self.width() - GUTTER) // 3)
        at = np.linspace(low, high, count)
        if len(curve):
            at = np.union1d(at, np.concatenate([curve.frames, curve.frames - 1e-4]))
            at = at[(at >= low) & (at <= high)]
        values = curve_values(curve, at, row.default) * row.factor
        xs, ys = self.scale.x(0) + at * self.scale.per_frame, self.y_of(values)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        pen = Look.pen(row.role, 1.8, 1.0 if len(curve) else 0.35)
        if row.unit is Unit.ANGLE:
            pen.setStyle(Qt.PenStyle.DashLine)
        painter.setPen(pen)
        painter.drawPolyline(QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), ys.tolist(), strict=True)]))
        if self.scale.per_frame >= 5 and len(curve) > 1:
            frames = np.arange(np.ceil(max(low, curve.frames[0])), min(high, curve.frames[-1]) + 1)
            dots = self.y_of(curve_values(curve, frames, row.default) * row.factor)
            xs = self.scale.x(0) + frames * self.scale.per_frame
            pen = QPen(Look.colour(row.role), 3.8)
            pen.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(pen)
            painter.drawPoints(QPolygonF([QPointF(x, y) for x, y in zip(xs.tolist(), dots.tolist(), strict=True)]))

    def _paint_keys(self, painter: QPainter, row: Row) -> None:
        curve = self.curve(row.channel)
        chosen = self.chosen_indices().get(row.channel, np.empty(0, np.intp))
        for index in chosen:
            at = self.key_point(row, int(index))
            for point in self.handle_points(row, int(index)).values():
                painter.setPen(Look.pen("ink", 1.3))
                painter.drawLine(at, point)
                painter.setBrush(Look.colour("raised"))
                painter.drawEllipse(point, 4.2, 4.2)
        for index in range(len(curve)):
            at = self.key_point(row, index)
            if GUTTER - 8 < at.x() < self.width() + 8:
                picked = index in chosen
                if picked:
                    painter.setPen(QPen(Look.colour("accent"), 1.6))
                    painter.setBrush(Look.colour("accent_wash"))
                    painter.drawEllipse(at, 7.5, 7.5)
                draw_mark(painter, at, int(curve.role[index]), 4.0)

    def _paint_rows(self, painter: QPainter, rows: list[Row]) -> None:
        painter.setFont(text_font(bold=True))
        painter.setPen(Look.pen("ink"))
        name = rows[0].control.capitalize() if rows else "No control chosen"
        painter.drawText(QRectF(14, 2, GUTTER - 18, 22), LEFT, name)
        for index, row in enumerate(rows):
            y = TOP + index * ROW
            faint = bool(self._only) and row.channel not in self._only
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(Look.colour(row.role, 0.3 if faint else 1.0))
            painter.drawRoundedRect(QRectF(14, y + 4, 9, 9), 2, 2)
            if row.unit is Unit.ANGLE:
                painter.fillRect(QRectF(17, y + 3, 3, 11), Look.colour("panel"))
            painter.setFont(text_font(12))
            painter.setPen(Look.pen("ink" if len(self.curve(row.channel)) and not faint else "muted"))
            painter.drawText(QRectF(30, y, 76, ROW), LEFT, row.words)
            painter.setFont(number_font(SIZE_SMALL))
            now = float(curve_values(self.curve(row.channel), [self.session.frame], row.default)[0]) * row.factor
            painter.drawText(QRectF(88, y, GUTTER - 96, ROW), RIGHT, f"{round(now, 1) + 0.0:.1f}")
        painter.setPen(Look.pen("hairline"))
        painter.drawLine(QPointF(GUTTER - 0.5, 0), QPointF(GUTTER - 0.5, self.height()))
