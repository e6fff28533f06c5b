"""Drawing on the stage: strokes put down and rubbed out, drawings begun, moved and copied."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from bovrin.errors import BadMotion
from bovrin.shot import Drawing, Shot, Stroke
from bovrin.shot.curve import SAME_FRAME

MOST_STROKES = 4000
"""Strokes of one drawing."""


def drawing_at(shot: Shot, frame: float) -> Drawing | None:
    """The drawing that is seen on a frame: the last one at or before it."""
    found = None
    for drawing in shot.drawings:
        if drawing.frame <= frame + SAME_FRAME:
            found = drawing
    return found


def neighbours(shot: Shot, frame: float) -> tuple[Drawing | None, Drawing | None]:
    """The drawings before and after the one that is seen on a frame."""
    here = drawing_at(shot, frame)
    before = [d for d in shot.drawings if here is not None and d.frame < here.frame]
    after = [d for d in shot.drawings if d.frame > (frame if here is None else max(frame, here.frame))]
    return (before[-1] if before else None), (after[0] if after else None)


def drawn(shot: Shot, frame: float, stroke: Stroke) -> Shot:
    """A stroke more on the drawing that is seen on a frame; where none is, a drawing begins there."""
    here = drawing_at(shot, frame) or Drawing(frame)
    if len(here.strokes) >= MOST_STROKES:
        raise BadMotion(
            f"the drawing on frame {here.frame:g} has {MOST_STROKES:,} strokes already.", advice="Begin a new one."
        )
    return _with(shot, replace(here, strokes=(*here.strokes, stroke)))


def rubbed_out(shot: Shot, frame: float, gone: Callable[[Stroke], bool]) -> Shot:
    """The drawing on a frame without some of its strokes; itself where none goes."""
    here = drawing_at(shot, frame)
    if here is None:
        return shot
    left = tuple(stroke for stroke in here.strokes if not gone(stroke))
    return shot if len(left) == len(here.strokes) else _with(shot, replace(here, strokes=left))


def new_drawing(shot: Shot, frame: float) -> Shot:
    """An empty drawing on a frame: what held until now ends there."""
    if any(abs(d.frame - frame) <= SAME_FRAME for d in shot.drawings):
        raise BadMotion(f"there is a drawing on frame {frame:g} already.", advice="Go to another frame, or rub it out.")
    return _with(shot, Drawing(frame))


def copied_drawing(shot: Shot, frame: float, to: float) -> Shot:
    """The drawing that is seen on a frame, put on another frame too; what is drawn on that stays."""
    here = drawing_at(shot, frame)
    if here is None or not here.strokes:
        raise BadMotion(f"nothing is drawn on frame {frame:g}.", advice="Go to a drawing first.")
    there = next((d.strokes for d in shot.drawings if abs(d.frame - to) <= SAME_FRAME), ())
    return _with(shot, Drawing(to, (*there, *here.strokes)))


def moved_drawing(shot: Shot, frame: float, to: float) -> Shot:
    """The drawing on a frame moved to another; it stays between its neighbours."""
    at = next((n for n, d in enumerate(shot.drawings) if abs(d.frame - frame) <= SAME_FRAME), None)
    if at is None:
        raise BadMotion(f"there is no drawing on frame {frame:g}.")
    low = shot.drawings[at - 1].frame + 1 if at else -float("inf")
    high = shot.drawings[at + 1].frame - 1 if at + 1 < len(shot.drawings) else float("inf")
    if low > high:
        return shot
    moved = replace(shot.drawings[at], frame=min(max(to, low), high))
    return replace(shot, drawings=(*shot.drawings[:at], moved, *shot.drawings[at + 1 :]))


def without_drawing(shot: Shot, frame: float) -> Shot:
    """The shot without the drawing that is seen on a frame; the one before it holds on."""
    here = drawing_at(shot, frame)
    if here is None:
        raise BadMotion(f"nothing is drawn on frame {frame:g}.")
    return replace(shot, drawings=tuple(d for d in shot.drawings if d is not here))


def without_pins(shot: Shot, figure: str) -> Shot:
    """The shot without the strokes that are pinned to a figure's joints."""
    kept = tuple(
        replace(d, strokes=tuple(s for s in d.strokes if s.pin is None or s.pin[0] != figure)) for d in shot.drawings
    )
    return replace(shot, drawings=kept)


def _with(shot: Shot, drawing: Drawing) -> Shot:
    """The shot with a drawing in the place of the one on its frame."""
    others = [d for d in shot.drawings if abs(d.frame - drawing.frame) > SAME_FRAME]
    return replace(shot, drawings=tuple(sorted((*others, drawing), key=lambda d: d.frame)))
