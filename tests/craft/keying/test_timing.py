from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.strategies import chain_figure, curves

from bovrin import script
from bovrin.craft.keying.lag import pose_keys, poses
from bovrin.craft.keying.retiming import all_retimed, retimed, shifted
from bovrin.craft.keying.timing import insert_frames, lengthen, move_pose, remove_frames, slide
from bovrin.craft.keying.whole_cast import lengthen_for_all, move_keys_for_all, move_pose_for_all
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.shot import Curve, Marker, Shot
from bovrin.shot.curve import COLUMN_TYPES


def test_a_longer_hold_moves_all_that_is_later(demo: Shot) -> None:
    longer = lengthen(demo, "porter", 121, 4)
    assert poses(longer, "porter").frames.tolist() == [101, 109, 114, 119, 131, 137, 147]
    rig = demo.figure("porter").rig
    before = channel_values(demo.curves("porter"), rig, [101, 119, 127, 133, 143])
    after = channel_values(longer.curves("porter"), rig, [101, 119, 131, 137, 147])
    assert np.array_equal(before, after)
    assert longer.curves("crate") is demo.curves("crate")


def test_a_shorter_hold_leaves_a_frame_between_poses(demo: Shot) -> None:
    shorter = lengthen(demo, "porter", 119, -50)
    assert poses(shorter, "porter").frames.tolist() == [101, 109, 114, 119, 120, 126, 136]


def test_the_range_grows_with_the_last_key(demo: Shot) -> None:
    assert lengthen(demo, "porter", 101, 40).last == 183
    assert lengthen(demo, "porter", 101, 2).last == 160


