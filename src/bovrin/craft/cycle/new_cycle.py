"""A cycle laid out by a gait: key poses with the feet where the gait puts them, the body still neutral."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.cycle import footfall
from bovrin.craft.cycle.gaits import Gait, gait_for, in_table_order, sides_alternate
from bovrin.craft.cycle.round_fit import line
from bovrin.craft.keying.exact_keys import EASED
from bovrin.errors import BadMotion
from bovrin.figure.ground.feet import Foothold, footholds, footing_of
from bovrin.figure.making.setup import taken_for
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import columns, plan_of, special_column
from bovrin.figure.solve.reach import by_channel, goal_matrices
from bovrin.figure.solve.rest_space import move_values, rest_plan, rest_turns
from bovrin.figure.staging import staged
from bovrin.measure.proof.curves import maybe_idle
from bovrin.measure.proof.limbs import bend_of
from bovrin.motion.evaluate import channel_values, compile_curves, evaluate
from bovrin.shot import (
    Card,
    ChannelRole,
    ControlKind,
    Curve,
    Cycle,
    EndKind,
    Key,
    KeyRole,
    Rig,
    Shot,
    Stretch,
)
from bovrin.shot.checks import check_range
from bovrin.shot.curve import columns_like, sound_column, sound_frames

Floats = NDArray[np.float64]

FEWEST, MOST = 4, 2000
"""Frames that a cycle may have."""
EIGHTHS = 8
WORDS = ("contact", "down", "passing", "up")
SOFTER = np.linspace(0.0, 0.15, 16)
"""Shares of a leg by which a body is tried lower, so that no leg snaps straight."""
SNAPS, NEARLY = 16.0, 18.0
"""Degrees by which the pace of a leg that is about straight may jump on a frame, and the bend from which on it is about so."""
AWAY, STANDS, LOOKED_AT = 0.4, 10.0, 500
"""The share of a leg from which on a figure does not stand where it is at rest; the percentage of frames on which a sole is lower
than the ground it stands on; and frames that are looked at for that."""
STRAIGHT = 0.992
"""Share of a leg's length that a neutral body keeps its feet within."""


def new_cycle(
    shot: Shot, figure: str, gait: str, frames: int, stride: float, start: float | None = None, *, spot: bool = False
) -> Shot:
    """The shot in which a figure's motion is a cycle of so many frames that goes `stride` metres a round, on the spot if wanted.

    Its key poses are contact, down, passing and up of both sides; feet are down, roll and swing as the gait has them, legs reach,
    and the body is as at rest but low enough for them. The figure stays where it stood at `start`, the shot's first frame
    unless said. What moved it before is gone.
    """
    rig = shot.figure(figure).rig
    feet = in_table_order(footholds(rig))
    plan = gait_for(feet, gait)
    _check(frames, stride)
    begin = shot.first if start is None else start
    check_range("the cycle", begin, begin + frames)
    first = float(round(begin))
    plan = _on_whole_frames(plan, frames)
    base = _where_it_stood(shot, figure, first, _base(shot, figure, first), feet)
    poses = _poses(first, frames)
    still = _pose_columns(poses)
    curves = {i: _held(still, base[i]) for i in range(len(base)) if i not in rig.of_followers}
    for foot, fall in zip(feet, plan.falls, strict=True):
        curves |= _foot_curves(rig, foot, plan, fall, first, float(frames), stride, poses)
    drop = _drop(rig, feet, curves, base, first, frames, stride)
    for i, value in _lowered(rig, base, drop).items():
        curves[i] = _held(still, value)
    curves = {i: _without_idle_keys(curve) for i, curve in curves.items()}
    if not spot:
        curves |= _travel(rig, base, first, frames, stride)
    made = shot.with_curves(figure, shot.curves(figure).replaced(curves))
    made = made.with_cycle(figure, Cycle(first, first + frames, gait, _mirrors(rig, plan)))
    made = made.with_contacts(figure, _contacts(feet, plan, first, frames))
    return _ranged(made.with_cards(figure, _cards(poses, len(feet))), figure, first, frames)


