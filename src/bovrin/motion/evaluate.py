"""Evaluation of many curves over many frames in one call.

Segments are cubic Bézier curves in (frame, value). With fixed-length handles time is linear in the parameter and the
segment is a plain cubic; with free-length handles the cubic for time is solved by a Newton step kept inside a bracket.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.caching import cached_by_identity
from bovrin.motion.handles import Keys, gather
from bovrin.motion.running_on import RunningOn, running_on
from bovrin.shot import Curve, CurveSet, Rig
from bovrin.shot.curve import NO_KEYS

Floats = NDArray[np.float64]
Number = TypeVar("Number", bound=np.generic)


class Compiled(NamedTuple):
    """Curves ready to evaluate. Each curve of n keys has n + 1 segments: held, n - 1 between keys, held.

    value (4, S): cubic coefficients of the parameter; start, inverse (S,): frame and 1/length; time (3, S): cubic for
    time where `free` (S,) is set. on: the curves that do something outside their keys.
    """

    keys: Keys
    curve_of_key: NDArray[np.int64]
    base: NDArray[np.int64]
    value: Floats
    start: Floats
    inverse: Floats
    time: Floats
    free: NDArray[np.bool_] | None
    on: RunningOn | None


def compile_curves(curves: Sequence[Curve], defaults: Sequence[float]) -> Compiled:
    """Work out the segments of C curves; a curve without keys, or one that is muted, rests at its default."""
    if any(curve.muted for curve in curves):
        curves = [NO_KEYS if curve.muted else curve for curve in curves]
    keys = gather(curves)
    counts = np.diff(keys.offset)
    curve_of_key = np.repeat(np.arange(len(counts)), counts)
    base = keys.offset[:-1] + np.arange(len(counts))
    total = len(keys.frames) + len(counts)
    value, start = np.zeros((4, total)), np.zeros(total)
    inverse, time, free = np.zeros(total), np.zeros((3, total)), np.zeros(total, bool)
    value[0, base] = np.asarray(defaults, float)
    keyed = counts > 0
    value[0, base[keyed]] = keys.values[keys.offset[:-1][keyed]]
    after = np.arange(len(keys.frames)) + curve_of_key + 1
    value[0, after] = keys.values
    last = np.zeros(len(keys.frames), bool)
    last[keys.offset[1:][keyed] - 1] = True
    here = np.flatnonzero(~(last | keys.stepped))
    seg = after[here]
    span = keys.frames[here + 1] - keys.frames[here]
    start[seg], inverse[seg] = keys.frames[here], 1.0 / span
    p0, p3 = keys.values[here], keys.values[here + 1]
    p1 = p0 + keys.out_slope[here] * keys.out_length[here]
    p2 = p3 - keys.in_slope[here + 1] * keys.in_length[here + 1]
    value[1, seg] = 3 * (p1 - p0)
    value[2, seg] = 3 * (p0 - 2 * p1 + p2)
    value[3, seg] = p3 - p0 + 3 * (p1 - p2)
    out, into = keys.out_length[here] / span, keys.in_length[here + 1] / span
    time[0, seg] = 3 * out
    time[1, seg] = 3 * (1 - into) - 6 * out
    time[2, seg] = 1 - 3 * (1 - into) + 3 * out
    free[seg] = keys.free[here] | keys.free[here + 1]
    on = running_on(curves, keys)
    return Compiled(keys, curve_of_key, base, value, start, inverse, time, free if free.any() else None, on)


def evaluate(compiled: Compiled, frames: ArrayLike) -> Floats:
    """Values of all curves at `frames` (F,) in any order: returns (F, C), in the curves' own units."""
    wanted = np.atleast_1d(np.asarray(frames, float))
    if len(wanted) > 1 and (np.diff(wanted) < 0).any():
        order = np.argsort(wanted, kind="stable")
        back = np.empty_like(order)
        back[order] = np.arange(len(order))
        return np.asarray(evaluate(compiled, wanted[order])[back])
    if compiled.on is not None and compiled.on.reached(wanted):
        return _evaluate_running_on(compiled, compiled.on, wanted)
    return _at(compiled, _segment_index(compiled, wanted), wanted[None, :])


