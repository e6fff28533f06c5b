import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.rigs import goat, one_bone, random_values
from tests.strategies import few

from bovrin import script
from bovrin import script as bv
from bovrin.cli import run_command
from bovrin.craft.between.breakdown import breakdown
from bovrin.craft.keying.keys import set_channels
from bovrin.craft.pose.modes import limb_channels, limb_named, limb_of_control, match_limb
from bovrin.errors import BadMotion, UnknownName
from bovrin.figure.solve.fit import LimbMode
from bovrin.motion.evaluate import channel_values
from bovrin.shot import HandleKind, Shot


def off(a: Shot, b: Shot, figure: str, frames: list[float]) -> tuple[float, float]:
    """The worst joint on some frames: metres and degrees."""
    x, y = script.sample(a, figure, frames), script.sample(b, figure, frames)
    same = np.clip(np.abs((x.rotation * y.rotation).sum(-1)), 0, 1)
    return float(np.abs(x.position - y.position).max()), float(np.degrees(2 * np.arccos(same)).max())


@pytest.mark.parametrize("spline", [False, True])
@pytest.mark.parametrize("limb", ["left arm", "right leg"])
def test_there_and_back_without_a_jump(demo: Shot, spline: bool, limb: str) -> None:
    shot = script.splined(demo, "porter") if spline else demo
    joints = script.set_mode(shot, "porter", limb, 115, "joints")
    assert max(off(shot, joints, "porter", [113, 114, 115, 116])) < 1e-4
    poses = [101.0, 109, 114, 119, 127, 133, 143]
    assert max(off(shot, joints, "porter", poses)) < 1e-4
    back = script.set_mode(joints, "porter", limb, 129, "reach")
    metres, degrees = off(joints, back, "porter", [127, 128, 129, 130])
    assert metres < 1e-4 and degrees < 0.1
    metres, degrees = off(shot, back, "porter", poses)
    assert metres < 1e-4 and degrees < 0.1


@few
@given(seed=st.integers(0, 9999))
def test_random_poses_both_ways(seed: int) -> None:
    figure = goat(seed % 4 or None)
    shot = Shot("goat").with_figure(figure)
    for frame, values in zip((101.0, 110.0, 120.0), random_values(figure.rig, seed, count=3), strict=True):
        shot = set_channels(shot, "goat", frame, dict(enumerate(map(float, values))))
    for limb in script.limbs(shot, "goat"):
        joints = script.set_mode(shot, "goat", limb, 110, "joints")
        metres, degrees = off(shot, joints, "goat", [101, 109, 110, 111, 119, 120])
        assert metres < 1e-4 and degrees < 0.1
        back = script.set_mode(joints, "goat", limb, 120, "reach")
        metres, degrees = off(joints, back, "goat", [110, 119, 120, 121])
        assert metres < 1e-4 and degrees < 0.1


def test_a_range_keeps_the_motion_and_goes_back(demo: Shot) -> None:
    shot = script.splined(demo, "porter")
    new = script.set_mode(shot, "porter", "left arm", 110, "joints", end=121)
    metres, degrees = off(shot, new, "porter", list(np.arange(101.0, 160.0)))
    assert metres < 1e-4 and degrees < 0.1
    at = [script.values(new, "porter", f)["left hand/reach"] for f in (109, 110, 121, 122, 140)]
    assert at == [1, 0, 0, 1, 1]


def test_the_switch_holds_like_a_light_switch(demo: Shot) -> None:
    new = script.set_mode(demo, "porter", "left leg", 120, "joints")
    rig = new.figure("porter").rig
    curve = new.curves("porter")[rig.channel("left foot/reach")]
    assert (curve.out_kind == HandleKind.STEPPED).all()
    assert [script.values(new, "porter", f)["left foot/reach"] for f in (101, 119.9, 120, 160)] == [1, 1, 0, 0]
    bare = Shot("bare").with_figure(goat())
    first = script.set_mode(bare, "goat", "left fore leg", 110, "joints")
    assert [script.values(first, "goat", f)["left fore foot/reach"] for f in (101, 109, 110)] == [1, 1, 0]


