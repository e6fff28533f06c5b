"""What the handle kinds mean: slopes and lengths of every key of many curves at once."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.shot import Curve, HandleKind

Floats = NDArray[np.float64]


LEAST = 1e-9
"""The shortest free handle, as a share of its segment; one of no length would have no slope."""


TIME_RUNS = 1e-9
"""How much, as a share of a segment, rounding may make time stand still."""


class Keys(NamedTuple):
    """The keys of C curves laid end to end (K,). `offset` (C+1,): where each curve begins."""

    offset: NDArray[np.int64]
    frames: Floats
    values: Floats
    in_slope: Floats
    out_slope: Floats
    in_length: Floats
    out_length: Floats
    stepped: NDArray[np.bool_]
    free: NDArray[np.bool_]


def gather(curves: Sequence[Curve]) -> Keys:
    """Lay curves end to end and work out every handle (slopes in units per frame, lengths in frames)."""
    offset = np.zeros(len(curves) + 1, np.int64)
    np.cumsum([len(curve) for curve in curves], out=offset[1:])
    used = [curve for curve in curves if len(curve)]
    if not used:
        empty = np.empty(0)
        none = np.empty(0, bool)
        return Keys(offset, empty, empty, empty, empty, empty, empty, none, none)

    def column(name: str) -> NDArray[Any]:
        return np.concatenate([getattr(curve, name) for curve in used])

    frames, values = column("frames"), column("values")
    in_kind, out_kind, free = column("in_kind"), column("out_kind"), column("free")
    last = np.zeros(len(frames), bool)
    last[offset[1:][np.diff(offset) > 0] - 1] = True
    stepped = out_kind == int(HandleKind.STEPPED)  # NumPy takes its time over an enum
    span, secant = _segments(frames, values, last)
    moving = ~(last | stepped)
    span_before = np.concatenate(([1.0], span[:-1]))
    grown_before, grown = _grown(column("in_span"), span_before), _grown(column("out_span"), span)
    hands = column("in_slope") / grown_before, column("out_slope") / grown
    rounds = [n for n, curve in enumerate(curves) if curve.is_round]
    seams = offset[rounds], offset[np.array(rounds, int) + 1] - 1
    in_slope, out_slope = _slopes(in_kind, out_kind, *hands, _beside(span, secant, moving, *seams))
    own_in, own_out = column("in_length") * grown_before, column("out_length") * grown
    in_length, out_length = _lengths(free, own_in, own_out, span_before, span, last)
    rise_before = np.concatenate(([0.0], (secant * span)[:-1]))
    kept_in = int(HandleKind.NO_OVERSHOOT)
    in_slope = np.where(in_kind == kept_in, _within(in_slope, in_length, rise_before), in_slope)
    out_slope = np.where(out_kind == kept_in, _within(out_slope, out_length, secant * span), out_slope)
    return Keys(offset, frames, values, in_slope, out_slope, in_length, out_length, stepped, free)


def raised(curve: Curve, values: Floats) -> Curve:
    """A curve with other values (N,). Split handles made by hand scale with the rise of their segment, as they do with its
    length: a contact stays as sharp when the top beside it is raised."""
    was, now = np.diff(curve.values), np.diff(values)
    changed = (was != now) & (np.abs(was) > LEAST)
    ratio = np.where(changed, now / np.where(changed, was, 1.0), 1.0)
    split = ~curve.joined
    out = np.append(ratio, 1.0)
    into = np.insert(ratio, 0, 1.0)
    out = np.where(split & (curve.out_kind == HandleKind.BY_HAND), out, 1.0)
    into = np.where(split & (curve.in_kind == HandleKind.BY_HAND), into, 1.0)
    if (out == 1.0).all() and (into == 1.0).all():
        return curve.changed(values=values)
    return curve.changed(values=values, out_slope=curve.out_slope * out, in_slope=curve.in_slope * into)


def _lengths(
    free: NDArray[np.bool_], own_in: Floats, own_out: Floats, span_before: Floats, span: Floats, last: NDArray[np.bool_]
) -> tuple[Floats, Floats]:
    """How long handles are on either side of every key. A free one reaches across its segment at most, or further where
    time runs on all the same, which is where the handles' shares p and q of a segment have p + q - sqrt(p q) <= 1: so a
    segment that is cut in two keeps its shape."""
    share_in = np.where(free, np.maximum(own_in / span_before, LEAST), 1 / 3)
    share_out = np.where(free, np.maximum(own_out / span, LEAST), 1 / 3)
    if (share_in > 1.0).any() or (share_out > 1.0).any():
        into = np.append(share_in[1:], 1 / 3)
        runs = (share_out + into - np.sqrt(share_out * into) <= 1.0 + TIME_RUNS) & ~last
        share_out = np.where(runs, share_out, np.minimum(share_out, 1.0))
        share_in = np.where(np.concatenate(([False], runs[:-1])), share_in, np.minimum(share_in, 1.0))
    return share_in * span_before, share_out * span


def _grown(reference: Floats, span: Floats) -> Floats | float:
    """How much longer segments are than when their handles were set."""
    if not reference.any():
        return 1.0
    return np.where(reference > 0, span / np.where(reference > 0, reference, 1.0), 1.0)


def _segments(frames: Floats, values: Floats, last: NDArray[np.bool_]) -> tuple[Floats, Floats]:
    """Length in frames and mean slope of the segment after each key; one frame, no slope, after a curve's last."""
    span = np.ones(len(frames))
    secant = np.zeros(len(frames))
    inner = np.flatnonzero(~last)
    span[inner] = frames[inner + 1] - frames[inner]
    secant[inner] = (values[inner + 1] - values[inner]) / span[inner]
    return span, secant


