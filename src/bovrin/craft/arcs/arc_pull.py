"""Dragging a point's arc: the pose on one of its frames, or the handles of the keys around it, give way."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.edits import Scope, edited
from bovrin.craft.keying.keys import KeyStyle
from bovrin.craft.keying.lag import pose_keys
from bovrin.craft.pose import posing
from bovrin.craft.pose.body import BodyDrag, anchored
from bovrin.craft.pose.joint_placing import Placing
from bovrin.craft.pose.pace import Pace
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import unit
from bovrin.figure.stages.stance import Stance, Values
from bovrin.measure.arcs import place_in
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.motion.rotations import rotation_vector, shortest
from bovrin.shot import Curve, CurveSet, HandleKind, KeyRole, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

POSE, HANDLES, BREAKDOWN = "pose", "handles", "breakdown"
"""How an arc's dot that is dragged is kept: in the pose on its frame, by the handles around it, or in a breakdown there."""
TRIES, GAIN = 5, 0.7
"""How often what is left of the way is asked for again, and what of it must be left at most to go on."""
NEAR = 1e-5
"""Metres off at which a point is where it was asked to be."""
SAME = 1e-12
STILL = 1e-9
"""How much a value changes over a segment that holds."""


class PointPull:
    """A point of a joint in one stance, about to be put elsewhere: as the joint alone goes, or with the whole body.

    at (3,): how far the point is from the joint, in its axes, metres. keep: joints that hold besides those that are anchored.
    paced: places come one after another along the pointer's way, and what turns toward them keeps to its pace.
    """

    def __init__(
        self,
        stance: Stance,
        joint: int,
        at: Floats,
        *,
        whole: bool = False,
        keep: Iterable[int] = (),
        paced: bool = False,
    ) -> None:
        self._stance, self._joint, self._at, self._whole = stance, joint, np.asarray(at, float), whole
        rig = stance.rig
        self._keep = [j for j in dict.fromkeys((*anchored(stance), *keep)) if j != joint]
        self.control = posing.control_for_joint(stance, joint)
        self._limb = any(joint in (limb.upper, limb.middle, limb.end) for limb in rig.limbs)
        self._paced, self._pace = paced, Pace(self.place if paced else None)
        self._off = bool(np.linalg.norm(self._at) > NEAR)

    @property
    def place(self) -> Floats:
        """Where the point is in the stance (3,)."""
        return self._of(self._stance)

    def _of(self, stance: Stance) -> Floats:
        return place_in(stance.world[self._joint], self._at)

    def to(self, place: Floats) -> Values:
        """The channels that change when the point goes to a world place (3,), metres, as near as it can."""
        found: Values = {}
        asked, nearest = np.asarray(place, float), np.inf
        best: Values = {}
        self._pace.step(asked)
        for _ in range(TRIES):  # a joint that turns carries its point along, so what is left is asked for again
            found = self._once(asked)
            left = place - self._of(self._stance.with_values(found))
            off = float(np.linalg.norm(left))
            gains = off < nearest * GAIN
            if off < nearest:
                best, nearest = found, off
            if off < NEAR or not self._off or not gains or self._swings:
                break
            asked = asked + left
        return best

    def _once(self, place: Floats) -> Values:
        stance, joint, rig = self._stance, self._joint, self._stance.rig
        at = stance.seen(joint) + place - self.place
        if self._whole:
            return self._body.to(at) if self._paced else self._body.settle(at)
        if self._limb:
            return self._placing.to(at)
        if posing.can_move(rig, self.control):
            return posing.moved(stance, self.control, place - self.place)
        if self._swings:
            return self._turned(place)
        return self._placing.to(at)

    @cached_property
    def _swings(self) -> bool:
        """Whether the point's own joint turns to take it along."""
        rig, bound = self._stance.rig, self._whole or self._limb
        return self._off and not bound and not posing.can_move(rig, self.control) and posing.can_turn(rig, self.control)

    @property
    def at_rest(self) -> bool:
        """Whether the point is where it gets to; if not, `to` the same place goes on."""
        return not self._whole or self._body.at_rest

    @cached_property
    def _body(self) -> BodyDrag:
        return BodyDrag(self._stance, self._joint, self._keep)

    @cached_property
    def _placing(self) -> Placing:
        """What works out places one after another from the same stance."""
        keep = self._keep if self._limb else []
        return Placing(self._stance, self._joint, keep, keep_turn=self._limb, paced=self._paced)

    def _turned(self, place: Floats) -> Values:
        """The point's own joint turns, so that the point lies on the line from it through the place."""
        pivot = self._stance.seen(self._joint)
        now, wanted = self.place - pivot, place - pivot
        if min(np.linalg.norm(now), np.linalg.norm(wanted)) < SAME:
            return {}
        below = self._stance.world[:, :3, 3] - pivot
        lever = max(float(np.linalg.norm(now)), float(np.linalg.norm(below[self._joint :], axis=1).max(initial=0.0)))
        way = rotation_vector(self._pace.turn("toward", shortest(unit(now), unit(wanted)), lever))
        angle = float(np.linalg.norm(way))
        return posing.turned(self._stance, self.control, way / angle, angle) if angle > SAME else {}


