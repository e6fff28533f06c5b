"""Polish by script."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np
from numpy.typing import ArrayLike

from bovrin.craft import proofing
from bovrin.craft.arcs import arc_pull, cleaner_arcs
from bovrin.craft.between.moving_hold import moving_hold as _moving_hold
from bovrin.craft.between.overlap import broken_up, delayed, trailed
from bovrin.craft.curves.shapers import Settings, shaped
from bovrin.craft.drawings import drawn
from bovrin.craft.drop import Drop
from bovrin.craft.drop import drop as _drop
from bovrin.craft.keying.edits import Scope
from bovrin.craft.keying.key_sets import keys_on
from bovrin.craft.keying.keys import EASED, KeyStyle
from bovrin.craft.pose import gaze
from bovrin.craft.pose.gaze import Place
from bovrin.craft.pose.gaze_reach import out_of_reach
from bovrin.craft.remedies import remedied
from bovrin.craft.throw import throw as _throw
from bovrin.errors import BadMotion
from bovrin.figure.staging import stance
from bovrin.measure import arcs
from bovrin.measure import proof as _proof
from bovrin.measure.arcs import Arc
from bovrin.measure.balance import Balance
from bovrin.measure.balance import balance as _balance
from bovrin.measure.proof import Note
from bovrin.shot import GROUND, PENCILS, KeyRole, Shot, Spot, Stroke, Unit

Point = str | tuple[str, Sequence[float]]
"""A joint, or a joint and how far from it in its axes, metres."""


def arc(shot: Shot, figure: str, point: Point, frames: ArrayLike, relative_to: str | None = None) -> Arc:
    """The path of a point: `.frames` (F,) and `.position` (F, 3), metres; relative to a joint, in its axes."""
    at = np.atleast_1d(np.asarray(frames, float))
    carrier = None if relative_to is None else (figure, shot.figure(figure).rig.joint(relative_to))
    return arcs.arc(shot, _spot(shot, figure, point), at, carrier)


def drag_arc(shot: Shot, figure: str, point: Point, frame: float, to: ArrayLike, how: str = "pose") -> Shot:
    """Put a point where it goes on a frame, (3,) metres; kept in the "pose" there, by the "handles" of the keys around it, or in
    a "breakdown". What moves is its own limb or joint."""
    if how not in (arc_pull.POSE, arc_pull.HANDLES, arc_pull.BREAKDOWN):
        raise BadMotion(f"an arc cannot be dragged by '{how}'.", advice="Say pose, handles or breakdown.")
    spot = _spot(shot, figure, point)
    place = np.asarray(to, float)
    if place.shape != (3,) or not np.isfinite(place).all():
        raise BadMotion("a place is three finite numbers, metres.")
    pull = arc_pull.PointPull(stance(shot, figure, frame), shot.figure(figure).rig.joint(spot.joint), np.array(spot.at))
    style = KeyStyle(EASED, KeyRole.KEY_POSE)
    return arc_pull.pulled(shot, figure, frame, pull.to(place), how, Scope.TOUCHED, style)


def _spot(shot: Shot, figure: str, point: Point) -> Spot:
    joint, at = (point, (0.0, 0.0, 0.0)) if isinstance(point, str) else point
    shot.figure(figure).rig.joint(joint)
    x, y, z = map(float, at)
    return Spot(figure, joint, (x, y, z))


def shape(
    shot: Shot,
    figure: str,
    channels: Iterable[str],
    start: float,
    end: float,
    shaper: str,
    amount: float,
    **settings: object,
) -> Shot:
    """The keys of channels from start to end shaped by an amount: "before" "after" "soften" "exaggerate" "ease" "thin out"
    "fill in" "tremble" "shift" "default". settings: about, beats, seed, every. Tolerances are metres or degrees."""
    rig = shot.figure(figure).rig
    wanted = [rig.channel(name) for name in channels]
    chosen = keys_on(shot.curves(figure), wanted, start, end)
    try:
        told = Settings(**settings)  # type: ignore[arg-type]
    except TypeError as error:
        raise BadMotion(
            f"shapers take no such setting ({error}).", advice="Settings: about, beats, seed, every."
        ) from error
    if shaper != "thin out" or not chosen:
        return shaped(shot, figure, chosen, shaper, amount, told).shot
    for unit, measure in ((Unit.ANGLE, 1.0), (Unit.LENGTH, 100.0), (Unit.AMOUNT, 100.0)):
        own = {i: frames for i, frames in chosen.items() if rig.channels[i].unit is unit}
        shot = shaped(shot, figure, own, shaper, amount * measure, told).shot if own else shot
    return shot


def on_an_arc(shot: Shot, figure: str, point: Point, start: float, end: float, bow: ArrayLike | None = None) -> Shot:
    """A point taken onto an arc between its poses from start to end. bow: how far the middle is pushed out, (3,) metres; None: as
    the poses around lead."""
    return cleaner_arcs.on_an_arc(shot, _spot(shot, figure, point), start, end, bow)


def mend_kinks(shot: Shot, figure: str, point: Point, start: float, end: float) -> Shot:
    """A point's path freed of kinks from start to end; poses stay."""
    spot = _spot(shot, figure, point)
    return cleaner_arcs.mend_kinks(shot, spot, start, end)[0]


