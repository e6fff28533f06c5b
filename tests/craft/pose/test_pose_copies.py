from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.rigs import goat, one_bone, random_values

from bovrin import script
from bovrin.craft.keying.keys import set_channels
from bovrin.craft.pose.pose_copies import (
    default_pose,
    mirrored_pose,
    missing_controls,
    paste_pose,
    pose_of,
    pose_values,
)
from bovrin.errors import BadMotion, BrokenFile, NewerFile
from bovrin.figure.solve.joints import solve
from bovrin.formats.side.pose_book import book_from_bytes, book_text
from bovrin.shot import Shot


def test_copied_and_pasted_it_is_the_same_pose(demo: Shot) -> None:
    pose = script.copy_pose(demo, "porter", 119)
    new = script.paste_pose(demo, "porter", 150, pose)
    a, b = script.sample(demo, "porter", [119]), script.sample(new, "porter", [150])
    assert np.abs(a.position - b.position).max() < 1e-9


@settings(max_examples=30, deadline=None)
@given(seed=st.integers(0, 9999))
def test_a_pose_fits_a_figure_whose_joints_lie_otherwise(seed: int) -> None:
    first, second = goat(None).rig, goat(seed % 9).rig
    values = random_values(first, seed)[0]
    new = pose_values(second, pose_of(first, values, range(len(first.controls))), np.array(second.defaults), place=True)
    a, b = solve(first, values[None])[0, :, :3, 3], solve(second, new[None])[0, :, :3, 3]
    assert np.abs(a - b).max() < 1e-6


@settings(max_examples=30, deadline=None)
@given(seed=st.integers(0, 9999))
def test_mirrored_twice_a_pose_is_itself(seed: int) -> None:
    rig = goat(seed % 5).rig
    values = random_values(rig, seed)[0]
    pose = pose_of(rig, values, range(len(rig.controls)))
    again = pose_values(rig, mirrored_pose(mirrored_pose(pose, rig), rig), values, place=True)
    assert np.abs(solve(rig, again[None]) - solve(rig, values[None])).max() < 1e-6


def test_pasted_mirrored_is_the_mirror_of_the_pose(demo: Shot) -> None:
    pose = script.copy_pose(demo, "porter", 119)
    a = script.paste_pose(demo, "porter", 119, pose, mirrored=True)
    b = script.mirror(demo, "porter", 119)
    x, y = (script.sample(s, "porter", [119]).position for s in (a, b))
    assert np.abs(x - y).max() < 1e-9


def test_a_share_goes_part_of_the_way_and_the_whole_all_of_it(demo: Shot) -> None:
    pose = script.copy_pose(demo, "porter", 119)
    ups = [
        script.values(script.paste_pose(demo, "porter", 143, pose, s), "porter", 143)["hips/up"] for s in (0, 0.6, 1)
    ]
    start, end = (script.values(demo, "porter", f)["hips/up"] for f in (143, 119))
    assert ups == pytest.approx([start, start + 0.6 * (end - start), end])


def test_between_two_modes_a_share_stays_in_the_one_there_is(demo: Shot) -> None:
    shot = script.set_mode(demo, "porter", "left arm", 143, "joints")
    pose = script.copy_pose(demo, "porter", 119)
    new = script.paste_pose(shot, "porter", 143, pose, 0.5)
    assert script.values(new, "porter", 143)["left hand/reach"] == 0
    hand = demo.figure("porter").rig.joint("left hand")
    places = [script.sample(s, "porter", [f]).position[0, hand] for s, f in ((demo, 143), (new, 143), (demo, 119))]
    assert np.linalg.norm(places[1] - places[0]) > 0.05 and np.linalg.norm(places[1] - places[2]) > 0.05


def test_a_hand_shape_is_only_the_hand_and_fits_the_other_side(demo: Shot) -> None:
    shot = script.set_values(demo, "porter", 119, {"left index/curl": 50, "left thumb/curl": 20})
    shape = script.copy_pose(shot, "porter", 119, ["left hand"])
    new = script.paste_pose(demo, "porter", 101, shape, mirrored=True)
    values, before = script.values(new, "porter", 101), script.values(demo, "porter", 101)
    assert values["right index/curl"] == pytest.approx(50) and values["left index/curl"] == before["left index/curl"]
    changed = {n for n in values if abs(values[n] - before[n]) > 1e-9}
    assert changed and all(n.startswith("right ") for n in changed)


def test_the_default_is_a_pose_too(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    new = paste_pose(demo, "porter", 119, default_pose(rig))
    values = script.values(new, "porter", 119)
    place = script.values(demo, "porter", 119)["whole figure/across"]
    assert values["hips/up"] == 0 and values["whole figure/across"] == pytest.approx(place)


def test_other_parts_are_named_and_nothing_in_common_is_said(demo: Shot) -> None:
    pose = script.copy_pose(demo, "porter", 119)
    assert "left hand" in missing_controls(pose, goat().rig) and "chest" not in missing_controls(pose, goat().rig)
    post = Shot("post").with_figure(one_bone())
    with pytest.raises(BadMotion, match="none of the controls"):
        script.paste_pose(post, "post", 101, pose)


def test_anchors_are_not_pasted(demo: Shot) -> None:
    shot = script.set_values(demo, "porter", 101, {"left hand/anchor": 1})
    new = script.paste_pose(demo, "porter", 119, script.copy_pose(shot, "porter", 101))
    assert script.values(new, "porter", 119)["left hand/anchor"] == 0


def test_a_book_is_opened_by_another_project(demo: Shot, tmp_path: Path) -> None:
    poses = [script.copy_pose(demo, "porter", f).named(f"pose {f}") for f in (101, 119, 143)]
    script.save_poses(poses, tmp_path / "porter.poses.json")
    again = script.load_poses(tmp_path / "porter.poses.json")
    assert [p.name for p in again] == ["pose 101", "pose 119", "pose 143"]
    other = Shot("other").with_figure(demo.figure("porter"))
    new = script.paste_pose(other, "porter", 5, again[1])
    assert (
        np.abs(script.sample(new, "porter", [5]).position - script.sample(demo, "porter", [119]).position).max() < 1e-9
    )


def test_a_damaged_book_is_explained(demo: Shot) -> None:
    text = book_text((script.copy_pose(demo, "porter", 101),))
    for broken, words in (
        (text[:200], "cut off"),
        ("[]", "not a pose book"),
        (text.replace('"poses": [', '"poses": [3,'), "damaged"),
        (text.replace('"figure": "porter"', '"colour": 3'), "damaged"),
    ):
        with pytest.raises(BrokenFile, match=words):
            book_from_bytes(broken.encode(), "some.poses.json")
    with pytest.raises(NewerFile):
        book_from_bytes(text.replace('"version": 1', '"version": 9').encode(), "some.poses.json")
    zero = '{"format":"bovrin poses","version":1,"poses":[{"name":"a","figure":"b","turns":{"c":[0,0,0,0]}}]}'
    with pytest.raises(BrokenFile, match="no turn"):
        book_from_bytes(zero.encode(), "x")


def test_a_pose_survives_another_rotation_order(demo: Shot) -> None:
    pose = script.copy_pose(demo, "porter", 119)
    shot = script.set_rotation_order(demo, "porter", "chest", "ZXY")
    new = script.paste_pose(shot, "porter", 143, pose)
    a, b = script.sample(demo, "porter", [119]), script.sample(new, "porter", [143])
    assert np.abs(a.position - b.position).max() < 1e-9
    assert set_channels(new, "porter", 143, {}) is new
