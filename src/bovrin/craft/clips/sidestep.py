"""Steps aside, backward and round from a forward cycle, in the open: what takes it forward is muted, and keyed anew on a lane
above."""

from __future__ import annotations

from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.clips.keeping import with_clip
from bovrin.craft.clips.laying import lay_clip
from bovrin.craft.clips.naming import free_name
from bovrin.craft.curves.spline_fit import fewest_keys, with_span
from bovrin.craft.cycle.new_cycle import body_control, drop_for, moved_by
from bovrin.errors import BadMotion
from bovrin.figure.ground.feet import Foothold, footholds
from bovrin.figure.solve.plan import columns
from bovrin.figure.solve.ways import root_columns
from bovrin.figure.stages.clip_values import clip_curves, clip_stands
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.shot import Clip, Curve, EndKind, HandleKind, Key, Rig, Shot
from bovrin.shot.curve import COLUMN_TYPES, NO_KEYS

Floats = NDArray[np.float64]

ASIDE = {"left": 1.0, "right": -1.0}
ROUND = {"turn left": 1.0, "turn right": -1.0}
WAYS = (*ASIDE, "backward", *ROUND)
"""Where a step goes; to the left counts."""
NEAR = 1e-4
"""How far keys of feet may be from the circle, metres and radians."""
MOST_TURN = 180.0
ANGLE = 45.0
"""Degrees that a round of steps turns by, unless said."""
GAP, WIDER = 0.22, 0.13
"""Leg lengths that stay between feet that go aside, and by which each stands wider for it."""


class _Forward(NamedTuple):
    """What takes a clip forward: of each foot its channels across and forward, and those of the whole figure, and the one that
    turns it; stride, metres; how it faces, radians."""

    feet: list[tuple[Foothold, int, int]]
    across: int
    forward: int
    turn: int
    stride: float
    facing: float


def sidestep(
    shot: Shot,
    figure: str,
    clip: str,
    way: str,
    at: float,
    repeats: float = 1.0,
    stride: float | None = None,
    angle: float = ANGLE,
) -> Shot:
    """The shot in which a forward cycle goes "left", "right" or "backward", or round by "turn left" or "turn right", from a
    frame on, its timing kept.

    Aside and round, the clip is laid on a lane of its own with the feet's and the figure's way forward muted; a clip that holds
    them keyed the other way, and the hips low enough for it, lies above it. Backward, a clip that runs from its end to its
    beginning is laid. stride: metres a round; without one as much as the clip's own, aside no more than feet can go without
    crossing. angle: degrees that a round turns by. BadMotion where the clip does not go forward.
    """
    if way not in WAYS:
        raise BadMotion(f"there is no step '{way}'.", advice=f"Use: {', '.join(WAYS)}.")
    rig, own = shot.figure(figure).rig, shot.clip(clip)
    found = _forward(rig, own)
    share = _share(own, rig, found, way, stride)
    name = free_name(shot, f"{clip} {way}")
    if way == "backward":
        made = with_clip(shot, reversed_clip(own, name, rig, found, share))
        return lay_clip(made, figure, name, at, len(made.lanes(figure)), repeats=repeats)
    if way in ROUND:
        new = _round(rig, own, found, ROUND[way] * _angle(angle), share, name)
    else:
        new = _aside(rig, own, found, ASIDE[way], share, name)
    made = with_clip(shot, new)
    hips = rig.span(body_control(rig))
    mute = tuple(name for name in new.curves if rig.channel(name) not in hips)
    lane = len(made.lanes(figure))
    made = lay_clip(made, figure, clip, at, lane, repeats=repeats, mute=mute)
    return lay_clip(made, figure, name, at, lane + 1, repeats=repeats)


def _forward(rig: Rig, clip: Clip) -> _Forward:
    """What takes a clip forward. BadMotion where nothing does."""
    roots = root_columns(rig)
    feet = []
    for foot in footholds(rig):
        across, _, forward = columns(rig, rig.limbs[foot.limb].goal, "translate")
        if min(across, forward) >= 0 and len(_curve(clip, rig, forward)):
            feet.append((foot, across, forward))
    if roots is None or not feet:
        raise BadMotion(f"the clip '{clip.name}' moves no feet by reach.", advice="Choose a walk or a run.")
    forward, across, turn = roots
    ends = clip_stands(clip, rig, roots, np.array([0.0, clip.length]))
    facing = float(ends.turn[0])
    gone = float(((ends.place[1] - ends.place[0]) * np.exp(-1j * facing)).real)
    if abs(gone) < 1e-3:
        gone = _told_by_feet(clip, rig, feet)
    if abs(gone) < 1e-3:
        raise BadMotion(f"the clip '{clip.name}' does not go forward.", advice="Choose one that does.")
    return _Forward(feet, across, forward, turn, gone, facing)


def _curve(clip: Clip, rig: Rig, channel: int) -> Curve:
    return clip.curves.get(rig.channel_names[channel], NO_KEYS)