def _evaluate_running_on(compiled: Compiled, on: RunningOn, frames: Floats) -> Floats:
    """Where some curves repeat or go on: each is looked at on frames of its own, within its keys."""
    own, offset = on.folded(frames)
    return _at(compiled, _own_segments(compiled, own), own) + offset.T


def _own_segments(compiled: Compiled, own: Floats) -> NDArray[np.int64]:
    """(C, F): the segment each curve is in when each has frames (C, F) of its own."""
    seg = np.empty(own.shape, np.int64)
    for n, (first, last) in enumerate(pairwise(compiled.keys.offset.tolist())):
        seg[n] = compiled.base[n] + np.searchsorted(compiled.keys.frames[first:last], own[n], side="right")
    return seg


def _at(compiled: Compiled, seg: NDArray[np.int64], frames: Floats) -> Floats:
    """Values (F, C) of segments (C, F) at frames (C, F) or (1, F)."""
    u = (frames - _of(compiled.start, seg)) * _of(compiled.inverse, seg)
    if compiled.free is not None:
        _bend_time(compiled, compiled.free, seg.reshape(-1), u.reshape(-1))
    c = compiled.value
    result = _of(c[3], seg)
    for coefficient in (c[2], c[1], c[0]):
        result *= u
        result += _of(coefficient, seg)
    return np.asarray(result.T)


def _bend_time(compiled: Compiled, free: NDArray[np.bool_], seg: NDArray[np.int64], u: Floats) -> None:
    """Put parameters (N,) where time is bent to where it is straight (N,), in place; some at a time, which stay in the cache."""
    for first in range(0, len(u), BLOCK):
        block, here = u[first : first + BLOCK], seg[first : first + BLOCK]
        curved = np.flatnonzero(_of(free, here))
        block[curved] = solve_time(_of(compiled.time, here[curved]), block[curved])


def _of(rows: NDArray[Number], at: NDArray[np.int64]) -> NDArray[Number]:
    """Entries of an array (..., S), which are there; quicker than by brackets."""
    return rows.take(at, axis=-1, mode="clip")


def _segment_index(compiled: Compiled, frames: Floats) -> NDArray[np.int64]:
    """(C, F): the segment each curve is in. One search places all keys among the frames; a running count does the rest.

    Few frames among very many keys are looked for in each curve by itself.
    """
    count, keys = len(compiled.base), compiled.keys
    if len(keys.frames) > DENSE * count * len(frames):
        return _own_segments(compiled, np.broadcast_to(frames, (count, len(frames))))
    if len(frames) == 1:
        passed = np.concatenate(([0], np.cumsum(keys.frames <= frames[0])))
        return (compiled.base + passed[keys.offset[1:]] - passed[keys.offset[:-1]])[:, None]
    width = len(frames) + 1
    place = np.searchsorted(frames, keys.frames)
    hits = np.bincount(compiled.curve_of_key * width + place, minlength=count * width).reshape(count, width)
    return np.cumsum(hits[:, :-1], axis=1) + compiled.base[:, None]


EXACT = 1e-13
"""How far off a cubic for time may be where it is solved."""
BLOCK = 8192
"""Cubics for time that are solved at once."""
ROUNDS, MORE = 5, 3
"""Newton steps for everything, and for the few that want more."""


def solve_time(cubic: Floats, x: Floats) -> Floats:
    """The parameter u in [0, 1] at which ((c2·u + c1)·u + c0)·u equals x, for rising cubics (3, ...) and x (...).

    A few plain Newton steps settle nearly all, a few more nearly all of those; what is left (flat starts, tight corners) goes on
    inside a bracket.
    """
    shape = x.shape
    target = np.clip(x.ravel(), 0.0, 1.0)
    u, rows = target.copy(), cubic.reshape(3, -1)
    _improve(rows, target, u, ROUNDS)
    open_ = np.flatnonzero(np.abs(_off(rows, target, u)) > EXACT)
    if len(open_):
        rows, target, found = _of(rows, open_), target[open_], u[open_]
        _improve(rows, target, found, MORE)
        left = np.flatnonzero(np.abs(_off(rows, target, found)) > EXACT)
        if len(left):
            c0, c1, c2 = rows[:, left]
            found[left] = _solve_in_bracket(c0, c1, c2, target[left])
        u[open_] = found
    return u.reshape(shape)


