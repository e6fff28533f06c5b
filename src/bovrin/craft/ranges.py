"""The shot's range and its second one, by number; frames in front."""

from __future__ import annotations

from dataclasses import replace

from bovrin.craft.keying.timing import shifted_shot
from bovrin.craft.takes import in_every_take
from bovrin.errors import BadMotion
from bovrin.shot import Shot


def set_range(shot: Shot, first: float, last: float) -> Shot:
    """The shot from one frame to another."""
    _check(first, last)
    return shot if (first, last) == (shot.first, shot.last) else replace(shot, first=first, last=last)


def set_second(shot: Shot, second: tuple[float, float] | None) -> Shot:
    """A second range kept aside for playing, or none."""
    if second is not None:
        _check(*second)
    return shot if second == shot.second else replace(shot, second=second)


def _check(first: float, last: float) -> None:
    if first < 0:
        raise BadMotion(f"a range cannot begin on frame {first:g}.", advice="Use 0 or a later frame.")
    if last < first:
        raise BadMotion(f"a range cannot end ({last:g}) before it begins ({first:g}).", advice="Give a later end.")


def fit_to_keys(shot: Shot) -> Shot:
    """The range from the first key of the cast to the last."""
    frames = [c.frames for curves in shot.take.curves.values() for c in curves.curves if len(c)]
    if not frames:
        raise BadMotion("there is no key in the shot to fit its range to.", advice="Make a key pose first.")
    low, high = min(float(f[0]) for f in frames), max(float(f[-1]) for f in frames)
    return set_range(shot, max(low, 0.0), max(high, 0.0))


def add_in_front(shot: Shot, count: int) -> Shot:
    """Frames more before the first one. Where numbers would fall below 0, the whole shot moves on instead."""
    if count < 1:
        raise BadMotion("there must be at least one frame to add in front.")
    first = shot.first - count
    return (
        replace(shot, first=first)
        if first >= 0
        else replace(in_every_take(shot, lambda one: shifted_shot(one, -first)), first=0.0)
    )


def set_rate(shot: Shot, rate: float) -> Shot:
    """Frames a second; keys stay on their frames."""
    return shot if rate == shot.frame_rate else replace(shot, frame_rate=float(rate))
