"""A bounded pace: what a drag turns goes no further in a step than the pointer's own way allows.

Where the pointer passes the point that something turns about, "toward the pointer" changes to its opposite at once. A turn
that is paced crosses over in the steps that follow instead.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.rotations import rotation_vector, vector_matrix

Floats = NDArray[np.float64]

PACE, AT_ONCE = 12.0, 0.004
"""Metres that anything may be swept in a step for each metre of the pointer's way, and at least."""


class Pace:
    """Keeps the turns of one drag at a bounded pace. begin (3,): where the pointer is at first, metres; None: no bounds."""

    def __init__(self, begin: Floats | None) -> None:
        self._pointer = begin
        self._most = np.inf
        self._turns: dict[str, Floats] = {}

    def step(self, pointer: Floats) -> None:
        """The pointer goes on to a place (3,)."""
        if self._pointer is not None:
            self._most = AT_ONCE + PACE * float(np.linalg.norm(pointer - self._pointer))
            self._pointer = np.asarray(pointer, float)

    def turn(self, name: str, wanted: Floats, lever: float) -> Floats:
        """The turn (3, 3) called by a name as far on its way to the wanted one as the step allows.

        lever: how far from the pivot the turn sweeps anything, metres.
        """
        before = self._turns.get(name, np.eye(3))
        way = rotation_vector(wanted @ before.T)
        angle = float(np.linalg.norm(way))
        most = self._most / max(lever, 1e-9)
        self._turns[name] = wanted if angle <= most else vector_matrix(way * (most / angle)) @ before
        return self._turns[name]
