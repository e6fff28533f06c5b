"""Cleaner arcs: a point's path bowed between its poses, or freed of kinks. Poses stay, and so does the timing on the way."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.craft.arcs.arc_pull import PointPull
from bovrin.craft.curves.bending import set_joined, set_kind
from bovrin.craft.curves.fitted_spans import fitted
from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.craft.pose.posing import can_move, control_for_joint, limb_joint
from bovrin.errors import BadMotion
from bovrin.figure.solve.joints import solve
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import staged
from bovrin.measure.arcs import arc, joint_of, place_in
from bovrin.measure.kinks import kinks_of
from bovrin.motion.evaluate import channel_values
from bovrin.shot import HandleKind, KeyRole, Rig, Shot, Spot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

STILL = 1e-3
"""Metres between two poses of a point under which it does not travel."""
FINE = 200
"""Pieces of an arc by which its length is measured."""
SHARE = 0.01
"""How far the share of the way on a frame may be from what it was."""
SHORT = 0.03
"""What share of its bow a point may be short of its arc."""
FEET = 5e-5
"""Metres by which a foot may move when what it carries is taken onto an arc."""
ROUNDS = 6
LESS = (1.0, 0.75, 0.5, 0.3)
"""What of a bow that the poses around lead into is taken, if all of it is out of reach."""
SAME = 1e-9


Going = Callable[[float], bool]
"""Told how far a work is, 0 to 1; says whether to go on."""


def on_an_arc(
    shot: Shot, spot: Spot, start: float, end: float, bow: ArrayLike | None = None, going: Going = lambda _share: True
) -> Shot:
    """A point taken onto an arc between each two of its poses from start to end.

    bow: how far the middle of the way is pushed out (3,), metres in the world; None: as the poses before and after lead. Written
    as handles, with in-betweens where those do not reach.
    """
    joint = _joint(shot, spot)
    poses = _posed_frames(shot, spot, joint, start, end)
    made = shot
    for first, last in pairwise(poses.tolist()):
        made = _bowed(made, shot, spot, joint, first, last, bow, going)
    if made is shot:
        raise BadMotion(
            f"'{spot.joint}' stands still, or has no frames between poses, from {start:g} to {end:g}.",
            advice="Choose a span in which it travels.",
        )
    return made


def mend_kinks(shot: Shot, spot: Spot, start: float, end: float) -> tuple[Shot, list[float]]:
    """A point's path freed of kinks from start to end, and the frames on which it kinked. Poses keep their place; there the
    handles are joined. BadMotion when it kinks nowhere."""
    joint = _joint(shot, spot)
    frames = np.arange(np.ceil(start), np.floor(end) + 1)
    places = arc(shot, spot, frames).position
    found = kinks_of(places)
    if not len(found):
        raise BadMotion(f"the arc of '{spot.joint}' kinks nowhere from {start:g} to {end:g}.")
    made = shot
    for n in found.tolist():
        frame = float(frames[n])
        made = _mended(made, shot, spot, joint, frame, _between(places, n))
    return made, [float(frames[n]) for n in found]


def _joint(shot: Shot, spot: Spot) -> int:
    joint = joint_of(shot.figure(spot.figure).rig, spot)
    if joint is None:
        raise BadMotion(f"'{spot.figure}' has no joint '{spot.joint}' any more.", advice="Choose the point again.")
    return joint


def _moving_channels(shot: Shot, spot: Spot, joint: int, frame: float) -> list[int]:
    """The channels that a drag of the point changes."""
    rig = shot.figure(spot.figure).rig
    pull = _pull(rig, staged(shot, spot.figure, frame).values[0], joint, spot)
    found: set[int] = set()
    for way in np.vstack([np.eye(3), -np.eye(3)]) * 0.01:
        found |= set(pull.to(pull.place + way))
    return sorted(found)


def _posed_frames(shot: Shot, spot: Spot, joint: int, start: float, end: float) -> Floats:
    """The frames from start to end on which a channel that moves the point has a key of a pose, start and end among them."""
    curves = shot.curves(spot.figure)
    if end - start < 2 - SAME_FRAME:
        raise BadMotion("an arc needs frames between two poses.", advice="Choose a longer span.")
    posed = [start, end]
    for i in _moving_channels(shot, spot, joint, start):
        own = curves[i]
        posed += own.frames[own.role != KeyRole.IN_BETWEEN].tolist()
    frames = np.unique(np.array(posed))
    return frames[(frames >= start - SAME_FRAME) & (frames <= end + SAME_FRAME)]


def _bowed(
    made: Shot,
    shot: Shot,
    spot: Spot,
    joint: int,
    first: float,
    last: float,
    bow: ArrayLike | None,
    going: Going,
) -> Shot:
    """One way between two poses; itself where the point does not travel or nothing says which way."""
    inner = np.arange(np.floor(first) + 1, np.ceil(last))
    frames = np.concatenate([[first], inner, [last]])
    places = arc(shot, spot, frames).position
    if len(inner) == 0 or np.linalg.norm(places[-1] - places[0]) < STILL:
        return made
    given = _led_bow(shot, spot, first, last, places) if bow is None else np.asarray(bow, float)
    if given.shape != (3,) or not np.isfinite(given).all():
        raise BadMotion("a bow is three finite numbers, metres.")
    way, shares = _off(given, places), _shares(places)
    length = np.linalg.norm(places[-1] - places[0])
    if bow is not None and np.linalg.norm(way) > length:
        raise BadMotion(
            f"a bow of {np.linalg.norm(way) * 100:.1f} cm is wider than the way is long ({length * 100:.1f} cm).",
            advice="Use a smaller bow, or put a breakdown there.",
        )
    for less in LESS if bow is None else (1.0,):
        if np.linalg.norm(way * less) < STILL:
            return made
        wanted = _along_arc(places[0], places[-1], way * less, shares)
        now, target, short = _posed(shot, spot, joint, frames, wanted, going)
        if short.max() <= max(STILL, SHORT * np.linalg.norm(way * less)):
            return _written(made, shot, spot, frames, now, target, shares)
    at = int(short.argmax())
    missing = f"{short[at] * 100:.1f} cm are missing" if np.isfinite(short[at]) else "a foot would be pulled along"
    raise BadMotion(
        f"'{spot.joint}' does not reach that arc: {missing} on frame {frames[at]:g}.",
        advice="Use a smaller bow, or one to the other side.",
    )


def _led_bow(shot: Shot, spot: Spot, first: float, last: float, places: Floats) -> Floats:
    """How far the middle lies off the straight way when the poses before and after lead into it (Catmull and Rom 1974)."""
    poses = _around(shot, spot, first, last)
    start, end = places[0], places[-1]
    before, after = (arc(shot, spot, np.array([f])).position[0] if f is not None else None for f in poses)
    before = 2 * start - end if before is None else before
    after = 2 * end - start if after is None else after
    return np.asarray((start + end - before - after) / 16)


def _off(bow: Floats, places: Floats) -> Floats:
    """What of a bow leads off the straight way (3,)."""
    along = (places[-1] - places[0]) / np.linalg.norm(places[-1] - places[0])
    return np.asarray(bow - (bow @ along) * along)


def _around(shot: Shot, spot: Spot, first: float, last: float) -> tuple[float | None, float | None]:
    """The frames of the poses before and after two."""
    curves = shot.curves(spot.figure)
    frames = np.unique(np.concatenate([c.frames[c.role != KeyRole.IN_BETWEEN] for c in curves.curves] or [np.empty(0)]))
    before, after = frames[frames < first - SAME_FRAME], frames[frames > last + SAME_FRAME]
    return (float(before[-1]) if len(before) else None), (float(after[0]) if len(after) else None)


def _shares(places: Floats) -> Floats:
    """The share of the way (F,) that has been gone on each frame."""
    gone = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(places, axis=0), axis=1))])
    return np.asarray(gone / max(gone[-1], 1e-12))


def _along_arc(start: Floats, end: Floats, bow: Floats, shares: Floats) -> Floats:
    """Places (F, 3) on a bowed way so that shares (F,) of its length have been gone."""
    u = np.linspace(0, 1, FINE + 1)
    course = start + (end - start) * u[:, None] + bow * (4 * u * (1 - u))[:, None]
    at = np.interp(shares, _shares(course), u)
    return np.asarray(start + (end - start) * at[:, None] + bow * (4 * at * (1 - at))[:, None])


def _pull(rig: Rig, values: Floats, joint: int, spot: Spot, world: Floats | None = None) -> PointPull:
    """What takes the point elsewhere in a stance: its own limb, its own movement, or the body where it has neither; hands and
    feet stay then."""
    stance = Stance(rig, values, world)
    end = _carrying_end(rig, joint)
    if end is not None:  # a finger goes with its hand
        off = stance.world[end]
        place = place_in(stance.world[joint], spot.at)
        return PointPull(stance, end, np.linalg.solve(off[:3, :3], place - off[:3, 3]))
    control = control_for_joint(stance, joint)
    alone = can_move(rig, control) or limb_joint(rig, control) is not None
    ends = [] if alone else [limb.end for limb in rig.limbs]
    return PointPull(stance, joint, np.array(spot.at), whole=not alone, keep=ends)


def _carrying_end(rig: Rig, joint: int) -> int | None:
    """The end of the limb that a joint hangs on; None where it is the end itself, or no limb's."""
    ends, at = {limb.end for limb in rig.limbs}, rig.joints[joint].parent
    while at >= 0 and joint not in ends:
        if at in ends:
            return at
        at = rig.joints[at].parent
    return None


