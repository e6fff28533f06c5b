"""Clips turned back into keys: what lanes and keys do together, told by keys alone."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.fitted_spans import TOLERANCES, fitted
from bovrin.craft.keying.keys import merged
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import continuous
from bovrin.figure.stages.clip_values import clip_curves
from bovrin.figure.stages.layers import beneath, layers_of, on_top
from bovrin.measure.gait.contacts import contacts
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.shot import HOLDING, Curve, CurveSet, HandleKind, Key, KeyRole, Laid, Lane, Rig, Shot, Stretch, Unit
from bovrin.shot.checks import check_range
from bovrin.shot.curve import NO_KEYS, columns_like

Floats = NDArray[np.float64]

NEAR = {
    Unit.LENGTH: 5e-4,
    Unit.ANGLE: float(np.radians(0.1)),
    Unit.AMOUNT: 1e-3,
    **dict.fromkeys(HOLDING, 1e-6),
    Unit.NUMBER: 1e-3,
}
"""How far keys may be from what clips and keys did together: half a millimetre, a tenth of a degree."""
SHARE = 0.5
STILL = 1e-9


def clips_to_keys(
    shot: Shot, figure: str, start: float | None = None, end: float | None = None, *, every_frame: bool = False
) -> Shot:
    """The shot in which what a figure does by clips and keys together is told by keys: the fewest that do, or on every frame.

    Without a range all of its clips are turned into keys and its lanes are gone. With one, clips are silent from `start` to
    `end`, and are heard before and after as they were.
    """
    layers = layers_of(shot, figure)
    if not shot.lanes(figure):
        raise BadMotion(f"no clip is laid for '{figure}'.", advice="There is nothing to turn into keys.")
    first, last = _extent(shot, figure)
    whole = start is None and end is None
    low, high = (first if start is None else start), (last if end is None else end)
    if not high > low:
        raise BadMotion(f"the range ends ({high:g}) before it begins ({low:g}).")
    if layers is None:
        return shot.with_lanes(figure, []) if whole else shot
    check_range("what is turned into keys", np.floor(low), np.ceil(high))
    rig = shot.figure(figure).rig
    frames = np.union1d(np.arange(np.ceil(low), np.floor(high) + 1), [low, high])
    fine = frames if every_frame else np.union1d(frames, frames[:-1] + np.diff(frames) / 2)
    channels = _moved(rig, shot, figure)
    target = continuous(rig, _staged_keys(shot, figure, fine), channels)
    bare = shot.curves(figure).replaced(dict.fromkeys(channels, NO_KEYS))
    made = led_through(bare, rig, fine, target, channels, frames, every_frame=every_frame)
    if whole:
        down = contacts(replace(shot, first=min(shot.first, low), last=max(shot.last, high)), figure)
        return shot.with_curves(figure, made).with_lanes(figure, []).with_contacts(figure, _kept(down, low, high))
    own = {i: between_keys(shot.curves(figure)[i], made[i], rig.channels[i].default, low, high) for i in channels}
    lanes = [Lane(tuple(_silenced(one, low, high) for one in lane.laid), lane.muted) for lane in shot.lanes(figure)]
    return shot.with_curves(figure, shot.curves(figure).replaced(own)).with_lanes(figure, lanes)


def _kept(down: dict[str, list[Stretch]], low: float, high: float) -> dict[str, tuple[Stretch, ...]]:
    """Contacts as the clips had them, within what they moved."""
    return {
        limb: tuple((max(a, low), min(b, high)) for a, b in own if b > low and a < high) for limb, own in down.items()
    }


def _extent(shot: Shot, figure: str) -> tuple[float, float]:
    """From where to where clips lie, and keys."""
    laid = [one for lane in shot.lanes(figure) for one in lane.laid]
    keys = [c.frames for c in shot.curves(figure).curves if len(c)]
    starts = [one.at for one in laid] + [float(k[0]) for k in keys]
    ends = [one.end for one in laid] + [float(k[-1]) for k in keys]
    return min(starts, default=shot.first), max(ends, default=shot.last)


def _staged_keys(shot: Shot, figure: str, frames: Floats) -> Floats:
    """What clips and keys say (F, C), before anything is looked at."""
    rig, layers = shot.figure(figure).rig, layers_of(shot, figure)
    keyed = channel_values(shot.curves(figure), rig, frames)
    return keyed if layers is None else on_top(layers, rig, *beneath(layers, rig, frames), keyed)


def _moved(rig: Rig, shot: Shot, figure: str) -> list[int]:
    """The channels that clips or keys move."""
    found = {i for i, own in enumerate(shot.curves(figure).curves) if len(own)}
    for lane in shot.lanes(figure):
        for one in lane.laid:
            clip = next((own for own in shot.clips if own.name == one.clip), None)
            if clip is not None:
                found |= set(np.flatnonzero(clip_curves(clip, rig)[1]).tolist())
    return sorted(found)


def led_through(
    bare: CurveSet, rig: Rig, fine: Floats, target: Floats, channels: list[int], frames: Floats, *, every_frame: bool
) -> CurveSet:
    """Keys through values (F, C): straight lines from frame to frame, or the fewest that come near enough."""
    if every_frame:
        kind = HandleKind.LINEAR
        columns = columns_like(Key(0.0, 0.0, kind, kind, role=KeyRole.IN_BETWEEN), frames)
        return bare.replaced(
            {i: Curve.from_columns({**columns, "values": np.ascontiguousarray(target[:, i])}) for i in channels}
        )
    still = [i for i in channels if np.ptp(target[:, i]) < STILL]
    moving = [i for i in channels if i not in set(still)]
    held = {i: Curve.from_keys([Key(float(fine[0]), float(target[0, i]))]) for i in still}
    steps = [i for i in moving if rig.channels[i].unit.holds]
    led = [i for i in moving if i not in set(steps)]
    may = np.isin(fine, frames)
    made = bare.replaced(held | {i: _stepped(frames, target[may, i]) for i in steps})
    made = _led(made, rig, fine, target, led, may)
    now = channel_values(made, rig, fine)
    room = np.array([NEAR[rig.channels[i].unit] for i in led])
    off = np.abs(now[:, led] - target[:, led]).max(0, initial=0.0) > room
    return _led(made, rig, fine, target, [i for i, far in zip(led, off.tolist(), strict=True) if far], None)


def _led(
    made: CurveSet, rig: Rig, fine: Floats, target: Floats, channels: list[int], may: NDArray[np.bool_] | None
) -> CurveSet:
    """Channels led through values, those of a unit together. may: frames that may get a key; all unless said."""
    for unit in dict.fromkeys(rig.channels[i].unit for i in channels):
        own = [i for i in channels if rig.channels[i].unit is unit]
        made = fitted(made, rig, fine, target, own, SHARE * NEAR[unit] / TOLERANCES[unit], may)
    return made


def _stepped(frames: Floats, values: Floats) -> Curve:
    """A switch: a key where it changes."""
    at = np.concatenate([[0], np.flatnonzero(np.diff(values)) + 1])
    kind = HandleKind.STEPPED
    return Curve.from_keys([Key(float(frames[n]), float(values[n]), out_kind=kind) for n in at])


def between_keys(own: Curve, made: Curve, default: float, low: float, high: float) -> Curve:
    """Keys of a stretch among those there were, which are heard again a frame before and after it."""
    outside = own.taken((own.frames < low - 1.0) | (own.frames > high + 1.0))
    edges = curve_values(own, np.array([low - 1.0, high + 1.0]), default)
    step = HandleKind.STEPPED
    before = Key(low - 1.0, float(edges[0]), out_kind=step, role=KeyRole.IN_BETWEEN)
    after = Key(high + 1.0, float(edges[1]), role=KeyRole.IN_BETWEEN)
    inside = made.taken((made.frames >= low - 1e-6) & (made.frames <= high + 1e-6))
    if len(inside):
        kinds = inside.out_kind.copy()
        kinds[-1] = step
        inside = inside.changed(out_kind=kinds)
    return merged(outside, merged(inside, Curve.from_keys([before, after])))


def _silenced(laid: Laid, low: float, high: float) -> Laid:
    """A laid clip that is not heard from one frame to another."""
    if laid.at > high or (laid.end < low):
        return laid
    step = HandleKind.STEPPED
    weight = laid.weight if len(laid.weight) else Curve.from_keys([Key(0.0, 1.0, out_kind=step)])
    kept = weight.taken((weight.frames + laid.at < low) | (weight.frames + laid.at > high + 1.0))
    keys = [*kept.keys(), Key(low - laid.at, 0.0, out_kind=step), Key(high + 1.0 - laid.at, 1.0, out_kind=step)]
    return replace(laid, weight=Curve.from_keys(keys))
