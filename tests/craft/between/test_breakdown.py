import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation
from tests.strategies import chain_figure

from bovrin.craft.between.breakdown import breakdown, fill_breakdowns, measured_favour
from bovrin.craft.between.chart import chart, set_chart
from bovrin.craft.between.pose_blending import blended_poses
from bovrin.craft.between.push import push_past, settle
from bovrin.craft.curves.splining import splined
from bovrin.craft.keying.keys import set_channels
from bovrin.craft.keying.lag import poses
from bovrin.craft.keying.pose_keys import hold, key_pose
from bovrin.craft.pose.posing import handle_place
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import columns
from bovrin.figure.stages.stance import Stance
from bovrin.motion.evaluate import channel_values
from bovrin.motion.rotations import euler_matrix, rotation_vector
from bovrin.shot import KeyRole, Shot


@given(st.integers(120, 126), st.sampled_from([0.0, 1.0]))
def test_all_or_nothing_is_the_neighbouring_pose(demo: Shot, frame: int, favour: float) -> None:
    rig = demo.figure("porter").rig
    shot = breakdown(demo, "porter", frame, favour)
    got, neighbour = channel_values(shot.curves("porter"), rig, [frame, 119 if favour == 0 else 127])
    assert np.allclose(got, neighbour, atol=1e-6)


def test_the_new_pose_is_a_breakdown_and_the_others_stay(demo: Shot) -> None:
    shot = breakdown(demo, "porter", 123, 0.7, {"head": 0.4})
    found = poses(shot, "porter")
    assert found.roles[found.frames == 123] == KeyRole.BREAKDOWN
    rig = demo.figure("porter").rig
    kept = [101, 109, 114, 119, 122, 127, 143]
    assert np.array_equal(
        channel_values(shot.curves("porter"), rig, kept), channel_values(demo.curves("porter"), rig, kept)
    )


