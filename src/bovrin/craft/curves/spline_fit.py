"""Curves through given values with as few keys as will do: least squares for the slopes, keys where it is farthest off."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.exact_keys import EASED
from bovrin.craft.keying.keys import merged
from bovrin.motion.handles import Keys, gather
from bovrin.motion.hermite import hermite, hermite_basis
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, HandleKind, Key, KeyRole
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]


def fewest_keys(
    frames: Floats,
    target: Floats,
    tolerance: Floats,
    keep: Floats,
    whole: NDArray[np.bool_],
    *,
    goes_round: bool = False,
) -> tuple[NDArray[np.bool_], Floats]:
    """Which of some frames (F,) need keys so that cubics come within a tolerance (F, n) of values (F, n) on all of them, and the
    slopes (K, n) there. keep: frames that get a key in any case; whole (F,): frames that may get one. goes_round: it is a loop,
    and leaves its beginning as it comes to its end."""
    keyed = np.isin(frames, keep)
    keyed[[0, -1]] = True
    while True:
        slopes = best_slopes(frames, target, keyed, goes_round=goes_round)
        off = (np.abs(through_keys(frames, target, slopes, keyed) - target) / tolerance).max(1, initial=0.0)
        more = [_farthest_off(off, whole, i, j) for i, j in pairwise(np.flatnonzero(keyed).tolist())]
        found = [at for at in more if at is not None]
        if not found:
            return keyed, slopes
        keyed[found] = True


def _farthest_off(off: Floats, whole: NDArray[np.bool_], i: int, j: int) -> int | None:
    """Where a key is needed between two: nearest to where the curve is farthest off, if it is off."""
    inner = np.arange(i + 1, j)
    allowed = inner[whole[inner]]
    if not len(allowed) or off[inner].max() <= 1.0:
        return None
    return int(allowed[np.abs(allowed - inner[off[inner].argmax()]).argmin()])


def best_slopes(frames: Floats, target: Floats, keyed: NDArray[np.bool_], *, goes_round: bool = False) -> Floats:
    """Slopes (K, n) at the keyed frames that bring a cubic through the keys nearest to the target (F, n): least squares.

    Of a loop the first and the last are one.
    """
    at = np.flatnonzero(keyed)
    matrix = np.zeros((len(frames), len(at)))
    rest = target.copy()
    for k, (i, j) in enumerate(pairwise(at)):
        rows = np.arange(i, j + 1)
        span = frames[j] - frames[i]
        basis = hermite_basis((frames[rows] - frames[i]) / span)
        rest[rows] = target[rows] - basis.start[:, None] * target[i] - basis.end[:, None] * target[j]
        matrix[rows, k] = span * basis.start_slope
        matrix[rows, k + 1] = span * basis.end_slope
    near = np.gradient(target, frames, axis=0)[at]
    if goes_round:
        span = frames[1] - frames[0] + frames[-1] - frames[-2]
        near[[0, -1]] = (target[1] - target[0] + target[-1] - target[-2]) / span
        matrix[:, 0] += matrix[:, -1]
        matrix[:, -1] = 0.0
    if keyed.all():
        return near
    inner = ~keyed
    # where keys lie so close that frames do not tell their slopes, those are the nearest to what the frames beside them say
    left = rest[inner] - matrix[inner] @ near
    slopes = near + np.linalg.lstsq(matrix[inner], left, rcond=None)[0]
    if goes_round:
        slopes[-1] = slopes[0]
    return slopes


def through_keys(frames: Floats, target: Floats, slopes: Floats, keyed: NDArray[np.bool_]) -> Floats:
    """The cubics through the keyed frames' targets with these slopes, on all frames (F, n)."""
    at = np.flatnonzero(keyed)
    result = target.copy()
    for k, (i, j) in enumerate(pairwise(at)):
        rows = np.arange(i, j + 1)
        span = frames[j] - frames[i]
        t = ((frames[rows] - frames[i]) / span)[:, None]
        result[rows] = hermite(t, target[i], span * slopes[k], target[j], span * slopes[k + 1])
    return result


def with_span(curve: Curve, frames: Floats, values: Floats, slopes: Floats, posed: Floats | None = None) -> Curve:
    """A curve whose keys over a span are these, bent by hand; the outer sides of its ends stay as they are.

    posed: frames whose keys are key poses; the others are in-betweens.
    """
    own = curve.settled()
    for end in (float(frames[0]), float(frames[-1])):
        if len(own) and own.frames[0] < end < own.frames[-1] and own.index_at(end) is None:
            own = inserted(own, end)  # what lies outside is cut off as it goes
    if len(own) and own.is_round:
        own = _frozen_seam(own, float(frames[0]), float(frames[-1]))
    outside = own.taken((own.frames < frames[0] - SAME_FRAME) | (own.frames > frames[-1] + SAME_FRAME))
    now, span = gather([own]), np.diff(frames) / 3
    keys, last = [], len(frames) - 1
    for row, (frame, value, slope) in enumerate(zip(frames.tolist(), values.tolist(), slopes.tolist(), strict=True)):
        at = own.index_at(frame) if row in (0, last) else None
        role = KeyRole.KEY_POSE if posed is not None and frame in posed else KeyRole.IN_BETWEEN
        key = Key(frame, value, EASED, EASED, role=role) if at is None else frozen_key(own, now, at)
        key = key._replace(joined=at is None)
        if row > 0:
            key = key._replace(in_kind=HandleKind.BY_HAND, in_slope=slope, in_length=float(span[row - 1]))
        if row < last:
            key = key._replace(out_kind=HandleKind.BY_HAND, out_slope=slope, out_length=float(span[row]))
        keys.append(key)
    return merged(outside, Curve.from_keys(keys)).like(curve)


def _frozen_seam(curve: Curve, start: float, end: float) -> Curve:
    """A loop in which a span ends on one key of the seam: the other key's handles stay as they are, though it goes on there."""
    now, first, last = gather([curve]), float(curve.frames[0]), float(curve.frames[-1])
    if abs(end - last) < SAME_FRAME and start > first + SAME_FRAME:
        return curve.with_key(frozen_key(curve, now, 0))
    if abs(start - first) < SAME_FRAME and end < last - SAME_FRAME:
        return curve.with_key(frozen_key(curve, now, len(curve) - 1))
    return curve


def frozen_key(curve: Curve, now: Keys, at: int) -> Key:
    """A key with its handles as they are, so that what is outside a span does not follow what changes inside."""
    key = curve.key(at)
    if key.in_kind != HandleKind.STEPPED:
        key = key._replace(in_kind=HandleKind.BY_HAND, in_slope=float(now.in_slope[at]))
    if key.out_kind != HandleKind.STEPPED:
        key = key._replace(out_kind=HandleKind.BY_HAND, out_slope=float(now.out_slope[at]))
    return key._replace(free=True, in_length=float(now.in_length[at]), out_length=float(now.out_length[at]))
