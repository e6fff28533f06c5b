"""Whole-body posing: drag one joint and the body follows, while anchored joints hold."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.body import body_at, pulled
from bovrin.figure.body_plan import ancestors, bends_of, body_plan
from bovrin.figure.plan import plan_of
from bovrin.figure.stance import Stance, Values
from bovrin.shot import ChannelRole, Rig

Floats = NDArray[np.float64]

HOLD, PULL = 1e-9, 1e-5
"""How readily an anchor and the dragged joint give way (see `figure.body.pulled`)."""


class BodyDrag:
    """One drag of the whole body from one pose. It is prepared once; each place the pointer asks for is solved anew.

    stance: the pose; joint: the dragged one; anchors: joints that hold their place (and, where a limb ends, their
    turn); keep_turn: the dragged joint holds its own turn too.
    """

    def __init__(self, stance: Stance, joint: int, anchors: Iterable[int], *, keep_turn: bool = False) -> None:
        rig = stance.rig
        held = [a for a in dict.fromkeys(anchors) if a != joint]
        wanted = (joint, *held)
        self._stance = stance
        world = stance.rigid
        self._plan = body_plan(rig, wanted)
        if not (len(self._plan.turning) or len(self._plan.moving)):
            raise BadMotion(
                f"nothing above '{rig.joints[joint].name}' gives way.", advice="Drag the handle of a control instead."
            )
        joints = self._plan.joints
        rest = plan_of(rig).rest_local[joints[self._plan.turning], :3, :3]
        self._body = body_at(self._plan, rest, world[joints])
        self._targets = world[list(wanted), :3, 3]
        self._slack = np.array([PULL] + [HOLD] * len(held))
        ends = {limb.end for limb in rig.limbs}
        self._upright = [j for j in held if j in ends] + ([joint] if keep_turn else [])

    def to(self, place: Floats) -> Values:
        """The channels that change when the dragged joint is pulled to a world place (3,), metres."""
        dragged = int(self._plan.joints[self._plan.wanted[0]])
        self._targets[0] = self._stance.from_stage(dragged, place)
        local = self._stance.local.copy()
        local[self._plan.joints] = pulled(self._body, self._targets, self._slack)
        world = self._stance.descended(local, {}, upright=self._upright)
        return self._stance.changes(world)


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
