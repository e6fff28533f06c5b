"""Long BVH motions against reading their numbers alone."""

from __future__ import annotations

import io
import re

import numpy as np
from numpy.typing import NDArray

from benchmarks.row import Row, compare
from bovrin import script
from bovrin.formats.bvh.figure import shot_of
from bovrin.formats.bvh.out import bvh_text
from bovrin.formats.bvh.source import bvh_from_bytes

FRAMES = 10_000


def _head() -> tuple[str, int]:
    """The porter's joints as a file tells them, and how many numbers a row has."""
    head = bvh_text(script.demo()).split("MOTION")[0]
    return head, sum(len(line.split()[2:]) for line in re.findall(r"CHANNELS.*", head))


def _file(head: str, numbers: NDArray[np.float64]) -> tuple[bytes, str]:
    out = io.StringIO()
    np.savetxt(out, numbers, fmt="%.6f")
    text = out.getvalue()
    return f"{head}MOTION\nFrames: {len(numbers)}\nFrame Time: 0.0416667\n{text}".encode(), text


def long_motion() -> tuple[bytes, str]:
    """A file of the porter's joints at random turns, and its numbers as text."""
    head, width = _head()
    return _file(head, np.random.default_rng(1).uniform(-90, 90, (FRAMES, width)))


def smooth_motion(frames: int = FRAMES) -> tuple[bytes, str]:
    """The same of joints that swing, some of them far."""
    head, width = _head()
    rng = np.random.default_rng(2)
    time = np.arange(frames)[:, None]
    waves = [
        rng.normal(0, 14, width) * np.sin(time * rng.uniform(0.02, 0.2, width) + rng.uniform(0, 6, width))
        for _ in range(3)
    ]
    numbers = np.sum(waves, 0)
    numbers[:, :3] *= 0.01
    return _file(head, numbers)


def rows() -> list[Row]:
    """Reading, figure and curves and all, over loading the numbers."""
    found = []
    for name, aim, (data, text) in (("", 2.3, smooth_motion()), ("random ", 2.6, long_motion())):

        def ours(data: bytes = data) -> None:
            shot_of(bvh_from_bytes(data, "long.bvh"), "long", "long.bvh")

        def base(text: str = text) -> None:
            np.loadtxt(io.StringIO(text))

        found.append(compare(f"BVH of {FRAMES} {name}frames, over its numbers", aim, ours, base, 5))
    return found
