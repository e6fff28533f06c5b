"""Long BVH motions against reading their numbers alone."""

from __future__ import annotations

import io
import re

import numpy as np

from benchmarks.run import Row, compare
from bovrin import script
from bovrin.formats.bvh import bvh_from_bytes
from bovrin.formats.bvh_figure import shot_of
from bovrin.formats.bvh_out import bvh_text

FRAMES = 10_000


def long_motion() -> tuple[bytes, str]:
    """A file of the porter's joints at random turns, and its numbers as text."""
    head = bvh_text(script.demo()).split("MOTION")[0]
    width = sum(len(line.split()[2:]) for line in re.findall(r"CHANNELS.*", head))
    numbers = np.random.default_rng(1).uniform(-90, 90, (FRAMES, width))
    out = io.StringIO()
    np.savetxt(out, numbers, fmt="%.6f")
    text = out.getvalue()
    return f"{head}MOTION\nFrames: {FRAMES}\nFrame Time: 0.0083333\n{text}".encode(), text


def rows() -> list[Row]:
    """Reading, figure and curves and all, over loading the numbers."""
    data, text = long_motion()

    def ours() -> None:
        shot_of(bvh_from_bytes(data, "long.bvh"), "long", "long.bvh")

    return [compare(f"BVH of {FRAMES} frames, over its numbers", 2.0, ours, lambda: np.loadtxt(io.StringIO(text)), 5)]