def _posed(
    shot: Shot, spot: Spot, joint: int, frames: Floats, wanted: Floats, going: Going
) -> tuple[Floats, Floats, Floats]:
    """Channels (F, C) as they are, as they put the point at places (F, 3), and how far it is short of those (F,); each frame is
    posed for itself, the first and the last stay. Where a foot would be pulled along it is short of everything."""
    rig = shot.figure(spot.figure).rig
    found = staged(shot, spot.figure, frames)
    target = found.values.copy()
    for n in range(1, len(frames) - 1):
        if not going((frames[n] - shot.first) / max(shot.last - shot.first, 1.0)):
            raise BadMotion("it was stopped.")
        for i, value in _pull(rig, found.values[n], joint, spot, found.world[n]).to(wanted[n]).items():
            target[n, i] = value
    world = solve(rig, target)
    short = np.linalg.norm(place_in(world[:, joint], spot.at) - wanted, axis=1)
    feet = [
        limb.end for limb in rig.limbs if limb.foot is not None and joint not in (limb.upper, limb.middle, limb.end)
    ]
    pulled = np.abs((world[..., :3, 3] - found.places)[:, feet]).max((1, 2), initial=0.0)
    return found.values, target, np.where(pulled > FEET, np.inf, short)


def _written(made: Shot, shot: Shot, spot: Spot, frames: Floats, now: Floats, target: Floats, shares: Floats) -> Shot:
    """Channels (F, C) led through their targets, by handles and as few in-betweens as keep the point's timing."""
    figure, rig = shot.figure(spot.figure), shot.figure(spot.figure).rig
    changed = np.flatnonzero((np.abs(target - now) > SAME).any(0)).tolist()
    if not changed:
        return made
    best, off = made, 0.0
    for n in range(ROUNDS):
        curves = fitted(made.curves(figure.name), rig, frames, target, changed, 0.5**n)
        best = made.with_curves(figure.name, curves)
        places = arc(best, spot, frames).position
        off = float(np.abs(_shares(places) - shares).max())
        if off < 0.6 * SHARE:
            break
    if off > SHARE:
        raise BadMotion(
            f"on that arc '{spot.joint}' would not keep its timing ({off * 100:.1f} % off).",
            advice="Use a smaller bow.",
        )
    return best


