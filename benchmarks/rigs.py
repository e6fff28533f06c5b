"""The porter over many frames in one call against one call for each frame."""

from __future__ import annotations

import numpy as np

from benchmarks.row import Row, compare
from bovrin import script
from bovrin.figure.solve.joints import solve
from bovrin.motion.evaluate import channel_values


def rows() -> list[Row]:
    """One row."""
    shot = script.splined(script.demo(), "porter")
    rig = shot.figure("porter").rig
    values = channel_values(shot.curves("porter"), rig, np.linspace(101, 160, 240))

    def one_by_one() -> None:
        for i in range(len(values)):
            solve(rig, values[i : i + 1])

    return [compare("porter over 240 frames in one call", 0.035, lambda: solve(rig, values), one_by_one, 8)]
