"""Where feet are on some frames of a shot."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.ground.feet import Footing, footing_of
from bovrin.figure.ground.under import under_of
from bovrin.figure.staging import staged
from bovrin.shot import Shot

Floats = NDArray[np.float64]


def footing(shot: Shot, figure: str, frames: Floats | Sequence[float], *, hands: bool = False) -> Footing:
    """The feet of a figure at frames (F,), and its hands if wanted."""
    at = np.asarray(frames, float)
    return footing_of(shot.figure(figure).rig, at, staged(shot, figure, at).world, under_of(shot, figure), hands=hands)
