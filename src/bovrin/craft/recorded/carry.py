"""A motion carried from one figure to another with matching parts: turns stay, travel goes by the legs' length, and feet
that are down stay where they are."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.brought.guess import LimbGuess
from bovrin.figure.brought.matching import Likeness, matched
from bovrin.figure.solve.fit import LimbMode, continuous, fitted
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import Plan, plan_of, special_column, unit
from bovrin.figure.solve.reach import bone_rotations
from bovrin.figure.stages.stance import unstretched
from bovrin.figure.staging import staged
from bovrin.measure.planted import planted, spans
from bovrin.motion.rotations import shortest, turn_only
from bovrin.shot import ChannelRole, Curve, CurveSet, Rig, Shot
from bovrin.shot.curve import recorded_columns

Floats = NDArray[np.float64]
NEARLY = 0.999
"""A leg is never asked to be longer than this share of its length."""


def carried(shot: Shot, source: str, target: str) -> Shot:
    """The shot with the motion of one figure on another, keyed on every whole frame of the range.

    Parts that the two do not share keep what they did. BadMotion when they share too little.
    """
    if source == target:
        raise BadMotion("a motion cannot be carried to the figure that it comes from.", advice="Choose another figure.")
    a, b = shot.figure(source).rig, shot.figure(target).rig
    match = matched(a, b)
    if len(match.joints) < 3:
        raise BadMotion(
            f"'{source}' and '{target}' have too few parts in common.", advice="Correct what their joints are first."
        )
    frames = np.array(shot.whole_frames, float)
    before = unstretched(a, staged(shot, source, frames).values)
    carry = _Carry(a, b, match, solve(a, before), shot.frame_rate)
    near = unstretched(b, staged(shot, target, frames).values).copy()
    for limb in b.limbs:
        for bone in ("upper", "lower"):
            column = special_column(b, limb.pole, f"{bone} length")
            if column >= 0:
                near[:, column] = 1.0
    legs = {two.upper for _, two in match.limbs if two.kind.endswith("leg")}
    modes = [LimbMode.REACH if limb.upper in legs else LimbMode.JOINTS for limb in b.limbs]
    for limb, mode in zip(b.limbs, modes, strict=True):
        switch = special_column(b, limb.goal, ChannelRole.REACH)
        if switch >= 0:
            near[:, switch] = 1.0 if mode == LimbMode.REACH else 0.0
    values = continuous(b, fitted(b, carry.world(near), near, modes))
    return shot.with_curves(target, _keyed(shot.curves(target), b, frames, values))


@dataclass
class _Carry:
    """source : (F, J, 4, 4), rigid."""

    rig_from: Rig
    rig_to: Rig
    match: Likeness
    source: Floats
    rate: float

    def __post_init__(self) -> None:
        self.rest_from, self.rest_to = plan_of(self.rig_from).rest_world, plan_of(self.rig_to).rest_world
        turns = turn_only(self.source[..., :3, :3])
        self.since = turns @ np.swapaxes(turn_only(self.rest_from[:, :3, :3]), -1, -2)
        self.ratio = self._ratio()
        self.sunk = self._sunk()

    def _ratio(self) -> float:
        """How much longer the second figure's legs are; without legs, how much larger it is."""
        legs = [(one, two) for one, two in self.match.limbs if one.kind.endswith("leg")]
        if legs:
            lengths = [(_length(self.rest_from, one), _length(self.rest_to, two)) for one, two in legs]
            return float(np.mean([two / max(one, 1e-9) for one, two in lengths]))
        sizes = [float(np.ptp(rest[:, :3, 3], axis=0).max()) for rest in (self.rest_from, self.rest_to)]
        return sizes[1] / max(sizes[0], 1e-9)

    def _sunk(self) -> float:
        """How far over its place at rest the first figure stands: files may keep a figure at rest anywhere."""
        found = []
        for one, _ in self.match.limbs:
            if one.kind.endswith("leg"):
                ankle = self.source[:, one.end, :3, 3]
                down = planted(ankle, _length(self.rest_from, one), self.rate)
                heights = ankle[down, 1] if down.any() else ankle[:, 1]
                found.append(float(heights.min()) - float(self.rest_from[one.end, 1, 3]))
        return float(np.mean(found)) if found else 0.0

    def world(self, near: Floats) -> Floats:
        """World matrices (F, J, 4, 4) of the second figure."""
        wanted = self._turns()
        whole = solve(self.rig_to, near[:1])[0, 0]
        hips = self._hips()
        goals = self._feet()
        world = self._descended(wanted, hips, whole, {})
        hips[:, 1] -= self._lowering(world, goals)
        legs: dict[int, Floats] = {}
        world = self._descended(wanted, hips, whole, {})
        for limb, goal, end_turn, aside in goals:
            legs |= self._leg(world, limb, goal, end_turn, aside)
        return self._descended(wanted, hips, whole, legs)

    def _turns(self) -> dict[int, Floats]:
        """World turns (F, 3, 3) of the second figure's matched joints."""
        lie = {}
        for one, two in self.match.limbs:
            if one.kind.endswith("leg"):
                continue
            for a, b, c, d in (
                (one.upper, one.middle, two.upper, two.middle),
                (one.middle, one.end, two.middle, two.end),
            ):
                lie[c] = self._laid(a, b, c, d)
            lie[two.end] = lie[two.middle]
        found = {}
        for a, b in self.match.joints:
            rest = turn_only(self.rest_to[b, :3, :3])
            found[b] = self.since[:, a] @ lie.get(b, np.eye(3)) @ rest
        return found

    def _laid(self, a: int, b: int, c: int, d: int) -> Floats:
        """The turn that lays the second figure's bone at rest along the first one's."""
        first = unit(self.rest_from[b, :3, 3] - self.rest_from[a, :3, 3])
        second = unit(self.rest_to[d, :3, 3] - self.rest_to[c, :3, 3])
        return shortest(second, first)

    def _hips(self) -> Floats:
        a, b = self.match.hips
        return self._scaled(self.source[:, a, :3, 3], self.rest_from[a, :3, 3], self.rest_to[b, :3, 3])

    def _scaled(self, places: Floats, rest_from: Floats, rest_to: Floats) -> Floats:
        """Travel by the legs' ratio; heights by how far they are from where they rest."""
        result = places * self.ratio
        result[:, 1] = rest_to[1] + self.ratio * (places[:, 1] - self.sunk - rest_from[1])
        return result

    def _feet(self) -> list[tuple[LimbGuess, Floats, Floats, Floats]]:
        """For each leg: where its end goes (F, 3), how that is turned (F, 3, 3), and where its knee points (F, 3)."""
        found = []
        for one, two in self.match.limbs:
            if not two.kind.endswith("leg"):
                continue
            places = self.source[:, :, :3, 3]
            path = self._scaled(places[:, one.end], self.rest_from[one.end, :3, 3], self.rest_to[two.end, :3, 3])
            path = path + self._mend(one, two, path)
            turn = self.since[:, one.end] @ turn_only(self.rest_to[two.end, :3, :3])
            along = unit(places[:, one.end] - places[:, one.upper])
            bent = places[:, one.middle] - places[:, one.upper]
            aside = bent - (bent * along).sum(-1, keepdims=True) * along
            straight = np.linalg.norm(aside, axis=-1) < 0.01 * _length(self.rest_from, one)
            ahead = self.since[:, self.match.hips[0]] @ self._knee_way(two)
            found.append((two, path, turn, np.where(straight[:, None], ahead, unit(aside))))
        return found

    def _knee_way(self, limb: LimbGuess) -> Floats:
        """Where a knee points at rest; forward when it is straight."""
        start, bend, stop = (self.rest_to[j, :3, 3] for j in (limb.upper, limb.middle, limb.end))
        along = unit(stop - start)
        aside = bend - start - ((bend - start) @ along) * along
        return unit(aside) if np.linalg.norm(aside) > 1e-3 * _length(self.rest_to, limb) else np.array([0.0, 0.0, 1.0])

    def _mend(self, one: LimbGuess, two: LimbGuess, path: Floats) -> Floats:
        """What must be added to an ankle's path (F, 3) so that ball and heel stay in place while they are down."""
        leg = _length(self.rest_from, one)
        toes = one.digits[0][0] if one.digits and one.digits[0] else one.end
        heel, ball = self._roll_points(two)
        turn = self.since[:, one.end]
        on_ball = planted(self.source[:, toes, :3, 3], leg, self.rate)
        on_heel = planted(self.source[:, one.end, :3, 3], leg, self.rate) & ~on_ball
        mend, known = np.zeros_like(path), np.zeros(len(path), bool)
        for down, point in ((on_ball, ball), (on_heel, heel)):
            track = path + turn @ point
            for first, last in spans(down):
                fixed = track[first : last + 1].mean(0)
                beside = [n for n in (first - 1, last + 1) if down is on_heel and 0 <= n < len(path) and known[n]]
                if beside:  # heel and ball of one step: where the heel is when the other begins
                    edge = first if beside[0] == first - 1 else last
                    fixed = track[edge] + mend[beside[0]]
                mend[first : last + 1] = fixed - track[first : last + 1]
                known[first : last + 1] = True
        if not known.any():
            return mend
        at = np.flatnonzero(known)
        return np.stack([np.interp(np.arange(len(path)), at, mend[at, n]) for n in range(3)], 1)

    def _roll_points(self, limb: LimbGuess) -> tuple[Floats, Floats]:
        """Heel and ball of the second figure at rest, from the ankle in world axes."""
        own = next((x for x in self.rig_to.limbs if x.upper == limb.upper), None)
        if own is not None and own.foot is not None:
            return np.array(own.foot.heel), np.array(own.foot.ball)
        down = np.array([0.0, -float(self.rest_to[limb.end, 1, 3]), 0.0])
        return down, down

    def _lowering(self, world: Floats, goals: list[tuple[LimbGuess, Floats, Floats, Floats]]) -> Floats:
        """How far the hips must sink (F,) so that every foot is within reach."""
        lowest = np.zeros(len(world))
        for limb, goal, _, _ in goals:
            start = world[:, limb.upper, :3, 3]
            flat = np.linalg.norm((goal - start)[:, [0, 2]], axis=-1)
            full = NEARLY * _length(self.rest_to, limb)
            height = np.sqrt(np.maximum(full * full - flat * flat, 0.0))
            lowest = np.maximum(lowest, start[:, 1] - (goal[:, 1] + height))
        return np.maximum(lowest, 0.0)

    def _leg(self, world: Floats, limb: LimbGuess, goal: Floats, end_turn: Floats, aside: Floats) -> dict[int, Floats]:
        """World turns (F, 3, 3) of a leg whose end gets to its goal."""
        start = world[:, limb.upper, :3, 3]
        to_goal = goal - start
        distance = np.minimum(np.linalg.norm(to_goal, axis=-1), NEARLY * _length(self.rest_to, limb))
        along = unit(to_goal)
        aside = unit(aside - (aside * along).sum(-1, keepdims=True) * along)
        plan = plan_of(self.rig_to)
        number = next((n for n, x in enumerate(self.rig_to.limbs) if x.upper == limb.upper), None)
        if number is None or plan.limbs is None:
            return {}
        one = slice(number, number + 1)
        lengths = (plan.limbs.length_upper[one, None], plan.limbs.length_middle[one, None])
        upper, middle = bone_rotations(
            along[None],
            aside[None],
            distance[None],
            lengths,
            plan.limbs.from_basis_upper[one],
            plan.limbs.from_basis_middle[one],
        )
        return {limb.upper: upper[0], limb.middle: middle[0], limb.end: end_turn}

    def _descended(self, wanted: dict[int, Floats], hips: Floats, whole: Floats, legs: dict[int, Floats]) -> Floats:
        """All joints of the second figure from the turns of some; the others go along at rest."""
        plan: Plan = plan_of(self.rig_to)
        world = np.empty((len(hips), len(self.rig_to.joints), 4, 4))
        for j, joint in enumerate(self.rig_to.joints):
            if joint.parent < 0:
                world[:, j] = whole if j == 0 else plan.rest_local[j]
            else:
                world[:, j] = world[:, joint.parent] @ plan.rest_local[j]
            if j == self.match.hips[1]:
                world[:, j, :3, 3] = hips
            turn = legs.get(j, wanted.get(j))
            if turn is not None:
                world[:, j, :3, :3] = turn
        return world


def _length(rest: Floats, limb: LimbGuess) -> float:
    start, bend, stop = (rest[j, :3, 3] for j in (limb.upper, limb.middle, limb.end))
    return float(np.linalg.norm(bend - start) + np.linalg.norm(stop - bend))


def _keyed(curves: CurveSet, rig: Rig, frames: Floats, values: Floats) -> CurveSet:
    """Curves keyed on every frame; what never changes has one key, and columns are shared."""
    shared = recorded_columns(frames)
    changes = {}
    for column in range(len(rig.channels)):
        own = np.ascontiguousarray(values[:, column])
        still = float(np.ptp(own)) < 1e-12
        if still and not len(curves[column]) and abs(own[0] - rig.defaults[column]) < 1e-12:
            continue
        own = own[:1].copy() if still else own
        own.setflags(write=False)
        columns = {n: c[:1] for n, c in shared.items()} if still else shared
        changes[column] = Curve.from_columns({**columns, "values": own})
    return curves.replaced(changes)
