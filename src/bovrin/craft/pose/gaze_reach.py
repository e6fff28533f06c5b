"""On which frames eyes do not get to what they shall look at."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.pose.gaze import Place, place_of
from bovrin.figure.solve.plan import unit
from bovrin.figure.stages.gaze import eyes_of
from bovrin.figure.staging import staged
from bovrin.shot import Shot

MISSES = np.radians(1.0)
"""By how much an eye looks past a place that is out of its reach."""


def out_of_reach(shot: Shot, figure: str, start: float, end: float, at: Place) -> NDArray[np.float64]:
    """The whole frames (N,) from start to end on which an eye of a figure looks past a place, as the shot has it now."""
    frames = np.arange(np.ceil(start), np.floor(end) + 1)
    world = staged(shot, figure, frames).world
    places = np.array([place_of(shot, at, frame) for frame in frames.tolist()]).reshape(-1, 3)
    missed = np.zeros(len(frames), bool)
    for eye in eyes_of(shot.figure(figure).rig):
        looks = unit(world[:, eye.joint, :3, :3] @ eye.way)
        wanted = unit(places - world[:, eye.joint, :3, 3])
        missed |= np.arccos(np.clip((looks * wanted).sum(1), -1.0, 1.0)) > MISSES
    return frames[missed]
