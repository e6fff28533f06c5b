"""The gates of whole-body posing over many builds, poses, joints and ways, a millimetre at a time."""

import os

import numpy as np
import pytest
from tests.craft.pose.test_body_pulls import assert_gates
from tests.pulls import WAYS, best_distance, poses, pulled_joints, swept

from bovrin.craft.pose.body import anchored
from bovrin.figure.body.bends import movers
from bovrin.figure.stages.stance import Stance

pytestmark = pytest.mark.sweep

WHOLE = bool(os.environ.get("BOVRIN_WHOLE_SWEEPS"))
NAMES = sorted(["porter standing", "porter crouched", "porter in step", "porter 101", "porter 119"]) + [
    f"{build} {pose}" for build in ("goat", "walker", "askew goat") for pose in ("standing", "crouched", "in step")
]


@pytest.mark.parametrize("name", NAMES)
def test_all_gates(name: str) -> None:
    rig, values = poses()[name]
    pulls = [(joint, way) for joint in pulled_joints(rig) for way in WAYS]
    rng = np.random.default_rng(sum(map(ord, name)))
    few = pulls if WHOLE else [pulls[n] for n in rng.choice(len(pulls), 3, replace=False)]
    start = Stance(rig, values)
    for joint, way in few:
        what = (name, rig.joints[joint].name, way.round(1).tolist())
        found = swept(rig, values, joint, way)
        assert_gates(found, 0.001, what)
        if joint in movers(rig):
            assert found.leaned < 20.0, what
        anchors = [a for a in anchored(start) if a != joint]
        best = best_distance(start, joint, anchors, found.target, found.last)
        assert found.missed[-1] < best + 0.015, what
