"""A shot at a frame as a picture."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.picture.item import items_at
from bovrin.picture.renderer import PictureStyle, Renderer, shared_renderer
from bovrin.picture.view import View
from bovrin.shot import Shot

Pixels = NDArray[np.uint8]


def shot_picture(
    shot: Shot,
    frame: float,
    view: View,
    size: tuple[int, int],
    style: PictureStyle = PictureStyle(),
    renderer: Renderer | None = None,
) -> Pixels:
    """The shot at a frame (H, W, 4)."""
    if not (16 <= size[0] <= 8192 and 16 <= size[1] <= 8192):
        raise BadMotion(f"a picture of {size[0]} x {size[1]} is not possible.", advice="Use 16 to 8192 pixels a side.")
    return (renderer or shared_renderer()).draw(items_at(shot, frame), view, size, style)
