"""Channels of a motion, or of a cycle, led through values on whole frames with as few keys as will do."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.fitted_spans import fitted
from bovrin.motion.handles import gather
from bovrin.shot import Curve, CurveSet, Cycle, EndKind, HandleKind, Key, Rig

Floats = NDArray[np.float64]

LINE = 1e-7
"""How far values may be from a straight line that is told by its ends, metres or radians."""


def led_through(
    curves: CurveSet, rig: Rig, frames: Floats, target: Floats, channels: list[int], cycle: Cycle | None, share: float
) -> CurveSet:
    """Curves whose channels go through their columns of values (F, C) on whole frames (F,), to within a share of the usual
    tolerances. A cycle's frames are those of one round, first and last; its curves go round again afterwards."""
    if cycle is None:
        return fitted(curves, rig, frames, target, channels, share)
    made = fitted(curves.mapped(plain), rig, frames, target, channels, share, goes_round=True)
    return curves.replaced({i: _round(made[i]) for i in channels})


def plain(curve: Curve) -> Curve:
    """A curve that holds outside its keys."""
    return curve.ending(EndKind.HOLD, EndKind.HOLD)


def _round(curve: Curve) -> Curve:
    """A loop that leaves its first key as it comes to its last."""
    if curve.out_kind[0] == HandleKind.STEPPED or curve.out_kind[-2:-1] == HandleKind.STEPPED:
        return curve.ending(EndKind.ROUND, EndKind.ROUND)
    now = gather([curve])
    slope = (float(now.out_slope[0]) + float(now.in_slope[-1])) / 2
    columns = {name: getattr(curve, name).copy() for name in ("in_kind", "out_kind", "in_slope", "out_slope", "joined")}
    for at in (0, -1):
        columns["in_kind"][at] = columns["out_kind"][at] = HandleKind.BY_HAND
        columns["in_slope"][at] = columns["out_slope"][at] = slope
        columns["joined"][at] = True
    return curve.changed(**columns).ending(EndKind.ROUND, EndKind.ROUND)


def is_line(frames: Floats, values: Floats) -> bool:
    """Whether values (F,) on frames lie on a straight line."""
    straight = values[0] + (values[-1] - values[0]) * (frames - frames[0]) / (frames[-1] - frames[0])
    return bool(np.abs(values - straight).max() <= LINE)


def line(frames: Floats, values: Floats, cycle: Cycle | None) -> Curve:
    """A straight line from the first of some values (F,) to the last."""
    kind = HandleKind.LINEAR
    keys = [Key(float(frames[n]), float(values[n]), kind, kind) for n in (0, -1)]
    end = EndKind.HOLD if cycle is None else EndKind.ROUND
    return Curve.from_keys(keys).ending(end, end)