def overlap(
    shot: Shot,
    figure: str,
    controls: Iterable[str],
    delay: float = 1.0,
    drag: float = 0.0,
    overshoot: float = 0.0,
    settle: float = 0.0,
    start: float | None = None,
    end: float | None = None,
) -> Shot:
    """A chain of controls that come one after another: delay frames for each; drag, overshoot and settle are shares."""
    rig = shot.figure(figure).rig
    chain = [rig.control(name) for name in controls]
    if drag or overshoot:
        shot = trailed(shot, figure, chain, drag, overshoot, settle, start, end)
    return delayed(shot, figure, chain, delay, start, end)


def break_up(shot: Shot, figure: str, frame: float) -> Shot:
    """Parts that all come to the pose on a frame at once come one after another, the body first."""
    return broken_up(shot, figure, frame)


def moving_hold(
    shot: Shot,
    figure: str,
    start: float,
    end: float,
    amount: float,
    toward: str | Sequence[float] = "on",
    parts: Iterable[str] | None = None,
) -> Shot:
    """A held span drifts "on" the way it came, toward the "next" pose, or along (3,) metres; feet that are down stay."""
    return _moving_hold(shot, figure, start, end, amount, toward, parts)


def proof(shot: Shot, figure: str | None = None) -> list[Note]:
    """What a strict supervisor would note of a shot, or of one figure: `.kind .figure .part .start .end .amount .unit .words
    .remedy`, the remedy None where there is none. Notes that were left are not listed."""
    return _proof.proof(shot, figure)


def remedy(shot: Shot, note: Note) -> Shot:
    """The shot with the remedy of a note of its proof."""
    return remedied(shot, note)


def draw(
    shot: Shot,
    frame: float,
    points: ArrayLike,
    pencil: str = "slate",
    pinned: str | tuple[str, str] | None = None,
    width: float = 4.0,
) -> Shot:
    """A line on the stage from a frame on. points: (N, 2) shares of the picture from its top left, or (N, 3) metres: in the
    world, or in a joint's axes. pinned: None, "ground", or (figure, joint). width: thousandths of the picture's height."""
    try:
        places = np.atleast_2d(np.asarray(points, float))
    except ValueError as error:
        raise BadMotion("a line is points of two shares of the picture, or of three metres.") from error
    if pencil not in PENCILS:
        raise BadMotion(f"there is no pencil '{pencil}'.", advice=f"Pencils: {', '.join(PENCILS)}.")
    if places.ndim != 2 or places.shape[1] not in (2, 3):
        raise BadMotion("a line is points of two shares of the picture, or of three metres.")
    flat = places.shape[1] == 2
    if flat and pinned is not None:
        raise BadMotion("what is pinned is drawn in metres.", advice="Give points of three numbers.")
    if flat:
        places = np.column_stack([places, np.zeros(len(places))])
    pin = None if flat else GROUND if pinned in (None, "ground") else pinned
    if pin is not None and pin != GROUND:
        shot.figure(pin[0]).rig.joint(pin[1])
        pin = (str(pin[0]), str(pin[1]))
    stroke = Stroke(places, np.full(len(places), width), pencil, pin)
    return drawn(shot, frame, stroke)


