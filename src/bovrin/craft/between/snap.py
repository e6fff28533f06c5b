"""Snap: a fast action made fast on every channel that takes part, with a hold or a small drift after it."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bovrin.craft.between.easing import set_side
from bovrin.craft.keying.keys import pose_channels
from bovrin.craft.keying.lag import lags_there
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, HandleKind, Key, KeyRole, Shot

MOVES = 1e-6
"""Metres, radians or shares below which a channel takes no part."""
SETTLES = 2.2
"""How much faster than evenly a drift begins."""


def snap(
    shot: Shot,
    figure: str,
    parts: Iterable[str] | None,
    start: float,
    end: float,
    hold: float = 0.0,
    drift: float = 0.0,
) -> Shot:
    """Let some parts (or all) leave at once on one frame and arrive at once on another, in a straight way.

    Every channel that moves anywhere between both frames takes part, as late as it comes to them; keys are put in where
    there are none, and the handles split there, so that what comes before stays. After the end they stay for `hold` frames,
    drifting on by a share of the way: at once, and settling.
    """
    if end - start < 1:
        raise BadMotion("a snap needs a frame to begin and a later one to end.", advice="Choose two frames apart.")
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    starts, ends = start + lags_there(curves, start), end + lags_there(curves, end)
    chosen = [i for i in pose_channels(rig, parts) if not rig.channels[i].unit.holds and len(curves[i])]
    frames = np.arange(np.floor(starts.min()), np.ceil(ends.max()) + 1)
    values = channel_values(curves, rig, frames)
    inside = (frames[:, None] > starts - 1) & (frames[:, None] < ends + 1)
    low, high = (
        bound(axis=0) for bound in (np.where(inside, values, np.inf).min, np.where(inside, values, -np.inf).max)
    )
    moving = [i for i in chosen if high[i] - low[i] > MOVES and ends[i] - starts[i] >= 1]
    if not moving:
        raise BadMotion(
            f"nothing of what is chosen moves from frame {start:g} to {end:g}.", advice="Choose two frames that differ."
        )
    changes = {}
    for i in moving:
        first, last = float(starts[i]), float(ends[i])
        a, b = (float(curve_values(curves[i], [f], rig.channels[i].default)[0]) for f in (first, last))
        sharp = _sharpened(curves[i], first, last, rig.channels[i].default)
        changes[i] = _held_after(sharp, last, hold, b + drift * (b - a)) if hold >= 1 else sharp
    return shot.with_curves(figure, curves.replaced(changes))


def _sharpened(curve: Curve, start: float, end: float, default: float) -> Curve:
    role = KeyRole.BREAKDOWN
    curve = inserted(inserted(curve, start, default, role), end, default, role).settled()
    first, last = curve.index_at(start), curve.index_at(end)
    assert first is not None and last is not None  # keys in between stay
    return set_side(set_side(curve, "out", first, first + 1, 0.0), "in", last, last - 1, 0.0)


def _held_after(curve: Curve, end: float, hold: float, value: float) -> Curve:
    at = curve.index_at(end)
    assert at is not None
    until = end + hold
    if at + 1 < len(curve):
        until = min(until, float(curve.frames[at + 1]) - 1)
    if until < end + 1:
        return curve
    until = float(np.round(until))
    by, span, role = value - float(curve.values[at]), until - end, int(curve.role[at])
    columns = {name: getattr(curve, name).copy() for name in ("out_kind", "out_slope", "out_length", "joined")}
    columns["out_kind"][at] = HandleKind.BY_HAND if by else HandleKind.FLAT
    columns["out_slope"][at], columns["out_length"][at] = SETTLES * by / span, span / 3
    columns["joined"][at] = False
    rest = Key(until, value, HandleKind.FLAT, HandleKind.NO_OVERSHOOT, in_length=span / 3, role=role)
    return curve.changed(**columns).with_key(rest)
