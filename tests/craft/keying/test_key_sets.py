import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bovrin.craft.keying.cards import card_at, name_pose
from bovrin.craft.keying.key_sets import (
    copy_keys,
    frames_of,
    joined_keys,
    keys_on,
    keys_on_frames,
    move_keys,
    remove_keys,
    scale_keys,
    set_role,
    spread_keys,
    wholly_chosen,
)
from bovrin.craft.keying.keys import whole_poses_of
from bovrin.craft.keying.lag import poses
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.shot import KeyRole, Shot
from bovrin.shot.curve import COLUMN_TYPES

POSES = [101, 109, 114, 119, 127, 133, 143]


def cards(shot: Shot, *frames: float):  # type: ignore[no-untyped-def]
    """All keys of the porter on some frames."""
    curves = shot.curves("porter")
    return joined_keys(*(keys_on(curves, range(len(curves)), f, f) for f in frames))


def at(shot: Shot) -> list[float]:
    return [float(f) for f in poses(shot, "porter").frames]


@settings(max_examples=20)
@given(st.integers(-40, 40))
def test_keys_moved_there_and_back_are_as_they_were(demo: Shot, by: int) -> None:
    there = move_keys(demo, "porter", cards(demo, 119, 127), by)
    moved = np.array(at(there))
    gone = moved[3] - 119
    assert (np.diff(moved) >= 1).all() and abs(gone) <= abs(by)
    back = move_keys(there, "porter", cards(there, 119 + gone, 127 + gone), -gone)
    for one, other in zip(demo.curves("porter").curves, back.curves("porter").curves, strict=True):
        assert all(np.array_equal(getattr(one, name), getattr(other, name)) for name in COLUMN_TYPES)


def test_many_cards_move_together_and_take_their_names(demo: Shot) -> None:
    named = name_pose(demo, "porter", 119, " crouch ")
    moved = move_keys(named, "porter", cards(named, 114, 119), 2)
    assert at(moved) == [101, 109, 116, 121, 127, 133, 143]
    assert card_at(moved, "porter", 121).name == "crouch" and card_at(moved, "porter", 119).name == ""


def test_a_copy_leaves_the_pose_and_replaces_what_lies_there(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    named = name_pose(demo, "porter", 109, "notice")
    copied = copy_keys(named, "porter", cards(named, 109, 114), 24)
    assert at(copied) == [101, 109, 114, 119, 127, 133, 138, 143]
    values = channel_values(copied.curves("porter"), rig, [109, 133, 114, 138])
    assert np.array_equal(values[0], values[1]) and np.array_equal(values[2], values[3])
    assert [card_at(copied, "porter", f).name for f in (109, 133)] == ["notice", "notice"]


@given(st.floats(1.0, 4.0), st.sampled_from([101.0, 119.0, 143.0]))
def test_scaling_keeps_poses_and_their_order(demo: Shot, factor: float, about: float) -> None:
    rig = demo.figure("porter").rig
    scaled = scale_keys(demo, "porter", cards(demo, *POSES), about, factor)
    new = np.array(at(scaled))
    assert np.array_equal(new, np.round(about + (np.array(POSES) - about) * factor))
    assert np.array_equal(
        channel_values(demo.curves("porter"), rig, POSES), channel_values(scaled.curves("porter"), rig, new)
    )


def test_keys_scaled_too_small_are_refused(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="no room"):
        scale_keys(demo, "porter", cards(demo, *POSES), 101, 0.1)
    with pytest.raises(BadMotion, match="cannot be scaled"):
        scale_keys(demo, "porter", cards(demo, *POSES), 101, 0)


def test_spread_keys_lie_evenly(demo: Shot) -> None:
    spread = spread_keys(demo, "porter", cards(demo, 101, 109, 114, 119, 127))
    gaps = np.diff(at(spread)[:5])
    assert at(spread)[0] == 101 and at(spread)[4] == 127 and np.ptp(gaps) <= 1
    with pytest.raises(BadMotion, match="three frames"):
        spread_keys(demo, "porter", cards(demo, 101, 109))


def test_one_part_s_keys_go_alone(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    head = list(rig.part_channels(rig.part("head")))
    chosen = keys_on(demo.curves("porter"), head, 114, 127)
    assert frames_of(chosen).tolist() == [114, 119, 127]
    moved = move_keys(demo, "porter", chosen, 1)
    others = [i for i in range(len(rig.channels)) if i not in head]
    assert all(moved.curves("porter")[i] is demo.curves("porter")[i] for i in others)
    assert whole_poses_of(moved.curves("porter")).frames.tolist() == POSES
    assert at(remove_keys(moved, "porter", keys_on(moved.curves("porter"), head, 115, 115))) != at(moved)


def test_roles_are_set_for_a_pose(demo: Shot) -> None:
    changed = set_role(demo, "porter", cards(demo, 114), KeyRole.BREAKDOWN)
    found = poses(changed, "porter")
    assert found.roles[found.frames == 114] == KeyRole.BREAKDOWN
    between = set_role(demo, "porter", cards(demo, 114), KeyRole.IN_BETWEEN)
    assert 114 not in at(between)
    assert len(remove_keys(demo, "porter", cards(demo, *POSES)).curves("porter")[5]) == 0


@given(st.lists(st.sampled_from(POSES), min_size=1, max_size=4, unique=True), st.integers(0, 40))
def test_a_card_is_chosen_when_every_key_on_it_is(demo: Shot, on: list[int], gone: int) -> None:
    curves = demo.curves("porter")
    frames = np.array(sorted(on), float)
    chosen = keys_on_frames(curves, range(len(curves)), frames)
    one_by_one = cards(demo, *frames)
    assert chosen.keys() == one_by_one.keys() and all(np.array_equal(chosen[i], one_by_one[i]) for i in chosen)
    assert wholly_chosen(curves, chosen).tolist() == frames.tolist()
    channel = sorted(chosen)[gone % len(chosen)]
    fewer = {**chosen, channel: chosen[channel][1:]}
    fewer = {i: own for i, own in fewer.items() if len(own)}
    assert wholly_chosen(curves, fewer).tolist() == frames[1:].tolist()
    assert not len(wholly_chosen(curves, {})) and keys_on_frames(curves, [0], np.empty(0)) == {}
