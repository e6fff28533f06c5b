"""A span of some channels led through given values with as few keys as will do; what lies outside stays as it is."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.filling import with_roles
from bovrin.craft.curves.spline_fit import fewest_keys, with_span
from bovrin.motion.insert import inserted
from bovrin.shot import HOLDING, CurveSet, Rig, Unit
from bovrin.shot.curve import GRID

Floats = NDArray[np.float64]

TOLERANCES = {
    Unit.LENGTH: 4e-4,
    Unit.ANGLE: 1.2e-3,
    Unit.AMOUNT: 1e-3,
    **dict.fromkeys(HOLDING, 1e-6),
    Unit.NUMBER: 1e-3,
}
"""How far channels may be from what they are led through: metres, radians, shares."""


def fitted(
    curves: CurveSet,
    rig: Rig,
    frames: Floats,
    target: Floats,
    channels: list[int],
    share: float = 1.0,
    may: NDArray[np.bool_] | None = None,
    *,
    goes_round: bool = False,
) -> CurveSet:
    """Curves whose channels go through their columns of values (F, C) on frames (F,), to within a share of the tolerances.

    Their keys on those frames keep their place and what they are; others in the span go. may (F,): frames that may get a key.
    goes_round: the frames are those of a loop.
    """
    found, frames = {}, np.round(frames * GRID) / GRID
    allowed = np.ones(len(frames), bool) if may is None else may
    for i in channels:
        room = np.full((len(frames), 1), TOLERANCES[rig.channels[i].unit] * share)
        cut = inserted(inserted(curves[i], frames[0], rig.channels[i].default), frames[-1], rig.channels[i].default)
        own = cut.frames
        inside = own[(own > frames[0]) & (own < frames[-1])]
        keep = np.unique(np.concatenate([frames[[0, -1]], inside]))
        keep = keep[np.isin(keep, frames)]
        at, slopes = fewest_keys(frames, target[:, i : i + 1], room, keep, allowed, goes_round=goes_round)
        made = with_roles(with_span(cut, frames[at], target[at, i], slopes[:, 0]), cut)
        values = made.values.copy()
        values[np.searchsorted(made.frames, frames[[0, -1]])] = target[[0, -1], i]
        found[i] = made.changed(values=values)
    return curves.replaced(found)
