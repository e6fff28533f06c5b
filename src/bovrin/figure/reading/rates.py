"""A brought motion at another rate: as fast as it was, on the frames of the new rate."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.plan import columns
from bovrin.motion.evaluate import curve_values
from bovrin.motion.rotations import (
    blend,
    euler_matrix,
    followed,
    matrix_euler,
    matrix_quaternion,
    quaternion_matrix,
    unrolled,
)
from bovrin.shot import Clip, Curve, CurveSet, HandleKind, Rig, Shot, Span, Take
from bovrin.shot.curve import recorded_columns

Floats = NDArray[np.float64]

RECORDED = 1.5
"""Frames from key to key, on the average, below which a motion is recorded."""
WHOLE = 2e-3
"""Frames within which a key lies on a whole frame."""


def at_rate(brought: Shot, rate: float, first: float) -> Shot:
    """A brought motion as fast as it is, at so many frames a second, from a frame on.

    Poses that come to lie on whole frames stay keys, with their handles. What would come to lie between them, and what was
    recorded frame by frame, is sampled anew on every whole frame, turns as turns; stepped keys go to the nearest frame.
    """
    ratio = rate / brought.frame_rate
    keyed = [curve.frames for take in brought.all_takes for own in take.curves.values() for curve in own.curves]
    if ratio == 1.0 and brought.first == first and all((frames == np.round(frames)).all() for frames in keyed):
        return brought

    def where(frame: float) -> float:
        return first + (frame - brought.first) * ratio

    def changed(name: str, curves: CurveSet) -> CurveSet:
        return _resampled(brought.figure(name).rig, _in_time(curves, brought.first, first, ratio), ratio)

    def of(take: Take) -> Take:
        moved = take.mapped(lambda curves: curves, where)
        span = moved.span and Span(moved.span.first, _up(moved.span.last), moved.span.loops)
        return replace(moved.with_curves({n: changed(n, curves) for n, curves in take.curves.items()}), span=span)

    return replace(
        brought,
        take=of(brought.take),
        takes=tuple(of(take) for take in brought.takes),
        first=first,
        last=_up(where(brought.last)),
        frame_rate=rate,
    )


def _up(frame: float) -> float:
    """The whole frame that a range ends on."""
    return float(np.ceil(frame - WHOLE))


def _in_time(curves: CurveSet, was: float, first: float, ratio: float) -> CurveSet:
    """Curves whose keys lie where they are at the new rate; those that shared their frames go on sharing them."""
    kept: dict[int, Floats] = {}

    def moved(curve: Curve) -> Curve:
        own = curve.settled()
        if not len(own):
            return curve
        if id(own.frames) not in kept:
            frames = first + (own.frames - was) * ratio
            whole = np.round(frames)
            frames = np.where(np.abs(frames - whole) < WHOLE, whole, frames)
            frames.setflags(write=False)
            kept[id(own.frames)] = frames
        return _at_pace(own, kept[id(own.frames)], ratio)

    return curves.mapped(moved)


def _at_pace(curve: Curve, frames: Floats, ratio: float) -> Curve:
    """A settled curve whose keys lie on other frames (N,), so many times as far apart; its handles go along."""
    made = {"frames": frames}
    if ratio != 1.0:
        made |= {name: getattr(curve, name) / ratio for name in ("in_slope", "out_slope")}
        made |= {name: getattr(curve, name) * ratio for name in ("in_length", "out_length")}
    return curve.changed(**made)


def clip_at_rate(clip: Clip, ratio: float) -> Clip:
    """A clip that lasts so many times as many frames, its motion as fast as it was; keys may come to lie between frames."""
    if ratio == 1.0:
        return clip
    settled = {name: curve.settled() for name, curve in clip.curves.items()}
    curves = {name: _at_pace(curve, curve.frames * ratio, ratio) for name, curve in settled.items()}
    contacts = {limb: tuple((a * ratio, b * ratio) for a, b in spans) for limb, spans in clip.contacts.items()}
    return replace(clip, curves=curves, length=clip.length * ratio, contacts=contacts)


def _resampled(rig: Rig, curves: CurveSet, ratio: float) -> CurveSet:
    """Curves with all their keys on whole frames. ratio: how many frames one is that was recorded."""
    changes: dict[int, Curve] = {}
    shared: dict[bytes, dict[str, NDArray[np.generic]]] = {}
    turns = [cols for c in range(len(rig.controls)) if min(cols := columns(rig, c, "rotate")) >= 0]
    order = {cols[0]: rig.controls[c].order for c in range(len(rig.controls)) if (cols := columns(rig, c, "rotate"))}
    for cols in turns:
        own = [curves[i] for i in cols]
        if any(_is_sampled(curve, ratio) and not _stepped(curve) for curve in own):
            frames, values = _turned(own, [rig.channels[i].default for i in cols], order[cols[0]])
            changes |= {i: _recorded(frames, values[:, n], shared) for n, i in enumerate(cols)}
    for i, curve in enumerate(curves.curves):
        if i in changes or not _is_sampled(curve, ratio):
            continue
        if _stepped(curve):
            changes[i] = _rounded(curve)
        else:
            frames = _span([curve])
            changes[i] = _recorded(frames, curve_values(curve, frames), shared)
    return curves.replaced(changes)


def _is_sampled(curve: Curve, ratio: float) -> bool:
    """Whether a curve must be sampled anew: a key lies between frames, or it was recorded frame by frame."""
    frames = curve.frames
    if (frames != np.round(frames)).any():
        return True
    return ratio != 1.0 and len(frames) > 2 and (frames[-1] - frames[0]) / (len(frames) - 1) < RECORDED * ratio


def _stepped(curve: Curve) -> bool:
    return bool((curve.out_kind[:-1] == HandleKind.STEPPED).all())


def _span(curves: list[Curve]) -> Floats:
    """The whole frames that curves are keyed over."""
    keyed = [c for c in curves if len(c)]
    low, high = min(float(c.frames[0]) for c in keyed), max(float(c.frames[-1]) for c in keyed)
    return np.arange(np.floor(low + WHOLE), np.ceil(high - WHOLE) + 1)


def _turned(own: list[Curve], defaults: list[float], order: str) -> tuple[Floats, Floats]:
    """Three angles (F, 3) on whole frames (F,): between straight keys of all three the turn is the shortest one."""
    frames = _span(own)
    keys = [c.frames for c in own if len(c) > 1]
    straight = all((c.out_kind[:-1] == HandleKind.LINEAR).all() for c in own)
    if not straight or any(not np.array_equal(k, keys[0]) for k in keys):
        return frames, np.stack([curve_values(c, frames, d) for c, d in zip(own, defaults, strict=True)], -1)
    at = np.clip(frames, keys[0][0], keys[0][-1])
    angles = np.stack([curve_values(c, keys[0], d) for c, d in zip(own, defaults, strict=True)], -1)
    quaternions = unrolled(matrix_quaternion(euler_matrix(angles, order)))
    k = np.clip(np.searchsorted(keys[0], at, side="right") - 1, 0, len(keys[0]) - 2)
    share = (at - keys[0][k]) / (keys[0][k + 1] - keys[0][k])
    turned = quaternion_matrix(blend(quaternions[k], quaternions[k + 1], share))
    return frames, followed(matrix_euler(turned, order), order)


def _recorded(frames: Floats, values: Floats, shared: dict[bytes, dict[str, NDArray[np.generic]]]) -> Curve:
    """A curve keyed on every frame, or once where nothing moves."""
    still = float(np.ptp(values)) < 1e-12
    frames = frames[:1] if still else frames
    mark = frames.tobytes()
    if mark not in shared:
        shared[mark] = recorded_columns(frames)
    own = np.ascontiguousarray(values[: len(frames)])
    own.setflags(write=False)
    return Curve.from_columns({**shared[mark], "values": own})


def _rounded(curve: Curve) -> Curve:
    """A stepped curve with its keys on the nearest frames; of two that meet the later one stays."""
    frames = np.round(curve.frames)
    keep = np.append(np.diff(frames) > 0, True)
    return curve.taken(keep).changed(frames=frames[keep])
