"""How far things go on each frame: the spacing of a channel, or of a point in space."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.staging import staged
from bovrin.frozen import frozen
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, Shot

Floats = NDArray[np.float64]


STILL = 0.01
"""The share of the largest step under which a frame is held."""


@frozen
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

    @property
    def largest_change(self) -> float | None:
        """The frame on which the step differs most from the one before; None where all are alike."""
        change = np.abs(np.diff(self.steps))
        if not len(change) or change.max() <= 1e-12:
            return None
        return float(self.frames[1 + int(change.argmax())])

    def shares(self) -> tuple[float, float, float]:
        """The shares of frames that are held, moving, and settling: slowing down below half the mean of those that move."""
        if not len(self.steps):
            return 1.0, 0.0, 0.0
        held = self.steps <= STILL * max(float(self.steps.max()), 1e-12)
        pace = float(self.steps[~held].mean()) if (~held).any() else 0.0
        slower = np.concatenate([[False], np.diff(self.steps) < 0])
        settling = ~held & slower & (self.steps < pace / 2)
        count = len(self.steps)
        parts = (held.sum() / count, (~held & ~settling).sum() / count, settling.sum() / count)
        return float(parts[0]), float(parts[1]), float(parts[2])


def channel_spacing(curve: Curve, frames: Floats, default: float = 0.0) -> Spacing:
    """How much a channel changes on each of some whole frames in a row (F+1,): F steps, never negative."""
    values = curve_values(curve, frames, default)
    return Spacing(np.asarray(frames[1:]), np.abs(np.diff(values)))


def point_spacing(shot: Shot, figure: str, joint: int, frames: Floats) -> Spacing:
    """How far a joint goes in space on each of some whole frames in a row (F+1,): F steps, metres."""
    places = staged(shot, figure, frames).places[:, joint]
    return Spacing(np.asarray(frames[1:]), np.linalg.norm(np.diff(places, axis=0), axis=1))
