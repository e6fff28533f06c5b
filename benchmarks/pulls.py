"""The gates of whole-body posing: a handful of pulls, a millimetre at a time; the sweeps pull everything everywhere."""

from __future__ import annotations

import numpy as np
from tests.pulls import WAYS, Swept, best_distance, poses, pulled_joints, swept

from benchmarks.row import Row
from bovrin.craft.pose.body import anchored
from bovrin.figure.stages.stance import Stance

COUNT = 8
"""How many pulls are measured."""


def rows() -> list[Row]:
    """The worst of all pulls over what is allowed: each ratio is to be at most 1."""
    rng = np.random.default_rng(5)
    found: list[Swept] = []
    beyond = 0.0
    for name in rng.choice(sorted(poses()), COUNT, replace=False):
        rig, values = poses()[str(name)]
        joint = int(rng.choice(pulled_joints(rig)))
        one = swept(rig, values, joint, WAYS[rng.integers(len(WAYS))])
        start = Stance(rig, values)
        anchors = [a for a in anchored(start) if a != joint]
        beyond = max(beyond, float(one.missed[-1]) - best_distance(start, joint, anchors, one.target, one.last))
        found.append(one)
    return [
        _row("farthest that a joint goes in a step of 1 mm", max(float(one.steps.max()) for one in found), 20.0),
        _row("usual way of a joint in a step of 1 mm", float(np.median(np.concatenate([o.steps for o in found]))), 2.0),
        _row("drift of an anchor", max(one.drift for one in found), 0.5),
        _row("moving back while the pointer goes on", max(float(one.back.max()) for one in found), 0.1),
        _row("farther from the pointer than need be", beyond, 15.0),
        _row("farthest from home after the way back", max(one.home for one in found), 1.0),
    ]


def _row(name: str, metres: float, allowed: float) -> Row:
    """A gate in millimetres."""
    millimetres = max(float(metres) * 1000, 0.0)
    return Row(f"{COUNT} pulls, {name} (mm)", round(millimetres / allowed, 3), 1.0, round(millimetres, 3), allowed)
