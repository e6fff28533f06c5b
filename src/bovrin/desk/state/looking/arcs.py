"""Arcs over the stage: of which points, over which frames, and as seen from where."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.frozen import frozen_equal
from bovrin.shot import Cycle, Figure, Shot, Spot

Floats = NDArray[np.float64]

AROUND, RANGE, SHOT = "around", "range", "shot"
SPANS = {
    AROUND: "So many frames before and after this one",
    RANGE: "The second range, else the whole shot",
    SHOT: "The whole shot",
}
SPACE, FLAT, RELATIVE = "in space", "flat", "relative"
SEEN = {
    SPACE: "Where the points are in space",
    FLAT: "Where they are in the picture on each frame, though the view goes along",
    RELATIVE: "As seen from one joint of the figure, so that travel does not hide them",
}
FEWEST, MOST = 2, 60
"""Frames around the current one."""
LONGEST = 2000
"""Frames that arcs are drawn over at the most."""


@frozen_equal
class Arcs:
    """on: whether they are seen; count: frames on each side of the current one; carrier: the joint that they are relative to, by
    name."""

    on: bool = False
    span: str = AROUND
    count: int = 12
    seen: str = SPACE
    carrier: str = ""

    def frames(self, shot: Shot, frame: float, cycle: Cycle | None = None) -> Floats:
        """The whole frames (F,) that arcs go over while a frame is the current one; around it, of a loop over its seam too."""
        first, last = shot.first, shot.last
        if cycle is not None and self.span == AROUND:
            first, last = min(first, cycle.first - cycle.length), max(last, cycle.last + cycle.length)
        if self.span == RANGE and shot.second is not None:
            first, last = max(first, shot.second[0]), min(last, shot.second[1])
        if self.span == AROUND or last - first > LONGEST:
            count = self.count if self.span == AROUND else LONGEST // 2
            first, last = max(first, frame - count), min(last, frame + count)
        return np.arange(np.ceil(first), np.floor(last) + 1)


def spot_of(figure: Figure, control: int) -> Spot:
    """The point whose arc stands for a control: the joint that it moves."""
    rig = figure.rig
    return Spot(figure.name, rig.joints[rig.controls[control].joint].name)


def carrier_of(figure: Figure, arcs: Arcs) -> int | None:
    """The joint that arcs are relative to; None where they are not, or the figure has none of that name."""
    names = [joint.name for joint in figure.rig.joints]
    return names.index(arcs.carrier) if arcs.seen == RELATIVE and arcs.carrier in names else None
