"""The stride of a figure's going as a ruler that stays."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bovrin.figure.staging import stance
from bovrin.measure.gait.contacts import contacts
from bovrin.measure.gait.footing import footing
from bovrin.measure.gait.stride import stride
from bovrin.shot import Ruler, Shot


def stride_ruler(shot: Shot, figure: str, frame: float) -> Ruler:
    """From where a foot stands on, or last stood before, a frame to where it comes down next, as far as the stride goes.

    BadMotion where there is no stride to be measured.
    """
    measured = stride(shot, figure)
    down = contacts(shot, figure)
    names = [one.name for one in footing(shot, figure, [shot.first]).feet]
    number, spans = next((n, down[name]) for n, name in enumerate(names) if down.get(name))
    begun = [span for span in spans if span[0] <= frame] or spans[:1]
    middle = (begun[-1][0] + begun[-1][1]) / 2
    place = footing(shot, figure, [middle]).points[number, 0].mean(0)
    end = place + measured.length * np.array(measured.way)
    return Ruler((float(place[0]), float(place[2])), (float(end[0]), float(end[2]))).checked()


def plain_ruler(shot: Shot, figure: str, frame: float, length: float = 1.0) -> Ruler:
    """A ruler of some length from where a figure stands, ahead of it."""
    root = stance(shot, figure, frame).world[0]
    way = root[:3, 2] * [1.0, 0.0, 1.0]
    size = float(np.linalg.norm(way))
    way = way / size if size > 1e-6 else np.array([0.0, 0.0, 1.0])
    start = root[:3, 3]
    end = start + length * way
    return Ruler((float(start[0]), float(start[2])), (float(end[0]), float(end[2]))).checked()


def turned_ruler(shot: Shot) -> Shot:
    """The shot with its ruler turned by 90 degrees about its beginning, if it has one."""
    return shot if shot.ruler is None else replace(shot, ruler=shot.ruler.turned(90.0))
