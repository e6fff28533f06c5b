"""Planted feet: each stays where it is for as long as it is down, rolling over heel and ball, and the hips give way.

After L. Kovar, J. Schreiner and M. Gleicher, "Footskate cleanup for motion capture editing", SCA 2002: a foot gets one place for
each contact; what that moves it by comes and goes smoothly around it; the root is moved so that legs reach; the legs are solved.
Here the goals of legs that reach are moved, so that the solving is the rig's own, and legs are not lengthened.
"""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.fitted_spans import fitted
from bovrin.craft.cycle.new_cycle import body_control
from bovrin.craft.cycle.on_set import rises, slopes, taken_along
from bovrin.craft.cycle.round_fit import led_through, plain
from bovrin.craft.cycle.rounds import begun_at, gained
from bovrin.craft.pose.modes import limb_named, set_mode
from bovrin.errors import BadMotion
from bovrin.figure.ground.feet import Footing, Under, bearing_steps, footing_of
from bovrin.figure.ground.under import under_of
from bovrin.figure.solve.fit import LimbMode
from bovrin.figure.solve.plan import columns, plan_of, special_column
from bovrin.figure.solve.reach import by_channel, goal_matrices
from bovrin.figure.solve.rest_space import rest_plan
from bovrin.figure.staging import Staged, staged
from bovrin.frozen import frozen
from bovrin.measure.gait.contacts import LOW_OUT, contacts
from bovrin.motion.evaluate import channel_values
from bovrin.motion.insert import inserted
from bovrin.motion.windows import mean_around, most_around
from bovrin.shot import ChannelRole, Curve, CurveSet, Cycle, EndKind, Rig, Shot, Stretch

Floats = NDArray[np.float64]

BLEND = 5.0
"""Frames over which what plants a foot comes and goes, unless said."""
SMALL = 2e-5
"""Metres by which a foot must be moved for it to be keyed anew."""
STILL = 1e-7
ROUNDS = 4
ENOUGH = 1e-4
"""Metres of slide that are left alone."""
MOST = 0.25
"""Share of a leg's length by which the hips give way at most; what is farther off slides."""
LIES = 1e-3
"""Radians within which a foot lies along a slope."""
LEVEL = 0.005
"""Metres by which the ground may be higher at the end of a loop."""
SMOOTH = 3
"""Frames to either side over which the hips give way."""


@frozen
class _Over:
    """Feet over whole frames (F,): the motion, where feet are, which of the frames are asked for, and how the ground runs."""

    frames: Floats
    found: Staged
    feet: Footing
    inside: NDArray[np.bool_]
    ground: Floats
    down: dict[str, list[Stretch]]
    under: Under | None


def plant(
    shot: Shot, figure: str, feet: Collection[str] | None = None, blend: float = BLEND, ground: Floats | None = None
) -> Shot:
    """The shot in which feet stay where they are for as long as they are down; all of them unless said, by their limbs' names.
    Hands stay too when they are named.

    blend: frames over which a foot comes to its place and leaves it. A foot stands where it stood in the middle of its contact,
    on the ground, which is the set's mesh if the shot has it so: then the body rises and sinks with its feet. On the spot it goes
    along with the ground that runs under the figure; ground (3,): how, metres a frame, where that is known. BadMotion where no
    foot is down, and where a loop would end on other ground than it began on.
    """
    rig = shot.figure(figure).rig
    names = {limb.name for limb in rig.limbs if limb.foot is not None}
    wanted = names if feet is None else {rig.limbs[limb_named(rig, name)].name for name in feet}
    if not wanted:
        raise BadMotion(f"'{figure}' has no feet to plant.", advice="Name legs that have a foot.")
    made = _reaching(shot, figure, wanted)
    over = _over(made, figure)
    over = over if ground is None else replace(over, ground=ground)
    if not any(over.down.get(name) for name in wanted):
        raise BadMotion(f"no foot of '{figure}' is down.", advice="Set its contacts.")
    laid = _laid_along(made, figure, over, wanted)
    if laid is not made:
        made, over = laid, replace(_over(laid, figure), down=over.down, ground=over.ground)
    goals = _goals(over, wanted, max(blend, 1.0))
    made = _raised(made, figure, over, goals)
    for n in range(ROUNDS):
        changed = _keyed(made, figure, over, goals, 0.25 * 0.5**n)
        if changed is made:
            break
        made = changed
        if _left(made, figure, over, wanted) < ENOUGH:
            break
    return made


