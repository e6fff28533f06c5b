"""How hard a span eases out of its first pose and into its last."""

from __future__ import annotations

import numpy as np

from bovrin.craft.curves.splining import splined
from bovrin.craft.keying.keys import changed_curves
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import compiled_set
from bovrin.shot import Curve, HandleKind, Shot


def ease_span(
    shot: Shot, figure: str, start: float, end: float, out: float | None = None, into: float | None = None
) -> Shot:
    """Let the span between the poses on two frames ease, out of the first and into the last by strengths of 0 to 1.

    At 0 the handle points straight at the other key and is a third of the span; at 1 it is level and two thirds. A side
    without a strength is left as it is. Values on both frames stay.
    """
    for strength in (out, into):
        if strength is not None and not 0 <= strength <= 1:
            raise BadMotion(f"an ease of {strength:.0%} is not possible.", advice="Use 0 to 100 %.")
    if not start < end:
        raise BadMotion("a span to ease lies between two poses.", advice="Go to a pose that another one follows.")
    rig = shot.figure(figure).rig
    easing = [i for i, channel in enumerate(rig.channels) if not channel.unit.holds]
    return changed_curves(splined(shot, figure, start, end), figure, easing, lambda c: _eased(c, start, end, out, into))


def measured_ease(shot: Shot, figure: str, start: float, end: float) -> tuple[float, float]:
    """How hard a span eases out and in, 0 to 1: how much flatter handles are than straight, weighed by each channel's way."""
    curves, rig = shot.curves(figure), shot.figure(figure).rig
    now = compiled_set(curves, rig).keys
    sums = np.zeros(3)
    for i, curve in enumerate(curves.curves):
        first, last = curve.index_at(start), curve.index_at(end)
        if first is None or last != first + 1:
            continue
        at = int(now.offset[i]) + first
        rise = float(curve.values[last] - curve.values[first])
        straight = rise / (end - start)
        if straight:
            sums += abs(rise) * np.array([1 - now.out_slope[at] / straight, 1 - now.in_slope[at + 1] / straight, 1.0])
    out, into = np.clip(sums[:2] / sums[2], 0.0, 1.0) if sums[2] else (0.0, 0.0)
    return float(out), float(into)


def _eased(curve: Curve, start: float, end: float, out: float | None, into: float | None) -> Curve:
    curve = curve.settled()
    first, last = curve.index_at(start), curve.index_at(end)
    if out is not None and first is not None and first + 1 < len(curve):
        curve = set_side(curve, "out", first, first + 1, out)
    if into is not None and last is not None and last > 0:
        curve = set_side(curve, "in", last, last - 1, into)
    return curve


def set_side(curve: Curve, side: str, at: int, other: int, strength: float) -> Curve:
    """One handle set by a strength; the key's handles are split, so that the neighbouring span stays."""
    span = abs(float(curve.frames[other] - curve.frames[at]))
    secant = float((curve.values[other] - curve.values[at]) / (curve.frames[other] - curve.frames[at]))
    row = {
        f"{side}_kind": HandleKind.BY_HAND,
        f"{side}_slope": secant * (1 - strength),
        f"{side}_length": span * (1 + strength) / 3,
        "free": True,
        "joined": False,
    }
    curve = _lengths_written(curve, at, "in" if side == "out" else "out")
    columns = {}
    for name, value in row.items():
        column = getattr(curve, name).copy()
        column[at] = value
        columns[name] = column
    return curve.changed(**columns)


def _lengths_written(curve: Curve, at: int, side: str) -> Curve:
    """The length of a key's other handle as it is, since a free key counts it."""
    if curve.free[at]:
        return curve
    beside = at - 1 if side == "in" else at + 1
    lengths = getattr(curve, f"{side}_length").copy()
    if 0 <= beside < len(curve):
        lengths[at] = abs(float(np.subtract(curve.frames[beside], curve.frames[at]))) / 3
    return curve.changed(**{f"{side}_length": lengths})