def _check(frames: int, stride: float) -> None:
    if not math.isfinite(frames) or frames != int(frames) or not FEWEST <= frames <= MOST:
        raise BadMotion(
            f"a cycle of {frames:g} frames cannot be laid out.", advice=f"Give it {FEWEST} to {MOST} whole frames."
        )
    if not (math.isfinite(stride) and stride >= 0):
        raise BadMotion(f"a stride of {stride:g} m is not possible.", advice="Give a length of 0 or more.")


def _on_whole_frames(gait: Gait, frames: int) -> Gait:
    """The gait with footfalls on whole frames, or half frames where both halves of an odd number are alike."""
    alike = sides_alternate(gait)
    falls = [round(fall * frames) / frames for fall in gait.falls]
    if alike:
        falls[1::2] = [(left + 0.5) % 1.0 for left in falls[::2]]
    bears = min(max(round(gait.bears * frames), 1), frames - 1) / frames
    return gait._replace(falls=tuple(falls), bears=bears)


def _base(shot: Shot, figure: str, frame: float) -> Floats:
    """The channels (C,) of the body at rest, where the figure stands; legs reach, other limbs are posed joint by joint."""
    rig = shot.figure(figure).rig
    base = np.array(rig.defaults, float)
    now = channel_values(shot.curves(figure), rig, [frame])[0]
    for control, what in enumerate(rig.controls):
        if what.kind is ControlKind.WHOLE:
            base[list(rig.span(control))] = now[list(rig.span(control))]
    for limb in rig.limbs:
        switch = special_column(rig, limb.goal, ChannelRole.REACH)
        if switch >= 0:
            base[switch] = float(limb.foot is not None)
    return base


def _where_it_stood(shot: Shot, figure: str, frame: float, base: Floats, feet: Sequence[Foothold]) -> Floats:
    """A pose at rest (C,) over the place where the figure stood and on the ground that its feet stood on: of recorded figures the
    hips may hold the whole travel, and rest far below it."""
    curves = [c for c in shot.curves(figure).curves if len(c)]
    if not curves or not feet:
        return base
    rig, leg = shot.figure(figure).rig, min(foot.leg for foot in feet)
    first, last = min(float(c.frames[0]) for c in curves), max(float(c.frames[-1]) for c in curves)
    frames = np.append(frame, np.linspace(first, last, int(min(max(last - first, 1), LOOKED_AT))))
    now, rest = staged(shot, figure, frames).world, solve(rig, base[None])
    hips, by = taken_for(rig).hips, np.zeros(3)
    gone = (now[0, hips] - rest[0, hips])[:3, 3]
    if np.hypot(gone[0], gone[2]) > AWAY * leg:
        by[[0, 2]] = gone[[0, 2]]
    soles = [footing_of(rig, at, world).points[..., 1].min((0, 2)) for at, world in ((frames, now), (frames[:1], rest))]
    up = float(np.percentile(soles[0], STANDS)) - float(soles[1][0])
    by[1] = up if abs(up) > AWAY * leg else 0.0
    made = base.copy()
    for i, value in (moved_by(rig, whole_control(rig), base, by) if by.any() else {}).items():
        made[i] = value
    return made


