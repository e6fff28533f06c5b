"""Fewer keys, or more, for one motion: a key on every so many frames, or only those that the shape needs."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.spline_fit import fewest_keys, with_span
from bovrin.craft.keying.keys import merged
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.motion.hermite import hermite, hermite_slope
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, HandleKind, KeyRole
from bovrin.shot.curve import GRID, SAME_FRAME

Floats = NDArray[np.float64]

HALF = 0.5
"""Frames between places on which a thinner curve is compared."""
LEAST = 1e-9
AUTO = [HandleKind.SMOOTH, HandleKind.NO_OVERSHOOT]


def thinned(curve: Curve, frames: Floats, tolerance: float, default: float) -> tuple[Curve, float]:
    """A curve without those of some keys (N,) that its shape can do without, and how far it is off at most, on half frames.

    Keys of poses and breakdowns stay. Where no handles come within the tolerance, or the curve steps, it stays as it is.
    """
    own = curve.settled()
    which = np.flatnonzero(np.isin(own.frames, frames))
    if len(which) < 3:
        return curve, 0.0
    first, last = int(which[0]), int(which[-1])
    inner = own.frames[first : last + 1]
    free = np.isin(inner, frames) & (own.role[first : last + 1] == KeyRole.IN_BETWEEN)
    free[[0, -1]] = False
    if not free.any() or (own.out_kind[first:last] == HandleKind.STEPPED).any():
        return curve, 0.0
    looks = np.unique(np.concatenate([inner, np.arange(inner[0], inner[-1], HALF)]))
    wanted = curve_values(own, looks, default)
    room = np.full((len(looks), 1), max(tolerance, LEAST))
    keyed, slopes = fewest_keys(looks, wanted[:, None], room, inner[~free], np.isin(looks, inner))
    if keyed.sum() >= len(inner):
        return curve, 0.0
    made = with_roles(with_span(own, looks[keyed], wanted[keyed], slopes[:, 0]), own)
    off = float(np.abs(curve_values(made, looks, default) - wanted).max())
    return (made, off) if off <= tolerance + LEAST else (curve, 0.0)


def with_roles(made: Curve, own: Curve) -> Curve:
    """The roles that the keys had."""
    at = np.clip(np.searchsorted(own.frames, made.frames - SAME_FRAME), 0, len(own) - 1)
    same = np.abs(own.frames[at] - made.frames) <= SAME_FRAME
    return made.changed(role=np.where(same, own.role[at], made.role).astype(np.uint8))


def filled(curve: Curve, start: float, end: float, every: float, default: float) -> Curve:
    """A curve with a key on every so many frames from start to end, in-betweens; no value changes anywhere."""
    wanted = np.round(np.arange(start, end + SAME_FRAME, every) * GRID) / GRID
    there = curve.frames
    if not len(there):
        return curve
    at = np.clip(np.searchsorted(there, wanted - SAME_FRAME), 0, len(there) - 1)
    missing = wanted[np.abs(there[at] - wanted) > SAME_FRAME]
    missing = missing[(missing > there[0]) & (missing < there[-1])]
    own = curve.settled()
    segment = np.searchsorted(own.frames, missing) - 1
    plain = ~(own.free[segment] | own.free[segment + 1]) & (own.out_kind[segment] != HandleKind.STEPPED)
    made = _cut_plainly(own, missing[plain], segment[plain]) if plain.any() else own
    for frame in missing[~plain].tolist():
        made = inserted(made, frame, default)
    return made.like(curve)


def _cut_plainly(curve: Curve, frames: Floats, segment: NDArray[np.intp]) -> Curve:
    """Keys on frames (M,) of segments whose handles have their usual length: time runs evenly there, so slopes say it all."""
    now = gather([curve])
    start, span = curve.frames[segment], np.diff(curve.frames)[segment]
    t = (frames - start) / span
    course = (
        curve.values[segment],
        span * now.out_slope[segment],
        curve.values[segment + 1],
        span * now.in_slope[segment + 1],
    )
    values = hermite(t, *course)
    slopes = hermite_slope(t, *course) / span
    cut = np.zeros(len(curve) - 1, bool)
    cut[segment] = True
    columns = {n: getattr(curve, n).copy() for n in ("in_kind", "out_kind", "in_slope", "out_slope", "joined")}
    ends = np.concatenate([cut, [False]]) | np.concatenate([[False], cut])
    for side, beside in (("out", np.append(cut, False)), ("in", np.insert(cut, 0, False))):
        kinds = columns[f"{side}_kind"]
        fixed = beside | (ends & np.isin(kinds, AUTO))  # what goes by its neighbours has others now
        columns[f"{side}_slope"][fixed] = getattr(now, f"{side}_slope")[fixed]
        kinds[fixed] = HandleKind.BY_HAND
    columns["joined"] &= ~ends | (np.abs(now.in_slope - now.out_slope) < LEAST)
    count = len(frames)
    hand = np.full(count, HandleKind.BY_HAND, np.uint8)
    new = Curve(
        frames=frames,
        values=values,
        in_kind=hand,
        out_kind=hand,
        in_slope=slopes,
        out_slope=slopes,
        in_length=np.ones(count),
        out_length=np.ones(count),
        joined=np.ones(count, bool),
        free=np.zeros(count, bool),
        role=np.full(count, KeyRole.IN_BETWEEN, np.uint8),
        in_span=np.zeros(count),
        out_span=np.zeros(count),
    )
    return merged(curve.changed(**columns), new)
