"""The timing chart: how far each frame has got between two poses, measured and set."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.craft.between.breakdown import part_shares, remembered
from bovrin.craft.between.pose_blending import blended_poses, turning_columns
from bovrin.craft.curves.spline_fit import best_slopes, through_keys, with_span
from bovrin.craft.keying.cards import remember_blend
from bovrin.craft.keying.keys import KeyStyle, pose_channels
from bovrin.craft.keying.lag import lags_at, pose_keys, values_of_pose, values_with_lags
from bovrin.craft.keying.late_keys import keyed_between
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.motion.hermite import hermite_basis
from bovrin.motion.turning import turn_vectors
from bovrin.shot import Blend, CurveSet, HandleKind, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

UNCHANGED = 1e-9
"""A chart whose shares differ less is the one that is there."""
SAME = 1e-4
"""Shares nearer than this are the same drawing."""
CLOSE = 0.006
"""How near curves come to what a chart asks for, as a share of the way."""


def measured_shares(rig: Rig, values: Floats, a: Floats, b: Floats, channels: Iterable[int] | None = None) -> Floats:
    """How far poses (F, C) have got from pose a to pose b (C,): (F,), 0 at a and 1 at b.

    Each control's way counts by its square: turns as the angle that the curves make between both poses, moves as metres.
    What lies aside of the way is left out.
    """
    chosen = np.zeros(len(rig.channels), bool)
    chosen[list(range(len(rig.channels)) if channels is None else channels)] = True
    along, size = np.zeros(len(values)), 0.0
    for order, cols in turning_columns(rig).items():
        some = cols[chosen[cols].all(1)]
        way = turn_vectors(a[some], b[some], order)
        gone = turn_vectors(a[some], values[:, some], order)
        along += (gone * way).sum((1, 2))
        size += float((way * way).sum())
        chosen[some] = False
    chosen[[i for i, channel in enumerate(rig.channels) if channel.unit.holds]] = False
    way = b[chosen] - a[chosen]
    along += (values[:, chosen] - a[chosen]) @ way
    size += float(way @ way)
    return along / size if size > 1e-12 else np.zeros(len(values))


def chart(shot: Shot, figure: str, start: float, end: float, part: str | None = None) -> list[float]:
    """The share of the way from the pose at start to the pose at end on each whole frame, both included."""
    rig = shot.figure(figure).rig
    frames = _frames(start, end)
    values = _late_values(shot.curves(figure), rig, frames)
    chosen = pose_channels(rig, None if part is None else [part])
    return [float(s) for s in measured_shares(rig, values, values[0], values[-1], chosen)]


def _frames(start: float, end: float) -> Floats:
    if end - start < 1:
        raise BadMotion(f"there is no frame between {start:g} and {end:g}.", advice="Choose two poses further apart.")
    return np.arange(start, end + SAME_FRAME)


def set_chart(
    shot: Shot, figure: str, start: float, end: float, shares: Sequence[float], part: str | None = None
) -> Shot:
    """Give each whole frame from start to end its share of the way (both ends included: 0 and 1).

    In a stepped span a drawing that changes gets a breakdown with that favour; in an eased one the curves keep their path
    and are spaced anew, by their handles, or with in-between keys where handles alone do not reach. Both poses stay.
    """
    rig = shot.figure(figure).rig
    frames = _frames(start, end)
    wanted = np.asarray(shares, float)
    if wanted.shape != frames.shape or not np.isfinite(wanted).all():
        raise BadMotion(f"a chart from {start:g} to {end:g} has {len(frames)} shares, one for each frame.")
    if np.abs(wanted - chart(shot, figure, start, end, part)).max() < UNCHANGED:
        return shot
    channels = pose_channels(rig, None if part is None else [part])
    if is_stepped(shot.curves(figure), channels, start):
        return _redrawn(shot, figure, frames, wanted, channels)
    for (early, late), own in _by_lag(shot.curves(figure), channels, start, end).items():
        own_frames = _frames(start + early, end + late)
        shot = _respaced(shot, figure, own_frames, np.array(resampled_shares(wanted.tolist(), len(own_frames))), own)
    return shot


def _late_values(curves: CurveSet, rig: Rig, frames: Floats) -> Floats:
    """Channel values (F, C) on frames (F,) between two poses, each channel as late as it comes to them."""
    first, last = lags_at(curves, float(frames[0])), lags_at(curves, float(frames[-1]))
    share = (frames - frames[0]) / (frames[-1] - frames[0])
    return values_with_lags(curves, rig, frames, first + (last - first) * share[:, None])


def _by_lag(
    curves: CurveSet, channels: Iterable[int], start: float, end: float
) -> dict[tuple[float, float], list[int]]:
    """Channels by how late they come to the pose at start and to the one at end."""
    first, last = lags_at(curves, start), lags_at(curves, end)
    found: dict[tuple[float, float], list[int]] = {}
    for i in channels:
        found.setdefault((float(first[i]), float(last[i])), []).append(i)
    return found


FEW = 20_000
"""Keys of a figure up to which they are laid end to end to be looked at."""


@cached_by_identity
def _leaving(curves: CurveSet) -> tuple[Floats, NDArray[np.bool_], NDArray[np.intp]]:
    """All keys of a figure end to end (K,): their frames, whether they hold until the next, and their channels."""
    frames = np.concatenate([c.frames for c in curves.curves] or [np.empty(0)])
    held = np.concatenate([c.out_kind == HandleKind.STEPPED for c in curves.curves] or [np.empty(0, bool)])
    return frames, held, np.repeat(np.arange(len(curves)), [len(c) for c in curves.curves])


def respaced_channels(shot: Shot, figure: str, frames: Floats, wanted: Floats, channels: list[int]) -> Shot:
    """Some channels alone, spaced anew between keys on the first and last of some whole frames (F,), to shares (F,)."""
    return _respaced(shot, figure, frames, wanted, channels)


def is_stepped(curves: CurveSet, channels: Iterable[int], start: float) -> bool:
    """Whether the span that begins on a frame holds until the next drawing, on most of some channels."""
    if sum(map(len, curves.curves)) > FEW:  # looking at every key costs more than looking for one in every curve
        there = ((curves[i], curves[i].index_at(start)) for i in channels)
        kinds = [int(curve.out_kind[at]) == HandleKind.STEPPED for curve, at in there if at is not None]
        return 2 * sum(kinds) >= len(kinds)
    frames, held, channel = _leaving(curves)
    here = np.abs(frames - start) <= SAME_FRAME
    own = held[here][np.isin(channel[here], list(channels))]
    return not len(own) or bool(2 * own.sum() >= len(own))


def _redrawn(shot: Shot, figure: str, frames: Floats, wanted: Floats, channels: list[int]) -> Shot:
    """Breakdowns wherever the share changes; drawings that are there already are favoured anew."""
    rig = shot.figure(figure).rig
    curves = shot.curves(figure)
    a, b = (values_of_pose(curves, rig, end) for end in frames[[0, -1]].tolist())
    inner = slice(1, -1)
    there = np.array([any(i in own for i in channels) for own in (pose_keys(curves, f) for f in frames.tolist())])
    changes = np.abs(np.diff(wanted)) > SAME
    drawn = np.flatnonzero(there[inner] | changes[:-1]) + 1
    if not len(drawn):
        return shot
    shares = measured_shares(rig, _late_values(curves, rig, frames), a, b, channels)
    made = [_favoured(shot, figure, frames, at, float(wanted[at]), shares, channels) for at in drawn.tolist()]
    share = np.stack([part_shares(rig, blend.favour, dict(blend.own)) for blend in made])
    values = blended_poses(rig, a, b, share)
    style = KeyStyle(HandleKind.STEPPED, KeyRole.BREAKDOWN)
    ends = float(frames[0]), float(frames[-1])
    made_keys = keyed_between(curves, channels, ends, frames[drawn], values, style)
    redrawn = shot.with_curves(figure, curves.replaced(made_keys))
    for frame, blend in zip(frames[drawn].tolist(), made, strict=True):
        redrawn = remember_blend(redrawn, figure, frame, blend)
    return redrawn


def _favoured(
    shot: Shot, figure: str, frames: Floats, at: int, share: float, shares: Floats, channels: list[int]
) -> Blend:
    """How the drawing on a frame is made for a share: parts that had favours of their own keep their distance, so that
    the drawing goes as much further as its share shall differ from what it is (shares (F,)) now.

    Where only some channels are charted their parts get the share, and the others keep what they had.
    """
    rig = shot.figure(figure).rig
    ends = float(frames[0]), float(frames[-1])
    old = remembered(shot, figure, float(frames[at]))
    if old is not None and (old.before, old.after) != ends:
        old = None
    charted = [part.name for n, part in enumerate(rig.parts) if set(rig.part_channels(n)) & set(channels)]
    if len(charted) < len(rig.parts):
        others = dict(old.own) if old is not None else {}
        rest = old.favour if old is not None else share
        return Blend.of(*ends, rest, {**others, **dict.fromkeys(charted, share)})
    if old is None:
        return Blend(*ends, share)
    further = share - float(shares[at])
    return Blend(*ends, old.favour + further, tuple((name, own + further) for name, own in old.own))


def _respaced(shot: Shot, figure: str, frames: Floats, wanted: Floats, channels: list[int]) -> Shot:
    rig = shot.figure(figure).rig
    curves = shot.curves(figure)
    target = _along_path(curves, rig, frames, wanted, channels)
    moving = [i for i in channels if not rig.channels[i].unit.holds and np.ptp(target[:, i]) > 1e-9]
    if not moving:
        return shot
    keyed = np.zeros(len(frames), bool)
    keyed[[0, -1]] = True
    scale = max(float(np.linalg.norm(target[-1, moving] - target[0, moving])), 1e-9)
    while True:
        slopes = best_slopes(frames, target[:, moving], keyed)
        fit = through_keys(frames, target[:, moving], slopes, keyed)
        off = np.linalg.norm(fit - target[:, moving], axis=1) / scale
        if off.max() <= CLOSE or keyed.all():
            break
        keyed[int(off.argmax())] = True
    made = {
        column: with_span(curves[column], frames[keyed], target[keyed, column], slopes[:, n])
        for n, column in enumerate(moving)
    }
    return shot.with_curves(figure, curves.replaced(made))


def _along_path(curves: CurveSet, rig: Rig, frames: Floats, wanted: Floats, channels: list[int]) -> Floats:
    """Poses (F, C) on the path there is, at the moments when it has got to the wanted shares; beyond it, carried on."""
    fine = np.linspace(frames[0], frames[-1], 8 * (len(frames) - 1) + 1)
    values = channel_values(curves, rig, fine)
    gone = measured_shares(rig, values, values[0], values[-1], channels)
    within = np.clip(wanted, gone.min(), gone.max())
    result = np.asarray(channel_values(curves, rig, _moments(fine, gone, frames, within)))
    result += (wanted - within)[:, None] * (values[-1] - values[0])
    result[0], result[-1] = values[0], values[-1]
    return result


def _moments(fine: Floats, gone: Floats, frames: Floats, wanted: Floats) -> Floats:
    """When a motion that has got to shares gone (N,) at moments fine (N,) has got to wanted ones (F,): of several moments the
    one nearest to each frame (F,), so that a motion that overshoots and comes back is followed both ways."""
    off = gone[None] - wanted[:, None]
    crossing = off[:, :-1] * off[:, 1:] <= 0
    rise = gone[1:] - gone[:-1]
    part = np.where(rise == 0, 0.5, -off[:, :-1] / np.where(rise == 0, 1.0, rise))
    times = fine[:-1] + np.clip(part, 0.0, 1.0) * np.diff(fine)
    gap = np.where(crossing, np.abs(times - frames[:, None]), np.inf)
    best = gap.argmin(1)
    return np.asarray(times[np.arange(len(frames)), best])


def preset_shares(frames: int, preset: str, strength: float = 0.5) -> list[float]:
    """The shares of a chart of so many frames (both ends included), by the name of a preset. strength 0..1: how strongly."""
    t = np.linspace(0, 1, frames)
    if preset == "even":
        found = t
    elif preset == "slow out":
        found = t ** (1 + 2 * strength)
    elif preset == "slow in":
        found = 1 - (1 - t) ** (1 + 2 * strength)
    elif preset == "slow out and in":
        smooth = hermite_basis(t).end
        found = t + (smooth - t) * min(2 * strength, 1.0) + 0.0 * t
    elif preset in ("halves to start", "halves to end", "thirds to start", "thirds to end"):
        found = _parted(frames, 0.5 if preset.startswith("halves") else 2 / 3, toward_end=preset.endswith("end"))
    else:
        raise BadMotion(f"there is no chart '{preset}'.", advice="Charts: " + ", ".join(PRESETS) + ".")
    return [float(s) for s in found]


PRESETS = (
    "even",
    "slow out",
    "slow in",
    "slow out and in",
    "halves to start",
    "halves to end",
    "thirds to start",
    "thirds to end",
)


def resampled_shares(shares: Sequence[float], frames: int) -> list[float]:
    """The shares of a chart for a span of another length (both ends included)."""
    return [float(s) for s in np.interp(np.linspace(0, 1, frames), np.linspace(0, 1, len(shares)), shares)]


def _parted(frames: int, ratio: float, *, toward_end: bool) -> Floats:
    """The classic ladder: each rung lies at the same share of what is left, toward one pose."""
    left = ratio ** np.arange(frames - 1)
    shares = np.concatenate([1 - left, [1.0]]) if toward_end else np.concatenate([[0.0], left[::-1]])
    return np.asarray(shares)
