"""Clips laid on lanes, and changed there."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import fields, replace
from typing import Any

import numpy as np

from bovrin.errors import BadMotion
from bovrin.figure.stages.lane import muted_channels
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.shot import Clip, Curve, Laid, Lane, Rig, Shot
from bovrin.shot.curve import NO_KEYS, Key

SAME = 1e-9


LET_GO, ON_TOP, INSTEAD = "let go", "on top", "instead"
KEYS = (LET_GO, ON_TOP, INSTEAD)
"""What becomes of keys that lie where a clip is laid: they go, are added to the clip, or count instead of it."""


def lay_clip(shot: Shot, figure: str, clip: str, at: float, lane: int = 0, keys: str = LET_GO, **settings: Any) -> Shot:
    """The shot with a clip laid on a lane of a figure; a lane one above the highest is made.

    keys: what becomes of those of channels that no clip has moved so far and this one moves in their place, one of KEYS; those
    that say just what the clip says are let go of in any case, since they would count twice. settings: those of `Laid`; weight
    may be a number. UnknownName where there is no such clip; BadMotion where it has none of the figure's channels.
    """
    if keys not in KEYS:
        raise BadMotion(f"keys under a clip are not '{keys}'.", advice="Choose " + ", ".join(KEYS) + ".")
    rig, own = shot.figure(figure).rig, shot.clip(clip)
    if not set(own.curves) & set(rig.channel_names):
        raise BadMotion(
            f"the clip '{clip}' moves nothing that '{figure}' has.",
            advice="Lay it on a figure with parts of the same names.",
        )
    lanes = list(shot.lanes(figure))
    if not 0 <= lane <= len(lanes):
        raise BadMotion(
            f"'{figure}' has {len(lanes)} lanes; there is no lane {lane}.", advice=f"Use 0 to {len(lanes)}."
        )
    laid = laid_of(own, at, settings)
    if lane == len(lanes):
        lanes.append(Lane())
    lanes[lane] = Lane((*lanes[lane].laid, laid), lanes[lane].muted)
    made = _without_twins(shot, figure, rig, own, laid)
    under = _channels_under(made, figure, own, laid) if keys != ON_TOP else []
    return _without_keys(made, figure, under, keys).with_lanes(figure, lanes)


def keys_under(shot: Shot, figure: str, clip: str, at: float, **settings: Any) -> int:
    """How many keys of a figure a clip would take the place of, laid over them from a frame on; its own twins do not count."""
    own = shot.clip(clip)
    laid = laid_of(own, at, settings)
    made = _without_twins(shot, figure, shot.figure(figure).rig, own, laid)
    curves = made.curves(figure)
    return sum(len(curves[i]) for i in _channels_under(made, figure, own, laid))


def _channels_under(shot: Shot, figure: str, clip: Clip, laid: Laid) -> list[int]:
    """Keyed channels that a clip moves in their keys' place, and that no clip has moved before."""
    if laid.how != "over":
        return []
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    moved = {name for lane in shot.lanes(figure) for one in lane.laid for name in shot.clip(one.clip).curves}
    muted = muted_channels(laid, rig)
    return [
        i
        for i, name in enumerate(rig.channel_names)
        if name in clip.curves and name not in moved and not muted[i] and len(curves[i])
    ]


def _without_keys(shot: Shot, figure: str, channels: list[int], keys: str) -> Shot:
    """The shot in which keys of channels give way to a clip that is laid over them, or count instead of it."""
    if not channels:
        return shot
    if keys == INSTEAD:
        names = {shot.figure(figure).rig.channel_names[i] for i in channels}
        return replace(shot, take=shot.take.acted(figure, instead=shot.take.of(figure).instead | names))
    return _freed(shot.with_curves(figure, shot.curves(figure).replaced(dict.fromkeys(channels, NO_KEYS))), figure)


def _freed(shot: Shot, figure: str) -> Shot:
    """The shot without a loop, and its contacts, of keys that are not there any more."""
    if any(own.is_round for own in shot.curves(figure).curves):
        return shot
    return shot.with_cycle(figure, None).with_contacts(figure, {})


def laid_of(clip: Clip, at: float, settings: dict[str, Any]) -> Laid:
    """A clip as it is laid, whole unless the settings say otherwise."""
    unknown = set(settings) - {field.name for field in fields(Laid)} | set(settings) & {"clip", "at"}
    if unknown:
        raise BadMotion(
            f"a clip is not laid with '{min(unknown)}'.",
            advice="Settings: " + ", ".join(field.name for field in fields(Laid)[2:]) + ".",
        )
    own = {"first": 0.0, "last": clip.length, **settings}
    weight = own.get("weight", NO_KEYS)
    if isinstance(weight, int | float):
        own["weight"] = NO_KEYS if weight == 1.0 else Curve.from_keys([Key(0.0, float(weight))])
    mute = own.get("mute", ())
    own["mute"] = (mute,) if isinstance(mute, str) else tuple(mute)
    if not (0.0 <= own["first"] < own["last"] <= clip.length + SAME):
        raise BadMotion(
            f"the clip '{clip.name}' goes from 0 to {clip.length:g}, not from {own['first']:g} to {own['last']:g}."
        )
    return Laid(clip.name, float(at), **own)