def _reaching(shot: Shot, figure: str, names: Collection[str]) -> Shot:
    """The shot in which legs that are posed joint by joint reach over the range, their motion as it was."""
    rig = shot.figure(figure).rig
    for number, limb in enumerate(rig.limbs):
        switch = special_column(rig, limb.goal, ChannelRole.REACH)
        if limb.name in names and switch >= 0:
            frames = np.arange(np.ceil(shot.first), np.floor(shot.last) + 1)
            if (channel_values(shot.curves(figure), rig, frames)[:, switch] < 1.0).any():
                shot = set_mode(shot, figure, number, shot.first, LimbMode.REACH, shot.last)
    return shot


def _over(shot: Shot, figure: str) -> _Over:
    """What feet do on the frames of the shot, or of three rounds of a cycle, of which the middle one is asked for."""
    cycle, rig = shot.cycle(figure), shot.figure(figure).rig
    if cycle is None:
        frames = np.arange(np.ceil(shot.first), np.floor(shot.last) + 1)
        ranged = shot
    else:
        around = np.arange(np.ceil(cycle.first - cycle.length), np.floor(cycle.last + cycle.length) + 1)
        frames = np.union1d(around, [cycle.first, cycle.last])
        ranged = replace(shot, first=float(frames[0]), last=float(frames[-1]))
    down = contacts(ranged, figure)
    edges = [edge for spans in down.values() for span in spans for edge in span]
    frames = np.union1d(frames, edges)
    inside = np.ones(len(frames), bool) if cycle is None else (frames >= cycle.first) & (frames <= cycle.last)
    found = staged(shot, figure, frames)
    under = under_of(shot, figure)
    feet = footing_of(rig, frames, found.world, under, hands=True)
    return _Over(frames, found, feet, inside, feet.treadmill(shot.frame_rate), down, under)


def _goals(over: _Over, wanted: Collection[str], blend: float) -> dict[int, Floats]:
    """By limb, where its ankle shall be (F, 3), metres."""
    goals = {}
    for n, foot in enumerate(over.feet.feet):
        spans = over.down.get(foot.name, [])
        if foot.name in wanted and spans:
            by = _moved_by(over, n, spans, blend)
            if np.linalg.norm(by, axis=1).max() > ENOUGH:
                goals[foot.limb] = over.found.places[:, foot.ankle] + by
    return goals


