"""Drags on the pose strip: each is one object that makes a provisional shot of where the pointer is."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from typing import Protocol

from PyQt6.QtCore import QPointF, Qt

from bovrin.craft.key_sets import Chosen, copy_keys, move_keys, scale_keys, scaled, shifted_keys
from bovrin.craft.markers import change_marker, marker_edges, snapped
from bovrin.craft.ranges import set_range, set_second
from bovrin.craft.timing import lengthen
from bovrin.desk.chart_row import ChartRow, Ladder
from bovrin.desk.session import Session
from bovrin.desk.timescale import TimeScale
from bovrin.shot import Marker, Shot

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier
PUT_BACK = "Esc puts it back."
SNAP = 6.0
"""Pixels within which a drag snaps to a marker's edge."""


class StripDrag(Protocol):
    """One drag. `step` gives the provisional shot and what to say; `done` is told when it was taken over."""

    words: str

    def step(self, at: QPointF, keys: Qt.KeyboardModifier) -> tuple[Shot, str]: ...

    def done(self, session: Session) -> None: ...


def snapped_frame(scale: TimeScale, shot: Shot, x: float, own: Iterable[float] = ()) -> float:
    """The frame under a pixel; a marker's edge when one is near."""
    edges = [edge for edge in marker_edges(shot) if edge not in own]
    return snapped(scale.frame(x), edges, SNAP / scale.per_frame)


class EdgeDrag:
    """A card's right edge: the pose is held longer or shorter; with Alt only for the chosen parts."""

    words = "Hold longer or shorter"

    def __init__(self, session: Session, scale: TimeScale, frame: float, pressed: QPointF) -> None:
        self.shot, self.figure, self.frame = session.shot, session.figure_name, frame
        self.scale, self.pressed = scale, pressed
        rig = self.shot.figure(self.figure).rig
        self.parts = [p.name for p in rig.parts if set(p.controls) & set(session.controls)]

    def step(self, at: QPointF, keys: Qt.KeyboardModifier) -> tuple[Shot, str]:
        by = round((at.x() - self.pressed.x()) / self.scale.per_frame)
        parts = self.parts if keys & ALT and self.parts else None
        shot = lengthen(self.shot, self.figure, self.frame, by, parts) if by else self.shot
        what = f"the {' and the '.join(parts)}" if parts else "the pose"
        more = "" if parts else " Alt: only the chosen part." if self.parts else ""
        return shot, f"Hold {what} at {self.frame:g} by {by:+d} frames.{more} {PUT_BACK}"

    def done(self, session: Session) -> None: ...


class KeysDrag:
    """Chosen keys, of cards or lanes: moved, copied with Ctrl, scaled about the current frame with Alt."""

    words = "Move keys"

    def __init__(self, session: Session, scale: TimeScale, chosen: Chosen, frame: float, pressed: QPointF) -> None:
        self.shot, self.figure, self.current = session.shot, session.figure_name, session.frame
        self.scale, self.chosen, self.frame, self.pressed = scale, dict(chosen), frame, pressed
        self.cards = frame in session.keys.cards()
        self.after: Chosen = self.chosen
        self.reached = frame

    def step(self, at: QPointF, keys: Qt.KeyboardModifier) -> tuple[Shot, str]:
        to = snapped_frame(self.scale, self.shot, at.x() - self.pressed.x() + self.scale.x(self.frame))
        by = to - self.frame
        what = "poses" if self.cards else "keys"
        if keys & ALT:
            return self._scaled(to)
        if keys & CTRL:
            self.words, self.reached = f"Copy {what}", to
            self.after = shifted_keys(self.chosen, by)
            return copy_keys(
                self.shot, self.figure, self.chosen, by
            ), f"Copy the {what} {by:+g} frames away. {PUT_BACK}"
        moved = move_keys(self.shot, self.figure, self.chosen, by) if by else self.shot
        by = _gone(self.shot, moved, self.figure, self.chosen)
        self.words, self.reached, self.after = f"Move {what}", self.frame + by, shifted_keys(self.chosen, by)
        return moved, f"Move the {what} by {by:+g} frames. Ctrl copies, Alt scales about {self.current:g}. {PUT_BACK}"

    def _scaled(self, to: float) -> tuple[Shot, str]:
        span = self.frame - self.current
        factor = max((to - self.current) / span, 0.02) if span else 1.0
        self.words, self.reached = "Scale keys in time", to
        self.after = scaled(self.chosen, self.current, factor)
        shot = scale_keys(self.shot, self.figure, self.chosen, self.current, factor)
        return shot, f"Scale to {factor:.0%} about {self.current:g}. {PUT_BACK}"

    def done(self, session: Session) -> None:
        session.keys.choose(self.after)
        if self.cards:
            session.go_to(self.reached)


def _gone(old: Shot, new: Shot, figure: str, chosen: Chosen) -> float:
    """How far the chosen keys have really moved."""
    for i, frames in chosen.items():
        was, now = old.curves(figure)[i], new.curves(figure)[i]
        at = was.index_at(float(frames[0]))
        if at is not None:
            return float(now.frames[at] - was.frames[at])
    return 0.0


class RungDrag:
    """A rung of the timing chart."""

    words = "Timing chart"

    def __init__(self, chart: ChartRow, ladder: Ladder, frame: float) -> None:
        self.chart, self.ladder, self.frame, self.shot = chart, ladder, frame, chart.session.shot

    def step(self, at: QPointF, keys: Qt.KeyboardModifier) -> tuple[Shot, str]:
        share = self.chart.share_of(self.ladder, at.x())
        shot = self.chart.moved(self.shot, self.ladder, self.ladder.with_rung(self.frame, share))
        self.chart.ladders(shot)
        return shot, f"Frame {self.frame:g} at {share:.0%} of the way. {PUT_BACK}"

    def done(self, session: Session) -> None: ...


class MarkerDrag:
    """A marker as a whole, or one of its ends."""

    words = "Move a marker"

    def __init__(self, session: Session, scale: TimeScale, marker: Marker, edge: str, pressed: QPointF) -> None:
        self.shot, self.scale, self.marker, self.edge, self.pressed = session.shot, scale, marker, edge, pressed
        self.own = {marker.start, marker.end}

    def step(self, at: QPointF, keys: Qt.KeyboardModifier) -> tuple[Shot, str]:
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

    def done(self, session: Session) -> None: ...


@dataclass
class RangeDrag:
    """One end of the shot's range or of the second range, or a second range drawn anew (`end` "new")."""

    session: Session
    scale: TimeScale
    end: str
    pressed: QPointF
    words: str = "Change the range"

    def __post_init__(self) -> None:
        self.shot = self.session.shot

    def step(self, at: QPointF, keys: Qt.KeyboardModifier) -> tuple[Shot, str]:
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

    def done(self, session: Session) -> None: ...
