"""Work on single curves: moving keys, bending handles, choosing their kind."""

from __future__ import annotations

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.retiming import retimed
from bovrin.craft.keying.timing import room
from bovrin.motion.handles import gather, raised
from bovrin.shot import Curve, HandleKind

Side = Literal["in", "out"]

SHORTEST = 0.02
"""The shortest free handle, in frames; a handle of no length has no slope."""


def set_kind(curve: Curve, which: NDArray[np.intp], kind: HandleKind) -> Curve:
    """Give keys (indices) a handle kind on both sides. By hand: they start from the slopes they have now."""
    curve = curve.settled()
    into, out = curve.in_kind.copy(), curve.out_kind.copy()
    changes = {}
    if kind is HandleKind.BY_HAND:
        now = gather([curve])
        for name, slopes in (("in_slope", now.in_slope), ("out_slope", now.out_slope)):
            column = getattr(curve, name).copy()
            column[which] = slopes[which]
            changes[name] = column
    out[which] = kind
    into[which] = kind if kind is not HandleKind.STEPPED else into[which]
    return curve.changed(in_kind=into, out_kind=out, **changes)


def sharp_contact(curve: Curve, which: NDArray[np.intp]) -> Curve:
    """Split keys (indices) and aim both handles of each at its neighbours, however these move later."""
    return set_joined(set_kind(curve, which, HandleKind.LINEAR), which, False)


def set_joined(curve: Curve, which: NDArray[np.intp], joined: bool) -> Curve:
    """Join or split the two handles of keys; joining takes the mean of both slopes."""
    curve = curve.settled()
    flags = curve.joined.copy()
    flags[which] = joined
    if not joined:
        return curve.changed(joined=flags)
    hand = which[(curve.in_kind[which] == HandleKind.BY_HAND) & (curve.out_kind[which] == HandleKind.BY_HAND)]
    into, out = curve.in_slope.copy(), curve.out_slope.copy()
    into[hand] = out[hand] = (into[hand] + out[hand]) / 2
    return curve.changed(joined=flags, in_slope=into, out_slope=out)


def set_free(curve: Curve, which: NDArray[np.intp], free: bool) -> Curve:
    """Let handles of keys be of any length, starting from the length they have now, or fix them again."""
    curve = curve.settled()
    flags = curve.free.copy()
    now = gather([curve])
    into, out = curve.in_length.copy(), curve.out_length.copy()
    into[which], out[which] = now.in_length[which], now.out_length[which]
    flags[which] = free
    return curve.changed(free=flags, in_length=into, out_length=out)


def bend(curve: Curve, index: int, side: Side, d_frame: float, d_value: float) -> Curve:
    """Drag one handle: its end lies d_frame frames (positive away from the key) and d_value units from the key.

    The key's handle becomes one by hand; a joined one turns with it. With free length the distance counts too, kept
    within the segment so that time never folds back; with fixed length only the slope does.
    """
    curve = curve.settled()
    now = gather([curve])
    sign = 1.0 if side == "out" else -1.0
    spans = np.diff(curve.frames)
    span = (
        spans[index]
        if side == "out" and index < len(spans)
        else spans[index - 1]
        if side == "in" and index > 0
        else 1.0
    )
    run = float(np.clip(d_frame, SHORTEST, span))
    slope = sign * d_value / run
    columns = {
        n: getattr(curve, n).copy() for n in ("in_kind", "out_kind", "in_slope", "out_slope", "in_length", "out_length")
    }
    both = bool(curve.joined[index])
    for name in ("in", "out"):
        own = name == side
        if own or both:
            if columns[f"{name}_kind"][index] != HandleKind.STEPPED or own:
                columns[f"{name}_kind"][index] = HandleKind.BY_HAND
            columns[f"{name}_slope"][index] = slope
        if curve.free[index]:
            length = getattr(now, f"{name}_length")[index]
            columns[f"{name}_length"][index] = run if own else length
    return curve.changed(**columns)


def keys_dragged(curve: Curve, which: NDArray[np.intp], d_frame: float, d_value: float, nearest: float = 1.0) -> Curve:
    """Move keys (indices) in time and value; they stop short of the keys that stay, so that order never changes."""
    if not len(which):
        return curve
    chosen = np.zeros(len(curve), bool)
    chosen[which] = True
    shift = room(curve.frames, chosen, d_frame, nearest)
    values = np.where(chosen, curve.values + d_value, curve.values)
    if not shift:
        return raised(curve, values)
    return raised(retimed(curve, np.where(chosen, curve.frames + shift, curve.frames)), values)
