"""Pictures as Qt has them."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtGui import QImage


def to_qimage(pixels: NDArray[np.uint8], ratio: float) -> QImage:
    """The renderer's pixels (H, W, 4) as an image of its own, for a screen of the given pixel ratio."""
    height, width = pixels.shape[:2]
    image = QImage(pixels.tobytes(), width, height, width * 4, QImage.Format.Format_RGBA8888_Premultiplied).copy()
    image.setDevicePixelRatio(ratio)
    return image
