"""Drawings on the stage: strokes of a pencil on a frame, which hold until the next drawing."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.frozen import frozen

Floats = NDArray[np.float64]
Pin = tuple[str, str]
GROUND: Pin = ("", "")
"""Pinned to the world."""
MOST_POINTS, WIDEST = 20_000, 200.0
FARTHEST = 1e6
"""Metres, or widths of the picture, within which strokes lie."""


@frozen
class Stroke:
    """One line of a pencil.

    points (N, 3): on the picture shares of it, x from the left and y from the top, and 0; pinned, metres: in the world, or in
    a joint's axes. widths (N,): thousandths of the picture's height. pin: None on the picture, else a figure and its joint, or
    GROUND. aspect: width by height of the picture that it was drawn on; 0: of any.
    """

    points: Floats
    widths: Floats
    pencil: str
    pin: Pin | None = None
    aspect: float = 0.0

    def __post_init__(self) -> None:
        points, widths = np.array(self.points, float), np.array(self.widths, float)
        if points.ndim != 2 or points.shape[1] != 3 or not 1 <= len(points) <= MOST_POINTS:
            raise BadMotion(f"a stroke has 1 to {MOST_POINTS:,} points of three numbers.")
        if widths.shape != (len(points),):
            raise BadMotion("a stroke has a width for each of its points.")
        if not (np.isfinite(points).all() and np.isfinite(widths).all() and math.isfinite(self.aspect)):
            raise BadMotion("a stroke holds numbers that are not finite.")
        if np.abs(points).max() > FARTHEST:
            raise BadMotion(f"a stroke lies farther off than {FARTHEST:,.0f} metres.")
        if widths.min() < 0 or widths.max() > WIDEST or self.aspect < 0:
            raise BadMotion(f"a stroke is 0 to {WIDEST:g} thousandths of the picture wide.")
        for name, column in (("points", points), ("widths", widths)):
            column.setflags(write=False)
            object.__setattr__(self, name, column)


@frozen
class Drawing:
    """What is drawn from a frame until the next drawing; without strokes nothing."""

    frame: float
    strokes: tuple[Stroke, ...] = ()

    def __post_init__(self) -> None:
        if not math.isfinite(self.frame):
            raise BadMotion("a drawing lies on no finite frame.")

    def moved(self, where: Callable[[float], float]) -> Drawing:
        """The drawing taken along: `where` says on which frame something lies now."""
        return replace(self, frame=where(self.frame))
