"""What the renderer draws with: one drawable for each figure's model, whatever that is made of."""

from __future__ import annotations

from enum import Enum
from typing import Any, NamedTuple, Protocol

import numpy as np
from numpy.typing import NDArray

from bovrin.picture.item import Item

Floats = NDArray[np.float64]


class Mode(Enum):
    """What a drawable is drawn for. GLASS: what is seen through, over everything else."""

    PLAIN = "plain"
    GLASS = "glass"
    OUTLINE = "outline"
    DEPTH = "depth"
    PICK = "pick"


class Brush(NamedTuple):
    """What a drawable draws with: the context, the program of bodies, which is prepared for the view, and what others prepare
    theirs from: the way to clip space, half the picture's size in pixels, the light's colour, the ink (and its opacity), and
    how wide lines are.

    number : which item of the picture this is, from 1; counts in PICK only.
    """

    ctx: Any
    program: Any
    to_clip: bytes
    half_size: tuple[float, float]
    light: tuple[float, float, float] = (1.0, 1.0, 1.0)
    ink: tuple[float, float, float, float] = (0.0, 0.0, 0.0, 1.0)
    line: float = 0.0
    number: int = 0


class Drawable(Protocol):
    """A figure's model on the graphics side. `place` puts it where an item is; it is drawn there until the next place."""

    @property
    def nbytes(self) -> int:
        """Bytes that it takes up, about."""

    def place(self, item: Item) -> None:
        """Take the place and the shape that an item's joints and values give."""

    def draw(self, mode: Mode, brush: Brush) -> None:
        """Draw for a mode."""

    def blobs(self, item: Item) -> Floats:
        """Places (B, 3), metres, of blobs that stand for the model where an item is: they throw the shadow."""

    def bounds(self, item: Item) -> tuple[Floats, Floats]:
        """The lowest and the highest corner (3,), metres, of what is seen of an item, as near as blobs say."""
