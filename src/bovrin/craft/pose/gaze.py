"""Where a figure looks: both eyes turned to a place, the head by a share, lids along; blinks and darts as short runs of keys."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.craft.curves.fitted_spans import fitted
from bovrin.craft.keying.keys import EASED, KeyStyle, keyed, whole_poses_of
from bovrin.craft.pose.posing import can_turn, moved, turned
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import plan_of, unit
from bovrin.figure.stages.gaze import (
    CLOSED,
    LID_SHARE,
    Eye,
    GazePlan,
    eye_turn,
    eyes_of,
    gaze_places,
    gaze_plan,
    head_turn,
)
from bovrin.figure.stages.stance import Stance, Values
from bovrin.figure.staging import staged, stance
from bovrin.motion.evaluate import channel_values
from bovrin.motion.rotations import rotation_vector, shortest
from bovrin.shot import ControlKind, Curve, Figure, KeyRole, Shot, Unit
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
Place = ArrayLike | tuple[str, str]
"""A place (3,) in the world, metres, or a figure and its joint."""

ROUNDS, SAME = 4, 1e-9
BLINK = (0.0, 1.0, 2.0, 3.0, 5.0)
SHUT = (0.0, 0.85, 1.0, 0.8, 0.0)
"""Frames of a blink, and how far it has closed on each: down in two, up in three (as eyes do)."""


def _eyes(figure: Figure) -> tuple[Eye, ...]:
    found = eyes_of(figure.rig)
    if not found:
        raise BadMotion(f"'{figure.name}' has no two eyes that turn.", advice="Choose a figure with eye joints.")
    return found


def look_values(figure: Figure, now: Stance, place: Floats, head: float = 0.0) -> Values:
    """The channels that make a figure in a stance look at a place (3,): the head by a share of the way, the eyes the rest of it
    as far as they turn, the lids along."""
    eyes = _eyes(figure)
    old, found = now, dict[int, float]()
    if head:
        carrier = figure.rig.joints[eyes[0].joint].parent
        control = next(
            (c for c, w in enumerate(figure.rig.controls) if w.joint == carrier and can_turn(figure.rig, c)), None
        )
        if control is not None:
            ahead = now.world[carrier, :3, :3] @ plan_of(figure.rig).rest_world[carrier, :3, :3].T @ [0.0, 0.0, 1.0]
            middle = np.mean([now.world[eye.joint, :3, 3] for eye in eyes], axis=0)
            axis, angle = _between(unit(ahead), unit(place - middle))
            if angle > SAME:
                found |= turned(now, control, axis, float(head_turn(np.asarray(angle), head)))
                now = now.with_values(found)
    for eye in eyes:
        for _ in range(ROUNDS):
            own = _within(now, eye, place)
            axis, angle = _between(_look(now, eye), own)
            if angle < SAME:
                break
            found |= turned(now, eye.control, axis, angle)
            now = now.with_values(found)
        if eye.lid >= 0:
            down = _lowering(old, eye) - _lowering(now, eye)
            found[eye.lid] = float(np.clip(old.values[eye.lid] + LID_SHARE * down, 0.0, CLOSED))
    return found


def _look(now: Stance, eye: Eye) -> Floats:
    """Where an eye looks (3,), in the world."""
    return np.asarray(unit(now.world[eye.joint, :3, :3] @ eye.way))


def _ahead(now: Stance, eye: Eye) -> Floats:
    """Where it looks at rest in its socket."""
    parent = now.rig.joints[eye.joint].parent
    rest = plan_of(now.rig).rest_local[eye.joint, :3, :3]
    return np.asarray(unit(now.world[parent, :3, :3] @ rest @ eye.way))


def _within(now: Stance, eye: Eye, place: Floats) -> Floats:
    """The way to a place, or as near to it as the eye turns."""
    ahead, wanted = _ahead(now, eye), unit(place - now.world[eye.joint, :3, 3])
    axis, angle = _between(ahead, wanted)
    if angle <= eye.widest:
        return np.asarray(wanted)
    turn = float(eye_turn(np.asarray(angle), eye.widest))
    return np.asarray(np.cos(turn) * ahead + np.sin(turn) * np.cross(axis, ahead))


def _between(a: Floats, b: Floats) -> tuple[Floats, float]:
    """The axis (3,) and the angle of the shortest turn from one direction to another."""
    vector = rotation_vector(shortest(a, b))
    angle = float(np.linalg.norm(vector))
    return (vector / angle if angle > SAME else np.array([0.0, 1.0, 0.0])), angle


def _lowering(now: Stance, eye: Eye) -> float:
    """How far an eye is turned up in its head, radians; below 0: down."""
    parent = now.rig.joints[eye.joint].parent
    up = now.world[parent, :3, :3] @ np.array([0.0, 1.0, 0.0])
    return float(np.arcsin(np.clip(_look(now, eye) @ unit(up), -1.0, 1.0)))


def place_of(shot: Shot, at: Place, frame: float) -> Floats:
    """Where a place is on a frame (3,)."""
    if isinstance(at, tuple) and len(at) == 2 and all(isinstance(word, str) for word in at):
        figure, joint = str(at[0]), str(at[1])
        own = stance(shot, figure, frame)
        return np.asarray(own.world[own.rig.joint(joint), :3, 3])
    place = np.asarray(at, float)
    if place.shape != (3,) or not np.isfinite(place).all():
        raise BadMotion("a place is three finite numbers, metres, or a figure and its joint.")
    return place


def gaze_of(shot: Shot, figure: str, frame: float, far: float = 1.5) -> Floats:
    """Where a figure looks on a frame (3,): between the two places to which its eyes look so far away."""
    now, eyes = stance(shot, figure, frame), _eyes(shot.figure(figure))
    return np.asarray(np.mean([now.world[eye.joint, :3, 3] + far * _look(now, eye) for eye in eyes], axis=0))


def look_at(shot: Shot, figure: str, frame: float, at: Place, head: float = 0.0, style: KeyStyle | None = None) -> Shot:
    """A figure looks at a place on a frame: what turns is keyed there."""
    who = shot.figure(figure)
    values = look_values(who, stance(shot, figure, frame), place_of(shot, at, frame), head)
    own = style or KeyStyle(EASED, KeyRole.KEY_POSE)
    return _keyed(shot, figure, {frame: values}, own)


def held_gaze(shot: Shot, figure: str, start: float, end: float, at: Place) -> Shot:
    """Eyes that stay on a place from start to end while the head moves: as few keys as will do."""
    who = shot.figure(figure)
    if end - start < 1:
        raise BadMotion("a gaze is held over two frames or more.", advice="Choose a longer span.")
    frames = np.union1d(np.arange(np.ceil(start), np.floor(end) + 0.25, 0.5), [start, end])
    curves, eyes = shot.curves(figure), _eyes(who)
    own = [i for eye in eyes for i in (*who.rig.span(eye.control), *((eye.lid,) if eye.lid >= 0 else ()))]
    keys = np.concatenate([curves[i].frames for i in own])
    frames = np.union1d(frames, keys[(keys > start) & (keys < end)])
    now = staged(shot, figure, frames)
    target = now.values.copy()
    for row, frame in enumerate(frames.tolist()):
        held = Stance(who.rig, now.values[row], now.world[row])
        for i, value in look_values(who, held, place_of(shot, at, frame)).items():
            target[row, i] = value
    changed = np.flatnonzero((np.abs(target - now.values) > SAME).any(0)).tolist()
    whole = np.abs(frames - np.round(frames)) < SAME
    return shot.with_curves(figure, fitted(curves, who.rig, frames, target, changed, may=whole)) if changed else shot


def dart(shot: Shot, figure: str, frame: float, at: Place, frames: float = 2.0) -> Shot:
    """The eyes jump to a place: they stay until a frame, and are there so many frames later."""
    if not 0 < frames < 1000:
        raise BadMotion("a dart takes some frames.", advice="Two frames are usual.")
    now = stance(shot, figure, frame)
    later = stance(shot, figure, frame + frames)
    values = look_values(shot.figure(figure), later, place_of(shot, at, frame + frames))
    before = {i: float(now.values[i]) for i in values}
    return _keyed(shot, figure, {frame: before, frame + frames: values}, KeyStyle(EASED, KeyRole.IN_BETWEEN))


def blink(shot: Shot, figure: str, frame: float, frames: Sequence[float] = BLINK) -> Shot:
    """The lids close and open again from a frame on; afterwards all is as it was."""
    who = shot.figure(figure)
    lids = [eye.lid for eye in eyes_of(who.rig) if eye.lid >= 0] or _lids(who)
    if not lids:
        raise BadMotion(f"'{figure}' has no lids.", advice="Blink with a figure that has.")
    at = frame + np.asarray(frames, float)
    values = channel_values(shot.curves(figure), who.rig, at)
    run = {
        float(f): {i: float(values[n, i] + (CLOSED - values[n, i]) * share) for i in lids}
        for n, (f, share) in enumerate(zip(at.tolist(), SHUT, strict=True))
    }
    return _keyed(shot, figure, run, KeyStyle(EASED, KeyRole.IN_BETWEEN))


def _lids(who: Figure) -> list[int]:
    rig = who.rig
    named = [c for c, what in enumerate(rig.controls) if "lid" in what.name.lower().split()]
    return [i for c in named for i in rig.span(c) if rig.channels[i].unit is Unit.ANGLE]


def _keyed(shot: Shot, figure: str, run: dict[float, Values], style: KeyStyle) -> Shot:
    """Channels keyed on some frames; off the poses they are in-betweens, which stand for no pose of their own."""
    poses = whole_poses_of(shot.curves(figure)).frames
    curves, changes = shot.curves(figure), dict[int, Curve]()
    between = KeyStyle(style.out_kind, KeyRole.IN_BETWEEN)
    for frame, values in run.items():
        for i, value in values.items():
            own = style if (np.abs(poses - frame) < SAME_FRAME).any() else between
            changes[i] = keyed(changes.get(i, curves[i]), frame, value, own)
    return shot.with_curves(figure, curves.replaced(changes))


def gaze_control(figure: Figure) -> int:
    """The control of a figure's gaze. BadMotion where it has none."""
    found = next((c for c, what in enumerate(figure.rig.controls) if what.kind is ControlKind.GAZE), None)
    if found is None or gaze_plan(figure.rig) is None:
        raise BadMotion(f"'{figure.name}' has no gaze.", advice="Choose a figure with two eyes on its head.")
    return found