def _poses(first: float, frames: int) -> dict[float, KeyRole]:
    """Contact, down, passing and up of both sides, on whole frames, and the first again at the end."""
    half = frames / 2
    found: dict[float, KeyRole] = {}
    for turn in (0.0, half):
        for n in range(EIGHTHS // 2):
            frame = first + turn + round(frames * n / EIGHTHS)
            found.setdefault(frame, KeyRole.KEY_POSE if n == 0 else KeyRole.BREAKDOWN)
    return {**dict(sorted(found.items())), first + frames: KeyRole.KEY_POSE}


def _pose_columns(poses: dict[float, KeyRole]) -> dict[str, NDArray[Any]]:
    """The columns of eased keys on poses."""
    alike = columns_like(Key(0.0, 0.0, EASED, EASED), sound_frames(list(poses)))
    return {**alike, "role": sound_column("role", list(poses.values()))}


def _held(keys: dict[str, NDArray[Any]], value: float) -> Curve:
    """A loop that holds a value on keys of such columns."""
    return Curve.from_parts({"values": np.full(len(keys["frames"]), value)}, keys).ending(EndKind.ROUND, EndKind.ROUND)


def _without_idle_keys(curve: Curve) -> Curve:
    """A curve without the in-betweens that hold what is held on both sides."""
    if not (curve.role == KeyRole.IN_BETWEEN).any():
        return curve
    level, _ = maybe_idle(curve)
    idle = np.zeros(len(curve), bool)
    idle[level] = curve.role[level] == KeyRole.IN_BETWEEN
    return curve.taken(~idle) if idle.any() else curve


def _foot_curves(
    rig: Rig,
    foot: Foothold,
    gait: Gait,
    fall: float,
    first: float,
    frames: float,
    stride: float,
    poses: dict[float, KeyRole],
) -> dict[int, Curve]:
    goal = rig.limbs[foot.limb].goal
    _, up, ahead = columns(rig, goal, "translate")
    nodes = {
        ahead: footfall.forward_nodes(gait, stride),
        up: footfall.height_nodes(gait, gait.lift * foot.leg),
        special_column(rig, goal, ChannelRole.HEEL): footfall.heel_nodes(gait),
        special_column(rig, goal, ChannelRole.BALL): footfall.ball_nodes(gait),
    }
    return {i: footfall.round_curve(own, fall, first, frames, poses) for i, own in nodes.items() if i >= 0}


def _drop(
    rig: Rig, feet: Sequence[Foothold], curves: dict[int, Curve], base: Floats, first: float, frames: int, stride: float
) -> float:
    """Metres by which the body must be lower than at rest so that every leg reaches its foot on every frame."""
    every = np.arange(first, first + frames + 1)
    values = np.tile(base, (len(every), 1))
    own = sorted(i for i in curves if len(set(curves[i].values.tolist())) > 1)
    if own:
        values[:, own] = evaluate(compile_curves([curves[i] for i in own], base[own].tolist()), every)
    return _soft_drop(rig, feet, values, base, drop_for(rig, feet, values, stride))


def _soft_drop(rig: Rig, feet: Sequence[Foothold], values: Floats, base: Floats, least: float) -> float:
    """The least drop, from one that legs reach with on, with which no leg snaps straight in a round of poses (F, C): a knee that
    comes near straight at a pace is kept bent a little. Where none will do, the one with which legs snap least."""
    leg = min((foot.leg for foot in feet), default=0.0)
    drops = max(least, 0.0) + leg * SOFTER
    snaps = []
    for drop in drops.tolist():
        own = values[:-1].copy()
        for i, value in moved_by(rig, body_control(rig), base, np.array([0.0, -drop, 0.0])).items():
            own[:, i] = value
        places = solve(rig, own)[..., :3, 3]
        limbs = [rig.limbs[foot.limb] for foot in feet]
        snaps.append(max((_snap(bend_of(places, x.upper, x.middle, x.end)) for x in limbs), default=0.0))
        if snaps[-1] <= SNAPS:
            return drop if drop > 0 else least
    return float(drops[int(np.argmin(snaps))])


def _snap(bend: Floats) -> float:
    """By how many degrees the pace of a bend (F,) jumps at most where the leg is about straight, over a round."""
    before, after = np.roll(bend, 1), np.roll(bend, -1)
    near = np.minimum(np.minimum(bend, before), after) < NEARLY
    return float(np.abs(after - 2 * bend + before)[near].max(initial=0.0))


def drop_for(rig: Rig, feet: Sequence[Foothold], values: Floats, stride: float) -> float:
    """Metres by which the body must be lower than in poses (F, C) so that every leg reaches its foot. BadMotion says how long a
    stride may be where lowering does not help."""
    still = rig_at_rest(rig, values)
    plan = plan_of(rig)
    assert plan.limbs is not None
    world = solve(rig, still)
    goals = goal_matrices(plan, by_channel(still), world.swapaxes(0, 1))[..., :3, 3]
    drop = 0.0
    for foot in feet:
        hip = world[:, rig.limbs[foot.limb].upper, :3, 3]
        away = goals[foot.limb] - hip
        room = (STRAIGHT * foot.leg) ** 2 - (away[:, [0, 2]] ** 2).sum(1)
        if room.min() <= (0.2 * foot.leg) ** 2:
            most = stride * 0.9 * foot.leg / max(float(np.abs(away[:, [0, 2]]).max()), 1e-9)
            raise BadMotion(
                f"legs of {foot.leg:.2f} m cannot take a stride of {stride:.2f} m in this gait.",
                advice=f"Up to {most:.2f} m will do.",
            )
        drop = max(drop, float((-np.sqrt(room) - away[:, 1]).max()))
    return drop


def rig_at_rest(rig: Rig, values: Floats) -> Floats:
    """Values (F, C) with the whole figure where it is at rest."""
    still = values.copy()
    for control, what in enumerate(rig.controls):
        if what.kind is ControlKind.WHOLE:
            span = list(rig.span(control))
            still[:, span] = np.array(rig.defaults)[span]
    return still


def body_control(rig: Rig) -> int:
    """The control that carries the body over its feet: the hips, or the whole figure where hips cannot be moved."""
    hips = taken_for(rig).hips
    for control, what in enumerate(rig.controls):
        if what.joint == hips and what.kind is ControlKind.JOINT and max(columns(rig, control, "translate")) >= 0:
            return control
    return whole_control(rig)


def whole_control(rig: Rig) -> int:
    """The control of the whole figure. BadMotion where there is none that moves."""
    for control, what in enumerate(rig.controls):
        if what.kind is ControlKind.WHOLE and min(columns(rig, control, "translate")) >= 0:
            return control
    raise BadMotion("this figure cannot travel: nothing moves it as a whole.", advice="Set it up anew.")


def moved_by(rig: Rig, control: int, base: Floats, by: Floats) -> dict[int, float]:
    """The channels of a control that moves so far (3,), metres in the figure's axes at rest, from a pose (C,)."""
    row = np.flatnonzero(rest_plan(rig).movers == control)
    made = np.zeros((1, len(base)))
    move_values(rig, np.asarray(by, float)[None, None], row, made)
    return {c: float(base[c] + made[0, c]) for c in columns(rig, control, "translate") if c >= 0}


def _lowered(rig: Rig, base: Floats, drop: float) -> dict[int, float]:
    return moved_by(rig, body_control(rig), base, np.array([0.0, -drop, 0.0])) if drop > 0 else {}


def _travel(rig: Rig, base: Floats, first: float, frames: int, stride: float) -> dict[int, Curve]:
    """The whole figure goes ahead, the way it faces, at one speed."""
    whole = whole_control(rig)
    row = np.flatnonzero(rest_plan(rig).turners == whole)
    turn = rest_turns(rig, base[None], row)[0, 0] if len(row) else np.eye(3)
    goes = moved_by(rig, whole, base, turn @ np.array([0.0, 0.0, stride]))
    ends, round_ = np.array([first, first + frames]), Cycle(first, first + frames)
    return {i: line(ends, np.array([base[i], value]), round_) for i, value in goes.items()}


def _mirrors(rig: Rig, gait: Gait) -> bool:
    return bool(rig.pairs) and sides_alternate(gait)


def _contacts(feet: Sequence[Foothold], gait: Gait, first: float, frames: int) -> dict[str, tuple[Stretch, ...]]:
    found: dict[str, tuple[Stretch, ...]] = {}
    for foot, fall in zip(feet, gait.falls, strict=True):
        start = first + (fall % 1.0) * frames
        found[foot.name] = ((start, start + gait.bears * frames),)
    return found


def _cards(poses: dict[float, KeyRole], feet: int) -> list[Card]:
    """The poses under their names."""
    words = WORDS if feet == 2 else ("", "", "", "")
    frames = list(poses)[:-1]
    if len(frames) != EIGHTHS:
        return []
    return [Card(frame, words[n % 4]) for n, frame in enumerate(frames) if words[n % 4]]


def _ranged(shot: Shot, figure: str, first: float, frames: int) -> Shot:
    """The shot with the cycle in its range; one round of it where nothing else moves."""
    others = any(len(c) for name, own in shot.take.curves.items() if name != figure for c in own.curves)
    if others:
        return replace(shot, last=max(shot.last, first + frames - 1))
    return replace(shot, first=first, last=first + frames - 1, loops=True)
