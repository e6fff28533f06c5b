"""Overlap: the parts of a chain that come one after another, trail behind, and swing past before they settle.

Keys stay keys of their poses: a part that comes later is late, as `lag` understands it.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.keys import EASED, KeyStyle, keyed
from bovrin.craft.keying.lag import lags_at, pose_keys
from bovrin.craft.keying.retiming import retimed
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, CurveSet, HandleKind, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

NEAREST = 0.25
"""How near late keys may come to others, frames."""
MOVES = 1e-3
"""Radians under which a part of a chain does not turn."""
TRAIL_AT, TRAIL = 0.4, 0.4
"""Where on the way a part trails most, and by what share of the turn at full drag."""
SWING_AFTER, LEAST_GAP = 4.0, 4.0
"""Frames after its arrival that a part is past its pose, and the shortest rest in which it may swing."""
LEAST_SWING = 3.0
"""Frames that a swing takes at least, and that lie between it and the next way."""
BACK = 0.5
"""The share of a swing past a pose that the swing back has, at full settling."""


def delayed(
    shot: Shot, figure: str, controls: Sequence[int], delay: float, start: float | None = None, end: float | None = None
) -> Shot:
    """Each control of a chain so many frames later than the one before it; the first stays. Below 0: sooner.

    Only keys from start to end move. BadMotion when there is no room.
    """
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    changes = {}
    for n, control in enumerate(_chain(rig, controls)):
        by = n * delay
        for i in rig.span(control):
            own = curves[i]
            chosen = _inside(own, start, end)
            if by and chosen.any():
                changes[i] = _moved(own, chosen, by, rig, i)
    return shot.with_curves(figure, curves.replaced(changes)) if changes else shot


def _inside(curve: Curve, start: float | None, end: float | None) -> NDArray[np.bool_]:
    low, high = -np.inf if start is None else start - SAME_FRAME, np.inf if end is None else end + SAME_FRAME
    return np.asarray((curve.frames >= low) & (curve.frames <= high))


def _moved(curve: Curve, chosen: NDArray[np.bool_], by: float, rig: Rig, channel: int) -> Curve:
    frames = np.where(chosen, curve.frames + by, curve.frames)
    if len(frames) > 1 and np.diff(frames).min() < NEAREST:
        raise BadMotion(
            f"there is no room for {rig.channel_names[channel]} to come {abs(by):g} frames {'later' if by > 0 else 'sooner'}.",
            advice="Use a smaller delay, or a shorter span.",
        )
    return retimed(curve, frames)


def _chain(rig: Rig, controls: Sequence[int]) -> list[int]:
    if len(controls) < 2:
        raise BadMotion("a chain has at least two parts.", advice="Choose them in the order they should come.")
    for control in controls:
        if not 0 <= control < len(rig.controls):
            raise BadMotion("the figure has no such control.")
    return list(controls)


def trailed(
    shot: Shot,
    figure: str,
    controls: Sequence[int],
    drag: float = 0.0,
    overshoot: float = 0.0,
    settle: float = 0.0,
    start: float | None = None,
    end: float | None = None,
) -> Shot:
    """Parts of a chain that trail behind on the way (`drag`), swing past where they arrive (`overshoot`) and back (`settle`),
    each a share; the farther down the chain the more. Poses on key frames stay; in-betweens are put, on turning channels."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    chain = _chain(rig, controls)
    changes = {}
    for n, control in enumerate(chain[1:], 1):
        share = n / (len(chain) - 1)
        for i, lead in _turns(rig, chain[n - 1], control):
            own = _swung(curves, rig, i, lead, share, (drag, overshoot, settle), start, end)
            if own is not curves[i]:
                changes[i] = own
    if not changes and (drag or overshoot):
        raise BadMotion(
            "nothing in this chain turns between two poses there.", advice="Choose parts that turn, or another span."
        )
    return shot.with_curves(figure, curves.replaced(changes))


def _turns(rig: Rig, before: int, control: int) -> list[tuple[int, int]]:
    """The turning channels of a control, and for each the one of the control before it that turns alike (-1: none)."""
    leads = {ch.technical: i for i, ch in zip(rig.span(before), rig.controls[before].channels, strict=True)}
    own = zip(rig.span(control), rig.controls[control].channels, strict=True)
    return [(i, leads.get(ch.technical, -1)) for i, ch in own if ch.technical.startswith("rotate")]