def is_posed(curves: CurveSet, frame: float, channels: Mapping[int, float]) -> bool:
    """Whether a pose, or a key of one of the channels, lies on a frame."""
    there = pose_keys(curves, frame)
    return any(i in there for i in channels) or any(curves[i].index_at(frame) is not None for i in channels)


def pulled(
    shot: Shot, figure: str, frame: float, values: Mapping[int, float], how: str, scope: Scope, style: KeyStyle
) -> Shot:
    """The shot with the pose on a frame changed in some channels (index: value), as `how` says."""
    if how == POSE:
        return edited(shot, figure, frame, values, scope, style)
    if how == BREAKDOWN:
        return edited(shot, figure, frame, values, scope, KeyStyle(style.out_kind, KeyRole.BREAKDOWN))
    return bent_shot(shot, figure, frame, values)


def way_of(shot: Shot, figure: str, frame: float, values: Mapping[int, float], *, breakdown: bool = False) -> str:
    """How a drag on a frame is kept if nobody says: poses are posed, what lies between them is bent."""
    if is_posed(shot.curves(figure), frame, values):
        return POSE
    return BREAKDOWN if breakdown else HANDLES


def bent_shot(shot: Shot, figure: str, frame: float, values: Mapping[int, float]) -> Shot:
    """The shot with channels (index: value) led through values on a frame by the handles of the keys around it."""
    curves, names = shot.curves(figure), shot.figure(figure).rig.channel_names
    now = {i: float(curve_values(curves[i], np.array([frame]), shot.figure(figure).rig.defaults[i])[0]) for i in values}
    changed = {i: v for i, v in values.items() if abs(v - now[i]) > SAME}
    try:
        return shot.with_curves(
            figure, curves.replaced({i: bent_through(curves[i], frame, v) for i, v in changed.items()})
        )
    except BadMotion as error:
        where = next((names[i] for i in changed if not _can_bend(curves[i], frame)), "")
        raise BadMotion(f"{where}: {error.what}" if where else error.what, advice=error.advice) from error


def _can_bend(curve: Curve, frame: float) -> bool:
    at = int(np.searchsorted(curve.frames, frame - SAME_FRAME))
    return 0 < at < len(curve) and curve.out_kind[at - 1] != HandleKind.STEPPED


def bent_through(curve: Curve, frame: float, value: float) -> Curve:
    """The curve with the two handles around a frame turned so that it has a value there; keys stay where they are.

    Handles that go smoothly through their key turn on both sides, but not into a hold. The least change of both slopes.
    """
    own = curve.settled()
    at = int(np.searchsorted(own.frames, frame - SAME_FRAME))
    if not _can_bend(own, frame) or abs(own.frames[at] - frame) <= SAME_FRAME:
        raise BadMotion(
            f"there are no eased keys around frame {frame:g} to bend.", advice="Put a breakdown there: hold Shift."
        )
    before, after = at - 1, at
    own = _by_hand(_by_hand(own, before, "out"), after, "in")
    start = float(curve_values(own, np.array([frame]))[0])
    pull = np.array([_swayed(own, before, "out", frame) - start, _swayed(own, after, "in", frame) - start])
    size = float(pull @ pull)
    if size < STILL**2:
        raise BadMotion(f"frame {frame:g} lies too near a key to be bent.", advice="Move the key's pose instead.")
    turned = (value - start) * pull / size
    return _turned_by(_turned_by(own, before, "out", turned[0]), after, "in", turned[1])


def _swayed(curve: Curve, index: int, side: str, frame: float) -> float:
    """The value on a frame with one slope steeper by one."""
    slopes = getattr(curve, f"{side}_slope").copy()
    slopes[index] += 1.0
    return float(curve_values(curve.changed(**{f"{side}_slope": slopes}), np.array([frame]))[0])


def _by_hand(curve: Curve, index: int, side: str) -> Curve:
    """One handle made by hand, as it is now; so is the other one where both go smoothly through the key, else they are split."""
    now = gather([curve])
    other = "in" if side == "out" else "out"
    joined = curve.joined.copy()
    sides = [side]
    if joined[index]:
        if _goes_through(curve, index, other) and abs(now.in_slope[index] - now.out_slope[index]) < 1e-6:
            sides.append(other)
        else:
            joined[index] = False
    columns: dict[str, NDArray[np.generic]] = {"joined": joined}
    for name in sides:
        kinds, slopes = getattr(curve, f"{name}_kind").copy(), getattr(curve, f"{name}_slope").copy()
        kinds[index], slopes[index] = HandleKind.BY_HAND, getattr(now, f"{name}_slope")[index]
        columns |= {f"{name}_kind": kinds, f"{name}_slope": slopes}
    return curve.changed(**columns)


def _goes_through(curve: Curve, index: int, side: str) -> bool:
    """Whether a curve moves on a key's other side, so that its handle may turn there."""
    beside = index - 1 if side == "in" else index + 1
    if not 0 <= beside < len(curve):
        return True
    first = min(index, beside)
    moves = abs(curve.values[index] - curve.values[beside]) > STILL
    return bool(moves and curve.out_kind[first] != HandleKind.STEPPED)


def _turned_by(curve: Curve, index: int, side: str, by: float) -> Curve:
    columns = {}
    for name in ("in", "out") if curve.joined[index] else (side,):
        slopes = getattr(curve, f"{name}_slope").copy()
        slopes[index] += by
        columns[f"{name}_slope"] = slopes
    return curve.changed(**columns)
