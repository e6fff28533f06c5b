"""When feet are down, set by the animator: kept with the take, and the foot's motion timed anew to fit."""

from __future__ import annotations

import math
from collections.abc import Iterable
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.fitted_spans import fitted
from bovrin.craft.cycle.half import kept_in_step, other_side
from bovrin.craft.cycle.plant import plant
from bovrin.craft.cycle.round_fit import plain
from bovrin.craft.cycle.rounds import begun_at
from bovrin.craft.pose.modes import limb_named
from bovrin.errors import BadMotion
from bovrin.measure.gait.contacts import contacts, cycle_contacts
from bovrin.measure.gait.footing import footing
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, CurveSet, Cycle, EndKind, Rig, Shot, Stretch

Floats = NDArray[np.float64]

LEAST = 1.0
"""Frames that a foot is down, or up, at least."""
FINE = 0.25


def set_contacts(shot: Shot, figure: str, foot: str, spans: Iterable[Stretch] | None) -> Shot:
    """The shot in which a limb is down in these stretches of frames; None: they are found again. Its motion stays as it is."""
    limb_named(shot.figure(figure).rig, foot)
    others = {name: own for name, own in shot.contacts(figure).items() if name != foot}
    if spans is None:
        return shot.with_contacts(figure, others)
    wanted = tuple(sorted((float(a), float(b)) for a, b in spans))
    for a, b in wanted:
        if not (math.isfinite(a) and math.isfinite(b) and a <= b):
            raise BadMotion(
                f"{foot} cannot be down from {a:g} to {b:g}.", advice="Give a first and a later last frame."
            )
    for (_, left), (comes, _) in pairwise(wanted):
        if comes <= left:
            raise BadMotion(
                f"{foot} comes down on {comes:g} before it left on {left:g}.", advice="Give it one stretch."
            )
    return shot.with_contacts(figure, {**others, foot: wanted})


def contacts_retimed(shot: Shot, figure: str, foot: str, old: Stretch, new: Stretch) -> dict[str, tuple[Stretch, ...]]:
    """The contacts of a foot that is down from `new[0]` to `new[1]` instead of `old`, as far as there is room beside it;
    where halves of a cycle mirror one another, those of its mate too."""
    cycle, limb = shot.cycle(figure), limb_named(shot.figure(figure).rig, foot)
    spans = _down(shot, figure, foot)
    low, high = _room(spans, _found(spans, foot, old), cycle, shot)
    start = min(max(new[0], low), high - LEAST)
    high = high if cycle is None else min(high, start + cycle.length - LEAST)
    end = min(max(new[1], start + LEAST), high)
    timed = tuple((start, end) if span == old else span for span in spans)
    mate = _mate(shot.figure(figure).rig, limb) if cycle is not None and cycle.mirrored else None
    if cycle is None or mate is None:
        return {foot: timed}
    return {foot: timed, mate: tuple(sorted(half_a_round_later(span, cycle) for span in timed))}


def _down(shot: Shot, figure: str, foot: str) -> list[Stretch]:
    cycle = shot.cycle(figure)
    return (contacts(shot, figure) if cycle is None else cycle_contacts(shot, figure, cycle)).get(foot, [])


def _found(spans: list[Stretch], foot: str, old: Stretch) -> Stretch:
    if old not in spans:
        raise BadMotion(f"{foot} is not down from {old[0]:g} to {old[1]:g}.")
    return old


