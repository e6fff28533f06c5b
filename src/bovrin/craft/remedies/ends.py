"""Ends of limbs led over a span: feet planted where they came down, hands and feet lifted out of the ground."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.arcs.arc_pull import PointPull
from bovrin.craft.curves.fitted_spans import fitted
from bovrin.craft.pose.modes import limb_channels, limb_named
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import staged
from bovrin.measure.proof.feet import ground_of, steady_sole, stretches_down
from bovrin.measure.proof.reading import Reading
from bovrin.shot import Rig, Shot

Floats = NDArray[np.float64]

OVER = 0.001
"""Metres over the ground to which what was below is lifted."""
MARGIN = 3
"""Frames before and after over which a lift comes and goes."""
SAME = 1e-9
ROUNDS = 3


def planted_foot(shot: Shot, figure: str, limb: str, start: float, end: float) -> Shot:
    """A foot that is down around a span stays where it came down; on the way to the next step it catches up."""
    read = Reading(shot, figure)
    number = limb_named(read.rig, limb)
    points = steady_sole(read, number)
    middle = (start + end) / 2
    every = stretches_down(read, number)
    spans = [(a, b) for a, b in every if read.frames[a] >= start - SAME and read.frames[b] <= end + SAME]
    spans = spans if len(spans) > 1 else [(a, b) for a, b in every if read.frames[a] <= middle <= read.frames[b]][:1]
    if not spans:
        raise BadMotion(f"{limb} is not down from frame {start:g} to {end:g}.")
    steps = np.diff(points, axis=0) * [1.0, 0.0, 1.0]
    size = np.linalg.norm(steps, axis=2)
    least = steps[np.arange(len(steps)), size.argmin(1)]
    back = np.zeros((len(read.frames), 3))
    for first, last in spans:
        back[first + 1 : last + 1] = -np.cumsum(least[first:last], axis=0)
        until = next((a for a, _ in every if a > last), len(read.frames) - 1)
        if last < len(read.frames) - 1 and until > last:
            share = (np.arange(last, until + 1) - last) / (until - last)
            back[last : until + 1] = back[last] * ((1 + np.cos(np.pi * share)) / 2)[:, None]
    return led(shot, figure, number, read, spans[0][0], until, back)


def lifted(shot: Shot, figure: str, limb: str, start: float, end: float) -> Shot:
    """A hand or foot out of the ground from start to end."""
    read = Reading(shot, figure)
    number = limb_named(read.rig, limb)
    points = read.solved.ends[number]
    low = points[..., 1].min(1) if points.shape[1] else read.places[:, read.rig.limbs[number].end, 1]
    chosen = (read.frames >= start - MARGIN) & (read.frames <= end + MARGIN)
    up = np.zeros((len(read.frames), 3))
    up[chosen, 1] = np.maximum(ground_of(read) + OVER - low[chosen], 0.0)
    rows = np.flatnonzero(chosen)
    return led(shot, figure, number, read, int(rows[0]), int(rows[-1]), up)


def led(shot: Shot, figure: str, number: int, read: Reading, first: int, last: int, by: Floats) -> Shot:
    """A limb's end moved by so much (F, 3), metres, from one row of frames to another; it keeps its turn."""
    rig, joint = read.rig, read.rig.limbs[number].end
    if last <= first:
        raise BadMotion("that is one frame: there is nothing to lead.", advice="Choose a longer span.")
    wanted = _within_reach(read, number, read.places[:, joint] + by)
    keys = [c.frames[-1] for c in shot.curves(figure).curves if len(c)]
    if keys and not any(c.runs_on for c in shot.curves(figure).curves):  # after the last key all rests
        last = max(min(last, int(np.searchsorted(read.frames, max(keys) - SAME))), first + 1)
    whole = read.frames[first : last + 1]
    made = shot
    for n in range(ROUNDS):
        frames = _with_keys(made, rig, figure, number, whole)
        target = staged(made, figure, frames).values.copy()
        goes_to = np.stack([np.interp(frames, read.frames, wanted[:, k]) for k in range(3)], -1)
        for row in range(len(frames)):
            pull = PointPull(Stance(rig, target[row]), joint, np.zeros(3))
            for i, value in pull.to(goes_to[row]).items():
                target[row, i] = value
        now = staged(made, figure, frames).values
        changed = np.flatnonzero((np.abs(target - now) > SAME).any(0)).tolist()
        if not changed:
            break
        curves = fitted(made.curves(figure), rig, frames, target, changed, 0.4**n)
        made = shot.with_curves(figure, curves)
        off = staged(made, figure, whole).places[:, joint] - wanted[first : last + 1]
        if np.linalg.norm(off, axis=1).max() < OVER / 4:
            break
    return made


def _within_reach(read: Reading, number: int, wanted: Floats) -> Floats:
    """Places (F, 3) for a limb's end, those beyond its length nearer: led past it, it would hang behind its goal."""
    limbs, limb = plan_of(read.rig).limbs, read.rig.limbs[number]
    if limbs is None:
        return wanted
    length = float(limbs.length_upper[number] + limbs.length_middle[number] - limbs.room[number])
    upper = read.places[:, limb.upper]
    away = np.linalg.norm(wanted - upper, axis=1)
    now = np.linalg.norm(read.places[:, limb.end] - upper, axis=1)
    most = np.maximum(length, now)
    return np.asarray(upper + (wanted - upper) * np.minimum(most / np.maximum(away, SAME), 1.0)[:, None])


def _with_keys(shot: Shot, rig: Rig, figure: str, number: int, whole: Floats) -> Floats:
    """Some whole frames, and those between on which the limb has keys."""
    curves = shot.curves(figure)
    keys = np.concatenate([curves[i].frames for i in limb_channels(rig, number)])
    return np.union1d(whole, keys[(keys > whole[0]) & (keys < whole[-1])])
