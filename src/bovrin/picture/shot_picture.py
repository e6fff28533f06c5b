"""A shot at a frame as a picture."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.solve import solve
from bovrin.motion.evaluate import channel_values
from bovrin.picture.renderer import Item, Look, Renderer, shared_renderer
from bovrin.picture.view import View
from bovrin.shot import CurveSet, Figure, Shot

Pixels = NDArray[np.uint8]


def items_at(cast: tuple[Figure, ...], curves: Mapping[str, CurveSet], frame: float) -> list[Item]:
    """Where every figure is at a frame."""
    found = []
    for figure in cast:
        values = channel_values(curves[figure.name], figure.rig, [frame])
        found.append(Item(figure, solve(figure.rig, values)[0]))
    return found


def shot_picture(
    shot: Shot, frame: float, view: View, size: tuple[int, int], look: Look = Look(), renderer: Renderer | None = None
) -> Pixels:
    """The shot at a frame (H, W, 4)."""
    if not (16 <= size[0] <= 8192 and 16 <= size[1] <= 8192):
        raise BadMotion(f"a picture of {size[0]} x {size[1]} is not possible.", advice="Use 16 to 8192 pixels a side.")
    return (renderer or shared_renderer()).draw(items_at(shot.cast, shot.take.curves, frame), view, size, look)
