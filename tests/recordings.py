"""Recordings made up: a walk handed on as BVH, with the noise of sensors on every number, and faults where they are known."""

from __future__ import annotations

import io
import re
from collections.abc import Callable
from dataclasses import replace
from pathlib import Path

import numpy as np
from tests.cycles import cycle_of, lively

from bovrin import script as bv
from bovrin.shot import Shot

Rows = np.ndarray
Fault = Callable[[Rows, dict[str, int]], None]


def recording(
    folder: Path,
    seconds: float = 20,
    noise: float = 0.0,
    lasting: float = 0.0,
    faults: tuple[Fault, ...] = (),
    seed: int = 0,
) -> Shot:
    """A porter that walks, recorded. noise: degrees, and thirds of a centimetre where it is; lasting: the share of it that is
    there a frame later too; faults: change the numbers of the file, whose columns they are told by "joint/channel"."""
    shot = lively(cycle_of("porter", "walk", 32, 0.75), "porter")
    path = folder / "recorded.bvh"
    bv.export(replace(shot, last=shot.first + seconds * 24), path)
    head, tail = path.read_text().split("Frame Time:")
    time, text = tail.split("\n", 1)
    rows, columns = np.loadtxt(io.StringIO(text)), _columns(head)
    off = np.random.default_rng(seed).normal(0.0, 1.0, rows.shape)
    for n in range(1, len(off)):
        off[n] = lasting * off[n - 1] + np.sqrt(1 - lasting**2) * off[n]
    rows += off * [noise / 300 if "position" in name else noise for name in columns]
    for fault in faults:
        fault(rows, columns)
    written = io.StringIO()
    np.savetxt(written, rows, fmt="%.5f")
    path.write_text(f"{head}Frame Time:{time}\n{written.getvalue()}")
    return bv.bring(path)


def _columns(head: str) -> dict[str, int]:
    joints = re.findall(r"(?:ROOT|JOINT)\s+([^\n]+?)\s*\{\s*OFFSET[^\n]*\n\s*CHANNELS \d+ ([^\n]*)", head)
    names = [f"{joint.replace('_', ' ')}/{channel}" for joint, channels in joints for channel in channels.split()]
    return {name: n for n, name in enumerate(names)}


def turned(joint: str, row: int, by: float, frames: int = 1) -> Fault:
    """A joint that is turned by so many degrees for some frames."""

    def put(rows: Rows, columns: dict[str, int]) -> None:
        rows[row : row + frames, columns[f"{joint}/Xrotation"]] += by

    return put
