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

LONG = 240
"""Frames looked at of which each gets a key at once where they are off."""
LEAST_PULL, SHARE_OF_PULL = 1e-10, 1e-12
"""How much the slopes that frames beside a key say count, for those that nothing else tells; also as a share of the most."""


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
        at = np.flatnonzero(keyed)
        apart = np.flatnonzero(np.maximum.reduceat(off, at[:-1]) > 1.0)
        found = [
            one
            for k in apart
            for i, j in _stretches(int(at[k]), int(at[k + 1]))
            for one in _farthest_off(off, whole, i, j)
        ]
        if not found:
            return keyed, slopes
        keyed[found] = True


def _stretches(i: int, j: int) -> list[tuple[int, int]]:
    """A stretch between two keys, in pieces if it is long: one key at a time in the whole of it would go on for ever."""
    ends = np.linspace(i, j, max((j - i) // LONG, 1) + 1).astype(int).tolist()
    return [
        (start, end + (end < j)) for start, end in pairwise(ends)
    ]  # a frame between two pieces may be the one that is off


def _farthest_off(off: Floats, whole: NDArray[np.bool_], i: int, j: int) -> list[int]:
    """Where a key is needed between two: nearest to where the curve is farthest off, if it is off."""
    inner = np.arange(i + 1, j)
    allowed = inner[whole[inner]]
    if not len(allowed) or off[inner].max() <= 1.0:
        return []
    return [int(allowed[np.abs(allowed - inner[off[inner].argmax()]).argmin()])]


def best_slopes(frames: Floats, target: Floats, keyed: NDArray[np.bool_], *, goes_round: bool = False) -> Floats:
    """Slopes (K, n) at the keyed frames that bring a cubic through the keys nearest to the target (F, n): least squares.

    Of a loop the first and the last are one.
    """
    at, inner = np.flatnonzero(keyed), np.flatnonzero(~keyed)
    near = np.gradient(target, frames, axis=0)[at]
    if goes_round:
        span = frames[1] - frames[0] + frames[-1] - frames[-2]
        near[[0, -1]] = (target[1] - target[0] + target[-1] - target[-2]) / span
    if not len(inner):
        return near
    before = np.searchsorted(at, inner) - 1
    start, end = at[before], at[before + 1]
    span = frames[end] - frames[start]
    basis = hermite_basis((frames[inner] - frames[start]) / span)
    leaves, comes = (span * basis.start_slope)[:, None], (span * basis.end_slope)[:, None]
    left = target[inner] - basis.start[:, None] * target[start] - basis.end[:, None] * target[end]
    left -= leaves * near[before] + comes * near[before + 1]
    # the normal equations: every slope meets those beside it alone; one that no frame tells is what the frames beside its key say
    own, beside, pull = np.full(len(at), LEAST_PULL), np.zeros(len(at)), np.zeros((len(at), target.shape[1]))
    np.add.at(own, before, leaves[:, 0] ** 2)
    np.add.at(own, before + 1, comes[:, 0] ** 2)
    own += SHARE_OF_PULL * own.max()
    np.add.at(beside, before + 1, leaves[:, 0] * comes[:, 0])
    np.add.at(pull, before, leaves * left)
    np.add.at(pull, before + 1, comes * left)
    return near + (_solved_round if goes_round else _solved)(own, beside, pull)


def _solved(own: Floats, beside: Floats, pull: Floats) -> Floats:
    """Solves equations (K, n) with `own` on the diagonal and `beside`, from the second on, next to it."""
    from scipy.linalg import solveh_banded  # noqa: PLC0415 - kept out of the window's start

    return np.asarray(solveh_banded(np.stack([beside, own]), pull, check_finite=False))


def _solved_round(own: Floats, beside: Floats, pull: Floats) -> Floats:
    """The same where the last unknown is the first."""
    count = len(own) - 1
    rows = np.arange(count)
    matrix = np.diag(own[:-1])
    for row, column in ((rows, (rows + 1) % count), ((rows + 1) % count, rows)):
        np.add.at(matrix, (row, column), beside[1:])
    matrix[0, 0] += own[-1]
    folded = pull[:-1].copy()
    folded[0] += pull[-1]
    found = np.linalg.solve(matrix, folded)
    return np.concatenate([found, found[:1]])


def through_keys(frames: Floats, target: Floats, slopes: Floats, keyed: NDArray[np.bool_]) -> Floats:
    """The cubics through the keyed frames' targets with these slopes, on all frames (F, n)."""
    at, inner, result = np.flatnonzero(keyed), np.flatnonzero(~keyed), target.copy()
    before = np.searchsorted(at, inner) - 1
    start, end = at[before], at[before + 1]
    span = (frames[end] - frames[start])[:, None]
    t = (frames[inner] - frames[start])[:, None] / span
    result[inner] = hermite(t, target[start], span * slopes[before], target[end], span * slopes[before + 1])
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
