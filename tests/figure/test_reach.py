import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from tests.figure.test_solve import values_of

from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.solve.reach import reached_distance
from bovrin.shot import Rig, Shot

small = st.floats(-0.12, 0.12)


def rig_of(demo: Shot) -> Rig:
    return demo.figure("porter").rig


@given(small, small, st.floats(0.0, 0.25), st.sampled_from(["left", "right"]))
def test_the_hand_is_where_it_was_asked_to_be(demo: Shot, x: float, y: float, z: float, side: str) -> None:
    rig = rig_of(demo)
    world = solve(
        rig, values_of(rig, **{f"{side}_hand__across": x, f"{side}_hand__up": y + 0.25, f"{side}_hand__forward": z})
    )[0]
    hand = rig.joint(f"{side} hand")
    wanted = plan_of(rig).rest_world[hand, :3, 3] + [x, y + 0.25, z]
    arm = next(limb for limb in rig.limbs if limb.end == hand)
    a, b, c = (plan_of(rig).rest_world[j, :3, 3] for j in (arm.upper, arm.middle, arm.end))
    assume(np.linalg.norm(wanted - a) < 0.97 * (np.linalg.norm(b - a) + np.linalg.norm(c - b)))  # else he cannot
    assert np.allclose(world[hand, :3, 3], wanted, atol=1e-9)


@given(st.floats(-1, 1), st.floats(-1, 1), st.floats(-1, 1))
def test_bones_keep_their_length_wherever_the_goal_is(demo: Shot, x: float, y: float, z: float) -> None:
    rig = rig_of(demo)
    world = solve(rig, values_of(rig, left_hand__across=x, left_hand__up=y, left_hand__forward=z))[0]
    rest = plan_of(rig).rest_world
    for a, b in (("upper arm", "forearm"), ("forearm", "hand")):
        i, j = rig.joint(f"left {a}"), rig.joint(f"left {b}")
        assert np.linalg.norm(world[j, :3, 3] - world[i, :3, 3]) == pytest.approx(
            np.linalg.norm(rest[j, :3, 3] - rest[i, :3, 3]), abs=1e-9
        )
    assert np.allclose(np.linalg.det(world[:, :3, :3]), 1, atol=1e-9)


def test_a_limb_never_pops_when_it_goes_straight(demo: Shot) -> None:
    """The goal moves out evenly, past what the arm can reach: the elbow's step grows and shrinks smoothly."""
    rig = rig_of(demo)
    steps = 400
    values = np.repeat(values_of(rig), steps, axis=0)
    values[:, rig.channel("left hand/across")] = np.linspace(0.0, 0.5, steps)
    values[:, rig.channel("left hand/up")] = np.linspace(0.25, 0.45, steps)
    elbow = solve(rig, values)[:, rig.joint("left forearm"), :3, 3]
    moves = np.linalg.norm(np.diff(elbow, axis=0), axis=1)
    assert moves.max() < 0.012
    assert np.abs(np.diff(moves)).max() < 0.004


def test_the_pole_says_where_the_elbow_points(demo: Shot) -> None:
    rig = rig_of(demo)
    raised = {"left_hand__up": 0.2, "left_hand__forward": 0.25}
    elbow = rig.joint("left forearm")
    plain = solve(rig, values_of(rig, **raised))[0, elbow, :3, 3]
    out = solve(rig, values_of(rig, **raised, left_elbow__across=0.9))[0, elbow, :3, 3]
    hand = rig.joint("left hand")
    assert out[0] > plain[0] + 0.02
    ends = [solve(rig, values_of(rig, **raised, left_elbow__across=a))[0, hand, :3, 3] for a in (0, 0.9)]
    assert np.allclose(*ends, atol=1e-9)


def test_feet_stay_when_the_hips_go_down(demo: Shot) -> None:
    rig = rig_of(demo)
    feet = [rig.joint("left foot"), rig.joint("right foot")]
    low = solve(rig, values_of(rig, hips__up=-0.25, hips__turn=0.3))[0]
    assert np.allclose(low[feet], plan_of(rig).rest_world[feet], atol=1e-9)


def test_rolling_on_the_ball_lifts_the_heel_and_keeps_the_toes_flat(demo: Shot) -> None:
    rig = rig_of(demo)
    limb = next(limb for limb in rig.limbs if limb.name == "left leg")
    assert limb.foot is not None
    rest = plan_of(rig).rest_world
    ankle = rest[limb.end]
    # the hips come down first, so that the leg can follow the foot as it rolls
    rolled = solve(rig, values_of(rig, hips__up=-0.1, left_foot__ball=0.6))[0]

    def on_foot(offset: tuple[float, float, float]) -> np.ndarray:
        local = ankle[:3, :3].T @ np.array(offset)
        return rolled[limb.end, :3, :3] @ local + rolled[limb.end, :3, 3]

    ball = ankle[:3, 3] + limb.foot.ball
    assert np.allclose(on_foot(limb.foot.ball), ball, atol=1e-9)
    assert on_foot(limb.foot.heel)[1] > 0.08
    assert np.allclose(rolled[limb.foot.toes, :3, :3], rest[limb.foot.toes, :3, :3], atol=1e-9)
    heel = solve(rig, values_of(rig, hips__up=-0.1, left_foot__heel=0.5))[0]
    local = ankle[:3, :3].T @ np.array(limb.foot.heel)
    assert np.allclose(heel[limb.end, :3, :3] @ local + heel[limb.end, :3, 3], ankle[:3, 3] + limb.foot.heel, atol=1e-9)


def test_joint_mode_ignores_the_goal(demo: Shot) -> None:
    rig = rig_of(demo)
    a = solve(rig, values_of(rig, left_hand__reach=0, left_hand__up=0.3))
    b = solve(rig, values_of(rig, left_hand__reach=0))
    assert np.array_equal(a, b)


@given(st.floats(0, 2))
def test_the_reached_distance_eases_to_full_length(distance: float) -> None:
    upper, middle = np.array([0.3]), np.array([0.25])
    got = float(reached_distance(np.array([[distance]]), upper, middle, np.array([0.01]))[0, 0])
    further = float(reached_distance(np.array([[distance + 1e-4]]), upper, middle, np.array([0.01]))[0, 0])
    assert 0 < got <= 0.55 + 1e-9
    assert -1e-12 <= further - got <= 1.0001e-4


def test_rolling_on_the_ball_leaves_every_point_of_the_toes_where_it_is(demo: Shot) -> None:
    from bovrin.measure.bodies import bodies_of

    figure = demo.figure("porter")
    rig = figure.rig
    limb = next(limb for limb in rig.limbs if limb.name == "right leg")
    assert limb.foot is not None
    bodies = bodies_of(rig, figure.model)
    rolls = np.stack(
        [values_of(rig, hips__up=-0.15, right_foot__turn=-0.3, right_foot__ball=b)[0] for b in np.linspace(0, 0.7, 15)]
    )
    toes = bodies.points_of([limb.foot.toes], solve(rig, rolls))
    assert toes.shape[1] > 8 and np.ptp(toes, axis=0).max() < 1e-6
