"""How far planted feet slide."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.ground.feet import Footing, bearing_steps
from bovrin.measure.gait.contacts import contacts
from bovrin.measure.gait.footing import footing
from bovrin.shot import Shot, Stretch

Floats = NDArray[np.float64]


def slid(feet: Footing, number: int, spans: list[Stretch], ground: Floats) -> Floats:
    """How far a foot is from where it came down (F,), metres, while it is down; 0 elsewhere. Of heel and ball it is the one that
    goes less that counts, since a foot may roll. ground (3,): how the ground runs under it, metres a frame."""
    result = np.zeros(len(feet.frames))
    for start, end in spans:
        rows = np.flatnonzero((feet.frames >= start - 1e-9) & (feet.frames <= end + 1e-9))
        if len(rows) < 2:
            continue
        gone = bearing_steps(
            feet.points[number, rows], feet.heights[number, rows], np.diff(feet.frames[rows])[:, None] * ground
        )
        result[rows[1:]] = np.linalg.norm(np.cumsum(gone, axis=0), axis=1)
    return result


def slides(shot: Shot, figure: str, frames: Floats) -> dict[str, Floats]:
    """By foot, how far it is from where it came down (F,), metres; on the spot, against the ground that runs under it."""
    feet = footing(shot, figure, frames)
    ground = feet.treadmill(shot.frame_rate)
    down = contacts(shot, figure)
    return {foot.name: slid(feet, n, down.get(foot.name, []), ground) for n, foot in enumerate(feet.feet)}


def slide_of(shot: Shot, figure: str) -> dict[str, float]:
    """By foot, the farthest that it slides while it is down, metres, on the whole frames of the shot."""
    frames = np.arange(np.ceil(shot.first), np.floor(shot.last) + 1)
    return {name: float(gone.max(initial=0.0)) for name, gone in slides(shot, figure, frames).items()}