class _Beside(NamedTuple):
    """The segments before and after every key (K,): lengths, mean slopes, and whether they move."""

    span_before: Floats
    span: Floats
    before: Floats
    secant: Floats
    moving_before: NDArray[np.bool_]
    moving: NDArray[np.bool_]


def _beside(
    span: Floats, secant: Floats, moving: NDArray[np.bool_], first: NDArray[np.int64], last: NDArray[np.int64]
) -> _Beside:
    """What lies beside every key. first, last: the ends of curves that go round, which lie beside one another."""
    span_before = np.concatenate(([1.0], span[:-1]))
    before = np.concatenate(([0.0], secant[:-1]))
    moving_before = np.concatenate(([False], moving[:-1]))
    if len(first):
        span, secant, moving = span.copy(), secant.copy(), moving.copy()
        for ahead, behind in ((span, span_before), (secant, before), (moving, moving_before)):
            behind[first], ahead[last] = ahead[last - 1], ahead[first]
    return _Beside(span_before, span, before, secant, moving_before, moving)


def _slopes(
    in_kind: NDArray[np.uint8], out_kind: NDArray[np.uint8], in_hand: Floats, out_hand: Floats, beside: _Beside
) -> tuple[Floats, Floats]:
    """The slope on either side of every key. Keys at an end, or beside a stepped segment, come to rest."""
    span_before, span, before, secant, moving_before, moving = beside
    between = moving & moving_before
    smooth = np.where(between, (before * span + secant * span_before) / (span + span_before), 0.0)
    monotone = np.where(between, monotone_slope(before, secant, span_before, span), 0.0)
    keys = np.arange(len(secant))
    by_kind = np.zeros((len(HandleKind), len(secant)))  # flat and stepped ones have none
    by_kind[HandleKind.SMOOTH], by_kind[HandleKind.NO_OVERSHOOT] = smooth, monotone

    def side(kind: NDArray[np.uint8], toward: Floats, hand: Floats) -> Floats:
        by_kind[HandleKind.LINEAR], by_kind[HandleKind.BY_HAND] = toward, hand
        return np.asarray(by_kind[kind, keys])

    return side(in_kind, np.where(moving_before, before, 0.0), in_hand), side(out_kind, secant, out_hand)


def monotone_slope(before: Floats, after: Floats, span_before: Floats, span_after: Floats) -> Floats:
    """A slope that lets a piecewise cubic pass no key: zero at a turn, else a weighted harmonic mean.

    F. N. Fritsch and J. Butland, "A method for constructing local monotone piecewise cubic interpolants", SIAM J. Sci.
    Stat. Comput. 5 (1984). All arguments (N,): mean slopes of the segments before and after, and their lengths.
    """
    same = (np.sign(before) * np.sign(after)) > 0
    w1 = 2 * span_after + span_before
    w2 = span_after + 2 * span_before
    under = np.where(same, w1 * after + w2 * before, 1.0)
    return np.where(same, before * ((w1 + w2) * after / np.where(under == 0, 1.0, under)), 0.0)


def _within(slope: Floats, length: Floats, rise: Floats) -> Floats:
    """Cap slopes so that a handle ends no higher than the neighbouring key (keeps the hull between both values)."""
    reach = slope * length
    too_far = np.abs(reach) > np.abs(rise)
    return np.where(too_far, rise / length, slope)