def test_one_part_can_be_delayed(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    late = lengthen(demo, "porter", 119, 2, ["head"])
    frames = np.arange(101, 161.0)
    head = list(rig.part_channels(rig.part("head")))
    others = [i for i in range(len(rig.channels)) if i not in head]
    before, after = (channel_values(s.curves("porter"), rig, frames) for s in (demo, late))
    assert np.array_equal(before[:, others], after[:, others])
    assert np.array_equal(before[26:30, head], after[28:32, head])


def test_without_a_pose_there_is_nothing_to_hold() -> None:
    blank = Shot("x").with_figure(chain_figure())
    with pytest.raises(BadMotion, match="no pose"):
        lengthen(blank, "rod", 105, 3)


@given(st.integers(-30, 30))
def test_a_pose_stays_between_its_neighbours(demo: Shot, by: int) -> None:
    moved = move_pose(demo, "porter", 119, 119 + by)
    frames = poses(moved, "porter").frames
    assert len(frames) == 7 and (np.diff(frames) >= 1).all()
    assert frames[3] == np.clip(119 + by, 115, 126)


@given(curves(2, 6), st.floats(0.3, 3))
def test_retiming_keeps_the_shape(curve: Curve, stretch: float) -> None:
    start = curve.frames[0]
    slower = retimed(curve, start + (curve.frames - start) * stretch)
    u = np.linspace(0, 1, 50) * (curve.frames[-1] - start)
    inside = np.abs(u[:, None] + start - curve.frames).min(1) > 1e-3
    before, after = curve_values(curve, start + u), curve_values(slower, start + u * stretch)
    size = max(1, np.abs(curve.values).max())
    assert np.allclose(before[inside], after[inside], atol=1e-5 * size)  # stretched frames are rounded to the grid


@given(curves(2, 6), st.integers(1, 9))
def test_there_and_back_is_exactly_where_it_was(curve: Curve, by: int) -> None:
    later = np.where(np.arange(len(curve)) > 0, curve.frames + by, curve.frames)
    back = retimed(retimed(curve, later), curve.frames)
    for name in COLUMN_TYPES:
        assert np.array_equal(getattr(back, name), getattr(curve, name)), name


@settings(max_examples=20)
@given(st.sampled_from([101, 109, 114, 119, 127, 133]), st.integers(1, 30))
def test_a_hold_lengthened_and_shortened_restores_every_curve(demo: Shot, frame: int, by: int) -> None:
    back = lengthen(lengthen(demo, "porter", frame, by), "porter", frame, -by)
    for a, b in zip(demo.curves("porter").curves, back.curves("porter").curves, strict=True):
        assert all(np.array_equal(getattr(a, n), getattr(b, n)) for n in COLUMN_TYPES)


@given(curves(3, 6), st.integers(1, 9))
def test_spans_written_out_change_nothing(curve: Curve, by: int) -> None:
    later = retimed(curve, np.where(np.arange(len(curve)) > 1, curve.frames + by, curve.frames))
    frames = np.linspace(later.frames[0] - 1, later.frames[-1] + 1, 80)
    plain = later.settled()
    assert not plain.in_span.any() and not plain.out_span.any()
    size = max(1.0, float(np.abs(curve_values(later, frames)).max()))
    assert np.abs(curve_values(plain, frames) - curve_values(later, frames)).max() < 1e-6 * size


@given(st.integers(-12, 12))
def test_a_part_slides_and_every_other_sample_is_bit_identical(demo: Shot, by: int) -> None:
    late = slide(demo, "porter", by, ["head"], 119, 133)
    rig = demo.figure("porter").rig
    head = set(rig.part_channels(rig.part("head")))
    for i in range(len(rig.channels)):
        if i not in head:
            assert late.curves("porter")[i] is demo.curves("porter")[i]
    column = rig.channel("head/turn")
    frames = late.curves("porter")[column].frames.tolist()
    room = min(max(by, -4), 9)
    assert frames == [101, 109, 114, 119 + room, 127 + room, 133 + room, 143]


@settings(max_examples=20)
@given(st.integers(100, 150), st.integers(1, 20))
def test_frames_put_in_and_taken_out_restore_the_shot(demo: Shot, frame: int, count: int) -> None:
    there = insert_frames(demo, frame, count)
    assert there.last == demo.last + count
    back = remove_frames(there, frame, count)
    assert back.last == demo.last and back.markers == demo.markers
    for name in ("porter", "crate"):
        for a, b in zip(demo.curves(name).curves, back.curves(name).curves, strict=True):
            assert all(np.array_equal(getattr(a, n), getattr(b, n)) for n in COLUMN_TYPES)


def test_frames_with_keys_are_not_taken_out(demo: Shot) -> None:
    with pytest.raises(BadMotion, match="keys on frame 109"):
        remove_frames(demo, 105, 6)
    with pytest.raises(BadMotion, match="at least one frame"):
        insert_frames(demo, 105, 0)


@pytest.mark.parametrize("by", [4.0, -3.0])
def test_holding_for_all_takes_cast_and_markers_along(demo: Shot, by: float) -> None:
    new = lengthen_for_all(demo, "porter", 119, by)
    gone = float(poses(new, "porter").frames[4])
    assert gone == 131.0 if by > 0 else by <= gone - 127.0 < 0 and gone % 1 == 0
    crate = [[f + gone - 127.0 if f > 119 else f for f in c.frames] for c in demo.curves("crate").curves]
    assert [c.frames.tolist() for c in new.curves("crate").curves] == crate
    starts = {m.words: m.start for m in demo.markers}
    for marker in new.markers:
        was = starts[marker.words]
        assert marker.start == (was + gone - 127.0 if was > 119 else was)
    assert new.last == demo.last + gone - 127.0
    alone = lengthen(demo, "porter", 119, gone - 127.0)
    assert alone.curves("crate") is demo.curves("crate")
    assert np.array_equal(
        script.sample(alone, "porter", np.arange(101, 165)).position,
        script.sample(new, "porter", np.arange(101, 165)).position,
    )


def test_a_pose_moved_for_all_takes_along_what_lies_on_its_frame(demo: Shot) -> None:
    markers = (Marker(127, 140, "lifts"), Marker(110, 127, "waits"), Marker(128, 129, "after"))
    shot = replace(demo, markers=markers)
    new = move_pose_for_all(shot, "porter", 127, 131)
    assert 131.0 in poses(new, "porter").frames and 127.0 not in poses(new, "porter").frames
    for old, now in zip(shot.curves("crate").curves, new.curves("crate").curves, strict=True):
        assert now.frames.tolist() == [131.0 if f == 127.0 else f for f in old.frames.tolist()]
    assert [(m.start, m.end) for m in new.markers] == [(131, 144), (110, 131), (128, 129)]
    alone = move_pose(shot, "porter", 127, 131)
    assert alone.curves("crate") is shot.curves("crate") and alone.markers is shot.markers
    assert new.curves("porter").curves[0].frames.tolist() == alone.curves("porter").curves[0].frames.tolist()
    back = move_pose_for_all(new, "porter", 131, 127)
    assert back.markers == shot.markers
    chosen = pose_keys(shot.curves("porter"), 127)
    both = move_keys_for_all(shot, "porter", chosen, 4.0)
    assert both.markers == new.markers
    assert [c.frames.tolist() for c in both.curves("crate").curves] == [
        c.frames.tolist() for c in new.curves("crate").curves
    ]


@pytest.mark.parametrize("seed", range(6))
def test_retimed_together_is_retimed_one_by_one(seed: int) -> None:
    """Channels keyed alike and otherwise, with spans of their own and without, to shared frames and to their own."""
    rng = np.random.default_rng(seed)
    demo = script.splined(script.demo(), "porter")
    for frame in rng.choice(np.arange(102, 140), 3, replace=False):
        some = rng.choice(script.channels(demo, "porter"), 5, replace=False)
        demo = script.set_values(demo, "porter", float(frame), dict.fromkeys(some.tolist(), 0.1))
        demo = script.lengthen(demo, "porter", float(frame), float(rng.integers(1, 4)), parts=["head"])
    curves = demo.curves("porter")
    masks = {i: curve.frames > 115.0 for i, curve in enumerate(curves.curves) if len(curve)}
    alike = {curves[i].frames.tobytes(): mask for i, mask in masks.items()}
    shared = {i: alike[curves[i].frames.tobytes()] for i in masks}
    for wanted in (masks, shared):
        together = all_retimed(curves, shifted(curves, wanted, 2.5))
        for i, mask in wanted.items():
            alone = retimed(curves[i], curves[i].frames + 2.5 * mask)
            assert all(np.array_equal(getattr(alone, n), getattr(together[i], n)) for n in COLUMN_TYPES)
