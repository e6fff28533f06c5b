"""Remedies on curves: flat between equal poses, smooth through a key, held before a key, turned the short way, thinned."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bovrin.craft.curves.bending import set_joined, set_kind
from bovrin.craft.curves.reshaping import without_keeping_shape
from bovrin.craft.curves.rotation import unroll
from bovrin.craft.curves.shapers import shaped
from bovrin.craft.keying.key_sets import keys_on
from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import columns
from bovrin.measure.proof.curves import does_nothing
from bovrin.measure.proof.dense import high_of, noise_of
from bovrin.measure.proof.reading import SEEN
from bovrin.measure.proof.stretches import dense_spans, recorded_rows
from bovrin.motion.evaluate import curve_values
from bovrin.motion.rotations import nearest_euler
from bovrin.shot import Curve, EndKind, HandleKind, KeyRole, Shot
from bovrin.shot.curve import SAME_FRAME

NEAR = 2.0 + SAME_FRAME
"""Frames between two keys up to which a turn between them was not meant."""
FEWEST, FADES = 9, 4.0
"""Keys that can be quieted, and frames over which that begins and ends."""
CUBIC = np.array([-2.0, 3.0, 6.0, 7.0, 6.0, 3.0, -2.0]) / 21.0
"""The cubic nearest to seven frames, on the middle one (A. Savitzky and M. Golay, Analytical Chemistry 36, 1964)."""
MOST_NOISE = 6.0
"""How much quieting may change, in usual fourth differences: twice the deviation of even noise."""
LOOSER = 2.5
"""How much wider than its noise the tolerance is within which a curve is thinned."""


def flattened(shot: Shot, figure: str, channels: Iterable[int], start: float, end: float) -> Shot:
    """Curves that hold between two keys of one value."""
    return _eased(shot, figure, channels, [start, end])


def smoothed(shot: Shot, figure: str, channels: Iterable[int], start: float, end: float) -> Shot:
    """Curves that go through the keys from start to end at one pace; recorded ones go from before them to after them as if those
    frames had not been there."""
    curves, own = shot.curves(figure), list(channels)
    dense = {i: made for i in own if (made := _bridged(curves[i], start, end)) is not None}
    led = shot.with_curves(figure, curves.replaced(dense))
    return _eased(led, figure, [i for i in own if i not in dense], [start, end])


def _bridged(curve: Curve, start: float, end: float) -> Curve | None:
    """A dense curve led over some frames by the cubic through the two keys on either side; None where it is not dense there."""
    first, last = np.searchsorted(curve.frames, [start - SAME_FRAME, end + SAME_FRAME]).tolist()
    beside = [first - 2, first - 1, last, last + 1]
    if not any(a <= start and end <= b for a, b in dense_spans(curve)) or beside[0] < 0 or beside[3] >= len(curve):
        return None
    values, about = curve.values.copy(), curve.frames[first - 1]
    cubic = np.polyfit(curve.frames[beside] - about, values[beside], 3)
    values[first:last] = np.polyval(cubic, curve.frames[first:last] - about)
    return curve.changed(values=values)


def _eased(shot: Shot, figure: str, channels: Iterable[int], frames: list[float]) -> Shot:
    """Keys whose handles are found anew, joined, without overshoot."""
    curves, changes = shot.curves(figure), {}
    for i in channels:
        own = curves[i]
        found = [n for n in (own.index_at(frame) for frame in frames) if n is not None]
        at = np.array([n for n in found if own.out_kind[n] != HandleKind.STEPPED], np.intp)
        if len(at):
            eased = set_joined(set_kind(own, at, HandleKind.NO_OVERSHOOT), at, True)
            free = eased.free.copy()
            free[at] = False
            changes[i] = eased.changed(free=free)
    return shot.with_curves(figure, curves.replaced(changes))


def held_before(shot: Shot, figure: str, channels: Iterable[int], until: float) -> Shot:
    """Curves that rest on their first key's value until a frame, the last pose before they move on their own."""
    curves, changes = shot.curves(figure), {}
    style = KeyStyle(HandleKind.NO_OVERSHOOT, KeyRole.KEY_POSE)
    for i in channels:
        own = curves[i]
        if own.before is EndKind.STRAIGHT:
            own = own.ending(before=EndKind.HOLD)
        if len(own) > 1 and own.frames[0] < until - SAME_FRAME and own.frames[1] > until + SAME_FRAME:
            first = np.array([0])
            own = keyed(own, until, float(own.values[0]), style)
            own = set_joined(set_kind(own, np.append(first, 1), HandleKind.NO_OVERSHOOT), np.append(first, 1), True)
        changes[i] = own
    return shot.with_curves(figure, curves.replaced(changes))


