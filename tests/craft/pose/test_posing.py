import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from bovrin.craft.pose import posing
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import stance
from bovrin.shot import Rig, Shot

vectors = st.lists(st.floats(-0.1, 0.1), min_size=3, max_size=3).map(np.array)
MOVABLE = ["whole figure", "hips", "left hand", "right hand", "left foot", "right elbow", "left knee"]
TURNABLE = ["whole figure", "hips", "chest", "head", "left hand", "right foot", "left shoulder"]


def state(demo: Shot, frame: float) -> tuple[Rig, Stance]:
    return demo.figure("porter").rig, stance(demo, "porter", frame)


@given(vectors, st.sampled_from(MOVABLE[:5]), st.sampled_from([101.0, 119.0, 133.0]))
def test_a_handle_follows_the_pointer_exactly(demo: Shot, by: np.ndarray, name: str, frame: float) -> None:
    rig, now = state(demo, frame)
    control = rig.control(name)
    before = posing.handle_place(now, control)
    after = posing.handle_place(now.with_values(posing.moved(now, control, by)), control)
    assert np.allclose(after - before, by, atol=1e-6)


@given(vectors, st.sampled_from(MOVABLE))
def test_only_the_control_s_own_channels_change(demo: Shot, by: np.ndarray, name: str) -> None:
    rig, now = state(demo, 119)
    control = rig.control(name)
    assert set(posing.moved(now, control, by)) <= set(rig.span(control))


@given(vectors.filter(lambda v: np.linalg.norm(v) > 1e-3), st.floats(-1, 1), st.sampled_from(TURNABLE))
def test_a_turn_is_about_the_axis_on_the_stage(demo: Shot, axis: np.ndarray, angle: float, name: str) -> None:
    rig, now = state(demo, 109)
    control = rig.control(name)
    joint = rig.controls[control].joint
    new = now.with_values(posing.turned(now, control, axis, angle))
    before, after = (one.world[joint, :3, :3] for one in (now, new))
    wanted = Rotation.from_rotvec(axis / np.linalg.norm(axis) * angle).as_matrix() @ before
    assert np.allclose(after, wanted, atol=1e-6)


def test_aiming_a_bone_brings_its_end_under_the_pointer(demo: Shot) -> None:
    rig, now = state(demo, 101)
    control = rig.control("chest")
    pivot, end = now.seen(rig.controls[control].joint), posing.aim_place(now, control)
    to = end + np.array([0.05, -0.02, 0.04])
    there = posing.aim_place(now.with_values(posing.swung(now, control, to)), control)
    direction = (to - pivot) / np.linalg.norm(to - pivot)
    assert np.allclose((there - pivot) / np.linalg.norm(there - pivot), direction, atol=1e-6)
    assert posing.swung(now, control, end) == {}


def test_fingers_curl_even_though_they_turn_about_one_axis_only(demo: Shot) -> None:
    rig, now = state(demo, 101)
    control = rig.control("left index tip")
    axis = now.world[rig.controls[control].joint, :3, 0]
    new = posing.turned(now, control, axis, 0.4)
    assert list(new) == [rig.channel("left index tip/curl")]
    assert next(iter(new.values())) == pytest.approx(now.values[rig.channel("left index tip/curl")] + 0.4, abs=1e-6)


def test_controls_that_cannot_say_so(demo: Shot) -> None:
    rig, now = state(demo, 101)
    assert posing.moved(now, rig.control("chest"), np.ones(3)) == {}
    assert posing.turned(now, rig.control("left elbow"), np.ones(3), 1.0) == {}


@pytest.mark.parametrize(
    ("joint", "reach", "joints"),
    [
        ("left hand", "left hand", "left wrist"),
        ("left forearm", "left elbow", "left forearm"),
        ("left forearm half", "left elbow", "left forearm"),
        ("chest", "chest", "chest"),
        ("left apron", "hips", "hips"),
        ("right brow", "right brow", "right brow"),
    ],
)
def test_a_click_on_skin_chooses_what_moves_it(demo: Shot, joint: str, reach: str, joints: str) -> None:
    rig, now = state(demo, 101)
    for mode, expected in ((1.0, reach), (0.0, joints)):
        here = now.with_values({rig.channel("left hand/reach"): mode})
        assert rig.controls[posing.control_for_joint(here, rig.joint(joint))].name == expected


def test_reset_is_the_default_pose(demo: Shot) -> None:
    rig, now = state(demo, 133)
    new = now.with_values(posing.reset(rig, list(range(len(rig.controls)))))
    assert np.array_equal(new.values, np.array(rig.defaults))
