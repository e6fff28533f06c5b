"""Turns in the world that held ends keep, as far as the limits of their joints allow."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.body.bends import bends_of
from bovrin.figure.solve.plan import plan_of
from bovrin.motion.rotations import rotation_vector, vector_matrix
from bovrin.shot import Rig

Floats = NDArray[np.float64]


class HeldTurns:
    """Some joints (k) that keep the turns they have in the world (J, 4, 4) until their limits are met.

    What is past a limit when they are taken hold of may stay there, and goes no further.
    """

    def __init__(self, rig: Rig, joints: Sequence[int], world: Floats) -> None:
        self.joints = tuple(joints)
        own = np.array(self.joints, np.intp)
        parents = np.array([rig.joints[j].parent for j in self.joints], np.intp)
        above = np.where((parents >= 0)[:, None, None], world[parents, :3, :3], np.eye(3))
        self.start = world[own, :3, :3]
        self._rest = plan_of(rig).rest_local[own, :3, :3]
        self._first = rotation_vector(self._own(above, self.start))
        self._low, self._high = limits_of(rig, self.joints, self._first)
        self._last = self._first

    def kept(self, above: Floats, wanted: Floats) -> Floats:
        """The turns (k, 3, 3) nearest to wanted ones (k, 3, 3) that the joints can have while what carries them is turned as
        above (k, 3, 3). A turn that goes past half a circle is followed on, so that it does not come out at the other limit."""
        vector = rotation_vector(self._own(above, wanted))
        size = np.linalg.norm(vector, axis=-1, keepdims=True)
        other = vector * (1.0 - 2.0 * np.pi / np.maximum(size, 1e-9))
        nearer = np.linalg.norm(other - self._last, axis=-1) < np.linalg.norm(vector - self._last, axis=-1)
        self._last = np.where(nearer[:, None], other, vector)
        within = np.clip(self._last, self._low, self._high)
        given = (within != self._last).any(-1)
        return np.where(given[:, None, None], above @ self._rest @ vector_matrix(within), wanted)

    def _own(self, above: Floats, turn: Floats) -> Floats:
        """Turns in the world as they are from rest, in what carries them."""
        return np.asarray(np.swapaxes(self._rest, -1, -2) @ np.swapaxes(above, -1, -2) @ turn)


def limits_of(rig: Rig, joints: Sequence[int], first: Floats) -> tuple[Floats, Floats]:
    """Least and most rotation vectors (k, 3) of some joints from rest; those they have at first (k, 3) are within."""
    bends, far = bends_of(rig), np.full(3, np.inf)
    low = np.array([-far if j not in bends else bends[j].low for j in joints]).reshape(-1, 3)
    high = np.array([far if j not in bends else bends[j].high for j in joints]).reshape(-1, 3)
    return np.minimum(low, first), np.maximum(high, first)