def _between(places: Floats, n: int) -> Floats:
    """Where the frames around one lead on it (3,): a cubic through two on either side, else the middle of both neighbours."""
    if 2 <= n < len(places) - 2:
        a, b, c, d = (places[n + k] for k in (-2, -1, 1, 2))
        return np.asarray((4 * (b + c) - a - d) / 6)
    return np.asarray((places[n - 1] + places[n + 1]) / 2)


def _mended(made: Shot, shot: Shot, spot: Spot, joint: int, frame: float, place: Floats) -> Shot:
    """One frame that kinks: put where its neighbours lead; a pose keeps its place and joins its handles instead."""
    curves, rig = made.curves(spot.figure), made.figure(spot.figure).rig
    channels = [i for i in _moving_channels(shot, spot, joint, frame) if curves[i].index_at(frame) is not None]
    posed = [i for i in channels if curves[i].role[curves[i].index_at(frame)] != KeyRole.IN_BETWEEN]
    if posed:
        changes = {}
        for i in channels:
            at = np.array([curves[i].index_at(frame)])
            changes[i] = set_joined(set_kind(curves[i], at, HandleKind.BY_HAND), at, True)
        return made.with_curves(spot.figure, curves.replaced(changes))
    values = channel_values(curves, rig, [frame])[0]
    wanted = _pull(rig, values, joint, spot).to(place)
    style = KeyStyle(HandleKind.NO_OVERSHOOT, KeyRole.IN_BETWEEN)
    told = {i: keyed(curves[i], frame, value, style) for i, value in wanted.items() if not channels or i in channels}
    return made.with_curves(spot.figure, curves.replaced(told))
