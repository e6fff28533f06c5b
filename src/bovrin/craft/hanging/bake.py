"""What hangs on something, told by keys of its own."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.clips.to_keys import between_keys, clips_to_keys, led_through
from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.craft.takes import in_every_take
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import continuous
from bovrin.figure.solve.plan import columns
from bovrin.figure.staging import hangs_on, unlooked
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Attachment, KeyRole, Shot
from bovrin.shot.checks import check_range
from bovrin.shot.curve import NO_KEYS, SAME_FRAME

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
    """What attachments and clips make of a figure, told by its keys: the fewest within half a millimetre and a tenth of a degree,
    or on every frame.

    With a range attachments let go in it and count before and after as they did; without one they are gone. controls: those
    alone that hang on something. BadMotion where there is nothing to bake.
    """
    rig = shot.figure(figure).rig
    names = None if controls is None else [rig.controls[rig.control(name)].name for name in controls]
    some = [one for one in shot.attachments(figure) if names is None or one.control in names]
    if not some and not shot.lanes(figure):
        raise BadMotion(
            f"nothing of {figure} hangs on anything, and no clip is laid for it.", advice="It is in keys already."
        )
    whole = start is None and end is None
    low, high = float(shot.first if start is None else start), float(shot.last if end is None else end)
    if not high > low:
        raise BadMotion(f"the range ends ({high:g}) before it begins ({low:g}).")
    check_range("what is turned into keys", np.floor(low), np.ceil(high))
    if some:
        shot = _baked(shot, figure, some, low, high, whole=whole, every_frame=every_frame)
    if shot.lanes(figure) and names is None:
        shot = clips_to_keys(shot, figure, start, end, every_frame=every_frame)
    return shot


def let_go_of_figure(shot: Shot, name: str) -> Shot:
    """A shot in which nothing hangs on a figure any more, in no take: what did stays where it was, keyed."""

    def own(one: Shot) -> Shot:
        for figure in one.cast:
            some = [a for a in one.attachments(figure.name) if a.carrier == name]
            if some and figure.name != name:
                one = _baked(one, figure.name, some, float(one.first), float(one.last), whole=True, every_frame=False)
        return one

    if not any(
        a.carrier == name for take in shot.all_takes for acting in take.acting.values() for a in acting.attachments
    ):
        return shot
    return in_every_take(shot, own)


def nothing_hung(shot: Shot, name: str) -> Shot:
    """A shot in which nothing of a figure hangs on anything, in no take: it moves as it did, by keys."""

    def own(one: Shot) -> Shot:
        some = list(one.attachments(name))
        span = float(one.first), float(one.last)
        return _baked(one, name, some, *span, whole=True, every_frame=False) if some else one

    return in_every_take(shot, own) if any(take.of(name).attachments for take in shot.all_takes) else shot


def _baked(
    shot: Shot, figure: str, some: list[Attachment], low: float, high: float, *, whole: bool, every_frame: bool
) -> Shot:
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    controls = dict.fromkeys(rig.control(one.control) for one in some)
    channels = [
        c for control in controls for word in ("translate", "rotate") for c in columns(rig, control, word) if c >= 0
    ]
    frames = np.union1d(np.arange(np.ceil(low), np.floor(high) + 1), [low, high])
    fine = frames if every_frame else np.union1d(frames, frames[:-1] + np.diff(frames) / 2)
    target = continuous(rig, unlooked(hangs_on(shot, figure), fine), channels)
    if shot.lanes(figure):
        target = target - (unlooked((*hangs_on(shot, figure)[:3], ()), fine) - _keys_alone(shot, figure, fine))
    bare = curves.replaced(dict.fromkeys(channels, NO_KEYS))
    made = led_through(bare, rig, fine, target, channels, frames, every_frame=every_frame)
    if whole:
        gone = curves.replaced({i: made[i] for i in channels} | {rig.channel(one.column): NO_KEYS for one in some})
        left = [one for one in shot.attachments(figure) if one not in some]
        return shot.with_curves(figure, gone).with_attachments(figure, left)
    own = {i: between_keys(curves[i], made[i], rig.channels[i].default, low, high) for i in channels}
    shot = shot.with_curves(figure, curves.replaced(own))
    return _silent(shot, figure, some, low, high)


def _keys_alone(shot: Shot, figure: str, frames: Floats) -> Floats:
    curves, rig, _, _ = hangs_on(shot, figure)
    return unlooked((curves, rig, None, ()), frames)


def _silent(shot: Shot, figure: str, some: list[Attachment], low: float, high: float) -> Shot:
    """Attachments that do not count from one frame to another, and count after it as they did there."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    changed = {}
    for one in some:
        column = rig.channel(one.column)
        curve, after = curves[column], high + 1.0
        value = float(curve_values(curve, np.array([after]))[0])
        kept = curve.taken((curve.frames < low - SAME_FRAME) | (curve.frames >= after - SAME_FRAME))
        style = KeyStyle(role=KeyRole.IN_BETWEEN)
        changed[column] = keyed(keyed(kept, low, 0.0, style), after, value, style)
    return shot.with_curves(figure, curves.replaced(changed))
