"""A flat figure before it has a rig: its parts with their pictures, and the plane in which it lies."""

from __future__ import annotations

import math
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from bovrin.frozen import frozen

Floats = NDArray[np.float64]
Box = tuple[float, float, float, float]
"""Left, top, right, bottom in the units of the drawing, y down."""


@frozen
class PartPicture:
    """A drawing of a part: a PNG with straight alpha, and the box that it fills."""

    name: str
    png: bytes
    box: Box


@frozen
class DrawnPart:
    """A part: its drawings, the one that is shown at rest first; the part that it lies in as the file says, or ""; where the
    file says that its pivot is."""

    name: str
    drawings: tuple[PartPicture, ...]
    parent: str = ""
    pivot: tuple[float, float] | None = None


class Facing(StrEnum):
    """Which way a flat figure looks as it is drawn."""

    RIGHT = "right"
    LEFT = "left"
    FRONT = "front"


@frozen
class Lie:
    """How a drawing lies in the figure's own space: units become metres, y up from the ground, forward as figures face (+z).

    A profile lies in the plane of forward and up, and the figure is turned so that it is seen from the front as it was drawn;
    a front view lies in the plane of across and up.
    """

    facing: Facing
    middle: float
    ground: float
    metres: float

    @property
    def along(self) -> int:
        """The axis that lies level in the plane: 0 across, 2 forward."""
        return 0 if self.facing is Facing.FRONT else 2

    @property
    def normal(self) -> tuple[float, float, float]:
        """What points at whoever sees the figure as it was drawn."""
        return {Facing.RIGHT: (-1.0, 0.0, 0.0), Facing.LEFT: (1.0, 0.0, 0.0), Facing.FRONT: (0.0, 0.0, 1.0)}[
            self.facing
        ]

    @property
    def turn(self) -> float:
        """How far the figure is turned at rest, radians."""
        return {Facing.RIGHT: math.pi / 2, Facing.LEFT: -math.pi / 2, Facing.FRONT: 0.0}[self.facing]

    def places(self, spots: Floats) -> Floats:
        """Places (N, 3), metres, of spots (N, 2) of the drawing."""
        spots = np.asarray(spots, float).reshape(-1, 2)
        made = np.zeros((len(spots), 3))
        away = (spots[:, 0] - self.middle) * self.metres
        made[:, self.along] = -away if self.facing is Facing.LEFT else away
        made[:, 1] = (self.ground - spots[:, 1]) * self.metres
        return made
