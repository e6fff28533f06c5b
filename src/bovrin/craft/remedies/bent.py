"""Limbs that are too straight: the body comes nearer to what its hands and feet are on, so that these stay where they are."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.fitted_spans import fitted
from bovrin.craft.curves.shapers import shaped
from bovrin.craft.keying.key_sets import keys_on
from bovrin.craft.pose.modes import limb_channels, limb_named
from bovrin.craft.pose.posing import can_move, moved
from bovrin.errors import BadMotion
from bovrin.figure.body.bends import movers
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import staged
from bovrin.measure.planted import spans
from bovrin.measure.proof.limbs import switch_of
from bovrin.measure.proof.reading import Reading
from bovrin.motion.windows import most_around, soft_mean_around
from bovrin.shot import Rig, Shot

Floats = NDArray[np.float64]

STRETCHED = 0.985
"""The share of its length to which a limb may be stretched."""
MARGIN = 4
FARTHEST = 0.3
"""Metres that the body may be moved."""
ROUNDS = 60
SOFTER = 0.8


def bent(shot: Shot, figure: str, limb: str, start: float, end: float) -> Shot:
    """A limb kept from being straight from start to end: the body gives way; where the limb is posed joint by joint its middle
    joint's curve is softened."""
    read = Reading(shot, figure)
    number = limb_named(read.rig, limb)
    switch = switch_of(read.rig, number)
    start, end = _straight_around(read, number, start, end)
    rows = np.flatnonzero((read.frames >= start - MARGIN) & (read.frames <= end + MARGIN))
    if len(rows) < 2:
        raise BadMotion("that is one frame: there is nothing to bend.", advice="Choose a longer span.")
    if switch is None or (read.values[rows, switch] < 0.5).any():
        return _softened(shot, figure, read, number, start, end)
    by = _nearer(read, rows)
    if np.linalg.norm(by, axis=1).max() > FARTHEST:
        raise BadMotion(
            f"the body would have to go {np.linalg.norm(by, axis=1).max() * 100:.0f} cm for {limb} to reach.",
            advice="Bring the goal nearer, or pose the body there.",
        )
    return _body_led(shot, figure, read, rows, by)


def _straight_around(read: Reading, number: int, start: float, end: float) -> tuple[float, float]:
    """The frames from start to end with those beside them on which the limb is as straight."""
    everywhere = np.arange(len(read.frames))
    away = np.linalg.norm(read.solved.goals[:, number] - read.places[:, read.rig.limbs[number].upper], axis=1)
    straight = away > STRETCHED * _length(read, everywhere, number)
    straight |= (read.frames >= start) & (read.frames <= end)
    for first, last in spans(straight):
        if read.frames[first] <= start and read.frames[last] >= end:
            return float(read.frames[first]), float(read.frames[last])
    return start, end


def _softened(shot: Shot, figure: str, read: Reading, number: int, start: float, end: float) -> Shot:
    middle = read.rig.limbs[number].middle
    own = [i for c, what in enumerate(read.rig.controls) if what.joint == middle for i in read.rig.span(c)]
    channels = [i for i in limb_channels(read.rig, number) if i in own]
    chosen = keys_on(shot.curves(figure), channels, start - MARGIN, end + MARGIN)
    if not chosen:
        raise BadMotion("no keys of its bend lie there.", advice="Key the pose there, then bend it.")
    return shaped(shot, figure, chosen, "soften", SOFTER).shot


def _nearer(read: Reading, rows: NDArray[np.intp]) -> Floats:
    """By how much the body goes (F, 3) so that no reaching limb is too straight: the nearest place, by going to one limb after
    another (von Neumann's alternating projections), then evened out over the frames."""
    rig = read.rig
    limbs = [
        n for n in range(len(rig.limbs)) if (s := switch_of(rig, n)) is not None and (read.values[rows, s] > 0.5).all()
    ]
    starts = [read.places[rows, rig.limbs[n].upper] for n in limbs]
    goals = [read.solved.goals[rows, n] for n in limbs]
    lengths = [_length(read, rows, n) * STRETCHED for n in limbs]

    def within(by: Floats) -> Floats:
        for _ in range(ROUNDS):
            for start, goal, length in zip(starts, goals, lengths, strict=True):
                way = goal - start - by
                far = np.linalg.norm(way, axis=1)
                over = np.maximum(far - length, 0.0)
                by = by + way * (over / np.maximum(far, 1e-9))[:, None]
        return by

    first = within(np.zeros((len(rows), 3)))
    size = np.linalg.norm(first, axis=1)
    room = most_around(size, MARGIN - 1, MARGIN - 1)
    most = np.where(size[:, None] > 1e-9, first, first[[int(size.argmax())]]) / np.maximum(size, 1e-9)[:, None]
    most[size <= 1e-9] = first[int(size.argmax())] / max(float(size.max()), 1e-9)
    smooth = soft_mean_around(most * room[:, None], 1.2)
    ends = [n for n in (0, len(rows) - 1) if 0 < rows[n] < len(read.frames) - 1]
    fade = np.ones(len(rows))
    for n in ends:
        away = np.abs(np.arange(len(rows)) - n) / MARGIN
        fade = np.minimum(fade, np.where(away < 1, (1 - np.cos(np.pi * np.minimum(away, 1))) / 2, 1.0))
    return np.asarray(within(smooth * fade[:, None]))


def _length(read: Reading, rows: NDArray[np.intp], number: int) -> Floats:
    limb = read.rig.limbs[number]
    joints = [limb.upper, limb.middle, limb.end]
    return np.asarray(np.linalg.norm(np.diff(read.places[rows][:, joints], axis=1), axis=2).sum(1))


def _body_led(shot: Shot, figure: str, read: Reading, rows: NDArray[np.intp], by: Floats) -> Shot:
    rig: Rig = read.rig
    control = next((c for c, what in enumerate(rig.controls) if what.joint in movers(rig) and can_move(rig, c)), None)
    if control is None:
        raise BadMotion("nothing carries the body of this figure.")
    frames = read.frames[rows]
    span = rig.span(control)
    keys = np.concatenate([shot.curves(figure)[i].frames for i in span])
    frames = np.union1d(frames, keys[(keys > frames[0]) & (keys < frames[-1])])
    goes = np.stack([np.interp(frames, read.frames[rows], by[:, k]) for k in range(3)], -1)
    now = staged(shot, figure, frames)
    target = now.values.copy()
    for row in range(len(frames)):
        for i, value in moved(Stance(rig, now.values[row], now.world[row]), control, goes[row]).items():
            target[row, i] = value
    changed = np.flatnonzero((np.abs(target - now.values) > 1e-9).any(0)).tolist()
    return shot.with_curves(figure, fitted(shot.curves(figure), rig, frames, target, changed)) if changed else shot
