"""Where parts of a drawing are seen, cell by cell: what guesses are made from."""

from __future__ import annotations

import io
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure
from bovrin.figure.flat.guess import Masks
from bovrin.figure.flat.layers import Box, DrawnPart, PartPicture

CELLS = 320
"""Cells along the longer side of the grid."""
OPAQUE = 100
"""From how much of 255 on a spot counts as seen."""


def trimmed(picture: PartPicture) -> PartPicture:
    """A picture without the clear space around it, so that its mesh ends where it does; a clear one as it is."""
    from PIL import Image  # noqa: PLC0415 - only flat figures need it

    with Image.open(io.BytesIO(picture.png)) as opened:
        seen = opened.getchannel("A").getbbox()
        if seen is None:
            return picture
        cut, out = opened.crop(seen), io.BytesIO()
        cut.save(out, "PNG", compress_level=1)
        across, down = ((picture.box[i + 2] - picture.box[i]) / opened.size[i] for i in (0, 1))
    left, top = picture.box[:2]
    box = (left + seen[0] * across, top + seen[1] * down, left + seen[2] * across, top + seen[3] * down)
    return PartPicture(picture.name, out.getvalue(), box)


def masks_of(layers: Sequence[DrawnPart]) -> Masks:
    """Where the shown drawing of each part is seen."""
    if not layers:
        raise BadFigure("the drawing shows nothing.", advice="Draw something, or show its layers.")
    boxes = np.array([layer.drawings[0].box for layer in layers])
    left, top = (float(n) for n in boxes[:, :2].min(0))
    right, bottom = (float(n) for n in boxes[:, 2:].max(0))
    cell = max(right - left, bottom - top) / CELLS
    width, height = max(int(np.ceil((right - left) / cell)), 1), max(int(np.ceil((bottom - top) / cell)), 1)
    box = (left, top, left + width * cell, top + height * cell)
    seen = np.zeros((len(layers), height, width), bool)
    for n, layer in enumerate(layers):
        _lay(seen[n], layer.drawings[0].png, layer.drawings[0].box, box, cell)
    return Masks(seen, box)


def _lay(seen: NDArray[np.bool_], png: bytes, own: Box, whole: Box, cell: float) -> None:
    from PIL import Image  # noqa: PLC0415 - only flat figures need it

    height, width = seen.shape
    left, top = int((own[0] - whole[0]) / cell), int((own[1] - whole[1]) / cell)
    across = max(min(round((own[2] - own[0]) / cell), width - left), 1)
    down = max(min(round((own[3] - own[1]) / cell), height - top), 1)
    with Image.open(io.BytesIO(png)) as opened:
        small = opened.getchannel("A").resize((across, down), Image.Resampling.BOX)
    seen[top : top + down, left : left + across] |= np.asarray(small)[: height - top, : width - left] > OPAQUE
