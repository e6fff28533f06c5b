"""A stance: the pose of a figure at a frame together with its solved joints. Posing begins and ends here."""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.fit import fitted
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import plan_of
from bovrin.motion.rotations import turn_only
from bovrin.shot import Rig

Floats = NDArray[np.float64]
Values = dict[int, float]


SAME = 1e-11
"""Metres or radians by which two fits of one place differ."""


def unstretched(rig: Rig, values: Floats) -> Floats:
    """Poses (..., C) with all stretch and size at rest: joints are placed in the figure's own proportions."""
    plan = plan_of(rig)
    if plan.in_shape(values):
        return values
    plain = values.copy()
    rest = plan.at_rest
    plain[..., list(rest)] = list(rest.values())
    return plain


class Stance:
    """One pose of a rig, values (C,). What hangs on it is worked out when it is asked for, and kept.

    `world` (J, 4, 4) is what is seen on the stage; `rigid` (J, 4, 4) and `local` are the same without stretch and size,
    in which joints are placed. What carries a figure from outside is in the `world` it is given.
    """

    def __init__(self, rig: Rig, values: Floats, world: Floats | None = None) -> None:
        self.rig, self.values = rig, values
        if world is not None:
            self.__dict__["world"] = world

    @cached_property
    def world(self) -> Floats:
        """Where the joints are seen (J, 4, 4)."""
        return np.asarray(solve(self.rig, self.values[None])[0])

    @cached_property
    def plain(self) -> Floats:
        """The values (C,) with stretch and size at rest."""
        return unstretched(self.rig, self.values)

    @cached_property
    def rigid(self) -> Floats:
        """The joints (J, 4, 4) without stretch and size, turns only."""
        seen = self.world if self.plain is self.values else solve(self.rig, self.plain[None])[0]
        world = np.array(seen)
        world[:, :3, :3] = turn_only(world[:, :3, :3])
        return world

    @cached_property
    def local(self) -> Floats:
        """The rigid joints (J, 4, 4), each in its parent's axes."""
        parents = np.array([max(joint.parent, 0) for joint in self.rig.joints])
        local = np.asarray(np.linalg.inv(self.rigid[parents]) @ self.rigid)
        local[0] = self.rigid[0]
        return local

    @cached_property
    def _back(self) -> Floats | None:
        return None if self.plain is self.values else self.rigid @ np.linalg.inv(self.world)

    def with_values(self, changes: Values) -> Stance:
        """The stance with some channels changed."""
        if not changes:
            return self
        values = self.values.copy()
        values[list(changes)] = list(changes.values())
        return Stance(self.rig, values)

    def seen(self, joint: int) -> Floats:
        """Where a joint is on the stage (3,)."""
        return np.asarray(self.world[joint, :3, 3])

    def place(self, joint: int) -> Floats:
        """Where a joint is without stretch (3,)."""
        return np.asarray(self.rigid[joint, :3, 3])

    def from_stage(self, joint: int, place: Floats) -> Floats:
        """A place on the stage (3,) as it is without the stretch that a joint shares with its figure."""
        if self._back is None:
            return np.asarray(place, float)
        return np.asarray((self._back[joint] @ np.append(place, 1.0))[:3])

    def descended(self, local: Floats, fixed: Mapping[int, Floats], upright: Mapping[int, Floats] = {}) -> Floats:
        """World matrices (J, 4, 4) from local ones. Joints in `fixed` are given in the world and carry all below them;
        those in `upright` have the turn (3, 3) it gives."""
        world = local.copy()
        plan = plan_of(self.rig)
        for joints, parents in plan.body_levels + plan.limb_levels:
            world[joints] = local[joints] if parents[0] < 0 else world[parents] @ local[joints]
            for joint in fixed.keys() & set(joints.tolist()):
                world[joint] = fixed[joint]
            for joint in upright.keys() & set(joints.tolist()):
                world[joint, :3, :3] = upright[joint]
        return world

    def changes(self, world: Floats, given: Values | None = None) -> Values:
        """The channels that differ when the joints are as in `world` (J, 4, 4), rigid, with some channels given."""
        near = self.plain.copy()
        if given:
            near[list(given)] = list(given.values())
        fit = fitted(self.rig, world[None], near[None])[0]
        return {int(i): float(fit[i]) for i in np.flatnonzero(fit != self.plain)}

    def changes_alone(self, world: Floats) -> Values:
        """The same, but goals that are out of reach stay where they are, unless their own limb moves."""
        found = self.changes(world)
        return {i: value for i, value in found.items() if abs(value - self._as_it_is[i]) > SAME}

    @cached_property
    def _as_it_is(self) -> Floats:
        """The channels (C,) that tell the joints where they are, where they tell it otherwise than the stance does; what is
        told as it is there is no number, so that it differs from all."""
        found = fitted(self.rig, self.rigid[None], self.plain[None])[0]
        return np.where(found == self.plain, np.inf, found)