def _told_by_feet(clip: Clip, rig: Rig, feet: list[tuple[Foothold, int, int]]) -> float:
    """The stride of a clip on the spot: how far feet go back while they are down."""
    for foot, _, forward in feet:
        for start, end in clip.contacts.get(foot.name, ()):
            if end > start:
                went = curve_values(_curve(clip, rig, forward), np.array([start, end]))
                return float(went[0] - went[1]) / (end - start) * clip.length
    return 0.0


def _share(clip: Clip, rig: Rig, found: _Forward, way: str, stride: float | None) -> float:
    """How much of the forward way goes the other way."""
    if stride is not None:
        if not np.isfinite(stride) or stride <= 0:
            raise BadMotion(f"a stride of {stride:g} m is not possible.", advice="Give a length over 0.")
        return stride / abs(found.stride)
    if way not in ASIDE:
        return 1.0
    frames = np.arange(0.0, clip.length, 0.5)
    lefts = [f for f in found.feet if f[0].rest[0] > 0]
    rights = [f for f in found.feet if f[0].rest[0] <= 0]
    room, closest = np.inf, 0.0
    for left, _, one in lefts:
        for right, _, other in rights:
            if abs(left.rest[2] - right.rest[2]) > left.leg / 2:
                continue
            apart = curve_values(_curve(clip, rig, one), frames) - curve_values(_curve(clip, rig, other), frames)
            room = min(room, float(left.rest[0] - right.rest[0]) + (2 * WIDER - GAP) * left.leg)
            closest = max(closest, float(np.abs(apart).max()))
    return min(1.0, max(room, 0.0) / closest) if closest > 1e-6 else 1.0


def _aside(rig: Rig, clip: Clip, found: _Forward, to: float, share: float, name: str) -> Clip:
    """The feet's and the figure's way, keyed across."""
    curves: dict[str, Curve] = {}
    for foot, across, forward in found.feet:
        own = _curve(clip, rig, forward)
        wider = float(np.sign(foot.rest[0])) * WIDER * foot.leg if share < 1.0 else 0.0
        curves[rig.channel_names[across]] = _scaled(own, to * share, wider)
        curves[rig.channel_names[forward]] = _scaled(own, 0.0, 0.0)
    way = 1j * to * share * found.stride * np.exp(1j * found.facing)
    curves[rig.channel_names[found.across]] = _line(clip.length, float(way.imag))
    curves[rig.channel_names[found.forward]] = _line(clip.length, float(way.real))
    return _with_low_hips(rig, clip, curves, share * found.stride, name)


def _with_low_hips(rig: Rig, clip: Clip, curves: dict[str, Curve], stride: float, name: str) -> Clip:
    """A clip of some curves, and of the hips as low as they need them."""
    curves = curves | _lower_hips(rig, clip, curves, stride)
    neutral = {n: float(np.mean(curve_values(c, np.arange(clip.length)))) for n, c in curves.items()}
    return replace(clip, name=name, curves=curves, neutral=neutral)


def _angle(degrees: float) -> float:
    """Radians of a turn. BadMotion where it is none."""
    if not 0.0 < degrees <= MOST_TURN:
        raise BadMotion(f"a turn of {degrees:g} degrees a round is not possible.", advice=f"Give up to {MOST_TURN:g}.")
    return float(np.radians(degrees))


def _round(rig: Rig, clip: Clip, found: _Forward, angle: float, share: float, name: str) -> Clip:
    """The way forward bent into a circle, on which a round goes an angle (radians, to the left above 0).

    What lies ahead lies along the circle, so that feet which go straight back under a figure that goes straight turn about the
    circle's middle as it does: planted, they stay.
    """
    radius, side = abs(found.stride * share / angle), float(np.sign(angle))
    frames = np.arange(0.0, clip.length + 0.5, 0.5)
    curves: dict[str, Curve] = {}
    for foot, across, forward in found.feet:
        x = foot.rest[0] + curve_values(_curve(clip, rig, across), frames, rig.defaults[across])
        z = foot.rest[2] + share * curve_values(_curve(clip, rig, forward), frames, rig.defaults[forward])
        place, ahead = _bent(x, z, radius, side)
        curves[rig.channel_names[across]] = _led(frames, place.imag - foot.rest[0], foot, clip)
        curves[rig.channel_names[forward]] = _led(frames, place.real - foot.rest[2], foot, clip)
        turn = columns(rig, rig.limbs[foot.limb].goal, "rotate")[1]
        if turn >= 0:
            own = curve_values(_curve(clip, rig, turn), frames, rig.defaults[turn])
            curves[rig.channel_names[turn]] = _led(frames, own + ahead, foot, clip)
    gone = np.arange(0.0, clip.length + 0.5)
    place, ahead = _bent(np.zeros(len(gone)), found.stride * share * gone / clip.length, radius, side)
    place = place * np.exp(1j * found.facing)
    for channel, values in (
        (found.across, place.imag),
        (found.forward, place.real),
        (found.turn, found.facing + ahead),
    ):
        curves[rig.channel_names[channel]] = _on_every_frame(gone, values)
    return _with_low_hips(rig, clip, curves, share * found.stride, name)