def test_each_part_goes_its_own_way(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    shot = breakdown(demo, "porter", 123, 0.7, {"head": 0.4})
    a, x, b = channel_values(shot.curves("porter"), rig, [119, 123, 127])
    for name, share in (("left hand/up", 0.7), ("hips/up", 0.7), ("beard/open", 0.4), ("left brow/up", 0.4)):
        i = rig.channel(name)
        assert x[i] == pytest.approx(a[i] + (b[i] - a[i]) * share)


def test_reach_goals_travel_straight(demo: Shot) -> None:
    """The hand's goal blends as a place: halfway is the middle of the two hands, the figure standing still."""
    shot = breakdown(demo, "porter", 123, 0.5)
    rig = shot.figure("porter").rig
    values = channel_values(shot.curves("porter"), rig, [119, 123, 127])
    a, x, b = (handle_place(Stance(rig, v), rig.control("left hand")) for v in values)
    assert np.allclose(x, (a + b) / 2, atol=1e-9)


@given(st.floats(-0.4, 1.4), st.lists(st.floats(-3, 3), min_size=6, max_size=6))
def test_turns_of_poses_that_were_never_connected_go_the_short_way(share: float, angles: list[float]) -> None:
    rig = chain_figure().rig
    cols = [rig.channel(f"link 1/{n}") for n in ("turn", "tilt", "roll")]
    a, b = np.zeros(12), np.zeros(12)
    a[cols], b[cols] = angles[:3], angles[3:]
    mixed = blended_poses(rig, a, b, np.full(12, share), short_way=True)

    def turn(v: np.ndarray) -> Rotation:
        return Rotation.from_euler("YXZ", v[cols])

    full = (turn(a).inv() * turn(b)).magnitude()
    if full > 3.1:  # nearly opposite: both ways are short
        return
    wanted = turn(a) * Rotation.from_rotvec((turn(a).inv() * turn(b)).as_rotvec() * share)
    assert (wanted.inv() * turn(mixed)).magnitude() < 1e-5


def test_a_turn_of_nearly_a_circle_is_a_small_turn_back() -> None:
    rig = chain_figure().rig
    i = rig.channel("link 1/turn")
    a, b = np.zeros(12), np.zeros(12)
    a[i], b[i] = np.radians(170), np.radians(-170)
    mixed = blended_poses(rig, a, b, np.full(12, 0.5), short_way=True)
    assert abs(np.cos(mixed[i]) + 1) < 1e-9


def test_the_favour_can_be_measured_again(demo: Shot) -> None:
    assert measured_favour(breakdown(demo, "porter", 123, 0.35), "porter", 123) == pytest.approx(0.35, abs=0.02)


def test_past_the_ends_goes_past(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    shot = breakdown(demo, "porter", 123, 1.25)
    a, x, b = channel_values(shot.curves("porter"), rig, [119, 123, 127])[:, rig.channel("left hand/up")]
    assert x == pytest.approx(a + 1.25 * (b - a))


@pytest.mark.parametrize("frame", [90, 101, 143, 155])
def test_outside_two_poses_it_says_so(demo: Shot, frame: float) -> None:
    with pytest.raises(BadMotion, match="between two poses"):
        breakdown(demo, "porter", frame, 0.5)


def test_a_switch_changes_only_on_arrival() -> None:
    shot = Shot("x").with_figure(chain_figure())
    shot = set_channels(key_pose(shot, "rod", 101), "rod", 111, {0: 1.0})
    shot = key_pose(shot, "rod", 111)
    assert channel_values(breakdown(shot, "rod", 106, 0.5).curves("rod"), shot.figure("rod").rig, [106])[0, 0] == 0.5


def test_the_reach_switch_holds_its_first_state(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    switch = rig.channel("left hand/reach")
    shot = set_channels(demo, "porter", 127, {switch: 0.0})
    for favour, expected in ((0.5, 1.0), (0.99, 1.0), (1.0, 0.0)):
        made = breakdown(shot, "porter", 123, favour)
        assert channel_values(made.curves("porter"), rig, [123])[0, switch] == expected


@given(st.floats(-1000, 1000), st.floats(0, 1), st.sampled_from(["turn", "tilt", "roll"]))
def test_a_turn_about_one_axis_goes_the_way_the_curves_make_however_far(
    degrees: float, share: float, axis: str
) -> None:
    rig = chain_figure().rig
    i = rig.channel(f"link 1/{axis}")
    a, b = np.zeros(12), np.zeros(12)
    b[i] = np.radians(degrees)
    mixed = blended_poses(rig, a, b, np.full(12, share))
    assert np.degrees(mixed[i]) == pytest.approx(degrees * share, abs=1e-6)
    assert np.abs(np.delete(mixed, i)).max() < 1e-9


@given(st.lists(st.floats(-4, 4), min_size=6, max_size=6), st.floats(0.02, 0.98))
def test_turns_about_three_axes_end_at_the_poses_and_never_jump(angles: list[float], share: float) -> None:
    rig = chain_figure().rig
    cols = [rig.channel(f"link 1/{axis}") for axis in ("turn", "tilt", "roll")]
    a, b = np.zeros(12), np.zeros(12)
    a[cols], b[cols] = angles[:3], angles[3:]
    shares = np.array([0.0, share - 1e-3, share, share + 1e-3, 1.0])
    mixed = blended_poses(rig, a, b, np.repeat(shares[:, None], 12, 1))
    control = rig.controls[rig.control("link 1")]
    xyz = [columns(rig, rig.control("link 1"), "rotate")][0]
    turns = euler_matrix(mixed[:, xyz], control.order)
    ends = euler_matrix(np.stack([a, b])[:, xyz], control.order)
    assert np.abs(turns[[0, -1]] - ends).max() < 1e-7
    steps = np.linalg.norm(rotation_vector(np.swapaxes(turns[1:-2], -1, -2) @ turns[2:-1]), axis=-1)
    assert steps.max() < 0.05


def test_a_key_at_200_degrees_and_fours_between_go_one_way() -> None:
    shot = Shot("rod").with_figure(chain_figure())
    column = shot.figure("rod").rig.channel("link 1/turn")
    for frame, degrees in ((101, 0), (117, 200)):
        shot = set_channels(shot, "rod", frame, {**dict.fromkeys(range(12), 0.0), column: np.radians(degrees)})
    filled = fill_breakdowns(shot, "rod", 101, 117, 4)
    assert np.degrees(filled.curves("rod")[column].values).tolist() == pytest.approx([0, 50, 100, 150, 200])
    shot = set_channels(shot, "rod", 117, {column: np.radians(155)})
    pushed = push_past(shot, "rod", 117, 0.2)
    settled = settle(pushed, "rod", 121, 0.3)
    assert np.degrees(settled.curves("rod")[column].values).tolist() == pytest.approx([0, 186, 176.7])


def test_fours_on_either_side_of_a_breakdown_keep_what_it_says() -> None:
    shot = Shot("rod").with_figure(chain_figure())
    column = shot.figure("rod").rig.channel("link 1/turn")
    for frame, value in ((101, 0.0), (117, 1.0)):
        shot = set_channels(shot, "rod", frame, {**dict.fromkeys(range(12), 0.0), column: value})
    filled = fill_breakdowns(breakdown(shot, "rod", 109, 0.7), "rod", 101, 117, 4)
    assert filled.curves("rod")[column].values.tolist() == pytest.approx([0, 0.35, 0.7, 0.85, 1.0])


def test_a_held_repeat_cannot_be_pushed_and_says_why(demo: Shot) -> None:
    held = hold(demo, "porter", 116)
    with pytest.raises(BadMotion, match="repeats the one before it") as caught:
        push_past(held, "porter", 116)
    assert "114" in str(caught.value)


def test_a_chart_that_overshoots_is_what_it_says(demo: Shot) -> None:
    shares = [*np.linspace(0, 1.14, 9).tolist(), 1.12, 1.08, 1.04, 1.01, 1.0, 1.0]
    shot = set_chart(splined(demo, "porter"), "porter", 119, 133, shares)
    measured = chart(shot, "porter", 119, 133)
    assert np.abs(np.array(measured) - shares).max() < 0.02
    assert set_chart(shot, "porter", 119, 133, measured) is shot
    nudged = [*measured[:3], measured[3] + 0.02, *measured[4:]]
    again = chart(set_chart(shot, "porter", 119, 133, nudged), "porter", 119, 133)
    assert np.abs(np.array(again) - nudged).max() < 0.02
