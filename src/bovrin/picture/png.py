"""Pictures as PNG files."""

from __future__ import annotations

import io

import numpy as np
from numpy.typing import NDArray
from PIL import Image


def png_bytes(pixels: NDArray[np.uint8]) -> bytes:
    """The renderer's pixels (H, W, 4) as a PNG file's bytes."""
    buffer = io.BytesIO()
    Image.fromarray(np.ascontiguousarray(pixels), "RGBA").save(buffer, "PNG")
    return buffer.getvalue()