def _off(rows: Floats, target: Floats, u: Floats, out: Floats | None = None) -> Floats:
    """How far cubics (3, N) are from their targets (N,) at u (N,)."""
    c0, c1, c2 = rows
    off: Floats = np.multiply(c2, u, out=out)
    for part in (c1, c0):
        off += part
        off *= u
    off -= target
    return off


def _improve(rows: Floats, target: Floats, u: Floats, rounds: int) -> None:
    """Newton steps of parameters u (N,), in place."""
    c0, c1, c2 = rows
    twice, thrice, slope, off = 2 * c1, 3 * c2, np.empty_like(u), np.empty_like(u)
    for _ in range(rounds):
        _off(rows, target, u, off)
        np.multiply(thrice, u, out=slope)
        slope += twice
        slope *= u
        slope += c0
        np.maximum(slope, 1e-3, out=slope)
        off /= slope
        u -= off
        np.clip(u, 0.0, 1.0, out=u)


def _solve_in_bracket(c0: Floats, c1: Floats, c2: Floats, target: Floats, rounds: int = 60) -> Floats:
    """Newton steps that fall back on halving whenever one would leave the bracket (all (N,))."""
    u, lo, hi = target.copy(), np.zeros_like(target), np.ones_like(target)
    for _ in range(rounds):
        off = ((c2 * u + c1) * u + c0) * u - target
        slope = (3 * c2 * u + 2 * c1) * u + c0
        lo = np.where(off < 0, u, lo)
        hi = np.where(off > 0, u, hi)
        step = u - off / np.where(slope > 1e-9, slope, np.inf)
        inside = (step > lo) & (step < hi) & (slope > 1e-9)
        settled = np.abs(off) < 1e-13
        if settled.all():
            break
        u = np.where(settled, u, np.where(inside, step, 0.5 * (lo + hi)))
    return u


@cached_by_identity
def compiled_set(curves: CurveSet, rig: Rig) -> Compiled:
    """The compiled curves of a figure, kept as long as the curves live and there is room."""
    return compile_curves(curves.curves, rig.defaults)


DENSE = 200
"""Keys of a curve, for each frame wanted, from which a search in every curve is quicker than one that meets all keys."""
MANY = 20_000
"""Keys of a figure from which looks at few frames work out only what lies around them."""
LOOKS = 8
"""Looks that are worked out one by one before more is kept."""
STRETCH = 64
"""Frames that are worked out at once where few are looked at in turn, as in playing."""
FEW = 64
"""Frames, wherever they lie, around each of which very many keys are looked at by themselves."""


@cached_by_identity
def _looks(_curves: CurveSet) -> list[int]:
    """How often curves were looked at without being compiled."""
    return [0]


def channel_values(curves: CurveSet, rig: Rig, frames: ArrayLike) -> Floats:
    """All channels of a figure at frames (F,): (F, C), metres and radians.

    Of very many keys, as recorded motion has them, those on the frames are read as they are; the rest is worked out around
    the frames alone, where they are few or lie close together.
    """
    wanted = np.atleast_1d(np.asarray(frames, float))
    if not len(wanted) or sum(map(len, curves.curves)) < MANY:
        return evaluate(compiled_set(curves, rig), wanted)
    values, left = _read_on_keys(curves, rig, wanted)
    if len(left) == len(curves):
        return _worked_out(curves, rig, wanted)
    if left:
        own = [_windows(curves[i], wanted) if len(wanted) <= FEW else curves[i] for i in left]
        values[:, left] = evaluate(compile_curves(own, [rig.defaults[i] for i in left]), wanted)
    return values


