"""One half of a cycle authored, the other its mirror image half a round later."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import RESULTS
from bovrin.craft.curves.spline_fit import with_span
from bovrin.craft.cycle.rounds import FEWEST, begun_at, close_loop, gained, gone_later, seamless, seams_as_one
from bovrin.craft.keying.keys import merged
from bovrin.craft.keying.lag import poses_of
from bovrin.craft.pose.mirror import Exchange, across, exchange, mirrored_values
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import continuous
from bovrin.motion.evaluate import channel_values, compile_curves, evaluate
from bovrin.motion.insert import inserted
from bovrin.shot import ControlKind, Curve, CurveSet, Cycle, EndKind, KeyRole, Rig, Shot
from bovrin.shot.curve import COLUMN_TYPES, NO_KEYS, SAME_FRAME

Floats = NDArray[np.float64]

NEAR = 2e-7
"""Metres and radians by which a mirrored half may be off on whole frames."""


def mirror_half(shot: Shot, figure: str, start: float, end: float, *, from_second: bool = False) -> Shot:
    """The shot in which a loop's second half is its first mirrored, half a round later, or the other way round.

    The loop is closed first where it is not. BadMotion where the figure has no sides.
    """
    if end - start < FEWEST:
        raise BadMotion(f"a loop from {start:g} to {end:g} has no halves.", advice=f"Give it {FEWEST} frames or more.")
    rig = shot.figure(figure).rig
    if not rig.pairs:
        raise BadMotion(f"'{figure}' has no left and right side.", advice="Author the whole loop.")
    made = close_loop(shot, figure, start, end)
    cycle = made.cycle(figure)
    if cycle is None or (cycle.first, cycle.last) != (start, end):
        raise BadMotion(
            f"'{figure}' has keys before {start:g} or after {end:g}.", advice="Take them out, or copy the take first."
        )
    curves = _mirrored(rig, made.curves(figure), cycle, from_second=from_second)
    return made.with_curves(figure, curves).with_cycle(figure, replace(cycle, mirrored=True))


def _mirrored(
    rig: Rig, curves: CurveSet, cycle: Cycle, *, from_second: bool, touched: Collection[int] | None = None
) -> CurveSet:
    """The curves of a closed loop with one half mirrored into the other. touched: channels of which it is done, and of their
    other sides; all unless said."""
    if from_second:  # the loop begins half a round later, then goes back
        later = Cycle(cycle.middle, cycle.middle + cycle.length)
        own = _both_sides(rig, touched)
        turned = _begun(curves, later, own)
        back = _begun(_mirrored(rig, turned, later, from_second=False, touched=touched), cycle, own)
        return _unless_same(curves, {i: back[i] for i in own})
    curves = _begun(curves, cycle, _both_sides(rig, touched))
    way = across(rig, *exchange(rig, None, "swap"))
    gains = gained(rig, channel_values(curves, rig, np.array([cycle.first, cycle.last])))
    changes = {}
    for to, taken, sign in zip(way.to.tolist(), way.taken.tolist(), way.sign.tolist(), strict=True):
        wanted = touched is None or to in touched or taken in touched
        if wanted and (len(curves[to]) or len(curves[taken])):
            pair = [_keyed_loop(curves[i], cycle, rig.defaults[i]) for i in (to, taken)]
            changes[to] = _joined_halves(pair[0], pair[1], sign, float(gains[to]), cycle)
    changes |= _odd(rig, curves, way.odd, gains, cycle, touched)
    changes |= _whole(rig, curves, gains, cycle, touched)
    return _unless_same(curves, changes)


def _both_sides(rig: Rig, touched: Collection[int] | None) -> list[int]:
    """Channels and those of their other sides; all of them unless said."""
    if touched is None:
        return list(range(len(rig.channels)))
    way = across(rig, *exchange(rig, None, "swap"))
    found = set(touched)
    found |= {to for to, taken in zip(way.to.tolist(), way.taken.tolist(), strict=True) if taken in touched}
    found |= {taken for to, taken in zip(way.to.tolist(), way.taken.tolist(), strict=True) if to in touched}
    odd = {i for c in (*way.odd.targets, *way.odd.sources) for i in rig.span(c)}
    return sorted(found | odd if not odd.isdisjoint(touched) else found)


def _unless_same(curves: CurveSet, changes: dict[int, Curve]) -> CurveSet:
    """Curves with changes, those that are the same as they were left as they are."""
    return curves.replaced({i: new for i, new in changes.items() if not _same(curves[i], new)})


def _same(a: Curve, b: Curve) -> bool:
    if a is b:
        return True
    ends = (a.before, a.after, a.muted) == (b.before, b.after, b.muted)
    return ends and _same_keys(a.settled(), b.settled(), tuple(COLUMN_TYPES))


def _same_keys(a: Curve, b: Curve, columns: Collection[str]) -> bool:
    return all(np.array_equal(getattr(a, name), getattr(b, name)) for name in columns)


def _keyed_loop(curve: Curve, cycle: Cycle, default: float) -> Curve:
    """A loop's curve with keys on its first, middle and last frames; one without keys rests."""
    for frame in (cycle.first, cycle.last):
        curve = inserted(curve, frame, default)
    return curve


