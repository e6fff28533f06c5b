"""Pulls of whole bodies, thinned: steps are longer and poses fewer than in the sweeps."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.pulls import Swept, anchor_place, best_distance, poses, pulled_joints, swept

from bovrin import script
from bovrin.craft.pose.body import BodyDrag, anchored
from bovrin.figure.stages.stance import Stance
from bovrin.shot import Shot

FASTEST, USUAL = 20.0, 3.0
"""Metres that any joint may move for a metre of the pointer's way at most, and in half of all steps."""
SLICES = 20
"""How often a pull goes on once the pointer rests after leaps; what has crossed over comes home at a pace."""


def assert_gates(found: Swept, step: float, what: object = None) -> None:
    """What holds of every pull of the pointer in steps, metres."""
    assert found.steps.max() < FASTEST * step, what
    assert np.median(found.steps) < USUAL * step, what
    assert found.drift < 5e-4, what
    assert found.back.max() < 1e-4, what
    assert found.home < 1e-3, what
    assert found.slices <= SLICES, what


@pytest.mark.parametrize(
    ("pose", "joint", "way"),
    [
        ("porter 101", "hips", (0, 1, 0)),
        pytest.param("porter 101", "hips", (0, -1, 0), marks=pytest.mark.sweep),
        ("goat standing", "hips", (0, -1, 0)),
        pytest.param("askew goat crouched", "left fore shin", (0, 0, 1), marks=pytest.mark.sweep),
    ],
)
def test_pulls_follow_without_a_jump(pose: str, joint: str, way: tuple[float, float, float]) -> None:
    rig, values = poses()[pose]
    unit = np.array(way) / np.linalg.norm(way)
    found = swept(rig, values, rig.joint(joint), unit, step=0.012)
    assert_gates(found, 0.012)
    if joint in ("hips", "Kern"):
        assert found.leaned < 20.0


def test_hips_rise_on_the_balls_of_the_feet(demo: Shot) -> None:
    before = script.sample(demo, "porter", [101])
    hips, head = before.joints.index("hips"), before.joints.index("head")
    up = script.drag(demo, "porter", 101, "hips", before.position[0, hips] + [0, 0.04, 0], ["left foot", "right foot"])
    moved = script.sample(up, "porter", [101]).position[0] - before.position[0]
    assert np.abs(moved[hips] - [0, 0.04, 0]).max() < 1e-3
    assert np.abs(moved[head] - [0, 0.04, 0]).max() < 0.01
    assert script.values(up, "porter", 101)["left foot/ball"] > 5.0


@pytest.mark.parametrize(("pose", "joint", "way"), [("walker standing", "Kern", (1, 0, 0))])
def test_what_cannot_be_met_ends_near_the_best_place_there_is(
    pose: str, joint: str, way: tuple[float, float, float]
) -> None:
    rig, values = poses()[pose]
    at = rig.joint(joint)
    found = swept(rig, values, at, np.array(way, float), step=0.04)
    start = Stance(rig, values)
    anchors = [a for a in anchored(start) if a != at]
    best = best_distance(start, at, anchors, found.target, found.last)
    assert 0.05 < found.missed[-1] < best + 0.015


@settings(max_examples=2, deadline=None)
@given(st.data())
def test_by_any_way_back_is_the_same_pose(data: st.DataObject) -> None:
    rig, values = poses()[data.draw(st.sampled_from(sorted(poses())))]
    joint = data.draw(st.sampled_from(pulled_joints(rig)))
    start = Stance(rig, values)
    anchors = [a for a in anchored(start) if a != joint]
    drag = BodyDrag(start, joint, anchors)
    place = st.tuples(*[st.floats(-0.5, 0.5)] * 3)
    for way in data.draw(st.lists(place, min_size=1, max_size=3)):
        now = start.with_values(drag.settle(start.place(joint) + way))
        assert max((np.linalg.norm(anchor_place(now, a) - anchor_place(start, a)) for a in anchors), default=0) < 5e-4
    back = start.with_values(drag.settle(start.place(joint)))
    assert np.abs(back.rigid[:, :3, 3] - start.rigid[:, :3, 3]).max() < 1e-3
