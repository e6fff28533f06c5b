"""A key more on a curve whose shape stays: the segment is cut in two (de Casteljau's construction)."""

from __future__ import annotations

import numpy as np

from bovrin.motion.evaluate import curve_values, solve_time
from bovrin.motion.handles import LEAST, gather
from bovrin.shot import Curve, HandleKind, Key, KeyRole
from bovrin.shot.curve import GRID


def inserted(curve: Curve, frame: float, default: float = 0.0, role: KeyRole = KeyRole.IN_BETWEEN) -> Curve:
    """The curve with a key on a frame, every value as before; itself when there is a key already."""
    frame = round(frame * GRID) / GRID
    if curve.index_at(frame) is not None:
        return curve
    curve = curve.settled()
    at = int(np.searchsorted(curve.frames, frame)) - 1
    if at < 0 or at + 1 >= len(curve) or curve.out_kind[at] == HandleKind.STEPPED:
        return _held(curve, at, frame, default, role)
    all_ = gather([curve])
    span = float(all_.frames[at + 1] - all_.frames[at])
    out, into = float(all_.out_length[at]), float(all_.in_length[at + 1])
    times = np.array([0.0, out, span - into, span])
    low, high = float(all_.values[at]), float(all_.values[at + 1])
    heights = np.array([low, low + all_.out_slope[at] * out, high - all_.in_slope[at + 1] * into, high])
    cubic = np.array([3 * out, 3 * (span - into) - 6 * out, span - 3 * (span - into) + 3 * out]) / span
    share = float(solve_time(cubic[:, None], np.array([(frame - all_.frames[at]) / span]))[0])
    left, right = _cut(np.stack([times, heights], 1), share)
    curve = _by_hand(curve, at, all_, out_length=left[1][0] - left[0][0])
    curve = _by_hand(curve, at + 1, all_, in_length=right[3][0] - right[2][0])
    if curve.is_round and at in (0, len(curve) - 2):  # the seam's other key lies beside this segment too
        curve = _by_hand(curve, len(curve) - 1 if at == 0 else 0, all_)
    before, after = left[3] - left[2], right[1] - right[0]
    key = Key(
        frame,
        float(left[3][1]),
        HandleKind.BY_HAND,
        HandleKind.BY_HAND,
        float(before[1] / max(before[0], LEAST * (frame - all_.frames[at]))),
        float(after[1] / max(after[0], LEAST * (all_.frames[at + 1] - frame))),
        float(before[0]),
        float(after[0]),
        free=True,
        role=role,
    )
    return curve.with_key(key)


def fixed(curve: Curve, frame: float) -> Curve:
    """The curve whose key on a frame keeps the slopes that it has now, whatever keys come beside it; itself where none is there,
    or it is fixed already."""
    at = curve.index_at(frame)
    if at is None or curve.in_kind[at] == curve.out_kind[at] == HandleKind.BY_HAND:
        return curve
    own = curve.settled()
    if HandleKind.STEPPED in (own.in_kind[at], own.out_kind[at]):
        return curve
    return _by_hand(own, at, gather([own]))


def _held(curve: Curve, at: int, frame: float, default: float, role: KeyRole) -> Curve:
    """Where the curve stands still: nothing to cut, the new key holds what is held."""
    holds = len(curve) and not curve.runs_on
    value = float(curve.values[max(at, 0)] if holds else curve_values(curve, [frame], default)[0])
    if at >= 0 and at + 1 < len(curve):
        return curve.with_key(Key(frame, value, HandleKind.FLAT, HandleKind.STEPPED, role=role))
    stepped = len(curve) and curve.out_kind[max(at, 0)] == HandleKind.STEPPED
    if len(curve):  # the outermost key gets a neighbour: its slopes stay, and it is flat toward the new one
        beside = max(at, 0)
        curve = _by_hand(curve, beside, gather([curve]), **{"out_slope" if at >= 0 else "in_slope": 0.0})
    kind = HandleKind.STEPPED if stepped else HandleKind.FLAT
    return curve.with_key(Key(frame, value, HandleKind.FLAT, kind, role=role))


def _cut(points: np.ndarray, share: float) -> tuple[np.ndarray, np.ndarray]:
    """The two control polygons (4, 2) of a cubic (4, 2) cut at a share."""
    left, right = [points[0]], [points[-1]]
    while len(points) > 1:
        points = points[:-1] + (points[1:] - points[:-1]) * share
        left.append(points[0])
        right.append(points[-1])
    return np.array(left), np.array(right[::-1])


def _by_hand(curve: Curve, at: int, now: object, **changes: float) -> Curve:
    """One key with the slopes and lengths that it has now written into it, some of them changed."""
    columns = {}
    for name in ("in_slope", "out_slope", "in_length", "out_length"):
        column = getattr(curve, name).copy()
        column[at] = changes.get(name, getattr(now, name)[at])
        columns[name] = column
    for name in ("in_kind", "out_kind"):
        kinds = getattr(curve, name).copy()
        if kinds[at] != HandleKind.STEPPED:
            kinds[at] = HandleKind.BY_HAND
        columns[name] = kinds
    for name, value in (("free", True), ("joined", False)):
        flags = getattr(curve, name).copy()
        flags[at] = value
        columns[name] = flags
    return curve.changed(**columns)