def leave(shot: Shot, note: Note) -> Shot:
    """The shot in which a note of its proof is left as it is, and not listed any more."""
    return proofing.leave(shot, note)


def set_limit(shot: Shot, kind: str, limit: float | None) -> Shot:
    """The shot with a threshold of its own for a kind of note, in that kind's unit; None: the usual one."""
    return proofing.with_limit(shot, kind, limit)


def look_at(shot: Shot, figure: str, frame: float, at: Place, head: float = 0.3) -> Shot:
    """A figure looks at a place on a frame: (3,) metres, or (figure, joint). The head takes a share of the way, the eyes the rest
    as far as they turn, the lids go along."""
    return gaze.look_at(shot, figure, frame, at, head)


def hold_gaze(shot: Shot, figure: str, start: float, end: float, at: Place) -> Shot:
    """Eyes that stay on a place, (3,) metres or (figure, joint), from start to end, however the head moves, as far as they turn;
    `gaze_misses` says on which frames that is not far enough."""
    return gaze.held_gaze(shot, figure, start, end, at)


def gaze_misses(shot: Shot, figure: str, start: float, end: float, at: Place) -> list[float]:
    """The whole frames from start to end on which the eyes of a figure look past a place, by more than a degree."""
    found: list[float] = out_of_reach(shot, figure, start, end, at).tolist()
    return found


def dart(shot: Shot, figure: str, frame: float, at: Place, frames: float = 2.0) -> Shot:
    """The eyes stay until a frame and are on a place so many frames later."""
    return gaze.dart(shot, figure, frame, at, frames)


def blink(shot: Shot, figure: str, frame: float) -> Shot:
    """The lids close and open again in five frames from a frame on."""
    return gaze.blink(shot, figure, frame)


def set_gaze(shot: Shot, figure: str, frame: float, at: Place, look: float = 1.0, head: float | None = None) -> Shot:
    """The gaze of a figure keyed on a frame: at a place, (3,) metres or (figure, joint), how much it is looked at, 0 to 1, and
    the head's share of the way. While it is looked at both eyes stay on it, within what they turn, however the head moves."""
    return gaze.set_gaze(shot, figure, frame, at, look, head)


def follow_gaze(shot: Shot, figure: str, start: float, end: float, at: Place) -> Shot:
    """The gaze kept on a place that moves, such as (figure, joint), from start to end, by as few keys as will do."""
    return gaze.followed_gaze(shot, figure, start, end, at)


def balance(shot: Shot, figure: str, frames: ArrayLike) -> Balance:
    """How a figure stands at frames (F,), with what hangs on it as a whole: `.centre` (F, 3) of mass, `.ground` (F, 3) under it,
    `.support`, for each frame the outline (N, 3) of what bears weight, `.inside` (F,), `.out` (F,); metres."""
    return _balance(shot, figure, frames)


def throw(
    shot: Shot, figure: str, start: float, end: float, gravity: float = 9.81, height: float | None = None
) -> Shot:
    """A figure's centre of mass flies on a parabola from start to end, by gravity (m/s²) or as high over the higher end as
    `height` (metres); ends, what is outside, and the pose's own motion stay."""
    return _throw(shot, figure, start, end, gravity, height)


def drop(
    shot: Shot,
    figure: str,
    contact: float,
    height: float = 1.0,
    bounciness: float = 0.6,
    speed: float = 0.0,
    heading: float = 0.0,
    friction: float = 0.2,
    turn: float = 0.0,
    squash: float = 0.0,
    gravity: float = 9.81,
) -> Shot:
    """A figure falls from a height (metres), touches the ground first on a frame, where it stands on it, and bounces until it
    rests. speed (m/s) and heading (degrees from the world's z to its x) forward, of which each contact takes a share `friction`;
    turn: 1 as if it rolled; squash: by what share at the first contact."""
    how = Drop(height, bounciness, speed, math.radians(heading), friction, turn, squash)
    return _drop(shot, figure, contact, how, gravity)
