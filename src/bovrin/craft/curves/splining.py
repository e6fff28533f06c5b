"""From stepped to eased motion and back."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.craft.keying.keys import EASED, changed_curves
from bovrin.shot import Curve, CurveSet, HandleKind, Shot
from bovrin.shot.curve import SAME_FRAME

AS_GOOD_AS_FLAT = 1e-300
"""The slope of a flat handle made by hand while its key is stepped: a stepped key of slope 0 has none to go back to."""


def _inside(curve: Curve, start: float | None, end: float | None) -> NDArray[np.bool_]:
    low = -np.inf if start is None else start - SAME_FRAME
    high = np.inf if end is None else end - SAME_FRAME
    return (curve.frames >= low) & (curve.frames < high)


def stepped_curve(curve: Curve, start: float | None = None, end: float | None = None) -> Curve:
    """Each key from start up to (not on) end holds until the next. A handle made by hand keeps its slope meanwhile."""
    held = _inside(curve, start, end) & (curve.out_kind != HandleKind.STEPPED)
    if not held.any():
        return curve
    by_hand = curve.out_kind == HandleKind.BY_HAND
    kept = np.where(by_hand, np.where(curve.out_slope == 0.0, AS_GOOD_AS_FLAT, curve.out_slope), 0.0)
    return curve.changed(
        out_kind=np.where(held, HandleKind.STEPPED, curve.out_kind), out_slope=np.where(held, kept, curve.out_slope)
    )


def splined_curve(curve: Curve, start: float | None = None, end: float | None = None) -> Curve:
    """Each stepped key from start up to (not on) end eases to the next, or leaves as it was made by hand before."""
    held = _inside(curve, start, end) & (curve.out_kind == HandleKind.STEPPED)
    if not held.any():
        return curve
    kind = np.where(curve.out_slope == 0.0, EASED, HandleKind.BY_HAND)
    return curve.changed(out_kind=np.where(held, kind, curve.out_kind))


def stepped(shot: Shot, figure: str, start: float | None = None, end: float | None = None) -> Shot:
    """Poses hold until the next, over the whole shot or a span of frames."""
    return changed_curves(
        shot, figure, range(len(shot.figure(figure).rig.channels)), lambda c: stepped_curve(c, start, end)
    )


def splined(shot: Shot, figure: str, start: float | None = None, end: float | None = None) -> Shot:
    """Stepped poses ease into each other without passing any. Switches stay stepped; keys that are eased stay as they are."""
    rig = shot.figure(figure).rig
    easing = [i for i, channel in enumerate(rig.channels) if not channel.unit.holds]
    return changed_curves(shot, figure, easing, lambda c: splined_curve(c, start, end))


@cached_by_identity
def seen_stepped(shot: Shot) -> Shot:
    """The shot as if all were stepped, to look at."""
    return replace(shot, take=shot.take.mapped(_stepped))


@cached_by_identity
def _stepped(curves: CurveSet) -> CurveSet:
    return curves.mapped(stepped_curve)