def test_one_mode_is_matched_without_a_switch(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    new = match_limb(demo, "porter", limb_named(rig, "left arm"), 119, "joints")
    assert off(demo, new, "porter", [119.0])[0] == 0
    turned = script.set_values(new, "porter", 119, {"left hand/reach": 0})
    assert off(demo, turned, "porter", [119.0])[0] < 1e-4


def test_the_command_line_samples_the_same_on_both_sides(demo: Shot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    tables = []
    for shot in (demo, script.set_mode(demo, "porter", "left arm", 119, "joints")):
        path, out = tmp_path / "shot.bovrin.json", tmp_path / "out.csv"
        script.save(shot, path)
        assert run_command(["sample", str(path), "--figure", "porter", "-o", str(out)]) == 0
        rows = [line.split(",") for line in out.read_text().splitlines()[1:]]
        tables.append({(r[1], float(r[2])): np.array(r[3:], float) for r in rows})
    assert len(tables[0]) == len(tables[1]) > 1000
    for frame in (118.0, 119.0):
        rows_at = [key for key in tables[0] if key[1] == frame]
        assert len(rows_at) == len(demo.figure("porter").rig.joints)
        assert max(np.abs(tables[0][k][:3] - tables[1][k][:3]).max() for k in rows_at) < 1e-4


def test_limbs_are_found_and_missing_ones_named(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    assert limb_of_control(rig, rig.control("left wrist")) == limb_named(rig, "left arm")
    assert limb_of_control(rig, rig.control("chest")) is None
    with pytest.raises(UnknownName, match="no limb 'tail'"):
        script.set_mode(demo, "porter", "tail", 101, "reach")
    with pytest.raises(UnknownName, match="joint by joint"):
        limb_named(one_bone().rig, "arm")
    with pytest.raises(BadMotion, match="not a mode"):
        script.set_mode(demo, "porter", "left arm", 101, "floppy")
    with pytest.raises(BadMotion, match="ends"):
        script.set_mode(demo, "porter", "left arm", 101, "joints", end=90)


EVERYWHERE = np.arange(100.0, 161.0, 0.25)


def test_a_range_leaves_few_keys_and_every_frame_between_them_is_right(demo: Shot) -> None:
    shot = script.splined(demo, "porter")
    rig = shot.figure("porter").rig
    column = rig.channel("left forearm/tilt")
    new = script.set_mode(shot, "porter", "left arm", 103, "joints", end=156)
    inside = np.arange(103.0, 156.01, 0.25)
    metres, degrees = off(shot, new, "porter", inside.tolist())
    assert metres < 5e-3 and degrees < 1.0
    metres, degrees = off(shot, new, "porter", list(range(103, 157)))
    assert metres < 1.5e-4 and degrees < 0.05
    assert len(new.curves("porter")[column]) < 40
    on_all = script.set_mode(shot, "porter", "left arm", 103, "joints", end=156, every=True)
    assert sum(103 <= f <= 156 for f in on_all.curves("porter")[column].frames) == 54
    back = script.set_mode(new, "porter", "left arm", 103, "reach", end=156)
    reach = limb_channels(rig, limb_named(rig, "left arm"), LimbMode.REACH)
    assert all(back.curves("porter")[c] is shot.curves("porter")[c] for c in reach)


@pytest.mark.parametrize("limb", ["left arm", "right leg"])
@pytest.mark.parametrize("first", [105, 112])
def test_a_range_to_joints_and_back_to_reach_moves_nothing_outside_it(demo: Shot, limb: str, first: int) -> None:
    shot = script.splined(demo, "porter")
    there = script.set_mode(shot, "porter", limb, first, "joints", end=124)
    back = script.set_mode(there, "porter", limb, first, "reach", end=124)
    outside = [f for f in EVERYWHERE if not first - 1 < f < 125]
    for new in (there, back):
        assert off(shot, new, "porter", outside)[0] < 1e-9


def test_matched_turns_never_flip_between_neighbouring_frames(demo: Shot) -> None:
    shot = script.splined(demo, "porter")
    rig = shot.figure("porter").rig
    turns = limb_channels(rig, limb_named(rig, "left arm"), LimbMode.JOINTS)
    new = script.set_mode(shot, "porter", "left arm", 101, "joints", end=160, every=True)
    values = channel_values(new.curves("porter"), rig, np.arange(101.0, 161.0))[:, turns]
    assert np.abs(np.diff(values, axis=0)).max() < np.radians(60)


def test_a_breakdown_between_a_pose_in_reach_and_one_in_joints_lies_between_both(demo: Shot) -> None:
    shot = script.set_mode(demo, "porter", "left arm", 127, "joints")
    shot = script.set_values(shot, "porter", 127, {"left upper arm/tilt": -80, "left forearm/tilt": -30})
    hand = [j.name for j in shot.figure("porter").rig.joints].index("left hand")
    ends = script.sample(shot, "porter", [119, 127]).position[:, hand]
    for favour, near in ((0.01, ends[0]), (0.99, ends[1]), (1.0, ends[1])):
        made = breakdown(shot, "porter", 123, favour)
        assert np.linalg.norm(script.sample(made, "porter", [123]).position[0, hand] - near) < 0.03


@pytest.mark.parametrize("limb", ["left arm", "right leg"])
@pytest.mark.parametrize("frame", [110.0, 119.0, 123.0])
def test_a_stretch_in_the_other_mode_is_seen_as_it_was_between_frames_too(limb: str, frame: float) -> None:
    """The switch goes back on the frame after the stretch: up to there the limb went elsewhere, by up to 79 cm."""
    shot = bv.splined(bv.demo(), "porter")
    made = bv.set_mode(shot, "porter", limb, frame, "joints", end=frame + 8.0)
    looks = np.arange(101.0, 160.0, 0.125)
    one, two = (np.asarray(bv.sample(s, "porter", looks).position) for s in (shot, made))
    assert np.linalg.norm(one - two, axis=2).max() < 5e-3