def gaze_values(figure: Figure, now: Stance, place: Floats, look: float = 1.0) -> Values:
    """The channels that put a figure's gaze to a place (3,) and make it look there."""
    control, plan = gaze_control(figure), gaze_plan(figure.rig)
    assert plan is not None
    here = gaze_places(figure.rig, now.values[None], now.world[None])[0]
    return moved(now, control, np.asarray(place - here)) | {plan.look: float(np.clip(look, 0.0, 1.0))}


def set_gaze(
    shot: Shot,
    figure: str,
    frame: float,
    at: Place,
    look: float = 1.0,
    head: float | None = None,
    style: KeyStyle | None = None,
) -> Shot:
    """The gaze keyed on a frame: where it is, how much it is looked at, and the head's share if given. While it is looked at,
    both eyes stay on it, however the head and the body move. Turned on or off, it is so on all later keys up to where that was
    said otherwise."""
    who = shot.figure(figure)
    now = stance(shot, figure, frame)
    values = gaze_values(who, now, place_of(shot, at, frame), look)
    plan = gaze_plan(who.rig)
    assert plan is not None
    if head is not None:
        values[plan.share] = float(np.clip(head, 0.0, 1.0))
    made = _keyed(shot, figure, {frame: values}, style or KeyStyle(EASED, KeyRole.KEY_POSE))
    return _later_too(made, figure, plan, frame, float(now.values[plan.look]), values)


