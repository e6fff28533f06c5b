"""What is held keeps its place, and its turn as far as its joint's limits allow."""

import numpy as np
import pytest
from tests.pulls import anchor_place, poses, pulled_joints

from bovrin import script
from bovrin.craft.pose.body import BodyDrag, anchored
from bovrin.figure.body.bends import bends_of
from bovrin.figure.body.held_turns import HeldTurns
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.stages.stance import Stance
from bovrin.motion.rotations import rotation_vector, vector_matrix
from bovrin.shot import Rig

LEAST = 0.5
"""Degrees past a limit that nobody sees."""


def past_limits(start: Stance, now: Stance) -> float:
    """How far any joint that gives way is past its limits, or past where it was when that was further, degrees."""
    rig, rest = start.rig, plan_of(start.rig).rest_local
    middles, worst = {limb.middle for limb in rig.limbs}, 0.0
    for joint, bend in bends_of(rig).items():
        if joint in middles:
            continue
        from_rest = rest[joint, :3, :3].T
        was, own = (rotation_vector(from_rest @ _above(rig, s, joint) @ s.rigid[joint, :3, :3]) for s in (start, now))
        low, high = np.minimum(bend.low, was), np.maximum(bend.high, was)
        worst = max(worst, float((low - own).max()), float((own - high).max()))
    return float(np.degrees(worst))


def _above(rig: Rig, stance: Stance, joint: int) -> np.ndarray:
    parent = rig.joints[joint].parent
    return np.eye(3) if parent < 0 else stance.rigid[parent, :3, :3].T


def assert_random_pulls_hold(count: int, seed: int) -> None:
    rng, names = np.random.default_rng(seed), sorted(poses())
    for _ in range(count):
        name = names[rng.integers(len(names))]
        rig, values = poses()[name]
        joint = int(rng.choice(pulled_joints(rig)))
        ends = rng.permutation([limb.end for limb in rig.limbs])[:2].tolist()
        start = Stance(rig, values)
        held = [a for a in dict.fromkeys((*anchored(start), *ends)) if a != joint]
        drag, way = BodyDrag(start, joint, held), rng.normal(size=3)
        way *= 0.4 / np.linalg.norm(way)
        what = (name, rig.joints[joint].name, [rig.joints[h].name for h in held], way.round(3).tolist())
        for share in np.linspace(0.1, 1.0, 10):
            drag.to(start.place(joint) + share * way)
        now = start.with_values(drag.settle(start.place(joint) + way))
        assert past_limits(start, now) < LEAST, what
        assert max(np.linalg.norm(anchor_place(now, a) - anchor_place(start, a)) for a in held) < 5e-4, what


def test_nothing_that_is_held_bends_past_its_limits() -> None:
    assert_random_pulls_hold(16, 1)


@pytest.mark.sweep
@pytest.mark.parametrize("seed", range(2, 12))
def test_nothing_that_is_held_bends_past_its_limits_whatever_is_pulled(seed: int) -> None:
    assert_random_pulls_hold(100, seed)


def test_a_deep_crouch_lifts_the_heels_and_stands_on_the_balls() -> None:
    rig, values = poses()["porter standing"]
    start, hips = Stance(rig, values), rig.joint("hips")
    foot, feet = rig.joint("left foot"), anchored(start)
    drag = BodyDrag(start, hips, feet)
    now = start.with_values(drag.settle(start.place(hips) + [0.0, -0.45, 0.2]))
    assert past_limits(start, now) < LEAST
    assert now.place(foot)[1] > start.place(foot)[1] + 0.01
    assert np.linalg.norm(anchor_place(now, foot) - anchor_place(start, foot)) < 5e-4


def test_a_held_hand_keeps_its_turn_until_the_wrist_is_at_its_limit_and_then_gives() -> None:
    rig = script.demo().figure("porter").rig
    hand = rig.joint("left hand")
    start = Stance(rig, np.array(rig.defaults))
    parent = rig.joints[hand].parent
    above, wanted = start.rigid[parent, :3, :3], start.rigid[hand, :3, :3]
    turns = HeldTurns(rig, [hand], start.rigid)
    found = []
    for angle in np.linspace(0.0, 1.8 * np.pi, 649):
        around = vector_matrix(np.array([0.0, 0.0, angle])) @ above
        kept = turns.kept(around[None], wanted[None])[0]
        own = rotation_vector(plan_of(rig).rest_local[hand, :3, :3].T @ around.T @ kept)
        found.append(own)
        given = np.linalg.norm(rotation_vector(wanted.T @ kept))
        assert given < 1e-9 or angle > 0.2
    bend = bends_of(rig)[hand]
    assert (np.array(found) <= np.maximum(bend.high, found[0]) + 1e-9).all()
    assert (np.array(found) >= np.minimum(bend.low, found[0]) - 1e-9).all()
    assert np.abs(np.diff(found, axis=0)).max() < np.radians(3.0)
