"""Drags on the pose strip: each is one object that makes a provisional shot of where the pointer is."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

from PyQt6.QtCore import QPointF, QRectF, Qt

from bovrin.craft.between.ladder import Ladder
from bovrin.craft.keying.key_sets import Chosen, copy_keys, joined_keys, move_keys, scale_keys, scaled, shifted_keys
from bovrin.craft.keying.timing import lengthen
from bovrin.craft.keying.whole_cast import lengthen_for_all, move_keys_for_all
from bovrin.craft.markers import change_marker, marker_edges, snapped
from bovrin.craft.ranges import set_range, set_second
from bovrin.desk.kit.gesture import Drag
from bovrin.desk.kit.timescale import TimeScale
from bovrin.desk.state.document.editing import chosen_parts
from bovrin.desk.state.document.session import Session
from bovrin.desk.strip.chart_row import ChartRow
from bovrin.desk.strip.layout import StripLayout
from bovrin.shot import Marker, Shot

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
SHIFT = Qt.KeyboardModifier.ShiftModifier
PUT_BACK = "Esc puts it back."
SNAP = 6.0
"""Pixels within which a drag snaps to a marker's edge."""


OTHERS_TOO = {False: " Shift: the whole cast and the markers too.", True: " Shift: this figure alone."}
"""What Shift does, by what retiming takes along without it."""


def snapped_frame(scale: TimeScale, shot: Shot, x: float, own: Iterable[float] = ()) -> float:
    """The frame under a pixel; a marker's edge when one is near."""
    edges = [edge for edge in marker_edges(shot) if edge not in own]
    return snapped(scale.frame(x), edges, SNAP / scale.per_frame)


class EdgeDrag(Drag[Shot]):
    """A card's right edge: the pose is held longer or shorter; with Alt only for the chosen parts, with Shift for the whole
    cast and the markers, or for the figure alone where all go along otherwise."""

    words = "Hold longer or shorter"

    def __init__(self, session: Session, scale: TimeScale, frame: float, pressed: QPointF) -> None:
        self.shot, self.figure, self.grabbed = session.shot, session.figure_name, frame
        self.scale, self.pressed = scale, pressed
        self.parts, self.for_all = chosen_parts(session), session.shot.retimes_all

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        by = round((at.x() - self.pressed.x()) / self.scale.per_frame)
        parts = self.parts if modifiers & ALT and self.parts else None
        for_all = self.for_all != bool(modifiers & SHIFT) and not parts
        shot = self._held(by, parts, for_all=for_all) if by else self.shot
        what = f"the {' and the '.join(parts)}" if parts else "the pose, for all," if for_all else "the pose"
        more = " Alt: only the chosen part." if self.parts and not parts else ""
        more += "" if parts or for_all != self.for_all else OTHERS_TOO[self.for_all]
        return shot, f"Hold {what} at {self.grabbed:g} by {by:+d} frames.{more} {PUT_BACK}"

    def _held(self, by: float, parts: list[str] | None, *, for_all: bool) -> Shot:
        if for_all:
            return lengthen_for_all(self.shot, self.figure, self.grabbed, by)
        return lengthen(self.shot, self.figure, self.grabbed, by, parts)


class LaneKeysDrag(Drag[Shot]):
    """Chosen keys, of cards or lanes: moved, copied with Ctrl, scaled about the current frame with Alt."""

    words = "Move keys"

    def __init__(self, session: Session, scale: TimeScale, chosen: Chosen, frame: float, pressed: QPointF) -> None:
        self.shot, self.figure, self.current = session.shot, session.figure_name, session.frame
        self.scale, self.chosen, self.grabbed, self.pressed = scale, dict(chosen), frame, pressed
        self.session, self.cards, self.for_all = session, frame in session.keys.cards(), session.shot.retimes_all
        self.after: Chosen = self.chosen
        self.reached = frame

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        to = snapped_frame(self.scale, self.shot, at.x() - self.pressed.x() + self.scale.x(self.grabbed))
        by = to - self.grabbed
        what = "poses" if self.cards else "keys"
        if modifiers & ALT:
            return self._scaled(to)
        if modifiers & CTRL:
            self.words, self.reached = f"Copy {what}", to
            self.after = shifted_keys(self.chosen, by)
            return copy_keys(
                self.shot, self.figure, self.chosen, by
            ), f"Copy the {what} {by:+g} frames away. {PUT_BACK}"
        for_all = self.cards and self.for_all != bool(modifiers & SHIFT)
        move = move_keys_for_all if for_all else move_keys
        moved = move(self.shot, self.figure, self.chosen, by) if by else self.shot
        by = _gone(self.shot, moved, self.figure, self.chosen)
        self.words, self.reached, self.after = f"Move {what}", self.grabbed + by, shifted_keys(self.chosen, by)
        more = OTHERS_TOO[self.for_all] if self.cards and for_all == self.for_all else ""
        what += ", and all on their frames," if for_all else ""
        return (
            moved,
            f"Move the {what} by {by:+g} frames.{more} Ctrl copies, Alt scales about {self.current:g}. {PUT_BACK}",
        )

    def _scaled(self, to: float) -> tuple[Shot, str]:
        span = self.grabbed - self.current
        factor = max((to - self.current) / span, 0.02) if span else 1.0
        self.words, self.reached = "Scale keys in time", to
        self.after = scaled(self.shot.curves(self.figure), self.chosen, self.current, factor)
        shot = scale_keys(self.shot, self.figure, self.chosen, self.current, factor)
        return shot, f"Scale to {factor:.0%} about {self.current:g}. {PUT_BACK}"

    def done(self) -> None:
        self.session.keys.choose_there(self.after)
        if self.cards:
            self.session.go_to(self.reached)


