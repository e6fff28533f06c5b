"""A figure's joints taken in hand: some are put elsewhere, what hangs on them comes along, and channels are read off."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.fit import fitted
from bovrin.figure.plan import plan_of
from bovrin.figure.solve import solve
from bovrin.motion.rotations import turn_only
from bovrin.shot import Rig

Floats = NDArray[np.float64]
Values = dict[int, float]


def unstretched(rig: Rig, values: Floats) -> Floats:
    """Poses (..., C) with all stretch and size at rest: joints are placed in the figure's own proportions."""
    cols = [c for shape in plan_of(rig).shapes for c in (shape.stretch, shape.size, *shape.sizes) if c >= 0]
    if not cols or (values[..., cols] == 1.0).all():
        return values
    plain = values.copy()
    plain[..., cols] = 1.0
    return plain


class Posture:
    """The joints of one pose, values (C,). `world` (J, 4, 4) is rigid: without stretch and size."""

    def __init__(self, rig: Rig, values: Floats) -> None:
        self.rig = rig
        self.values = unstretched(rig, values)
        seen = solve(rig, values[None])[0]
        world = seen if self.values is values else solve(rig, self.values[None])[0]
        self.world = np.ascontiguousarray(world)
        self.world[:, :3, :3] = turn_only(self.world[:, :3, :3])
        self._back = None if self.values is values else self.world @ np.linalg.inv(seen)
        parents = np.array([max(joint.parent, 0) for joint in rig.joints])
        self.local = np.linalg.inv(self.world[parents]) @ self.world
        self.local[0] = self.world[0]
        plan = plan_of(rig)
        self._levels = plan.body_levels + plan.limb_levels

    def place(self, joint: int) -> Floats:
        """Where a joint is (3,)."""
        return np.asarray(self.world[joint, :3, 3])

    def from_stage(self, joint: int, place: Floats) -> Floats:
        """A place on the stage (3,) as it is without the stretch that a joint shares with its figure."""
        if self._back is None:
            return np.asarray(place, float)
        return np.asarray((self._back[joint] @ np.append(place, 1.0))[:3])

    def descended(self, local: Floats, fixed: Mapping[int, Floats], upright: Sequence[int] = ()) -> Floats:
        """World matrices (J, 4, 4) from local ones. Joints in `fixed` are given in the world and carry all below them;
        those in `upright` keep the turn they have now."""
        world = local.copy()
        for joints, parents in self._levels:
            world[joints] = local[joints] if parents[0] < 0 else world[parents] @ local[joints]
            for joint in fixed.keys() & set(joints.tolist()):
                world[joint] = fixed[joint]
            for joint in set(upright) & set(joints.tolist()):
                world[joint, :3, :3] = self.world[joint, :3, :3]
        return world

    def changes(self, world: Floats) -> Values:
        """The channels that differ when the joints are as in `world` (J, 4, 4)."""
        fit = fitted(self.rig, world[None], self.values[None])[0]
        return {int(i): float(fit[i]) for i in np.flatnonzero(fit != self.values)}