def _moved_by(over: _Over, number: int, spans: list[Stretch], blend: float) -> Floats:
    """How far a foot is moved (F, 3) so that it stays on one place of the ground in each of its contacts."""
    frames, points, heights = over.frames, over.feet.points[number], over.feet.heights[number]
    if over.under is not None:  # however far the foot goes through a slope, it will stand on it
        heights = heights - heights.min(1, keepdims=True)
    by, ends = np.zeros((len(frames), 3)), []
    for start, end in spans:
        rows = np.flatnonzero((frames >= start - 1e-6) & (frames <= end + 1e-6))
        if not len(rows):
            continue
        ground = np.diff(frames[rows])[:, None] * over.ground
        gone = np.concatenate([np.zeros((1, 3)), np.cumsum(bearing_steps(points[rows], heights[rows], ground), axis=0)])
        by[rows] = gone[len(rows) // 2] - gone
        low = over.feet.heights[number, rows].min(1)
        near = LOW_OUT * over.feet.feet[number].leg
        if not over.feet.feet[number].palm:
            by[rows, 1] -= np.where(np.abs(low) < near, low, 0.0)
        ends.append((int(rows[0]), int(rows[-1])))
    moved = by + _blends(by, frames, ends, blend)
    if over.under is not None and ends and not over.feet.feet[number].palm:
        moved[:, 1] = rises(points, over.under, moved, ends)
    return moved


def _laid_along(shot: Shot, figure: str, over: _Over, wanted: Collection[str]) -> Shot:
    """The shot with feet that lie along the slopes on which they stand."""
    if over.under is None:
        return shot
    rig, cycle, curves = shot.figure(figure).rig, shot.cycle(figure), shot.curves(figure)
    values = np.array(channel_values(curves, rig, over.frames))
    for n, foot in enumerate(over.feet.feet):
        tilt = columns(rig, rig.limbs[foot.limb].goal, "rotate")[0]
        ends = [own for span in over.down.get(foot.name, []) if (own := _rows_of(over.frames, span)) is not None]
        if foot.name not in wanted or foot.palm or tilt < 0 or not ends:
            continue
        up = slopes(over.feet.points[n], over.under, values[:, tilt] - rig.defaults[tilt], ends)
        if np.abs(up).max() > LIES:
            values[:, tilt] -= up
            curves = _between_contacts(curves, rig, over, foot.name, values, [tilt], cycle, 0.25)
    return shot.with_curves(figure, curves)


def _rows_of(frames: Floats, span: Stretch) -> tuple[int, int] | None:
    """The first and the last of some frames (F,) in a stretch."""
    rows = np.flatnonzero((frames >= span[0] - 1e-6) & (frames <= span[1] + 1e-6))
    return (int(rows[0]), int(rows[-1])) if len(rows) else None


def _raised(shot: Shot, figure: str, over: _Over, goals: dict[int, Floats]) -> Shot:
    """The shot with the body as much higher as ground that is not flat takes its feet."""
    if over.under is None or not goals:
        return shot
    rig, cycle, curves = shot.figure(figure).rig, shot.cycle(figure), shot.curves(figure)
    ups = [
        goals[foot.limb] - over.found.places[:, foot.ankle]
        for foot in over.feet.feet
        if foot.limb in goals and not foot.palm
    ]
    if not ups:
        return shot
    rise = taken_along([up[:, 1] for up in ups])
    inside = rise[over.inside]
    if cycle is not None and abs(inside[-1] - inside[0]) > LEVEL:
        raise BadMotion(
            "this loop would end on other ground than it begins on.",
            advice="Keep it as a clip, lay that, turn it into keys, and plant those.",
        )
    values = np.array(channel_values(curves, rig, over.frames))
    return shot.with_curves(figure, _lowered(curves, rig, over, values, -rise, cycle, 0.25))


def _blends(by: Floats, frames: Floats, ends: list[tuple[int, int]], blend: float) -> Floats:
    """What is left of a contact's move after it, and what comes of it before (F, 3): smooth, and never past half the way to the
    next."""
    extra = np.zeros_like(by)
    for k, (first, last) in enumerate(ends):
        before = ends[k - 1][1] if k else 0
        after = ends[k + 1][0] if k + 1 < len(ends) else len(frames) - 1
        for row, stop, step in ((first, before, -1), (last, after, 1)):
            room = min(blend, abs(frames[stop] - frames[row]) / (1.0 if stop in (0, len(frames) - 1) else 2.0))
            rows = np.arange(row + step, stop + (step if stop in (0, len(frames) - 1) else 0), step)
            t = np.abs(frames[rows] - frames[row]) / max(room, 1e-9)
            share = np.where(t < 1.0, 1.0 - t * t * (3.0 - 2.0 * t), 0.0)
            extra[rows] += by[row] * share[:, None]
    return extra


def _keyed(shot: Shot, figure: str, over: _Over, goals: dict[int, Floats], share: float) -> Shot:
    """The shot with goals of legs led to where they shall be, and hips low enough for them."""
    rig, cycle, curves = shot.figure(figure).rig, shot.cycle(figure), shot.curves(figure)
    found = staged(shot, figure, over.frames)
    values = np.array(channel_values(curves, rig, over.frames))
    back = np.linalg.inv(_figure_space(rig, found))
    made = curves
    for limb, wanted in goals.items():
        off = wanted - _ends_wanted(rig, limb, found)
        if np.linalg.norm(off[over.inside], axis=1).max() < SMALL:
            continue
        axes = columns(rig, rig.limbs[limb].goal, "translate")
        cols = [c for c in axes if c >= 0]
        by = (back @ off[..., None])[..., 0][:, [i for i, c in enumerate(axes) if c >= 0]]
        values[:, cols] += by
        cols = [c for c, moved in zip(cols, np.abs(by).max(0).tolist(), strict=True) if moved > STILL]
        made = _between_contacts(made, rig, over, rig.limbs[limb].name, values, cols, cycle, share)
    drop = _give_way(rig, found, goals)
    if drop[over.inside].max(initial=0.0) > SMALL:
        made = _lowered(made, rig, over, values, drop, cycle, share)
    return shot.with_curves(figure, made)


def _between_contacts(
    curves: CurveSet,
    rig: Rig,
    over: _Over,
    foot: str,
    values: Floats,
    channels: list[int],
    cycle: Cycle | None,
    share: float,
) -> CurveSet:
    """Channels of a foot led through values (F, C), each contact and each step by itself: where a foot comes down and leaves, it
    may stop and start at once."""
    frames = over.frames
    edges = np.unique([edge for span in over.down[foot] for edge in span])
    if cycle is None:
        ends = np.unique(np.concatenate([frames[[0, -1]], edges]))
        return _led_piecewise(curves, rig, frames, values, channels, ends, share)
    first = float(edges[edges >= cycle.first][0])
    ends = np.unique(
        np.concatenate([edges[(edges >= first) & (edges <= first + cycle.length)], [first + cycle.length]])
    )
    turned = curves.replaced(
        {i: plain(begun_at(_looped(curves[i], rig, i, cycle), first, cycle.length)) for i in channels}
    )
    made = _led_piecewise(turned, rig, frames, values, channels, ends, share)
    loops = {i: made[i].ending(EndKind.ROUND, EndKind.ROUND) for i in channels}
    return curves.replaced({i: begun_at(loop, cycle.first, cycle.length) for i, loop in loops.items()})


def _looped(curve: Curve, rig: Rig, channel: int, cycle: Cycle) -> Curve:
    """A channel as a loop, though nothing is keyed of it yet."""
    if curve.is_round:
        return curve
    default = rig.channels[channel].default
    made = inserted(inserted(plain(curve), cycle.first, default), cycle.last, default)
    return made.ending(EndKind.ROUND, EndKind.ROUND)


def _led_piecewise(
    curves: CurveSet, rig: Rig, frames: Floats, values: Floats, channels: list[int], ends: Floats, share: float
) -> CurveSet:
    for start, end in pairwise(ends.tolist()):
        rows = np.flatnonzero((frames >= start - 1e-6) & (frames <= end + 1e-6))
        if len(rows) > 1:
            curves = fitted(curves, rig, frames[rows], values[rows], channels, share)
    return curves


def _lowered(
    curves: CurveSet, rig: Rig, over: _Over, values: Floats, drop: Floats, cycle: Cycle | None, share: float
) -> CurveSet:
    """Hips lowered by so much (F,), metres."""
    control, changed = body_control(rig), []
    axes = rest_plan(rig).move_axes[np.flatnonzero(rest_plan(rig).movers == control)[0]]
    for axis, c in enumerate(columns(rig, control, "translate")):
        if c >= 0 and abs(axes[1, axis]) > 1e-9:
            values[:, c] -= axes[1, axis] * drop
            changed.append(c)
    own = values[over.inside]
    if cycle is not None:
        gains = gained(rig, channel_values(curves, rig, np.array([cycle.first, cycle.last])))
        middle = (own[0] + own[-1] - gains) / 2
        own[0], own[-1] = middle, middle + gains
    return led_through(curves, rig, over.frames[over.inside], own, changed, cycle, share)


def _figure_space(rig: Rig, found: Staged) -> Floats:
    """How the figure's axes at rest lie in the world (F, 3, 3)."""
    back = plan_of(rig).root_back
    root = found.world[:, 0] if back is None else found.world[:, 0] @ back
    return np.asarray(root[:, :3, :3])


def _ends_wanted(rig: Rig, limb: int, found: Staged) -> Floats:
    """Where the goal of a limb has its end (F, 3)."""
    goals = goal_matrices(plan_of(rig), by_channel(found.values), found.world.swapaxes(0, 1))
    return np.asarray(goals[limb, :, :3, 3])


def _give_way(rig: Rig, found: Staged, goals: dict[int, Floats]) -> Floats:
    """Metres by which the hips are lowered (F,) so that every leg reaches."""
    plan = plan_of(rig).limbs
    assert plan is not None
    drop = np.zeros(len(found.frames))
    for limb, wanted in goals.items():
        full = float(plan.length_upper[limb] + plan.length_middle[limb] - plan.room[limb])
        away = wanted - found.places[:, rig.limbs[limb].upper]
        room = np.sqrt(np.maximum(full**2 - (away[:, [0, 2]] ** 2).sum(1), 0.0))
        needed = -room - away[:, 1]
        reached = np.linalg.norm(found.places[:, rig.limbs[limb].end] - wanted, axis=1) < SMALL
        drop = np.maximum(drop, np.where(reached, 0.0, np.minimum(needed, MOST * full)))
    if drop.max(initial=0.0) <= 0.0:
        return np.zeros(len(drop))
    return mean_around(most_around(drop, SMOOTH, SMOOTH, "edge"), SMOOTH, "edge")


def _left(shot: Shot, figure: str, over: _Over, wanted: Collection[str]) -> float:
    """The farthest that feet still slide, metres."""
    found = staged(shot, figure, over.frames)
    feet = footing_of(shot.figure(figure).rig, over.frames, found.world, over.under, hands=True)
    worst = 0.0
    for n, foot in enumerate(feet.feet):
        if foot.name not in wanted:
            continue
        for start, end in over.down.get(foot.name, []):
            rows = np.flatnonzero((over.frames >= start) & (over.frames <= end))
            ground = np.diff(over.frames[rows])[:, None] * over.ground
            gone = np.cumsum(bearing_steps(feet.points[n, rows], feet.heights[n, rows], ground), axis=0)
            worst = max(worst, float(np.linalg.norm(gone, axis=1).max(initial=0.0)))
    return worst
