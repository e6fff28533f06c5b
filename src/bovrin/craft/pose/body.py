"""Whole-body posing: drag one joint and the body follows, while anchored joints hold."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.body.bends import ancestors, bends_of
from bovrin.figure.solve.fit import LimbMode, modes_of
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.stages.stance import Stance, Values
from bovrin.motion.rotations import vector_matrix
from bovrin.shot import ChannelRole, Rig

Floats = NDArray[np.float64]

NO_ROLL = 1e-5
"""Radians of a foot's roll that are not worth a key."""
SAME = 1e-9
"""How far a channel may be from what a pull left, metres or radians, where the next one goes on from it."""
MOST_SLICES = 300
"""How often a pull goes on at most where its end alone is wanted."""


class BodyDrag:
    """One drag of the whole body. It follows the pointer from pose to pose and leads back to the first one.

    stance: the first pose; joint: the dragged one; anchors: joints that hold their place (and, where a limb ends, their
    turn; a foot may roll on its ball before it holds the body back); keep_turn: the dragged joint holds its own turn too.
    """

    def __init__(self, stance: Stance, joint: int, anchors: Iterable[int], *, keep_turn: bool = False) -> None:
        from bovrin.figure.body.held import body_at  # noqa: PLC0415 - as all that pulls, kept out of the window's start
        from bovrin.figure.body.held_turns import HeldTurns  # noqa: PLC0415
        from bovrin.figure.body.plan import body_plan  # noqa: PLC0415
        from bovrin.figure.body.pull import Pull  # noqa: PLC0415

        rig = stance.rig
        held = [a for a in dict.fromkeys(anchors) if a != joint]
        wanted = (joint, *held)
        rolling = tuple(n for n, limb in enumerate(rig.limbs) if limb.rolls and limb.end in held)
        plan = body_plan(rig, wanted, rolling)
        if not (len(plan.turning.place) or len(plan.moving)):
            raise BadMotion(
                f"nothing above '{rig.joints[joint].name}' gives way.", advice="Drag the handle of a control instead."
            )
        world = stance.rigid
        body = body_at(plan, rig, world)
        self._start = self._stance = stance
        self._left, self._holds = stance, (joint, tuple(held), keep_turn)
        self._joint, self._joints, self._rolling = joint, plan.joints, rolling
        self._pull = Pull(body, world[list(wanted), :3, 3])
        ends = {limb.end for limb in rig.limbs} - {rig.limbs[n].end for n in rolling}
        upright = [j for j in held if j in ends] + ([joint] if keep_turn else [])
        self._turns = HeldTurns(rig, upright, world)
        self._upright = np.array([plan.joints.tolist().index(j) for j in upright], np.intp)

    @property
    def at_rest(self) -> bool:
        """Whether the body is where the pull leads; if not, `to` the same place goes on."""
        return self._pull.at_rest

    def settle(self, place: Floats) -> Values:
        """The same as `to`, gone on until the body is at rest."""
        found = self.to(place)
        for _ in range(MOST_SLICES):
            if self.at_rest:
                break
            found = self.to(place)
        return found

    def goes_on(self, stance: Stance, joint: int, anchors: Iterable[int], *, keep_turn: bool = False) -> bool:
        """Go on from a stance where it is what this drag left at the pointer, and the same is pulled and held; whether it does.
        What was pulled beyond its reach begins anew: let go, it strives back."""
        holds = (joint, tuple(a for a in dict.fromkeys(anchors) if a != joint), keep_turn)
        if holds != self._holds or not self._pull.meets or not _same_pose(stance, self._left):
            return False
        self._stance = stance
        return True

    def to(self, place: Floats) -> Values:
        """The channels that change when the dragged joint is pulled on to a world place (3,), metres, as far as the body
        follows in the time of a picture."""
        local = self._stance.local.copy()
        local[self._joints] = self._pull.to(self._stance.from_stage(self._joint, place))
        kept = self._turns.kept(self._pull.carried(self._upright), self._turns.start)
        turns = dict(zip(self._turns.joints, kept, strict=True))
        world = self._stance.descended(local, {}, upright=turns | self._rolled_feet())
        changes = self._stance.changes(world, self._roll_channels())
        self._left = self._stance.with_values(changes)
        return changes

    def _rolled_feet(self) -> dict[int, Floats]:
        """Turns of the feet that may roll, and of their toes, which stay flat."""
        turns = {}
        for n, axis, angle in zip(self._rolling, self._pull.body.rolls.axis, self._pull.rolls, strict=True):
            limb = self._stance.rig.limbs[n]
            turns[limb.end] = vector_matrix(axis * angle) @ self._start.rigid[limb.end, :3, :3]
            if limb.foot is not None:
                turns[limb.foot.toes] = self._start.rigid[limb.foot.toes, :3, :3]
        return turns

    def _roll_channels(self) -> Values:
        """The ball channels of feet that have rolled; a foot posed by its joints rolls by their turns."""
        stance = self._stance
        limbs = plan_of(stance.rig).limbs
        if limbs is None:
            return {}
        modes, found = modes_of(stance.rig, stance.values), {}
        for n, angle in zip(self._rolling, self._pull.rolls, strict=True):
            column = int(limbs.foot_columns[list(limbs.feet).index(n), 1])
            rolled = float(self._start.plain[column] + angle)
            if column >= 0 and modes[n] is LimbMode.REACH and abs(rolled - stance.plain[column]) > NO_ROLL:
                found[column] = rolled
        return found


class LastPull:
    """The last pull of a body, which the next one goes on from where it can."""

    def __init__(self) -> None:
        self._last: BodyDrag | None = None

    def drag(self, stance: Stance, joint: int, anchors: Iterable[int], *, keep_turn: bool = False) -> BodyDrag:
        """The drag of a joint from a stance: the last one, where the stance is what that left and it pulls and holds the
        same, so that in many presses it comes to the same pose as in one; or else a new one."""
        anchors, last = list(anchors), self._last
        if last is None or not last.goes_on(stance, joint, anchors, keep_turn=keep_turn):
            self._last = last = BodyDrag(stance, joint, anchors, keep_turn=keep_turn)
        return last


def _same_pose(a: Stance, b: Stance) -> bool:
    """Whether two stances are one pose, whatever in them is anchored."""
    if a.rig is not b.rig:
        return False
    poses = np.array([c.technical != ChannelRole.ANCHOR for control in a.rig.controls for c in control.channels])
    return bool(np.abs(a.values - b.values)[poses].max(initial=0.0) < SAME)


def follows_a_drag(rig: Rig, joint: int) -> bool:
    """Whether the body follows when a joint is dragged; small parts (fingers, brows) are moved alone."""
    return any(j in bends_of(rig) for j in ancestors(rig, joint)[:1]) or joint in {limb.end for limb in rig.limbs}


def anchored(stance: Stance) -> list[int]:
    """The joints that are anchored, by their "anchor" channels."""
    rig, values, found = stance.rig, stance.values, []
    for index, control in enumerate(rig.controls):
        for column, channel in zip(rig.span(index), control.channels, strict=True):
            if channel.technical == ChannelRole.ANCHOR and values[column] >= 0.5:
                found.append(control.joint)
    return found
