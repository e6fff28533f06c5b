"""How far things go on each frame: the spacing of a channel, or of a point in space."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.staging import staged
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, Shot

Floats = NDArray[np.float64]


@dataclass(frozen=True, eq=False, repr=False)
class Spacing:
    """Steps (F,) to each frame from the one before, and the frames (F,) they lead to."""

    frames: Floats
    steps: Floats

    @property
    def average(self) -> float:
        """The mean step."""
        return float(self.steps.mean()) if len(self.steps) else 0.0

    def above_and_below(self) -> tuple[int, int]:
        """How many steps are longer than the mean, and how many shorter."""
        return int((self.steps > self.average).sum()), int((self.steps < self.average).sum())


def channel_spacing(curve: Curve, frames: Floats, default: float = 0.0) -> Spacing:
    """How much a channel changes on each of some whole frames in a row (F+1,): F steps, never negative."""
    values = curve_values(curve, frames, default)
    return Spacing(np.asarray(frames[1:]), np.abs(np.diff(values)))


def point_spacing(shot: Shot, figure: str, joint: int, frames: Floats) -> Spacing:
    """How far a joint goes in space on each of some whole frames in a row (F+1,): F steps, metres."""
    places = staged(shot, figure, frames).places[:, joint]
    return Spacing(np.asarray(frames[1:]), np.linalg.norm(np.diff(places, axis=0), axis=1))