def _swung(
    curves: CurveSet,
    rig: Rig,
    channel: int,
    lead: int,
    share: float,
    amounts: tuple[float, float, float],
    start: float | None,
    end: float | None,
) -> Curve:
    """One channel with its in-betweens."""
    own, default = curves[channel], rig.channels[channel].default
    posed = own.frames[(own.role != KeyRole.IN_BETWEEN) & _inside(own, start, end)]
    made, style = own, KeyStyle(EASED, KeyRole.IN_BETWEEN)
    drag, overshoot, settle = amounts
    for n in range(len(posed) - 1):
        a, b = float(posed[n]), float(posed[n + 1])
        turn = _turn(own, a, b, default)
        carried = _turn(curves[lead], a, b, rig.channels[lead].default) if lead >= 0 else 0.0
        turn = turn if abs(turn) > abs(carried) else carried
        if abs(turn) < MOVES or own.out_kind[own.index_at(a) or 0] == HandleKind.STEPPED:
            continue
        if drag and b - a >= 2:
            at = float(np.round(a + TRAIL_AT * (b - a)))
            made = keyed(made, at, _value(own, at, default) - drag * share * TRAIL * turn, style)
        after = float(posed[n + 2]) if n + 2 < len(posed) else b + 3 * SWING_AFTER
        if overshoot and after - b >= LEAST_GAP:
            until = _swings_until(b, after, is_last=n + 2 >= len(posed), drag=bool(drag))
            gap = min(SWING_AFTER, float(np.floor((after - b) / 2)), until - b)
            if gap < LEAST_SWING:
                continue
            past = overshoot * share * turn
            made = keyed(made, b + gap, _value(own, b + gap, default) + past, style)
            if settle and until >= b + 2 * gap and after - b > 2 * gap:
                made = keyed(made, b + 2 * gap, _value(own, b + 2 * gap, default) - past * settle * BACK, style)
            if n + 2 >= len(posed):
                rest = b + 3 * gap
                made = keyed(made, rest, _value(own, rest, default), style)
    return made


def _swings_until(arrives: float, next_pose: float, *, is_last: bool, drag: bool) -> float:
    """The last frame on which a swing may have a key: before the part trails behind on its next way."""
    if is_last or not drag or next_pose - arrives < 2:
        return next_pose
    return float(np.round(arrives + TRAIL_AT * (next_pose - arrives))) - LEAST_SWING


def _turn(curve: Curve, start: float, end: float, default: float) -> float:
    return _value(curve, end, default) - _value(curve, start, default)


def _value(curve: Curve, frame: float, default: float) -> float:
    return float(curve_values(curve, [frame], default)[0])


def broken_up(shot: Shot, figure: str, frame: float, step: float = 1.0) -> Shot:
    """Parts that all come to the pose on a frame at once come one after another: the body so many frames before it, what hangs on
    the body with it, what hangs on that as many frames later. Legs stay, and what is late already."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    keys, lags = pose_keys(curves, frame), lags_at(curves, frame)
    changes = {}
    for part, steps in _steps_from_body(rig).items():
        by = (min(steps, 2) - 1) * step
        for i in rig.part_channels(part):
            if by and i in keys and not lags[i]:
                chosen = np.isin(curves[i].frames, keys[i])
                changes[i] = _moved(curves[i], chosen, by, rig, i)
    if not changes:
        raise BadMotion(
            f"no part comes to the pose on frame {frame:g} with the others.",
            advice="Go to a pose that all parts share.",
        )
    return shot.with_curves(figure, curves.replaced(changes))


def _steps_from_body(rig: Rig) -> dict[int, int]:
    """How many parts away from the body each part is, the body itself 0; legs count as what hangs on it."""
    feet = {limb.end for limb in rig.limbs if limb.foot is not None} | {
        j for limb in rig.limbs if limb.foot is not None for j in (limb.upper, limb.middle)
    }
    owner = {rig.controls[c].joint: n for n, part in enumerate(rig.parts) for c in part.controls}
    found = {}
    for n, part in enumerate(rig.parts):
        joints = {rig.controls[c].joint for c in part.controls}
        at, seen = rig.joints[min(joints)].parent, set[int]()
        while at >= 0:
            if at in owner and owner[at] != n:
                seen.add(owner[at])
            at = rig.joints[at].parent
        found[n] = 1 if joints & feet else len(seen)
    return found