def gaze_off(shot: Shot, figure: str, frame: float, style: KeyStyle | None = None) -> Shot:
    """The gaze not looked at any more from a frame on; the eyes are keyed there as they are."""
    who = shot.figure(figure)
    gaze_control(who)
    plan, now = gaze_plan(who.rig), stance(shot, figure, frame)
    assert plan is not None
    cols = [*plan.head_columns, *(i for eye in plan.eyes for i in (*eye.columns, eye.lid))]
    values = {i: float(now.values[i]) for i in cols if i >= 0} | {plan.look: 0.0}
    made = _keyed(shot, figure, {frame: values}, style or KeyStyle(EASED, KeyRole.KEY_POSE))
    return _later_too(made, figure, plan, frame, float(now.values[plan.look]), {plan.look: 0.0})


def _later_too(shot: Shot, figure: str, plan: GazePlan, frame: float, before: float, values: Values) -> Shot:
    """What was keyed of the gaze on a frame on all later keys, as long as they say what was so there before."""
    curves = shot.curves(figure)
    if (before > 0) == (values[plan.look] > 0):
        return shot
    look = curves[plan.look]
    later = look.frames > frame + SAME_FRAME
    other = later & ((look.values > 0) != (before > 0))
    end = float(look.frames[other][0]) if other.any() else np.inf
    changes = {}
    for i in values:
        own = curves[i]
        inside = (own.frames > frame + SAME_FRAME) & (own.frames < end - SAME_FRAME)
        if i in (*plan.move, plan.look, plan.share) and inside.any():
            changes[i] = own.changed(values=np.where(inside, values[i], own.values))
    return shot.with_curves(figure, curves.replaced(changes))


def followed_gaze(shot: Shot, figure: str, start: float, end: float, at: Place) -> Shot:
    """The gaze kept on a place that moves, such as a joint of another figure, from start to end: as few keys as will do."""
    who = shot.figure(figure)
    if end - start < 1:
        raise BadMotion("a gaze follows over two frames or more.", advice="Choose a longer span.")
    control, plan, curves = gaze_control(who), gaze_plan(who.rig), shot.curves(figure)
    assert plan is not None
    frames = np.union1d(np.arange(np.ceil(start), np.floor(end) + 0.25, 0.5), [start, end])
    keys = np.concatenate([curves[i].frames for i in who.rig.span(control)])
    frames = np.union1d(frames, keys[(keys > start) & (keys < end)])
    now = staged(shot, figure, frames)
    target = channel_values(curves, who.rig, frames).copy()
    for row, frame in enumerate(frames.tolist()):
        held = Stance(who.rig, now.values[row], now.world[row])
        for i, value in gaze_values(who, held, place_of(shot, at, frame)).items():
            target[row, i] = value
    whole = np.abs(frames - np.round(frames)) < SAME
    return shot.with_curves(figure, fitted(curves, who.rig, frames, target, [*plan.move, plan.look], may=whole))
