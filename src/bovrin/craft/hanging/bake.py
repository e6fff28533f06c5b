"""What hangs on something, and what moves by rule, told by keys of its own."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.clips.to_keys import between_keys, clips_to_keys, led_through
from bovrin.craft.following.follow import forgotten, unused_gone
from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.craft.takes import in_every_take
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import continuous
from bovrin.figure.solve.plan import columns
from bovrin.figure.staging import hangs_on, unlooked
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Attachment, Follower, KeyRole, Rig, Shot
from bovrin.shot.checks import check_range
from bovrin.shot.curve import NO_KEYS, SAME_FRAME
from bovrin.shot.follower import WEIGHT

Floats = NDArray[np.float64]


def bake(
    shot: Shot,
    figure: str,
    start: float | None = None,
    end: float | None = None,
    controls: Iterable[str] | None = None,
    *,
    every_frame: bool = False,
) -> Shot:
    """What attachments, followers and clips make of a figure, told by keys: the fewest within half a millimetre and a tenth of a
    degree, or on every frame.

    With a range attachments and followers let go in it and count before and after as they did; without one they are gone.
    controls: those alone that hang on something or follow. BadMotion where there is nothing to bake.
    """
    rig = shot.figure(figure).rig
    names = None if controls is None else {rig.controls[rig.control(name)].name for name in controls}
    some = Baking(
        [one for one in shot.attachments(figure) if names is None or one.control in names],
        [one for one in shot.followers(figure) if names is None or not names.isdisjoint(one.controls)],
    )
    if not some.any and not shot.lanes(figure):
        raise BadMotion(
            f"nothing of {figure} hangs on anything or follows, and no clip is laid for it.",
            advice="It is in keys already.",
        )
    whole = start is None and end is None
    low, high = float(shot.first if start is None else start), float(shot.last if end is None else end)
    if not high > low:
        raise BadMotion(f"the range ends ({high:g}) before it begins ({low:g}).")
    check_range("what is turned into keys", np.floor(low), np.ceil(high))
    if some.any:
        shot = unused_gone(_baked(shot, figure, some, low, high, whole=whole, every_frame=every_frame), figure)
    if shot.lanes(figure) and names is None:
        shot = clips_to_keys(shot, figure, start, end, every_frame=every_frame)
    return shot


class Baking(NamedTuple):
    """What is turned into keys."""

    attachments: list[Attachment]
    followers: list[Follower]

    @property
    def any(self) -> bool:
        """Whether there is anything."""
        return bool(self.attachments or self.followers)

    def channels(self, rig: Rig) -> list[int]:
        """The channels that it moves."""
        words = {(one.control, word) for one in self.attachments for word in MOVES}
        words |= {(name, word) for one in self.followers for name in one.controls for word in DOES.get(one.kind, TURNS)}
        found = {c for name, word in words for c in columns(rig, rig.control(name), word)}
        return sorted(found - {-1})

    def shares(self, rig: Rig) -> list[int]:
        """The channels that say how far it counts."""
        return [rig.channel(one.column) for one in self.attachments] + [
            rig.channel(f"{one.name}/{WEIGHT}") for one in self.followers
        ]


TURNS, MOVES = ("rotate",), ("translate", "rotate")
DOES = {"bob": ("translate",), "noise": MOVES}
"""What kinds of followers move besides turning."""


def let_go_of_figure(shot: Shot, name: str) -> Shot:
    """A shot in which nothing hangs on a figure any more, in no take: what did stays where it was, keyed."""

    def own(one: Shot) -> Shot:
        for figure in one.cast:
            some = Baking([a for a in one.attachments(figure.name) if a.carrier == name], [])
            if some.any and figure.name != name:
                one = _baked(one, figure.name, some, float(one.first), float(one.last), whole=True, every_frame=False)
        return one

    if not any(
        a.carrier == name for take in shot.all_takes for acting in take.acting.values() for a in acting.attachments
    ):
        return shot
    return in_every_take(shot, own)


def nothing_hung(shot: Shot, name: str) -> Shot:
    """A shot in which nothing of a figure hangs on anything or follows a rule, in no take: it moves as it did, by keys."""

    def own(one: Shot) -> Shot:
        some = Baking(list(one.attachments(name)), list(one.followers(name)))
        span = float(one.first), float(one.last)
        return _baked(one, name, some, *span, whole=True, every_frame=False) if some.any else one

    if not any(take.of(name).attachments or take.of(name).followers for take in shot.all_takes):
        return shot
    return unused_gone(in_every_take(shot, own), name)


def _baked(shot: Shot, figure: str, some: Baking, low: float, high: float, *, whole: bool, every_frame: bool) -> Shot:
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    channels = some.channels(rig)
    frames = np.union1d(np.arange(np.ceil(low), np.floor(high) + 1), [low, high])
    fine = frames if every_frame else np.union1d(frames, frames[:-1] + np.diff(frames) / 2)
    target = continuous(rig, unlooked(hangs_on(shot, figure), fine), channels)
    if shot.lanes(figure):
        target = target - (unlooked((*hangs_on(shot, figure)[:3], (), None), fine) - _keys_alone(shot, figure, fine))
    bare = curves.replaced(dict.fromkeys(channels, NO_KEYS))
    made = led_through(bare, rig, fine, target, channels, frames, every_frame=every_frame)
    if whole:
        gone = curves.replaced({i: made[i] for i in channels} | dict.fromkeys(some.shares(rig), NO_KEYS))
        left = [one for one in shot.attachments(figure) if one not in some.attachments]
        return forgotten(shot.with_curves(figure, gone).with_attachments(figure, left), figure, some.followers)
    own = {i: between_keys(curves[i], made[i], rig.channels[i].default, low, high) for i in channels}
    return _silent(shot.with_curves(figure, curves.replaced(own)), figure, some.shares(rig), low, high)


def _keys_alone(shot: Shot, figure: str, frames: Floats) -> Floats:
    curves, rig = hangs_on(shot, figure)[:2]
    return unlooked((curves, rig, None, (), None), frames)


def _silent(shot: Shot, figure: str, shares: list[int], low: float, high: float) -> Shot:
    """Shares, by channel, that do not count from one frame to another, and count before and after it as they did."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    changed = {}
    for column in shares:
        curve, after = curves[column], high + 1.0
        default = rig.channels[column].default
        value = float(curve_values(curve, np.array([after]), default)[0])
        if not len(curve) and default:
            curve = keyed(curve, low - 1.0, default, HELD)
        kept = curve.taken((curve.frames < low - SAME_FRAME) | (curve.frames >= after - SAME_FRAME))
        changed[column] = keyed(keyed(kept, low, 0.0, HELD), after, value, HELD)
    return shot.with_curves(figure, curves.replaced(changed))


HELD = KeyStyle(role=KeyRole.IN_BETWEEN)
