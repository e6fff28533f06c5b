"""One joint put somewhere while the others stay: hand without elbow, elbow without hand, shoulder without elbow …"""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.pose.body import BodyDrag
from bovrin.craft.pose.pace import Pace
from bovrin.craft.pose.posing import in_reach
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import STRAIGHT
from bovrin.figure.solve.plan import basis_from, plan_of, unit
from bovrin.figure.solve.reach import bent_bone, pole_space, reached_distance
from bovrin.figure.stages.stance import Stance, Values
from bovrin.motion.rotations import shortest
from bovrin.shot import Limb, Rig

Floats = NDArray[np.float64]
Fixed = dict[int, Floats]

FOLDED = 0.02
"""How near its root a limb's end gets, as a share of the limb's length more than its bones' difference: nearer, the middle
joint would whip round."""
EASE_OUT = 9e-4
"""Metres over which a straight limb eases out when its end is pulled inward."""
HELD = 1e-3
"""Metres a joint that is to stay may be off before it counts as moved."""


class Placing:
    """One joint of one pose about to be put elsewhere. Each place is worked out from that pose, and what turns toward it goes
    there at a bounded pace.

    keep: joints that must not move; carry: joints that come along; stretch: bones give way in length, otherwise they
    keep theirs; keep_turn: the end of a limb keeps its own angle, otherwise it follows its bone; paced: places come one
    after another along the pointer's way.
    """

    def __init__(
        self,
        stance: Stance,
        joint: int,
        keep: Iterable[int] = (),
        *,
        carry: Iterable[int] = (),
        keep_turn: bool = False,
        paced: bool = True,
    ) -> None:
        self.rig, self.joint, self.keep = stance.rig, joint, set(keep)
        self._carry, self._keep_turn = set(carry), keep_turn
        self._stance = stance
        self._limb = next((limb for limb in stance.rig.limbs if joint in (limb.upper, limb.middle, limb.end)), None)
        self._body: BodyDrag | None = None
        self._levers: dict[int, float] = {}
        self._pace = Pace(stance.place(joint) if paced else None)

    def to(self, place: Floats, *, stretch: bool = False) -> Values:
        """The channels that change when the joint goes to a world place (3,), metres, as near as it can."""
        wanted = self._stance.from_stage(self.joint, place)
        self._pace.step(wanted)
        limb = self._limb
        if limb is None:
            return self._swing_parent(wanted)
        if self.joint == limb.upper:
            return self._upper(limb, wanted, place, stretch=stretch)
        if self.joint == limb.middle:
            carried = limb.end in self._carry
            return self._done((self._together if carried else self._middle)(limb, wanted, stretch=stretch))
        if limb.middle in self.keep:
            return self._done(self._end_alone(limb, wanted, stretch=stretch))
        return self._done(self._stretched(limb, wanted) if stretch else self._reached(limb, wanted))

    def _done(self, fixed: Fixed) -> Values:
        return self._stance.changes_alone(self._stance.descended(self._stance.local, fixed))

    def _places(self, limb: Limb) -> tuple[Floats, Floats, Floats]:
        return tuple(self._stance.place(j) for j in (limb.upper, limb.middle, limb.end))  # type: ignore[return-value]

    def _at(self, joint: int, turn: Floats, place: Floats) -> Floats:
        """The matrix of a joint turned further by `turn` (3, 3), in the world, and put to a place."""
        matrix = self._stance.rigid[joint].copy()
        matrix[:3, :3] = turn @ matrix[:3, :3]
        matrix[:3, 3] = place
        return np.asarray(matrix)

    def _turned(self, start: Floats, stop: Floats, pivot: int) -> Floats:
        """The turn (3, 3) from one direction to another that a joint and all below it make, at a bounded pace."""
        return self._pace.turn("toward", shortest(unit(start), unit(stop)), self._lever(pivot))

    def _swivelled(self, start: Floats, stop: Floats, lever: float) -> Floats:
        """A direction (3,) on the way from one to another, round the line that both are at right angles to."""
        return np.asarray(self._pace.turn("round", shortest(start, stop), lever) @ start)

    def _lever(self, pivot: int) -> float:
        """How far from a joint the farthest joint below it is, metres."""
        if pivot not in self._levers:  # asked for at each step of a drag
            below = [j for j in range(len(self.rig.joints)) if _hangs_on(self.rig, j, pivot)]
            places = self._stance.rigid[below, :3, 3]
            self._levers[pivot] = float(np.linalg.norm(places - self._stance.place(pivot), axis=-1).max())
        return self._levers[pivot]

    def _end(self, limb: Limb, turn: Floats, place: Floats) -> Floats:
        return self._at(limb.end, np.eye(3) if self._keep_turn else turn, place)

    def _side(self, limb: Limb) -> Floats:
        """The unit direction that the middle joint lies to; of a straight limb, the one its upper bone's turn says."""
        start, middle, end = self._places(limb)
        along = unit(end - start)
        off = middle - start - ((middle - start) @ along) * along
        if np.linalg.norm(off) > 1e-5:
            return np.asarray(unit(off))
        plan = plan_of(self.rig)
        assert plan.limbs is not None
        basis = self._stance.rigid[limb.upper, :3, :3] @ plan.limbs.from_basis_upper[self.rig.limbs.index(limb)].T
        return np.asarray(unit(np.cross(basis[:, 2], along)))

    def _pole_side(self, limb: Limb, along: Floats, end: Floats) -> Floats | None:
        """Where a reaching limb's pole pulls the middle joint with the end at a place; None in joint mode."""
        index = self.rig.limbs.index(limb)
        if not in_reach(self._stance, index):
            return None
        plan = plan_of(self.rig)
        assert plan.limbs is not None
        goal = self._stance.rigid[limb.end].copy()
        goal[:3, 3] = end
        turn, shift = pole_space(plan, index, self._stance.rigid[:, None], goal[None])
        cols = plan.limbs.pole_move[index]
        moved = np.where(cols >= 0, self._stance.plain[cols], 0.0)
        off = turn[0] @ (plan.limbs.pole_rest[index] + moved) + shift[0] - self._stance.place(limb.upper)
        off = off - (off @ along) * along
        return np.asarray(unit(off)) if np.linalg.norm(off) > 1e-6 else None

    def _bent(self, limb: Limb, middle: Floats, end: Floats) -> tuple[Floats, Floats]:
        """How the upper and the lower bone turn when the middle and the end joint go to places, the bend's plane with them."""
        start, middle_now, end_now = self._places(limb)
        normal_now = np.cross(unit(end_now - start), self._side(limb))
        normal = np.cross(unit(end - start), middle - start)
        if np.linalg.norm(normal) < 1e-7:
            normal = shortest(unit(end_now - start), unit(end - start)) @ normal_now
        turns = []
        for before, after in ((middle_now - start, middle - start), (end_now - middle_now, end - middle)):
            turns.append(basis_from(unit(after), unit(normal)) @ basis_from(unit(before), normal_now).T)
        return turns[0], turns[1]

    def _limb_at(self, limb: Limb, middle: Floats, end: Floats) -> Fixed:
        upper, lower = self._bent(limb, middle, end)
        return {
            limb.upper: self._at(limb.upper, upper, self._stance.place(limb.upper)),
            limb.middle: self._at(limb.middle, lower, middle),
            limb.end: self._end(limb, lower, end),
        }

    def _reached(self, limb: Limb, to: Floats) -> Fixed:
        """The end goes there, its limb bends, the limb's root stays (law of cosines, the bend's side as it was)."""
        start, middle, end = self._places(limb)
        a, b = np.linalg.norm(middle - start), np.linalg.norm(end - middle)
        distance = self._eased(limb, float(np.linalg.norm(to - start)), float(a + b))
        folded = min(float(abs(a - b) + FOLDED * (a + b)), float(np.linalg.norm(end - start)))
        distance = max(folded, min(distance, float(a + b) - STRAIGHT))
        turn = self._turned(end - start, to - start, limb.upper)
        along = turn @ unit(end - start)
        side, pole = turn @ self._side(limb), self._pole_side(limb, along, to)
        if pole is not None:
            side = self._pace.turn("pole", shortest(side, pole), float(a)) @ side
        bent = start + a * bent_bone(along, side, np.asarray(distance), (np.asarray(a), np.asarray(b)))
        return self._limb_at(limb, bent, start + distance * along)

    def _eased(self, limb: Limb, distance: float, full: float) -> float:
        """How far from its root the end gets when it is asked to be at a distance, metres: as far, but easing into its full
        length as reach does, and easing out of being straight, since the middle joint goes far for little there."""
        limbs = plan_of(self.rig).limbs
        assert limbs is not None
        now = float(np.linalg.norm(self._stance.place(limb.end) - self._stance.place(limb.upper)))
        spare, inward = max(full - now, STRAIGHT), now - distance
        if inward > 0:
            ease = max(EASE_OUT - spare, STRAIGHT)
            return now + inward * math.expm1(-inward / ease)
        room = np.minimum(limbs.room[self.rig.limbs.index(limb)], spare)
        half = np.array(0.5 * full)
        return float(reached_distance(np.array(distance), half, half, room))

    def _end_alone(self, limb: Limb, to: Floats, *, stretch: bool) -> Fixed:
        """The end swings about the middle joint, which stays."""
        _, middle, end = self._places(limb)
        length = np.linalg.norm(to - middle) if stretch else np.linalg.norm(end - middle)
        turn = self._turned(end - middle, to - middle, limb.middle)
        return {
            limb.middle: self._at(limb.middle, turn, middle),
            limb.end: self._end(limb, turn, middle + turn @ unit(end - middle) * length),
        }

    def _stretched(self, limb: Limb, to: Floats) -> Fixed:
        """The whole limb stretches along its line, its bend kept."""
        start, middle, end = self._places(limb)
        turn = self._turned(end - start, to - start, limb.upper)
        scale = np.linalg.norm(to - start) / np.linalg.norm(end - start)
        return {
            limb.upper: self._at(limb.upper, turn, start),
            limb.middle: self._at(limb.middle, turn, start + scale * (turn @ (middle - start))),
            limb.end: self._end(limb, turn, start + scale * (turn @ (end - start))),
        }

    def _middle(self, limb: Limb, to: Floats, *, stretch: bool) -> Fixed:
        """The middle joint swivels round the line from root to end, or goes right there while its bones stretch."""
        start, middle, end = self._places(limb)
        if not stretch:
            along = unit(end - start)
            centre = start + ((middle - start) @ along) * along
            aside = to - centre - ((to - centre) @ along) * along
            side, radius = self._side(limb), float(np.linalg.norm(middle - centre))
            wanted = unit(aside) if np.linalg.norm(aside) > 1e-9 else side
            to = centre + self._swivelled(side, wanted, radius) * radius
        fixed = self._limb_at(limb, to, end)
        fixed[limb.end] = self._stance.rigid[limb.end]
        return fixed

    def _together(self, limb: Limb, to: Floats, *, stretch: bool) -> Fixed:
        """The middle joint and the end go the same way; the lower bone keeps its direction."""
        start, middle, end = self._places(limb)
        length = np.linalg.norm(to - start) if stretch else np.linalg.norm(middle - start)
        turn = self._turned(middle - start, to - start, limb.upper)
        there = start + turn @ unit(middle - start) * length
        return {
            limb.upper: self._at(limb.upper, turn, start),
            limb.middle: self._at(limb.middle, np.eye(3), there),
            limb.end: self._at(limb.end, np.eye(3), end + there - middle),
        }

    def _upper(self, limb: Limb, to: Floats, place: Floats, *, stretch: bool) -> Values:
        """The limb's root goes there by its own joint's turn (a shoulder) or with the body (a hip); the rest stays."""
        carrier = self.rig.joints[limb.upper].parent
        plan = plan_of(self.rig)
        turnable = any(carrier in turns.joints for turns in plan.turns)
        branches = sum(1 for other in self.rig.limbs if _hangs_on(self.rig, other.upper, carrier))
        if carrier < 0 or not turnable or branches > 1:
            if self._body is None:
                self._body = BodyDrag(self._stance, limb.upper, [limb.middle, limb.end, *self.keep])
            return self._body.to(place)
        pivot = self._stance.place(carrier)
        start, middle, _ = self._places(limb)
        turn = self._turned(start - pivot, to - pivot, carrier)
        there = pivot + turn @ (start - pivot)
        if not stretch:
            there = self._round_both(pivot, start, middle, to)
            turn = shortest(unit(start - pivot), unit(there - pivot))
        swing = shortest(unit(middle - start), unit(middle - there))
        return self._done(
            {
                carrier: self._at(carrier, turn, pivot),
                limb.upper: self._at(limb.upper, swing, there),
                limb.middle: self._stance.rigid[limb.middle],
                limb.end: self._stance.rigid[limb.end],
            }
        )

    def _round_both(self, pivot: Floats, start: Floats, middle: Floats, to: Floats) -> Floats:
        """Where a limb's root gets to when it keeps its distance from its carrier and from the limb's middle joint: round
        the line between both, toward a place."""
        along = unit(middle - pivot)
        centre = pivot + ((start - pivot) @ along) * along
        radius = float(np.linalg.norm(start - centre))
        aside = to - centre - ((to - centre) @ along) * along
        if radius < 1e-9 or np.linalg.norm(aside) < 1e-9:
            return start
        return np.asarray(centre + self._swivelled(unit(start - centre), unit(aside), radius) * radius)

    def _swing_parent(self, to: Floats) -> Values:
        """A joint outside all limbs moves by the turn of the joint that carries it."""
        what = self.rig.joints[self.joint]
        plan = plan_of(self.rig)
        if self.joint in plan.move_joints:
            matrix = self._at(self.joint, np.eye(3), to)
            return self._done({self.joint: matrix})
        if what.parent < 0 or not any(what.parent in turns.joints for turns in plan.turns):
            raise BadMotion(
                f"'{what.name}' hangs on nothing that turns, so it cannot be placed by itself.",
                advice="Move the whole figure instead.",
            )
        pivot = self._stance.place(what.parent)
        turn = self._turned(self._stance.place(self.joint) - pivot, to - pivot, what.parent)
        return self._done({what.parent: self._at(what.parent, turn, pivot)})


def _hangs_on(rig: Rig, joint: int, carrier: int) -> bool:
    while joint >= 0 and joint != carrier:
        joint = rig.joints[joint].parent
    return joint == carrier


def place_values(stance: Stance, joint: int, to: Floats, keep: Iterable[int] = (), *, stretch: bool = False) -> Values:
    """`Placing` in one call; BadMotion when a joint that is to stay would move."""
    placing = Placing(stance, joint, keep, paced=False)
    changes = placing.to(np.asarray(to, float), stretch=stretch)
    after, rig = stance.with_values(changes), stance.rig
    for held in placing.keep:
        if np.linalg.norm(stance.place(held) - after.place(held)) > HELD:
            raise BadMotion(
                f"'{rig.joints[held].name}' cannot stay where it is while '{rig.joints[joint].name}' goes there.",
                advice="Let go of it, or drag the whole body.",
            )
    return changes
