"""What is drawn: a figure where it is, and a figure's outline on the light table."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import stances
from bovrin.frozen import frozen
from bovrin.shot import Figure, Shot

Floats = NDArray[np.float64]


@frozen
class Item:
    """A figure, where its joints are: world matrices (J, 4, 4), and all its channels (C,)."""

    figure: Figure
    world: Floats
    values: Floats

    @property
    def amounts(self) -> Floats:
        """The amounts of its meshes' shapes (K,), as `rig.morph_columns` names them."""
        return np.asarray(self.values[list(self.figure.rig.morph_columns)])


@frozen
class Ghost:
    """A figure drawn as an outline only, under the others: its colour (sRGB 0..1) and opacity."""

    item: Item
    colour: tuple[float, float, float]
    alpha: float


def item_of(figure: Figure, where: Stance) -> Item:
    """A figure in a stance."""
    return Item(figure, where.world, where.values)


def item_posed(figure: Figure, values: Floats) -> Item:
    """A figure at channel values (C,)."""
    return item_of(figure, Stance(figure.rig, values))


def items_at(shot: Shot, frame: float) -> list[Item]:
    """Where every figure of a shot is at a frame."""
    found = stances(shot, [figure.name for figure in shot.cast], frame)
    return [item_of(figure, found[figure.name]) for figure in shot.cast]
