"""What a step of a pull costs, counted; how it goes on; and that many presses come to the pose of one."""

from itertools import product

import numpy as np
import pytest
from tests.pulls import WAYS, anchor_place, poses, pulled_joints

from bovrin.craft.pose.body import BodyDrag, LastPull, anchored
from bovrin.figure.body.held import body_at
from bovrin.figure.body.plan import body_plan
from bovrin.figure.body.pull import Pull
from bovrin.figure.stages.stance import Stance

PULLS = (
    ("porter 101", "left hand", (0, 1, 0)),
    ("porter crouched", "hips", (1, 0, 0)),
    ("goat standing", "head", (0, -1, 1)),
    ("walker standing", "Kern", (0, -1, 0)),
    ("askew goat in step", "tail", (0, 0, -1)),
)
MEDIAN, NEARLY_ALL = 12, 25
"""Slopes that a step may take in the median, and in 99 of 100."""


def _pull(name: str, joint: int) -> tuple[Pull, np.ndarray]:
    """A pull of a joint alone, and where it begins."""
    rig, values = poses()[name]
    start = Stance(rig, values)
    wanted = (joint, *(a for a in anchored(start) if a != joint))
    rolling = tuple(n for n, limb in enumerate(rig.limbs) if limb.foot is not None and limb.end in wanted[1:])
    body = body_at(body_plan(rig, wanted, rolling), rig, start.rigid)
    return Pull(body, start.rigid[list(wanted), :3, 3]), start.place(joint)


def _steps(name: str, joint: int, way: np.ndarray, step: float, far: float) -> list[int]:
    """Slopes that each step out and back took."""
    pull, begin = _pull(name, joint)
    out = np.arange(step, far + 1e-9, step)
    found = []
    for share in (*out, *out[-2::-1], 0.0):
        before = pull.solves
        pull.to(begin + share * way)
        found.append(pull.solves - before)
    return found


def assert_cheap(found: list[int]) -> None:
    assert np.median(found) <= MEDIAN
    assert np.percentile(found, 99) <= NEARLY_ALL


@pytest.mark.parametrize("step", [0.001, 0.015, 0.05, 0.1])
def test_a_step_costs_little_however_long_it_is(step: float) -> None:
    found: list[int] = []
    for name, joint, way in PULLS:
        unit = np.array(way) / np.linalg.norm(way)
        found += _steps(name, poses()[name][0].joint(joint), unit, step, min(0.5, 30 * step))
    assert_cheap(found)
    assert np.median(found) <= {0.001: 2, 0.015: 3, 0.05: 6, 0.1: 12}[step]


@pytest.mark.sweep
@pytest.mark.parametrize("step", [0.001, 0.015, 0.05, 0.1])
def test_a_step_costs_little_whatever_is_pulled(step: float) -> None:
    found, rng = list[int](), np.random.default_rng(8)
    pulls = [(n, j, w) for n in sorted(poses()) for j, w in product(pulled_joints(poses()[n][0]), WAYS)]
    for at in rng.choice(len(pulls), 60, replace=False):
        name, joint, way = pulls[at]
        found += _steps(name, joint, way, step, min(0.6, 60 * step))
    assert_cheap(found)


def test_what_one_slice_does_not_get_to_the_next_ones_do() -> None:
    name, joint = "goat standing", "head"
    rig = poses()[name][0]
    pull, begin = _pull(name, rig.joint(joint))
    far = begin + np.array([0.1, -0.25, 0.2])
    before = pull.z.copy()
    pull.to(far, most=1)
    assert not pull.at_rest
    slices = 0
    while not pull.at_rest:
        pull.to(far)
        slices += 1
    assert 1 <= slices <= 6 and np.abs(pull.z - before).max() > 0.05
    at_once, _ = _pull(name, rig.joint(joint))
    at_once.to(far, most=1000)
    assert at_once.at_rest
    assert np.abs(at_once.z - pull.z).max() < 1e-4


@pytest.mark.parametrize(
    ("name", "joint", "way"),
    [
        ("porter 101", "left hand", (0.0, 0.12, 0.0)),
        ("porter 101", "hips", (0.05, -0.15, 0.0)),
        ("goat standing", "head", (0.0, -0.2, 0.1)),
        ("walker standing", "Kern", (0.2, 0.0, 0.0)),
    ],
)
def test_six_presses_come_to_the_pose_of_one(name: str, joint: str, way: tuple[float, float, float]) -> None:
    rig, values = poses()[name]
    start, at = Stance(rig, values), rig.joint(joint)
    shares = (0.3, 0.7, 1.0, 0.8, 0.4, 0.0)
    one = BodyDrag(start, at, anchored(start))
    last, stance, begin = LastPull(), start, start.place(at)
    for share in shares:
        place = begin + share * np.array(way)
        in_one = start.with_values(one.settle(place))
        stance = stance.with_values(last.drag(stance, at, anchored(stance)).settle(place))
        assert np.abs(stance.rigid[:, :3, 3] - in_one.rigid[:, :3, 3]).max() < 1e-3, share
    assert np.abs(stance.rigid[:, :3, 3] - start.rigid[:, :3, 3]).max() < 1e-3


def test_a_press_on_another_pose_or_joint_begins_anew() -> None:
    rig, values = poses()["porter 101"]
    start, hand, hips = Stance(rig, values), rig.joint("left hand"), rig.joint("hips")
    feet, last = anchored(start), LastPull()
    first = last.drag(start, hand, feet)
    left = start.with_values(first.settle(start.place(hand) + [0.0, 0.1, 0.0]))
    assert last.drag(left, hand, feet) is first
    assert last.drag(left, hand, feet[:1]) is not first
    again = last.drag(start, hand, feet)
    left = start.with_values(again.settle(start.place(hand) + [0.0, 0.1, 0.0]))
    turned = left.with_values({rig.channel("head/nod"): 0.3}) if "head/nod" in rig.channel_names else start
    assert last.drag(turned, hand, feet) is not again
    assert last.drag(left, hips, feet) is not again


def test_a_press_where_the_last_one_ended_beyond_reach_moves_nothing_by_itself() -> None:
    rig, values = poses()["porter 101"]
    start, hand = Stance(rig, values), rig.joint("left hand")
    feet, last = anchored(start), LastPull()
    left = start.with_values(last.drag(start, hand, feet).settle(start.place(hand) + [1.5, 1.0, 0.5]))
    again = last.drag(left, hand, feet)
    nudged = left.with_values(again.settle(left.place(hand) + [-1e-4, 0.0, 0.0]))
    assert np.abs(nudged.rigid[:, :3, 3] - left.rigid[:, :3, 3]).max() < 5e-3


def test_what_is_held_is_in_place_after_every_slice_there_and_back() -> None:
    """A pull beyond reach that crosses over on its way home."""
    rig, values = poses()["goat standing"]
    start, joint = Stance(rig, values), rig.joint("left hind lower leg")
    held = [a for a in anchored(start) if a != joint]
    drag, way = BodyDrag(start, joint, held), np.array([1.0, -1.0, -1.0]) / np.sqrt(3.0)
    out = np.arange(0.015, 0.6, 0.015)
    for far in (*out, *out[::-1], 0.0):
        now = start.with_values(drag.to(start.place(joint) + far * way))
        assert max(np.linalg.norm(anchor_place(now, a) - anchor_place(start, a)) for a in held) < 5e-4, far
