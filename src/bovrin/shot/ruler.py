"""A ruler on the ground: a measure that stays, to pose by."""

from __future__ import annotations

import math
from typing import NamedTuple

from bovrin.errors import BadMotion

FARTHEST = 1e4
"""Metres from the middle of the stage that a ruler lies at most."""


class Ruler(NamedTuple):
    """Where it begins and ends on the ground: across (x) and forward (z), metres."""

    start: tuple[float, float]
    end: tuple[float, float]

    @property
    def length(self) -> float:
        """Metres."""
        return math.dist(self.start, self.end)

    def checked(self) -> Ruler:
        """Itself. BadMotion where it lies nowhere, or is a point."""
        if not all(abs(x) <= FARTHEST for x in (*self.start, *self.end)):
            raise BadMotion("the ruler does not lie on the stage.", advice="Give finite places, in metres.")
        if self.length < 1e-6:
            raise BadMotion("a ruler has two ends.", advice="Give places that are apart.")
        return self

    def turned(self, degrees: float) -> Ruler:
        """Turned about its beginning, seen from above counter-clockwise."""
        angle = math.radians(degrees)
        x, z = self.end[0] - self.start[0], self.end[1] - self.start[1]
        cos, sin = math.cos(angle), math.sin(angle)
        return Ruler(self.start, (self.start[0] + cos * x + sin * z, self.start[1] - sin * x + cos * z))

    def moved(self, across: float, forward: float) -> Ruler:
        """Laid elsewhere."""
        return Ruler((self.start[0] + across, self.start[1] + forward), (self.end[0] + across, self.end[1] + forward))
