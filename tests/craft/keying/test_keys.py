import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import chain_figure

from bovrin.craft.keying import edits, keys, lag, pose_keys
from bovrin.craft.keying.keys import KeyStyle
from bovrin.motion.evaluate import channel_values
from bovrin.shot import HandleKind, KeyRole, Shot


@pytest.fixture
def blank() -> Shot:
    return Shot("x").with_figure(chain_figure())


def test_a_key_pose_changes_nothing_that_is_seen(demo: Shot) -> None:
    frames = np.linspace(100, 161, 123)
    rig = demo.figure("porter").rig
    posed = pose_keys.key_pose(demo, "porter", 116)
    assert np.allclose(
        channel_values(posed.curves("porter"), rig, frames), channel_values(demo.curves("porter"), rig, frames)
    )
    assert 116 in lag.poses(posed, "porter").frames


def test_nothing_moves_before_its_first_key(blank: Shot) -> None:
    shot = keys.set_channels(blank, "rod", 120, {0: 5.0})
    rig = shot.figure("rod").rig
    early = channel_values(shot.curves("rod"), rig, [0, 101, 119.9])
    assert (early[:, 0] == 5.0).all() and (early[:, 1:] == 0).all()


def test_a_key_pose_of_one_part_leaves_the_others(blank: Shot) -> None:
    shot = pose_keys.key_pose(blank, "rod", 110, ["links"])
    counts = [len(c) for c in shot.curves("rod").curves]
    assert counts == [0] * 6 + [1] * 6


def test_new_keys_fit_the_poses_around_them(blank: Shot) -> None:
    shot = keys.set_channels(blank, "rod", 101, dict.fromkeys(range(12), 0.0), KeyStyle(HandleKind.STEPPED))
    assert keys.local_style(shot, "rod", 110, KeyRole.KEY_POSE).out_kind is HandleKind.STEPPED
    shot = keys.set_channels(blank, "rod", 101, dict.fromkeys(range(12), 0.0), KeyStyle(keys.EASED))
    assert keys.local_style(shot, "rod", 110, KeyRole.KEY_POSE).out_kind is keys.EASED


def test_changing_a_key_keeps_its_handles_and_role(blank: Shot) -> None:
    style = KeyStyle(HandleKind.FLAT, KeyRole.BREAKDOWN)
    shot = keys.set_channels(blank, "rod", 105, {2: 1.0}, style)
    shot = keys.set_channels(shot, "rod", 105, {2: 3.0}, KeyStyle(HandleKind.STEPPED, KeyRole.KEY_POSE))
    key = shot.curves("rod")[2].key(0)
    assert (key.value, key.out_kind, key.role) == (3.0, HandleKind.FLAT, KeyRole.BREAKDOWN)
    posed = pose_keys.key_pose(shot, "rod", 105)
    assert posed.curves("rod")[2].key(0).role == KeyRole.KEY_POSE


def test_poses_are_told_from_in_betweens(blank: Shot) -> None:
    shot = keys.set_channels(blank, "rod", 101, {0: 0.0})
    shot = keys.set_channels(shot, "rod", 105, {0: 1.0, 1: 1.0}, KeyStyle(role=KeyRole.BREAKDOWN))
    shot = keys.set_channels(shot, "rod", 107, {0: 1.0}, KeyStyle(role=KeyRole.IN_BETWEEN))
    shot = keys.set_channels(shot, "rod", 109, {0: 2.0}, KeyStyle(role=KeyRole.BREAKDOWN))
    shot = keys.set_channels(shot, "rod", 109, {1: 2.0}, KeyStyle(role=KeyRole.KEY_POSE))
    found = lag.poses(shot, "rod")
    assert found.frames.tolist() == [101, 105, 109]
    assert found.roles.tolist() == [KeyRole.KEY_POSE, KeyRole.BREAKDOWN, KeyRole.KEY_POSE]
    assert (found.before(105), found.after(105), found.held_at(108), found.held_at(100)) == (101, 109, 105, None)


def test_a_hold_repeats_the_pose_before(demo: Shot) -> None:
    held = pose_keys.hold(demo, "porter", 116)
    rig = demo.figure("porter").rig
    a, b = channel_values(held.curves("porter"), rig, [114, 116])
    assert np.allclose(a, b)
    assert pose_keys.hold(demo, "porter", 101) is demo


def test_removing_a_pose_removes_all_its_keys(demo: Shot) -> None:
    gone = pose_keys.delete_keys(demo, "porter", 119)
    assert 119 not in lag.poses(gone, "porter").frames
    assert all(c.index_at(119) is None for c in gone.curves("porter").curves)
    assert pose_keys.delete_keys(gone, "porter", 119) is gone


@given(st.sampled_from(list(edits.Scope)), st.floats(-2, 2))
def test_an_edit_keys_what_its_scope_says(scope: str, value: float) -> None:
    blank = Shot("x").with_figure(chain_figure())
    shot = edits.edited(blank, "rod", 110, {7: value}, scope, KeyStyle())
    keyed = [i for i, c in enumerate(shot.curves("rod").curves) if c.index_at(110) is not None]
    assert keyed == {"whole figure": list(range(12)), "part": list(range(6, 12)), "touched": [7]}[scope.value]
    assert shot.curves("rod")[7].values[0] == value


def test_an_edit_on_a_breakdown_leaves_it_a_breakdown(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    shot = edits.edited(demo, "porter", 114, {rig.channel("chest/turn"): 0.3}, edits.Scope.WHOLE, KeyStyle())
    found = lag.poses(shot, "porter")
    assert found.roles[found.frames == 114] == KeyRole.BREAKDOWN
    assert len(found) == len(lag.poses(demo, "porter"))


def test_a_key_that_is_there_already_is_the_same_curve(demo: Shot) -> None:
    """Keying a pose as it is makes no new curves: an undo step holds only what changed."""
    again = pose_keys.key_pose(demo, "porter", 119)
    before, after = demo.curves("porter").curves, again.curves("porter").curves
    there = [
        curve.index_at(119) is not None and curve.role[curve.index_at(119)] == KeyRole.KEY_POSE for curve in before
    ]
    assert sum(there) > 50
    assert all(a is b for a, b, same in zip(before, after, there, strict=True) if same)