def _without_twins(shot: Shot, figure: str, rig: Rig, clip: Clip, laid: Laid) -> Shot:
    """The shot without keys that say what the clip says, as where it was kept from them."""
    curves = shot.curves(figure)
    if shot.lanes(figure) or laid.speed != 1.0 or laid.backwards:
        return shot
    frames = np.arange(laid.at, laid.at + laid.last - laid.first + SAME, 0.5)
    own = channel_values(curves, rig, frames)
    names = {name: i for i, name in enumerate(rig.channel_names)}
    twins = {}
    for name, curve in clip.curves.items():
        i = names.get(name)
        if i is not None and len(curves[i]) and _same(curve, frames - laid.at + laid.first, own[:, i]):
            twins[i] = NO_KEYS
    if not twins:
        return shot
    return _freed(shot.with_curves(figure, curves.replaced(twins)), figure)


def _same(curve: Curve, frames: Any, values: Any) -> bool:
    return bool(np.abs(curve_values(curve, frames) - values).max() < SAME)


def missing_channels(shot: Shot, figure: str, clip: str) -> list[str]:
    """The channels of a clip that a figure does not have."""
    known = set(shot.figure(figure).rig.channel_names)
    return [name for name in shot.clip(clip).curves if name not in known]


def laid_at(shot: Shot, figure: str, lane: int, frame: float) -> Laid:
    """The clip of a lane that is heard at a frame: the last that began. BadMotion where there is none."""
    lanes = shot.lanes(figure)
    if not 0 <= lane < len(lanes):
        raise BadMotion(f"'{figure}' has no lane {lane}.", advice="Lay a clip first.")
    earlier = [one for one in lanes[lane].laid if one.at <= frame + SAME]
    if not earlier:
        raise BadMotion(f"no clip lies on lane {lane} at frame {frame:g}.")
    return earlier[-1]


def changed_laid(shot: Shot, figure: str, lane: int, old: Laid, change: Callable[[Laid], Laid | None]) -> Shot:
    """The shot with one laid clip changed, or taken off (None); a lane that is empty then goes too."""
    lanes = list(shot.lanes(figure))
    kept: list[Laid] = []
    for one in lanes[lane].laid:
        new = change(one) if one is old else one
        if new is not None:
            kept.append(new)
    lanes[lane] = Lane(tuple(kept), lanes[lane].muted)
    return shot.with_lanes(figure, [own for own in lanes if own.laid])


def with_laid(shot: Shot, figure: str, lane: int, old: Laid, **changes: Any) -> Shot:
    """The shot with settings of a laid clip changed."""
    clip = shot.clip(old.clip)

    def change(one: Laid) -> Laid:
        new = replace(one, **changes)
        if not (0.0 <= new.first < new.last <= clip.length + SAME):
            raise BadMotion(f"the clip '{clip.name}' goes from 0 to {clip.length:g} only.")
        return new

    return changed_laid(shot, figure, lane, old, change)


def mute_lane(shot: Shot, figure: str, lane: int, *, muted: bool) -> Shot:
    """The shot in which a lane is not heard, or is again."""
    lanes = list(shot.lanes(figure))
    lanes[lane] = replace(lanes[lane], muted=muted)
    return shot.with_lanes(figure, lanes)


def crossfade(shot: Shot, figure: str, lane: int, at: float, frames: float, *, in_step: bool = True) -> Shot:
    """The shot in which the clip that follows `at` on a lane, or lies there, fades in from `at` on over so many frames.

    It begins there; the one before it goes on until the fade is over, in rounds if it is a loop, else holding its last pose.
    Clips after it keep their distance. BadMotion where two clips do not lie one after another there.
    """
    if not frames > 0:
        raise BadMotion(f"a fade of {frames:g} frames is not possible.", advice="Give it one or more.")
    lanes = list(shot.lanes(figure))
    if not 0 <= lane < len(lanes):
        raise BadMotion(f"'{figure}' has no lane {lane}.", advice="Lay two clips first.")
    index = _after(lanes[lane].laid, at)
    before, after = lanes[lane].laid[index - 1], lanes[lane].laid[index]
    if at <= before.at + SAME:
        raise BadMotion(
            f"'{before.clip}' begins on {before.at:g}: it cannot fade out from {at:g}.", advice="Fade later."
        )
    by = at - after.at
    fade = min(frames, after.length)
    until = _until(shot.clip(before.clip), before, at + fade)
    later = tuple(replace(one, at=one.at + by) for one in lanes[lane].laid[index + 1 :])
    laid = (*lanes[lane].laid[: index - 1], until, replace(after, at=at, in_step=in_step), *later)
    lanes[lane] = Lane(laid, lanes[lane].muted)
    return shot.with_lanes(figure, lanes)


def _after(laid: Sequence[Laid], at: float) -> int:
    """Which clip fades in around a frame: the one whose beginning is nearest, but for the first."""
    if len(laid) < 2:
        raise BadMotion("a fade needs two clips on a lane, one after another.", advice="Lay another clip there.")
    return min(range(1, len(laid)), key=lambda n: abs(laid[n].at - at))


def _until(clip: Clip, laid: Laid, end: float) -> Laid:
    """A laid clip that goes on until a frame."""
    span = (laid.last - laid.first) / laid.speed
    wanted = end - laid.at
    if clip.loops:
        return replace(laid, repeats=wanted / span, hold=0.0)
    own = min(wanted, span * laid.repeats)
    return replace(laid, repeats=own / span, hold=max(wanted - own, 0.0))
