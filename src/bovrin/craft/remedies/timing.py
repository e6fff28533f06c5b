"""Remedies in time: dead holds kept alive, one side after the other, loops closed."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from bovrin.craft.modes import limb_channels, limb_named
from bovrin.craft.moving_hold import moving_hold
from bovrin.craft.timing import retimed
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, HandleKind, KeyRole, Shot, Unit
from bovrin.shot.curve import SAME_FRAME

AMOUNTS = (0.03, 0.05, 0.08, 0.12, 0.2, 0.35)
"""Shares of the way that a dead hold goes on by, the least that keeps it alive."""
LATER = (1.0, 2.0)


def kept_alive(shot: Shot, figure: str, start: float, end: float, is_gone: Callable[[Shot], bool]) -> Shot:
    """A dead hold that goes on the way it came, or toward the next pose where none came before, by the least that will do."""
    made, refused = shot, None
    for toward in ("on", "next"):
        for amount in AMOUNTS:
            try:
                made = moving_hold(shot, figure, start, end, amount, toward)
            except BadMotion as error:
                refused = error
                break
            if is_gone(made):
                return made
    if made is shot and refused is not None:
        raise refused
    return made


def offset_side(shot: Shot, figure: str, limb: str, start: float, end: float, is_gone: Callable[[Shot], bool]) -> Shot:
    """One of two limbs that do the same comes to its pose a frame later than the other, or two."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    made = shot
    for by in LATER:
        changes = {}
        for i in limb_channels(rig, limb_named(rig, limb)):
            own = curves[i]
            chosen = (own.frames > start + SAME_FRAME) & (own.frames <= end + 0.5)
            frames = np.where(chosen, own.frames + by, own.frames)
            if chosen.any() and (len(frames) < 2 or np.diff(frames).min() > 0.25):
                changes[i] = retimed(own, frames)
        if not changes:
            break
        made = shot.with_curves(figure, curves.replaced(changes))
        if is_gone(made):
            return made
    if made is shot:
        raise BadMotion(
            f"no keys of {limb} from {start:g} to {end:g} have room to come later.", advice="Offset them by hand."
        )
    return made


def closed_loop(shot: Shot, figure: str, start: float, end: float) -> Shot:
    """A loop whose last frame is its first: the same values, and the same slopes through both."""
    rig, curves, changes = shot.figure(figure).rig, shot.curves(figure), {}
    values = channel_values(curves, rig, np.array([start, end]))
    for i, own in enumerate(curves.curves):
        if not len(own) or own.muted or (rig.channels[i].unit is Unit.SWITCH and values[0, i] == values[1, i]):
            continue
        changes[i] = _closed(own, start, end, float(values[0, i]), rig.defaults[i])
    return shot.with_curves(figure, curves.replaced(changes))


def _closed(curve: Curve, start: float, end: float, value: float, default: float) -> Curve:
    made = inserted(inserted(curve, start, default, KeyRole.KEY_POSE), end, default, KeyRole.KEY_POSE).settled()
    first, last = made.index_at(start), made.index_at(end)
    assert first is not None and last is not None
    values = made.values.copy()
    values[last] = value
    made = made.changed(values=values)
    if last - first < 1:
        return made
    inner = last - first > 1
    rise = (values[first + 1] - values[last - 1]) if inner else 0.0
    span = (made.frames[first + 1] - made.frames[first]) + (made.frames[last] - made.frames[last - 1])
    turns = inner and (values[first + 1] - value) * (value - values[last - 1]) > 0
    slope = rise / span if turns else 0.0
    columns = {n: getattr(made, n).copy() for n in ("in_kind", "out_kind", "in_slope", "out_slope", "joined", "free")}
    for at in (first, last):
        if columns["out_kind"][at] != HandleKind.STEPPED:
            columns["in_kind"][at] = columns["out_kind"][at] = HandleKind.BY_HAND
            columns["in_slope"][at] = columns["out_slope"][at] = slope
            columns["joined"][at], columns["free"][at] = True, False
    return made.changed(**columns)