def turned_short(shot: Shot, figure: str, control: int, start: float, end: float) -> Shot:
    """A control that turns from one key to the next the short way; what comes later is turned by whole turns along."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    if end - start <= NEAR:
        return unroll(shot, figure, [control])
    cols = columns(rig, control, "rotate")
    used = [i for i in cols if i >= 0]
    at = np.array([start, end])
    angles = np.stack([curve_values(curves[i], at, rig.defaults[i]) if i >= 0 else np.zeros(2) for i in cols], -1)
    order = rig.controls[control].order
    wanted = nearest_euler(angles[1:], angles[:1], order)[0]
    by = wanted - angles[1]
    turns = np.round(by / (2 * np.pi)) * 2 * np.pi
    if (
        np.abs(by - turns).max() > 1e-6
    ):  # written the other way it is nearer still, but then all that follows would be, too
        turns = np.round((angles[0] - angles[1]) / (2 * np.pi)) * 2 * np.pi
    changes = {}
    for i in used:
        turn = float(turns[cols.index(i)])
        if turn:
            own = curves[i]
            later = own.frames > end - SAME_FRAME
            changes[i] = own.changed(values=np.where(later, own.values + turn, own.values))
    if not changes:
        raise BadMotion(
            f"'{rig.controls[control].name}' has no shorter way from {start:g} to {end:g}.",
            advice="Give it another rotation order, or a breakdown.",
        )
    return shot.with_curves(figure, curves.replaced(changes))


def calmed(shot: Shot, figure: str, channels: Iterable[int], start: float, end: float) -> Shot:
    """Dense curves from which only their noise goes: a recording keeps its keys, others are told by fewer, each as near as it
    trembled."""
    rig, curves, own = shot.figure(figure).rig, shot.curves(figure), list(channels)
    frames = np.arange(np.ceil(start), np.floor(end) + 1)
    if recorded_rows(curves.curves, frames).mean() > 0.5:
        return shot.with_curves(figure, curves.replaced({i: _quiet(curves[i], start, end) for i in own}))
    for i in own:
        noise = noise_of(curves[i], SEEN[rig.channels[i].unit], start, end)
        if noise > 0:
            shot = shaped(shot, figure, keys_on(curves, [i], start, end), "thin out", LOOSER * noise).shot
    return shot


def _quiet(curve: Curve, start: float, end: float) -> Curve:
    """A dense curve without its noise from start to end: led by the nearest cubics, as near to each key as noise is; so what goes
    quickly stays as quick."""
    inside = (curve.frames >= start - SAME_FRAME) & (curve.frames <= end + SAME_FRAME)
    rows = np.flatnonzero(inside)
    if len(rows) < FEWEST:
        return curve
    values = curve.values[rows]
    most = MOST_NOISE * float(np.median(np.abs(high_of(values))))
    away = np.minimum(np.arange(len(rows)), np.arange(len(rows))[::-1]) / FADES
    led = np.convolve(np.pad(values, 3, mode="edge"), CUBIC, "valid")
    made = curve.values.copy()
    made[rows] += np.clip(led - values, -most, most) * np.minimum(away, 1.0)
    return curve.changed(values=made)


def without_idle(shot: Shot, figure: str, channels: Iterable[int], start: float, end: float) -> Shot:
    """Curves without the in-betweens from start to end that do nothing, and without a pose's keys where start is end."""
    rig, curves, changes = shot.figure(figure).rig, shot.curves(figure), {}
    for i in channels:
        made = _without_idle(curves[i], rig.defaults[i], SEEN[rig.channels[i].unit] or 1.0, start, end)
        if made is not curves[i]:
            changes[i] = made
    return shot.with_curves(figure, curves.replaced(changes))


def _without_idle(curve: Curve, default: float, scale: float, start: float, end: float) -> Curve:
    inside = (curve.frames >= start - SAME_FRAME) & (curve.frames <= end + SAME_FRAME)
    if start < end:
        inside &= curve.role == KeyRole.IN_BETWEEN
    found = curve.frames[inside & does_nothing(curve, default, scale)]
    made = curve
    for frame in found.tolist():  # of two that lie side by side, one may be needed once the other is gone
        n = made.index_at(frame)
        if n is not None and does_nothing(made, default, scale)[n]:
            made = without_keeping_shape(made, np.array([n]), default)
    return made