def _joined_halves(
    own: Curve, other: Curve, sign: float, gain: float, cycle: Cycle, shift: float | None = None
) -> Curve:
    """The first half of a curve, and that of another, times a sign and moved on by so much, as its second."""
    first, second = _half(own, cycle), _half(other, cycle)
    flipped = second.changed(
        frames=second.frames + cycle.length / 2,
        values=second.values * sign + (gain / 2 if shift is None else shift),
        in_slope=second.in_slope * sign,
        out_slope=second.out_slope * sign,
    )
    last = first.taken(np.array([0])).changed(frames=[cycle.last], values=[float(first.values[0]) + gain])
    whole = merged(merged(first, flipped), last)
    return whole.ending(EndKind.ROUND, EndKind.ROUND).silenced(own.muted)


def _half(curve: Curve, cycle: Cycle) -> Curve:
    """The keys of a loop's first half."""
    own = seamless(curve)
    inside = (own.frames >= cycle.first - SAME_FRAME) & (own.frames < cycle.middle - SAME_FRAME)
    return own.taken(inside)


def _odd(
    rig: Rig, curves: CurveSet, who: Exchange, gains: Floats, cycle: Cycle, touched: Collection[int] | None
) -> dict[int, Curve]:
    """Controls whose axes do not lie mirrored: worked out on every whole frame of both halves."""
    channels = [i for c in who.targets for i in rig.span(c)]
    sources = [i for c in who.sources for i in rig.span(c)]
    if not any(len(curves[i]) and (touched is None or i in touched) for i in sources + channels):
        return {}
    half = np.arange(cycle.first, cycle.middle - SAME_FRAME)
    values = channel_values(curves, rig, half)
    new = mirrored_values(rig, values, who) + gains / 2
    frames = np.concatenate([half, half + cycle.length / 2, [cycle.last]])
    rows = continuous(rig, np.concatenate([values, new, values[:1] + gains]), channels)
    poses = poses_of(curves)
    posed = poses.frames[poses.roles == KeyRole.KEY_POSE]
    posed = np.concatenate([posed, posed + cycle.length / 2])
    found = {}
    for i in channels:
        slopes = np.gradient(rows[:, i], frames)
        around = frames[1] - frames[0] + frames[-1] - frames[-2]
        slopes[[0, -1]] = (rows[1, i] - rows[-2, i] + rows[-1, i] - rows[0, i]) / around
        found[i] = with_span(NO_KEYS, frames, rows[:, i], slopes, posed).ending(EndKind.ROUND, EndKind.ROUND)
    return found


def _whole(
    rig: Rig, curves: CurveSet, gains: Floats, cycle: Cycle, touched: Collection[int] | None
) -> dict[int, Curve]:
    """The figure as a whole does in the second half what it did in the first; what goes to one side, to the other."""
    found = {}
    wholes = [i for c, what in enumerate(rig.controls) if what.kind is ControlKind.WHOLE for i in rig.span(c)]
    for i in wholes:
        if len(curves[i]) < 2 or (touched is not None and i not in touched):
            continue
        own = _keyed_loop(curves[i], cycle, rig.defaults[i])
        swings = rig.channels[i].technical in _ASIDE and abs(gains[i]) < NEAR
        ends = evaluate(compile_curves([own], [0.0]), [cycle.first, cycle.middle])[:, 0]
        shift = float(ends.sum()) if swings else None
        found[i] = _joined_halves(own, own, -1.0 if swings else 1.0, float(gains[i]), cycle, shift)
    return found


_ASIDE = ("translate x", "rotate y", "rotate z")


def _begun(curves: CurveSet, cycle: Cycle, channels: Collection[int]) -> CurveSet:
    """Loops of some channels whose seam lies where a cycle begins."""
    late = [i for i in channels if curves[i].is_round and abs(curves[i].frames[0] - cycle.first) > SAME_FRAME]
    return curves.replaced({i: begun_at(curves[i], cycle.first, cycle.length) for i in late})


