"""Drags on the curve desk: each is one object that makes a provisional shot of where the pointer is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPolygonF

from bovrin.craft.between.chart import respaced_channels
from bovrin.craft.between.ladder import Ladder
from bovrin.craft.curves.bending import Side, bend, keys_dragged
from bovrin.craft.curves.reshaping import scaled_keys
from bovrin.craft.keying.key_clips import copied_keys, pasted_keys
from bovrin.craft.keying.key_sets import joined_keys
from bovrin.craft.keying.timing import room
from bovrin.desk.curves.plot import CurvePlot
from bovrin.desk.kit.gesture import Drag
from bovrin.desk.state.choosing.channel_rows import Row
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.shot import Curve, HandleKind, Shot

SHIFT, CTRL, ALT = (
    Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
    Qt.KeyboardModifier.AltModifier,
)
PUT_BACK = "Esc puts it back."
NEAREST = 0.05
"""Frames that keys keep from each other when they need not lie on whole frames."""

Indices = dict[int, NDArray[np.intp]]


class CurveDrag(Drag[Shot]):
    """A drag that changes curves; `channels` are those it changes."""

    channels: set[int]


def _with(shot: Shot, figure: str, changes: dict[int, Curve]) -> Shot:
    return shot.with_curves(figure, shot.curves(figure).replaced(changes))


def _straightened(shift: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[float, float]:
    if not modifiers & SHIFT:
        return shift.x(), shift.y()
    return (shift.x(), 0.0) if abs(shift.x()) >= abs(shift.y()) else (0.0, shift.y())


class CurveKeysDrag(CurveDrag):
    """Chosen keys: moved in time and value, copied with Ctrl, scaled about the current frame with Alt."""

    words = "Move keys"

    def __init__(self, desk: CurvePlot, row: Row, index: int, pressed: QPointF) -> None:
        self.desk, self.pressed, self.row = desk, pressed, row
        self.shot, self.figure = desk.session.shot, desk.session.figure_name
        self.indices: Indices = desk.chosen_indices()
        self.rows = {r.channel: r for r in desk.rows()}
        self.channels = set(self.indices)
        self.curves = {c: self.shot.curves(self.figure)[c] for c in self.indices}
        own = self.curves[row.channel]
        self.grabbed = (float(own.frames[index]), float(desk.plot_of(row, own.values[index])))
        self.after = {c: self.curves[c].frames[which] for c, which in self.indices.items()}

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        shot, words = self._moved(*_straightened(at - self.pressed, modifiers), modifiers)
        self.desk.session.keys.choose(self.after)  # what is chosen stays under the pointer
        return shot, words

    def _moved(self, dx: float, dy: float, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        if modifiers & ALT:
            return self._scaled(dx, dy)
        whole = self.desk.session.keying.whole_frames
        by = dx / self.desk.scale.per_frame
        by = float(round(by)) if whole else by
        rise = self.desk.value_at(self.pressed.y() + dy) - self.desk.value_at(self.pressed.y())
        if modifiers & CTRL:
            return self._copied(by, rise)
        nearest = 1.0 if whole else NEAREST
        for c, which in self.indices.items():
            chosen = np.zeros(len(self.curves[c]), bool)
            chosen[which] = True
            by = room(self.curves[c].frames, chosen, by, nearest)
        changes = {}
        for c, which in self.indices.items():
            changes[c] = keys_dragged(self.curves[c], which, by, rise * self.desk.per_plot(self.rows[c]), nearest)
            self.after[c] = changes[c].frames[which]
        self.words = "Move keys"
        return _with(
            self.shot, self.figure, changes
        ), f"{by:+g} frames, {rise:+.3g}. Shift keeps to one, Ctrl copies, Alt scales. {PUT_BACK}"

    def _copied(self, by: float, rise: float) -> tuple[Shot, str]:
        self.words = "Copy keys"
        clip = copied_keys(
            self.shot, self.figure, {c: self.curves[c].frames[which] for c, which in self.indices.items()}
        )
        shot, made = pasted_keys(self.shot, self.figure, clip, clip.start + by)
        raised = {}
        for c, frames in made.items():
            curve = shot.curves(self.figure)[c]
            which = np.flatnonzero(np.isin(curve.frames, frames))
            raised[c] = keys_dragged(curve, which, 0.0, rise * self.desk.per_plot(self.rows[c]))
        self.after = dict(made)
        return _with(shot, self.figure, raised), f"Copies {by:+g} frames away. {PUT_BACK}"

    def _scaled(self, dx: float, dy: float) -> tuple[Shot, str]:
        desk, frame = self.desk, self.desk.session.frame
        self.words = "Scale keys"
        level = float(desk.plot_of(self.row, curve_values(self.curves[self.row.channel], [frame], self.row.default)[0]))
        time = _factor(self.grabbed[0] - frame, dx / desk.scale.per_frame)
        rise = desk.value_at(self.pressed.y() + dy) - desk.value_at(self.pressed.y())
        value = _factor(self.grabbed[1] - level, rise) if abs(self.grabbed[1] - level) > 1e-9 else 1.0
        time = max(time, 0.02)
        changes = {}
        for c, which in self.indices.items():
            curve = self.curves[c]
            about = (frame, float(curve_values(curve, [frame], self.rows[c].default)[0]))
            changes[c] = scaled_keys(curve, which, about, time, value)
            self.after[c] = changes[c].frames[which]
        return _with(self.shot, self.figure, changes), f"Scale {time:.0%} in time, {value:.0%} in value. {PUT_BACK}"

    def done(self) -> None:
        self.desk.session.keys.choose_there(self.after)

    def put_back(self) -> None:
        self.desk.session.keys.choose({c: self.curves[c].frames[which] for c, which in self.indices.items()})


def _factor(from_: float, by: float) -> float:
    return (from_ + by) / from_ if abs(from_) > 1e-9 else 1.0


class HandleDrag(CurveDrag):
    """One handle; those on the same side of all other chosen keys turn and lengthen along. Shift only lengthens."""

    words = "Bend a curve"

    def __init__(self, desk: CurvePlot, row: Row, index: int, side: Side) -> None:
        self.desk, self.row, self.index, self.side = desk, row, index, side
        self.shot, self.figure = desk.session.shot, desk.session.figure_name
        self.indices: Indices = desk.chosen_indices()
        self.rows = {r.channel: r for r in desk.rows()}
        self.channels = set(self.indices)
        now = gather([self.shot.curves(self.figure)[row.channel]])
        self.slope = float(getattr(now, f"{side}_slope")[index])
        self.length = float(getattr(now, f"{side}_length")[index])

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        curves = self.shot.curves(self.figure)
        own = curves[self.row.channel]
        sign = 1.0 if self.side == "out" else -1.0
        run = max((self.desk.scale.frame(at.x()) - float(own.frames[self.index])) * sign, 0.02)
        rise = self.desk.value_of(self.row, self.desk.value_at(at.y())) - float(own.values[self.index])
        if modifiers & SHIFT:
            rise = self.slope * sign * run
        turned = (sign * rise / run - self.slope) / self.desk.per_plot(self.row)
        longer = run / max(self.length, 1e-9)
        changes = {}
        for c, which in self.indices.items():
            curve = curves[c].settled()
            now = gather([curve])
            for at_key in which.tolist():
                if c == self.row.channel and at_key == self.index:
                    curve = bend(curve, at_key, self.side, run, rise)
                elif _has_handle(curve, at_key, self.side):
                    slope = float(getattr(now, f"{self.side}_slope")[at_key]) + turned * self.desk.per_plot(
                        self.rows[c]
                    )
                    length = float(getattr(now, f"{self.side}_length")[at_key]) * longer
                    curve = bend(curve, at_key, self.side, length, sign * slope * length)
            changes[c] = curve
        more = "" if self.indices[self.row.channel].size > 1 or len(self.indices) > 1 else " Shift keeps its slope."
        return _with(self.shot, self.figure, changes), f"{run:.1f} frames long.{more} {PUT_BACK}"


def _has_handle(curve: Curve, index: int, side: Side) -> bool:
    beside, leaving = (index + 1, index) if side == "out" else (index - 1, index - 1)
    return 0 <= beside < len(curve) and curve.out_kind[leaving] != HandleKind.STEPPED


class DotDrag(CurveDrag):
    """The dot of a frame, along the curve: what happens there happens sooner or later; both keys around stay."""

    words = "Space a curve"

    def __init__(self, desk: CurvePlot, row: Row, frame: float, pressed: QPointF) -> None:
        self.desk, self.row, self.dot, self.pressed = desk, row, frame, pressed
        self.shot, self.figure = desk.session.shot, desk.session.figure_name
        self.channels = {row.channel}
        curve = self.shot.curves(self.figure)[row.channel]
        at = int(np.searchsorted(curve.frames, frame)) - 1
        start, end = float(curve.frames[at]), float(curve.frames[at + 1])
        self.frames = np.arange(np.ceil(start), np.floor(end) + 1)
        values = curve_values(curve, self.frames, row.default)
        way = values[-1] - values[0]
        shares = (values - values[0]) / way if abs(way) > 1e-12 else np.zeros(len(values))
        self.can = bool(abs(way) > 1e-12 and start == round(start) and end == round(end))
        self.ladder = Ladder(start, end, shares, False, ())

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        by = (at.x() - self.pressed.x()) / self.desk.scale.per_frame
        moment = min(max(self.dot - by, self.frames[0]), self.frames[-1])
        share = float(np.interp(moment, self.frames, self.ladder.shares))
        wanted = np.array(self.ladder.with_rung(self.dot, share))
        shot = respaced_channels(self.shot, self.figure, self.frames, wanted, [self.row.channel])
        return shot, f"Frame {self.dot:g} at {share:.0%} of the way. {PUT_BACK}"


class ShapeDrag(Drag[Shot]):
    """A box, or with Alt any shape, drawn over keys chooses them; those chosen before come back when it is given up."""

    def __init__(self, plot: CurvePlot, pressed: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        self._plot, self._pressed, self._free = plot, pressed, bool(modifiers & ALT)
        chosen = plot.session.keys
        self._before = dict(chosen.by_channel)
        self._kept = self._before if modifiers & SHIFT else {}
        self.outline = QPolygonF([pressed])
        if not modifiers & SHIFT:
            chosen.clear()

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[None, str]:
        plot = self._plot
        if self._free:
            self.outline.append(at)
            found = plot.keys_within(self.outline)
        else:
            box = QRectF(self._pressed, at).normalized()
            self.outline = QPolygonF(box)
            found = plot.keys_in(box)
        plot.session.keys.choose(joined_keys(self._kept, found))
        return None, f"{len(plot.session.keys)} keys chosen."

    def put_back(self) -> None:
        self._plot.session.keys.choose(self._before)
