"""Whole-body posing: drag one joint and the body follows, while anchored joints hold."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.body.bends import ancestors, bends_of
from bovrin.figure.body.held import body_at
from bovrin.figure.body.plan import body_plan
from bovrin.figure.body.pull import Pull
from bovrin.figure.fit import LimbMode, modes_of
from bovrin.figure.plan import plan_of
from bovrin.figure.stance import Stance, Values
from bovrin.motion.rotations import vector_matrix
from bovrin.shot import ChannelRole, Rig

Floats = NDArray[np.float64]

NO_ROLL = 1e-5
"""Radians of a foot's roll that are not worth a key."""


class BodyDrag:
    """One drag of the whole body. It follows the pointer from pose to pose and leads back to the first one.

    stance: the first pose; joint: the dragged one; anchors: joints that hold their place (and, where a limb ends, their
    turn; a foot may roll on its ball before it holds the body back); keep_turn: the dragged joint holds its own turn too.
    """

    def __init__(self, stance: Stance, joint: int, anchors: Iterable[int], *, keep_turn: bool = False) -> None:
        rig = stance.rig
        held = [a for a in dict.fromkeys(anchors) if a != joint]
        wanted = (joint, *held)
        rolling = tuple(n for n, limb in enumerate(rig.limbs) if limb.foot is not None and limb.end in held)
        plan = body_plan(rig, wanted, rolling)
        if not (len(plan.turning.place) or len(plan.moving)):
            raise BadMotion(
                f"nothing above '{rig.joints[joint].name}' gives way.", advice="Drag the handle of a control instead."
            )
        world = stance.rigid
        body = body_at(plan, plan_of(rig), [j.parent for j in rig.joints], world)
        self._stance, self._joint, self._joints, self._rolling = stance, joint, plan.joints, rolling
        self._pull = Pull(body, world[list(wanted), :3, 3])
        ends = {limb.end for limb in rig.limbs}
        upright = [j for j in held if j in ends] + ([joint] if keep_turn else [])
        self._turns = {j: world[j, :3, :3] for j in upright}

    def to(self, place: Floats) -> Values:
        """The channels that change when the dragged joint is pulled on to a world place (3,), metres."""
        local = self._stance.local.copy()
        local[self._joints] = self._pull.to(self._stance.from_stage(self._joint, place))
        world = self._stance.descended(local, {}, upright=self._turns | self._rolled_feet())
        return self._stance.changes(world, self._roll_channels())

    def _rolled_feet(self) -> dict[int, Floats]:
        """Turns of the feet that may roll, and of their toes, which stay flat."""
        turns = {}
        for n, axis, angle in zip(self._rolling, self._pull.body.rolls.axis, self._pull.rolls, strict=True):
            limb = self._stance.rig.limbs[n]
            turns[limb.end] = vector_matrix(axis * angle) @ self._stance.rigid[limb.end, :3, :3]
            if limb.foot is not None:
                turns[limb.foot.toes] = self._stance.rigid[limb.foot.toes, :3, :3]
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
            if column >= 0 and modes[n] is LimbMode.REACH and abs(angle) > NO_ROLL:
                found[column] = float(stance.plain[column] + angle)
        return found


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
