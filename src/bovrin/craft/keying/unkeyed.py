"""Changes that are not keyed yet: shown as if they were, until the animator keeps or drops them."""

from __future__ import annotations

from dataclasses import replace

from bovrin.craft.keying.keys import merged
from bovrin.shot import Curve, Shot, Unkeyed
from bovrin.shot.curve import SAME_FRAME


def unkeyed_at(shot: Shot, figure: str, frame: float) -> Unkeyed | None:
    """The change of a figure on a frame that is neither kept nor dropped."""
    return next((u for u in shot.unkeyed if u.figure == figure and abs(u.frame - frame) < SAME_FRAME), None)


def as_unkeyed(old: Shot, new: Shot, figure: str, frame: float) -> Shot:
    """A change of the figure's pose on a frame, marked as not keyed yet."""
    if new is old or unkeyed_at(old, figure, frame) is not None:
        return new
    return replace(new, unkeyed=(*new.unkeyed, Unkeyed(figure, frame, old.curves(figure))))


def keep(shot: Shot, figure: str | None = None, frame: float | None = None) -> Shot:
    """Let the change on a frame stand as keys; without a frame all of them."""
    left = () if frame is None else tuple(u for u in shot.unkeyed if u is not unkeyed_at(shot, figure or "", frame))
    return shot if len(left) == len(shot.unkeyed) else replace(shot, unkeyed=left)


def drop(shot: Shot, figure: str, frame: float) -> Shot:
    """Put the keys on a frame back to what they were before the change; the rest of the shot stays."""
    change = unkeyed_at(shot, figure, frame)
    if change is None:
        return shot
    curves = shot.curves(figure)
    back = {
        i: _put_back(now, was, frame)
        for i, (now, was) in enumerate(zip(curves.curves, change.before.curves, strict=True))
    }
    return keep(shot.with_curves(figure, curves.replaced(back)), figure, frame)


def _put_back(now: Curve, was: Curve, frame: float) -> Curve:
    if now is was:
        return now
    there, then = now.index_at(frame), was.index_at(frame)
    if there is None and then is None:
        return now
    rest = now if there is None else now.taken(abs(now.frames - frame) > SAME_FRAME)
    return rest if then is None else merged(rest, was.taken(abs(was.frames - frame) <= SAME_FRAME))