def _bent(x: Floats, z: Floats, radius: float, side: float) -> tuple[NDArray[np.complex128], Floats]:
    """Places x across and z ahead (F,) on a way that is bent to a side: forward + i across (F,), and how they are turned (F,)."""
    ahead = z / radius
    from_middle = radius - side * x
    return from_middle * np.sin(ahead) + 1j * side * (radius - from_middle * np.cos(ahead)), side * ahead


def _led(frames: Floats, values: Floats, foot: Foothold, clip: Clip) -> Curve:
    """A loop through values on half frames, with keys where the foot comes down and leaves, and as many more as it takes."""
    edges = [edge % clip.length for span in clip.contacts.get(foot.name, ()) for edge in span]
    keep = np.round(2 * np.array([0.0, *edges, clip.length])) / 2
    room = np.full((len(frames), 1), NEAR)
    keyed, slopes = fewest_keys(frames, values[:, None], room, keep, np.ones(len(frames), bool), goes_round=True)
    made = with_span(NO_KEYS, frames[keyed], values[keyed], slopes[:, 0])
    return made.ending(EndKind.ROUND, EndKind.ROUND)


def _on_every_frame(frames: Floats, values: Floats) -> Curve:
    """A way from frame to frame."""
    slopes = np.gradient(values, frames, edge_order=2)
    return with_span(NO_KEYS, frames, values, slopes).ending(EndKind.ROUND, EndKind.ROUND)


def _lower_hips(rig: Rig, clip: Clip, curves: dict[str, Curve], stride: float) -> dict[str, Curve]:
    """The hips as low as legs need them that stand wider than they did."""
    frames = np.arange(0.0, clip.length + 0.5)
    whole = replace(clip, curves={**clip.curves, **curves})
    own, _, _ = clip_curves(whole, rig)
    drop = drop_for(rig, footholds(rig), channel_values(own, rig, frames), stride)
    if drop <= 0.0:
        return {}
    control = body_control(rig)
    base = np.zeros(len(rig.channels))
    by = moved_by(rig, control, base, np.array([0.0, -drop, 0.0]))
    lowered = {c: value for c, value in by.items() if abs(value) > 1e-9}
    found = {c: _curve(clip, rig, c) for c in lowered}
    return {rig.channel_names[c]: _scaled(own, 1.0, lowered[c]) for c, own in found.items() if len(own)}


def reversed_clip(clip: Clip, name: str, rig: Rig, found: _Forward, share: float) -> Clip:
    """A clip that runs from its end to its beginning; its way begins where it stands."""
    curves = {channel: _reversed(curve, clip.length) for channel, curve in clip.curves.items()}
    for _, _, forward in found.feet:
        own = rig.channel_names[forward]
        curves[own] = _scaled(curves[own], share, 0.0)
    for channel in (found.across, found.forward):
        own = rig.channel_names[channel]
        if own in curves:
            start = float(curve_values(curves[own], np.array([0.0]))[0])
            curves[own] = _scaled(_scaled(curves[own], 1.0, -start), share, 0.0)
    contacts = {
        limb: tuple(_turned_round(span, clip.length) for span in spans) for limb, spans in clip.contacts.items()
    }
    return replace(clip, name=name, curves=curves, contacts=contacts)


def _turned_round(span: tuple[float, float], length: float) -> tuple[float, float]:
    start = (length - span[1]) % length
    return start, start + span[1] - span[0]


def _reversed(curve: Curve, length: float) -> Curve:
    """A curve in the other direction of time. A step holds what it held before it."""
    own = curve.settled()
    columns = {name: getattr(own, name)[::-1].copy() for name in COLUMN_TYPES}
    columns["frames"] = length - columns["frames"]
    for into, out in (("in_kind", "out_kind"), ("in_slope", "out_slope"), ("in_length", "out_length")):
        columns[into], columns[out] = columns[out], columns[into]
    columns["in_slope"], columns["out_slope"] = -columns["in_slope"], -columns["out_slope"]
    return Curve.from_columns(columns, own)


def _scaled(curve: Curve, factor: float, offset: float) -> Curve:
    return curve.changed(
        values=curve.values * factor + offset, in_slope=curve.in_slope * factor, out_slope=curve.out_slope * factor
    )


def _line(length: float, gone: float) -> Curve:
    """A straight way from 0."""
    kind = HandleKind.LINEAR
    keys = [Key(0.0, 0.0, kind, kind), Key(length, gone, kind, kind)]
    return Curve.from_keys(keys).ending(EndKind.ROUND, EndKind.ROUND)