def retimed_contact(shot: Shot, figure: str, foot: str, old: Stretch, new: Stretch) -> Shot:
    """The shot in which a foot is down from `new[0]` to `new[1]` instead of `old`: its motion runs faster or slower around it.

    It stays where it is while it is down. Other contacts of the foot, and everything else, stay as they are.
    """
    rig = shot.figure(figure).rig
    limb, cycle = limb_named(rig, foot), shot.cycle(figure)
    spans = _down(shot, figure, foot)
    own = contacts_retimed(shot, figure, foot, old, new)
    start, end = own[foot][spans.index(old)]
    if (start, end) == old:
        return shot
    low, high = _room(spans, old, cycle, shot)
    high = high if cycle is None else min(high, start + cycle.length - LEAST)
    curves = shot.curves(figure)
    goal = [c for c in rig.span(rig.limbs[limb].goal) if len(curves[c])]
    warp = np.array([[low - LEAST, *old, high + LEAST], [low - LEAST, start, end, high + LEAST]])
    if cycle is None:
        frames = np.union1d(np.arange(np.ceil(warp[1, 0]), np.floor(warp[1, -1]) + 1), warp[1])
        made = _warped(curves, rig, goal, frames, warp)
    else:
        made = _warped_round(curves, rig, goal, warp, cycle)
        made = other_side(rig, made, cycle, goal) if len(own) > 1 else made
    around = np.arange(np.floor(warp[1, 0]), np.ceil(warp[1, -1]) + 1)
    ground = footing(shot, figure, around).treadmill(shot.frame_rate)
    placed = shot.with_curves(figure, made).with_contacts(figure, {**shot.contacts(figure), **own})
    return kept_in_step(shot, plant(placed, figure, list(own), ground=ground))


def _mate(rig: Rig, limb: int) -> str | None:
    """The name of the limb of the other side."""
    other = rig.other_side(rig.limbs[limb].goal)
    return next((own.name for own in rig.limbs if own.goal == other), None)


def half_a_round_later(span: Stretch, cycle: Cycle) -> Stretch:
    """A stretch half a round later, begun in the round."""
    start = cycle.folded(span[0] + cycle.length / 2)
    return start, start + span[1] - span[0]


def _room(spans: list[Stretch], old: Stretch, cycle: Cycle | None, shot: Shot) -> Stretch:
    """Between which frames a contact may lie: a frame off those before and after."""
    at = spans.index(old)
    if cycle is not None:
        before = spans[at - 1][1] - (cycle.length if at == 0 else 0.0)
        after = spans[(at + 1) % len(spans)][0] + (cycle.length if at == len(spans) - 1 else 0.0)
        return before + LEAST, after - LEAST
    before = spans[at - 1][1] if at else shot.first - LEAST
    after = spans[at + 1][0] if at + 1 < len(spans) else shot.last + LEAST
    return before + LEAST, after - LEAST


def _warped(curves: CurveSet, rig: Rig, channels: list[int], frames: Floats, warp: Floats) -> CurveSet:
    """Channels that are on frames (F,) as they were on others: warp (2, K), frames before and now."""
    was = np.interp(frames, warp[1], warp[0])
    target = np.zeros((len(frames), len(curves)))
    for i in channels:
        target[:, i] = curve_values(curves[i], was, rig.channels[i].default)
    for start, end in zip(warp[1, :-1], warp[1, 1:], strict=True):
        rows = np.flatnonzero((frames >= start - 1e-6) & (frames <= end + 1e-6))
        if len(rows) > 1:
            moving = [i for i in channels if np.ptp(target[:, i]) > 0]
            curves = fitted(curves, rig, frames[rows], target[rows], moving, FINE)
    return curves


def _warped_round(curves: CurveSet, rig: Rig, channels: list[int], warp: Floats, cycle: Cycle) -> CurveSet:
    """The same of loops: one round, from where the contact begins."""
    first = float(warp[1, 1])
    own = [i for i in channels if curves[i].is_round]
    warp = np.array([[warp[0, 1], warp[0, 2], warp[0, 1] + cycle.length], [first, warp[1, 2], first + cycle.length]])
    frames = np.union1d(np.arange(np.ceil(first), np.floor(first + cycle.length) + 1), warp[1])
    was = np.interp(frames, warp[1], warp[0])
    target = np.zeros((len(frames), len(curves)))
    for i in own:
        target[:, i] = curve_values(curves[i], was)
    turned = curves.replaced({i: plain(begun_at(curves[i], first, cycle.length)) for i in own})
    moving = [i for i in own if np.ptp(target[:, i]) > 0]
    for start, end in zip(warp[1, :-1], warp[1, 1:], strict=True):
        rows = np.flatnonzero((frames >= start - 1e-6) & (frames <= end + 1e-6))
        turned = fitted(turned, rig, frames[rows], target[rows], moving, FINE)
    return curves.replaced({i: _back(turned[i], cycle) for i in moving})


def _back(curve: Curve, cycle: Cycle) -> Curve:
    return begun_at(curve.ending(EndKind.ROUND, EndKind.ROUND), cycle.first, cycle.length)