def _worked_out(curves: CurveSet, rig: Rig, wanted: Floats) -> Floats:
    """All channels where keys lie beside the frames. Curves that are new (each step of a drag makes some) are worked out only
    around the frames; and when the frames lie close together, always: a stretch at a time."""
    looks = _looks(curves)
    low, high = float(wanted.min()), float(wanted.max())
    looks[0] += 1
    if looks[0] > LOOKS and high - low <= STRETCH:
        return evaluate(_compiled_stretch(curves, rig, int(low // STRETCH)), wanted)
    if looks[0] <= LOOKS and high - low <= STRETCH:
        return evaluate(compile_curves([around(c, low, high) for c in curves.curves], rig.defaults), wanted)
    if len(wanted) <= FEW:
        return evaluate(compile_curves([_windows(c, wanted) for c in curves.curves], rig.defaults), wanted)
    return evaluate(compiled_set(curves, rig), wanted)


class Layout(NamedTuple):
    """How the keys of many curves lie: channels that rest, that go on outside their keys, and groups that share their frames.

    It names channels and holds none of their keys, which would be counted as if they were kept for it."""

    resting: NDArray[np.intp]
    going_on: list[int]
    groups: list[NDArray[np.intp]]


@cached_by_identity
def _layout(curves: CurveSet) -> Layout:
    resting, going_on, groups = list[int](), list[int](), dict[int, list[int]]()
    for i, curve in enumerate(curves.curves):
        if curve.muted or not len(curve):
            resting.append(i)
        elif curve.runs_on:
            going_on.append(i)
        else:
            groups.setdefault(id(curve.frames), []).append(i)
    return Layout(np.array(resting, np.intp), going_on, [np.array(own, np.intp) for own in groups.values()])


def _read_on_keys(curves: CurveSet, rig: Rig, wanted: Floats) -> tuple[Floats, list[int]]:
    """Values (F, C) of the curves that have a key on each of the frames (F,), or end before it or begin after it; and which
    have not."""
    layout = _layout(curves)
    values = np.empty((len(wanted), len(curves)))
    values[:, layout.resting] = np.asarray(rig.defaults)[layout.resting]
    left = list(layout.going_on)
    for channels in layout.groups:
        frames = curves[channels[0]].frames
        inside = np.clip(wanted, frames[0], frames[-1])
        rows = np.searchsorted(frames, inside)
        if np.array_equal(frames[rows], inside):
            values[:, channels] = np.array([curves[i].values[rows] for i in channels]).T
        else:
            left += channels.tolist()
    return values, sorted(left)


def _windows(curve: Curve, wanted: Floats) -> Curve:
    """The keys of a curve that its values on some frames (F,) depend on: three on either side of each."""
    if curve.runs_on or len(curve) <= 6 * len(wanted):
        return curve
    at = np.searchsorted(curve.frames, wanted, side="right")
    rows = np.unique(np.clip(at[:, None] + np.arange(-3, 3), 0, len(curve) - 1))
    mask = np.zeros(len(curve), bool)
    mask[rows] = True
    return curve.taken(mask)


@cached_by_identity
def _compiled_stretch(curves: CurveSet, rig: Rig, number: int) -> Compiled:
    """Curves on one stretch of frames and the one after it, kept while they are played or scrubbed over."""
    low = float(number * STRETCH)
    return compile_curves([around(c, low, low + 2 * STRETCH) for c in curves.curves], rig.defaults)


def around(curve: Curve, low: float, high: float) -> Curve:
    """The keys of a curve that its values from one frame to another depend on: two more on either side."""
    if curve.runs_on:
        return curve
    first = max(int(np.searchsorted(curve.frames, low, side="right")) - 3, 0)
    last = int(np.searchsorted(curve.frames, high)) + 3
    return curve if first == 0 and last >= len(curve) else curve.sliced(first, last)


def curve_values(curve: Curve, frames: ArrayLike, default: float = 0.0) -> Floats:
    """One curve at frames (F,): (F,)."""
    return evaluate(_compiled_curve(curve, default), frames)[:, 0]


@cached_by_identity
def _compiled_curve(curve: Curve, default: float) -> Compiled:
    return compile_curves([curve], [default])