def kept_in_step(before: Shot, after: Shot) -> Shot:
    """The shot after an edit in which every loop is one still: what was done to one key of a seam is done to its other, and where
    halves mirror one another, what was done to one is done to the other. A loop that was retimed as a whole is as long as it is
    now."""
    if before.take.name != after.take.name or not _loops(after):
        return after
    made = after
    for figure in after.cast:
        name = figure.name
        old, new, cycle = before.take.curves.get(name), after.curves(name), after.cycle(name)
        if old is None or old is new or len(old) != len(new) or before.cycle(name) != cycle:
            continue
        ends = None if cycle is None else _ends(new, cycle)
        if cycle is not None and ends is not None and ends != (cycle.first, cycle.last):
            made = made.with_cycle(name, replace(cycle, first=ends[0], last=ends[1])).with_contacts(name, {})
            continue
        if RESULTS.holds((kept_in_step, old, new, cycle)):
            continue
        own = seams_as_one(old, new)
        if cycle is not None and cycle.mirrored:
            late = _both_later(figure.rig, old, own)
            own = _other_half(figure.rig, old, own, cycle) if late is None else late
        RESULTS.get(
            (kept_in_step, old, own, cycle), lambda: True
        )  # a tool that keeps step itself is not gone through again
        made = made.with_curves(name, own)
    return made


def _loops(shot: Shot) -> bool:
    return any(curve.is_round for curves in shot.take.curves.values() for curve in curves.curves)


def _ends(curves: CurveSet, cycle: Cycle) -> tuple[float, float] | None:
    """From where to where the loops of a figure go, if they go together; parts that come late go on as long, only later."""
    loops = [c for c in curves.curves if c.is_round]
    firsts = [float(c.frames[0]) for c in loops]
    if not loops or np.ptp([c.frames[-1] - c.frames[0] for c in loops]) > SAME_FRAME:
        return None
    first = cycle.first if cycle.first in firsts else max(firsts, key=firsts.count)
    return first, first + float(loops[0].frames[-1] - loops[0].frames[0])


def _both_later(rig: Rig, old: CurveSet, new: CurveSet) -> CurveSet | None:
    """Curves of which some parts only came later, their other sides as much: halves that mirrored one another do so still. None
    where something else was done, or more to one side than to the other."""
    changed = [i for i, (a, b) in enumerate(zip(old.curves, new.curves, strict=True)) if a is not b]
    late = {i: gone_later(old[i], new[i]) for i in changed}
    if not changed or not all(late.values()):
        return None
    way = across(rig, *exchange(rig, None, "swap"))
    sides = {int(to): int(taken) for to, taken in zip(way.to, way.taken, strict=True)}
    odd = {i for c in (*way.odd.targets, *way.odd.sources) for i in rig.span(c)}
    if any(late.get(sides.get(i, i), by) != by for i, by in late.items()) or odd & late.keys():
        return None
    others = {sides.get(i, i): by for i, by in late.items() if sides.get(i, i) not in late}
    return new.replaced({i: new[i].changed(frames=new[i].frames + by) for i, by in others.items() if len(new[i])})


def _other_half(rig: Rig, old: CurveSet, new: CurveSet, cycle: Cycle) -> CurveSet:
    """Curves whose half that was edited is mirrored into the other; of both edited, the first."""
    changed = {i: pair for i, pair in enumerate(zip(old.curves, new.curves, strict=True)) if pair[0] is not pair[1]}
    partners = _partners(rig)
    if all(partners.get(i, i) not in changed for i in changed):
        return other_side(rig, new, cycle, changed.keys())
    for columns in (("frames", "values"), tuple(COLUMN_TYPES)):
        halves = [any(_keys_differ(*pair, *span, columns) for pair in changed.values()) for span in _spans(cycle)]
        if any(halves):
            return _mirrored(rig, new, cycle, from_second=not halves[0], touched=changed.keys())
    return new


def _partners(rig: Rig) -> dict[int, int]:
    """The channel of the other side of those whose axes lie mirrored."""
    way = across(rig, *exchange(rig, None, "swap"))
    return {int(to): int(taken) for to, taken in zip(way.to, way.taken, strict=True)}


def other_side(rig: Rig, curves: CurveSet, cycle: Cycle, edited: Collection[int]) -> CurveSet:
    """Loops of one side mirrored into those of the other, half a round later."""
    way = across(rig, *exchange(rig, None, "swap"))
    changes = {}
    for to, taken, sign in zip(way.to.tolist(), way.taken.tolist(), way.sign.tolist(), strict=True):
        own = curves[taken]
        if taken in edited and own.is_round:
            gain = float(own.values[-1] - own.values[0])
            flipped = own.changed(
                frames=own.frames + cycle.length / 2,
                values=own.values * sign + gain / 2,
                in_slope=own.in_slope * sign,
                out_slope=own.out_slope * sign,
            )
            changes[to] = begun_at(flipped, cycle.first, cycle.length)
    return _unless_same(curves, changes)


def _spans(cycle: Cycle) -> tuple[tuple[float, float], tuple[float, float]]:
    return (cycle.first, cycle.middle), (cycle.middle, cycle.last)


def _keys_differ(a: Curve, b: Curve, start: float, end: float, columns: Collection[str]) -> bool:
    """Whether two curves have other keys from one frame to before another, as some of their columns have it."""
    one, two = (c.taken((c.frames >= start - SAME_FRAME) & (c.frames < end - SAME_FRAME)) for c in (a, b))
    return not _same_keys(one, two, columns)
