import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from bovrin.craft import posing
from bovrin.figure.solve import solve
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Rig, Shot

vectors = st.lists(st.floats(-0.1, 0.1), min_size=3, max_size=3).map(np.array)
MOVABLE = ["whole figure", "hips", "left hand", "right hand", "left foot", "right elbow", "left knee"]
TURNABLE = ["whole figure", "hips", "chest", "head", "left hand", "right foot", "left shoulder"]


def state(demo: Shot, frame: float) -> tuple[Rig, np.ndarray]:
    rig = demo.figure("porter").rig
    return rig, channel_values(demo.curves("porter"), rig, [frame])[0]


def with_changes(values: np.ndarray, changes: dict[int, float]) -> np.ndarray:
    new = values.copy()
    for index, value in changes.items():
        new[index] = value
    return new


@given(vectors, st.sampled_from(MOVABLE[:5]), st.sampled_from([101.0, 119.0, 133.0]))
def test_a_handle_follows_the_pointer_exactly(demo: Shot, by: np.ndarray, name: str, frame: float) -> None:
    rig, values = state(demo, frame)
    control = rig.control(name)
    before = posing.handle_place(rig, values, solve(rig, values[None])[0], control)
    new = with_changes(values, posing.moved(rig, values, control, by))
    after = posing.handle_place(rig, new, solve(rig, new[None])[0], control)
    assert np.allclose(after - before, by, atol=1e-6)


@given(vectors, st.sampled_from(MOVABLE))
def test_only_the_control_s_own_channels_change(demo: Shot, by: np.ndarray, name: str) -> None:
    rig, values = state(demo, 119)
    control = rig.control(name)
    assert set(posing.moved(rig, values, control, by)) <= set(rig.span(control))


@given(vectors.filter(lambda v: np.linalg.norm(v) > 1e-3), st.floats(-1, 1), st.sampled_from(TURNABLE))
def test_a_turn_is_about_the_axis_on_the_stage(demo: Shot, axis: np.ndarray, angle: float, name: str) -> None:
    rig, values = state(demo, 109)
    control = rig.control(name)
    joint = rig.controls[control].joint
    new = with_changes(values, posing.turned(rig, values, control, axis, angle))
    before, after = (solve(rig, v[None])[0, joint, :3, :3] for v in (values, new))
    wanted = Rotation.from_rotvec(axis / np.linalg.norm(axis) * angle).as_matrix() @ before
    assert np.allclose(after, wanted, atol=1e-6)


def test_aiming_a_bone_brings_its_end_under_the_pointer(demo: Shot) -> None:
    rig, values = state(demo, 101)
    control = rig.control("chest")
    world = solve(rig, values[None])[0]
    pivot, end = world[rig.controls[control].joint, :3, 3], posing.aim_place(rig, world, control)
    to = end + np.array([0.05, -0.02, 0.04])
    new = with_changes(values, posing.swung(rig, values, control, to))
    now = posing.aim_place(rig, solve(rig, new[None])[0], control)
    direction = (to - pivot) / np.linalg.norm(to - pivot)
    assert np.allclose((now - pivot) / np.linalg.norm(now - pivot), direction, atol=1e-6)
    assert posing.swung(rig, values, control, end) == {}


def test_fingers_curl_even_though_they_turn_about_one_axis_only(demo: Shot) -> None:
    rig, values = state(demo, 101)
    control = rig.control("left index tip")
    axis = solve(rig, values[None])[0, rig.controls[control].joint, :3, 0]
    new = posing.turned(rig, values, control, axis, 0.4)
    assert list(new) == [rig.channel("left index tip/curl")]
    assert next(iter(new.values())) == pytest.approx(values[rig.channel("left index tip/curl")] + 0.4, abs=1e-6)


def test_controls_that_cannot_say_so(demo: Shot) -> None:
    rig, values = state(demo, 101)
    assert posing.moved(rig, values, rig.control("chest"), np.ones(3)) == {}
    assert posing.turned(rig, values, rig.control("left elbow"), np.ones(3), 1.0) == {}


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
    rig, values = state(demo, 101)
    for mode, expected in ((1.0, reach), (0.0, joints)):
        values[rig.channel("left hand/reach")] = mode
        assert rig.controls[posing.control_for_joint(rig, values, rig.joint(joint))].name == expected


def test_reset_is_the_default_pose(demo: Shot) -> None:
    rig, values = state(demo, 133)
    new = with_changes(values, posing.reset(rig, list(range(len(rig.controls)))))
    assert np.array_equal(new, np.array(rig.defaults))
