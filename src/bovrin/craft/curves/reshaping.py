"""Work on many keys of curves at once: scaled, put exactly, their handles made longer or alike, taken away with the
curve's shape kept; curves without motion found."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.keys import changed_curves
from bovrin.craft.keying.retiming import retimed
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.motion.hermite import hermite_basis
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, EndKind, HandleKind, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
Which = NDArray[np.intp]

NEAREST = 1e-3
"""How near two keys may come, frames."""


def placed(curve: Curve, which: Which, frames: Floats, values: Floats) -> Curve:
    """Keys (indices (N,)) at exact frames and values (N,); BadMotion when they would pass a neighbour."""
    new_frames, new_values = curve.frames.copy(), curve.values.copy()
    new_frames[which], new_values[which] = frames, values
    if len(new_frames) > 1 and np.diff(new_frames).min() < NEAREST:
        raise BadMotion("there is no room for the chosen keys there.", advice="Leave more frames between the keys.")
    moved = curve if np.array_equal(new_frames, curve.frames) else retimed(curve, new_frames)
    return moved.changed(values=new_values)


def scaled_keys(curve: Curve, which: Which, about: tuple[float, float], time: float, value: float) -> Curve:
    """Keys drawn apart or together about a frame and a value. Hand-made slopes keep their shape with them."""
    if not (time > 0 and np.isfinite(value)):
        raise BadMotion(f"keys cannot be scaled by {time:g} in time.", advice="Use a number above zero.")
    frames = about[0] + (curve.frames[which] - about[0]) * time
    values = about[1] + (curve.values[which] - about[1]) * value
    columns = {}
    for name in ("in_slope", "out_slope"):
        slopes = getattr(curve, name).copy()
        slopes[which] *= value
        columns[name] = slopes
    return placed(curve.changed(**columns), which, frames, values)


def longer_handles(curve: Curve, which: Which, factor: float) -> Curve:
    """Both handles of keys longer or shorter by a factor; they get free length, and their slopes by hand stay as they are.

    A handle is never longer than its segment, so that time does not fold back.
    """
    curve = curve.settled()
    now = gather([curve])
    spans = np.diff(curve.frames)
    room = {"in": np.concatenate([[np.inf], spans]), "out": np.concatenate([spans, [np.inf]])}
    free = curve.free.copy()
    free[which] = True
    columns: dict[str, NDArray[np.generic]] = {"free": free}
    for side in ("in", "out"):
        lengths = getattr(curve, f"{side}_length").copy()
        lengths[which] = np.clip(getattr(now, f"{side}_length")[which] * factor, 0.0, room[side][which])
        kinds, slopes = getattr(curve, f"{side}_kind").copy(), getattr(curve, f"{side}_slope").copy()
        by_hand = which[kinds[which] != HandleKind.STEPPED]
        slopes[by_hand] = getattr(now, f"{side}_slope")[by_hand]
        kinds[by_hand] = HandleKind.BY_HAND
        columns |= {f"{side}_length": lengths, f"{side}_kind": kinds, f"{side}_slope": slopes}
    return curve.changed(**columns)


def same_slope(curve: Curve, which: Which, slope: float) -> Curve:
    """Both handles of keys by hand, all with one slope (units per frame)."""
    curve = curve.settled()
    columns: dict[str, NDArray[np.generic]] = {}
    for side in ("in", "out"):
        kinds, slopes = getattr(curve, f"{side}_kind").copy(), getattr(curve, f"{side}_slope").copy()
        by_hand = which[kinds[which] != HandleKind.STEPPED]
        kinds[by_hand], slopes[by_hand] = HandleKind.BY_HAND, slope
        columns |= {f"{side}_kind": kinds, f"{side}_slope": slopes}
    return curve.changed(**columns)


def without_keeping_shape(curve: Curve, which: Which, default: float) -> Curve:
    """Without some keys, the rest bent by hand so that the curve stays as near as it can (least squares in the gaps)."""
    keep = np.ones(len(curve), bool)
    keep[which] = False
    left = np.flatnonzero(keep)
    thinned = curve.taken(keep)
    for n in range(len(left) - 1):
        a, b = int(left[n]), int(left[n + 1])
        if b - a > 1 and curve.out_kind[a] != HandleKind.STEPPED:
            thinned = _refitted(thinned, n, curve, default)
    return thinned


def _refitted(thinned: Curve, n: int, curve: Curve, default: float) -> Curve:
    """The slopes of one segment that come nearest to another curve over it."""
    start, end = float(thinned.frames[n]), float(thinned.frames[n + 1])
    span = end - start
    t = np.linspace(0, 1, 33)[1:-1]
    wanted = curve_values(curve, start + t * span, default)
    p0, p1 = thinned.values[n], thinned.values[n + 1]
    basis = hermite_basis(t)
    rest = wanted - basis.start * p0 - basis.end * p1
    matrix = np.stack([span * basis.start_slope, span * basis.end_slope], axis=1)
    slopes = np.linalg.lstsq(matrix, rest, rcond=None)[0]
    columns = {name: getattr(thinned, name).copy() for name in ("joined", "free", *_SIDES)}
    for side, at, slope in (("out", n, slopes[0]), ("in", n + 1, slopes[1])):
        columns[f"{side}_kind"][at], columns[f"{side}_slope"][at] = HandleKind.BY_HAND, slope
        columns[f"{side}_length"][at] = span / 3
        columns["joined"][at] = False
    return thinned.changed(**columns)


_SIDES = tuple(f"{side}_{what}" for side in ("in", "out") for what in ("kind", "slope", "length"))


def motionless(shot: Shot, figure: str, channels: Iterable[int] | None = None) -> list[int]:
    """The channels that carry keys and never change: one value at all keys, and no handle that leaves it."""
    curves, rig = shot.curves(figure), shot.figure(figure).rig
    wanted = range(len(curves)) if channels is None else channels
    return [i for i in wanted if len(curves[i]) and _is_still(curves[i], rig, i)]


def _is_still(curve: Curve, rig: Rig, channel: int) -> bool:
    if np.ptp(curve.values) > 1e-9:
        return False
    now = gather([curve])
    inner = now.out_slope[:-1][~now.stepped[:-1]]
    return not (np.abs(inner) > 1e-9).any() and not (np.abs(now.in_slope[1:][~now.stepped[:-1]]) > 1e-9).any()


def without_motionless(shot: Shot, figure: str, channels: Iterable[int] | None = None) -> Shot:
    """Channels without motion thinned out: those at their default lose all keys, others keep the first, so that the pose
    stays."""
    rig = shot.figure(figure).rig

    def thin(i: int) -> Curve:
        curve = shot.curves(figure)[i]
        at_rest = abs(float(curve.values[0]) - rig.channels[i].default) < 1e-12
        return curve.taken(np.arange(0 if at_rest else 1))

    found = motionless(shot, figure, channels)
    thinned = {i: thin(i) for i in found if len(shot.curves(figure)[i]) > 1 or not len(thin(i))}
    return shot.with_curves(figure, shot.curves(figure).replaced(thinned))


def with_ends(shot: Shot, figure: str, channels: Iterable[int], **ends: object) -> Shot:
    """Let channels do something else before their first key or after their last (`before`, `after`: EndKind)."""
    return changed_curves(shot, figure, channels, lambda curve: curve.ending(**ends))  # type: ignore[arg-type]


def muted(shot: Shot, figure: str, channels: Iterable[int], on: bool) -> Shot:
    """Let channels rest at their defaults, or move again; their keys stay."""
    return changed_curves(shot, figure, channels, lambda curve: curve.silenced(on))


def key_more(curve: Curve, frame: float, default: float) -> Curve:
    """A curve with a key more, every value as it is; in a loop the key lies where the loop has that frame. BadMotion outside the
    keys of a curve that repeats there: its rounds would become longer."""
    if not len(curve) or not curve.runs_on or curve.frames[0] - SAME_FRAME <= frame <= curve.frames[-1] + SAME_FRAME:
        return inserted(curve, frame, default)
    if curve.is_round:
        first, length = float(curve.frames[0]), float(curve.frames[-1] - curve.frames[0])
        return inserted(curve, first + (frame - first) % length, default)
    if {curve.before, curve.after} <= {EndKind.HOLD, EndKind.STRAIGHT}:
        return inserted(curve, frame, default)
    raise BadMotion(
        f"frame {frame:g} lies outside the keys from {curve.frames[0]:g} to {curve.frames[-1]:g}, which repeat: a key there would"
        " make every round longer.",
        advice="Put the key between its keys, or let its ends hold first.",
    )