def _gone(old: Shot, new: Shot, figure: str, chosen: Chosen) -> float:
    """How far the chosen keys have really moved."""
    for i, frames in chosen.items():
        was, now = old.curves(figure)[i], new.curves(figure)[i]
        at = was.index_at(float(frames[0]))
        if at is not None:
            return float(now.frames[at] - was.frames[at])
    return 0.0


class RungDrag(Drag[Shot]):
    """A rung of the timing chart."""

    words = "Timing chart"

    def __init__(self, chart: ChartRow, ladder: Ladder, frame: float) -> None:
        self.chart, self.ladder, self.grabbed, self.shot = chart, ladder, frame, chart.session.shot

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        share = self.chart.share_of(self.ladder, at.x())
        shot = self.chart.moved(self.shot, self.ladder, self.ladder.with_rung(self.grabbed, share))
        self.chart.ladders(shot)
        return shot, f"Frame {self.grabbed:g} at {share:.0%} of the way. {PUT_BACK}"


class MarkerDrag(Drag[Shot]):
    """A marker as a whole, or one of its ends."""

    words = "Move a marker"

    def __init__(self, session: Session, scale: TimeScale, marker: Marker, edge: str, pressed: QPointF) -> None:
        self.shot, self.scale, self.marker, self.edge, self.pressed = session.shot, scale, marker, edge, pressed
        self.own = {marker.start, marker.end}

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        marker = self.marker
        start = marker.end if self.edge == "end" else marker.start
        to = snapped_frame(self.scale, self.shot, self.scale.x(start) + at.x() - self.pressed.x(), self.own)
        if self.edge == "end":
            new = replace(marker, end=max(to, marker.start))
        elif self.edge == "start":
            new = replace(marker, start=min(to, marker.end))
        else:
            new = replace(marker, start=to, end=marker.end + to - marker.start)
        words = f"'{marker.words}' from {new.start:g} to {new.end:g}. {PUT_BACK}"
        return change_marker(self.shot, marker, new), words


class RangeDrag(Drag[Shot]):
    """One end of the shot's range or of the second range, or a second range drawn anew (`end` "new")."""

    words = "Change the range"

    def __init__(self, session: Session, scale: TimeScale, end: str, pressed: QPointF) -> None:
        self.shot, self.scale, self.end, self.pressed = session.shot, scale, end, pressed

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot, str]:
        shot = self.shot
        to = max(snapped_frame(self.scale, shot, at.x()), 0.0)
        if self.end == "first":
            shot = set_range(shot, min(to, shot.last), shot.last)
        elif self.end == "last":
            shot = set_range(shot, shot.first, max(to, shot.first))
        else:
            self.words = "Change the second range"
            shot = set_second(shot, self._second(to))
            assert shot.second is not None
            return shot, f"Second range {shot.second[0]:g} to {shot.second[1]:g}. {PUT_BACK}"
        return shot, f"Range {shot.first:g} to {shot.last:g}. {PUT_BACK}"

    def _second(self, to: float) -> tuple[float, float]:
        if self.end == "new" or self.shot.second is None:
            start = max(float(round(self.scale.frame(self.pressed.x()))), 0.0)
            return min(start, to), max(start, to)
        a, b = self.shot.second
        return (min(to, b), b) if self.end == "second first" else (a, max(to, a))


class ScrubDrag(Drag[Shot]):
    """Along the numbers: the current frame follows."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        self._session, self._scale = session, scale

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[None, str]:
        self._session.go_to(self._scale.frame(at.x()))
        return None, f"Frame {self._session.frame:g}."


class KeyBoxDrag(Drag[Shot]):
    """A box over the lanes chooses the keys in it; those chosen before come back when it is given up."""

    def __init__(self, layout: StripLayout, pressed: QPointF, kept: Chosen) -> None:
        self._layout, self._pressed, self._kept = layout, pressed, dict(kept)
        self._before = dict(layout.session.keys.by_channel)
        self.box = QRectF(pressed, pressed)

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[None, str]:
        self.box = QRectF(self._pressed, at).normalized()
        chosen = self._layout.session.keys
        chosen.choose(joined_keys(self._kept, self._layout.keys_in(self.box)))
        return None, f"{len(chosen)} keys chosen."

    def put_back(self) -> None:
        self._layout.session.keys.choose(self._before)
