import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import curves

from bovrin import script as bv
from bovrin.craft.curves.reshaping import (
    longer_handles,
    motionless,
    muted,
    same_slope,
    scaled_keys,
    with_ends,
    without_keeping_shape,
    without_motionless,
)
from bovrin.craft.curves.splining import splined
from bovrin.craft.keying.key_clips import copied_keys, pasted_keys
from bovrin.craft.keying.key_sets import keys_on
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.motion.handles import gather
from bovrin.shot import Curve, EndKind, HandleKind, Key, Shot


@given(curves(2, 7), st.floats(0.3, 3), st.floats(-3, 3).filter(lambda v: abs(v) > 0.1))
def test_scaled_and_scaled_back_is_as_before(curve: Curve, time: float, value: float) -> None:
    every = np.arange(len(curve))
    about = (float(curve.frames[0]), 1.5)
    there = scaled_keys(curve, every, about, time, value)
    back = scaled_keys(there, every, about, 1 / time, 1 / value)
    assert np.allclose(back.frames, curve.frames, atol=1e-5)
    size = max(1.0, np.abs(curve.values).max(), np.abs(there.values).max())
    assert np.allclose(back.values, curve.values, atol=1e-9 * size)
    assert np.allclose(gather([back]).out_slope, gather([curve]).out_slope, rtol=1e-4, atol=1e-6 * size)


def test_scaling_in_value_keeps_the_shape_of_a_curve() -> None:
    curve = Curve.from_keys([Key(1, 0, 5, 5, 0, 2.0), Key(9, 4, 5, 5, -1.0, 0)])
    larger = scaled_keys(curve, np.arange(2), (1.0, 0.0), 1.0, 2.5)
    frames = np.linspace(1, 9, 50)
    assert np.allclose(curve_values(larger, frames), 2.5 * curve_values(curve, frames))


@given(curves(2, 6, stepped=False), st.floats(0.1, 4))
def test_longer_handles_are_even_and_never_fold_back_in_time(curve: Curve, factor: float) -> None:
    every = np.arange(len(curve))
    long = longer_handles(curve, every, factor)
    before, after = gather([curve]), gather([long])
    span = np.diff(curve.frames)
    assert (after.out_length[:-1] <= span + 1e-9).all() and (after.in_length[1:] <= span + 1e-9).all()
    assert np.allclose(after.out_length[:-1], np.minimum(before.out_length[:-1] * factor, span), atol=1e-6)
    assert np.allclose(after.out_slope, before.out_slope) and np.allclose(after.in_slope, before.in_slope)


def test_one_slope_for_many() -> None:
    curve = same_slope(Curve.from_keys([Key(f, f * f) for f in range(0, 20, 4)]), np.array([1, 3]), 2.0)
    now = gather([curve])
    assert now.in_slope[[1, 3]].tolist() == now.out_slope[[1, 3]].tolist() == [2.0, 2.0]
    assert curve.out_kind[2] != HandleKind.BY_HAND


def test_a_key_is_taken_away_and_the_shape_stays() -> None:
    """A key on a parabola is not needed; without care it would be missed."""
    hand = HandleKind.BY_HAND
    curve = Curve.from_keys(Key(f, 0.01 * f * f, hand, hand, 0.02 * f, 0.02 * f) for f in (0.0, 6.0, 10.0, 20.0))
    frames = np.linspace(0, 20, 81)
    thin = without_keeping_shape(curve, np.array([1, 2]), 0.0)
    assert len(thin) == 2 and np.abs(curve_values(thin, frames) - curve_values(curve, frames)).max() < 1e-9
    plain = curve.taken(np.array([0, 3])).changed(in_kind=np.full(2, 1), out_kind=np.full(2, 1))
    assert np.abs(curve_values(plain, frames) - curve_values(curve, frames)).max() > 0.1


def test_channels_without_motion_are_found_and_their_poses_stay(demo: Shot) -> None:
    shot = splined(demo, "porter")
    rig = shot.figure("porter").rig
    found = motionless(shot, "porter")
    assert rig.channel("whole figure/turn") in found and rig.channel("hips/up") not in found
    thin = without_motionless(shot, "porter")
    frames = np.linspace(95, 165, 141)
    before, after = (channel_values(s.curves("porter"), rig, frames) for s in (shot, thin))
    assert np.abs(before - after).max() < 1e-12
    assert len(thin.curves("porter")[rig.channel("whole figure/turn")]) == 1
    assert sum(map(len, thin.curves("porter").curves)) < 0.7 * sum(map(len, shot.curves("porter").curves))
    assert without_motionless(thin, "porter") is thin


def test_muted_channels_rest_and_come_back(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    up = rig.channel("hips/up")
    quiet = muted(demo, "porter", [up], True)
    assert channel_values(quiet.curves("porter"), rig, [119])[0, up] == rig.channels[up].default
    loud = muted(quiet, "porter", [up], False)
    assert np.array_equal(
        channel_values(loud.curves("porter"), rig, [119]), channel_values(demo.curves("porter"), rig, [119])
    )


def test_copied_keys_go_elsewhere_in_time_and_onto_channels_of_their_kind(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    left, right, tilt = (rig.channel(c) for c in ("left hand/up", "right hand/up", "chest/tilt"))
    clip = copied_keys(demo, "porter", keys_on(demo.curves("porter"), [left], 119, 133))
    pasted, made = pasted_keys(demo, "porter", clip, 150.0, [right])
    curve = pasted.curves("porter")[right]
    assert made[right].tolist() == [150, 158, 164] and pasted.last == 164
    assert np.array_equal(curve.values[-3:], demo.curves("porter")[left].values[3:6])
    moved, _ = pasted_keys(demo, "porter", clip, 150.0, [right], offset=True)
    now = channel_values(demo.curves("porter"), rig, [150])[0, right]
    assert moved.curves("porter")[right].values[-3] == pytest.approx(now)
    in_place, made = pasted_keys(demo, "porter", clip, None)
    assert in_place.curves("porter")[left].frames.tolist() == demo.curves("porter")[left].frames.tolist()
    with pytest.raises(BadMotion, match="measure something else"):
        pasted_keys(demo, "porter", clip, 150.0, [tilt])
    with pytest.raises(BadMotion, match="none of the channels"):
        pasted_keys(demo, "crate", clip, 150.0)


ENDS = st.sampled_from(list(EndKind))


@given(curves(2, 6, stepped=False), st.floats(0.2, 40), ENDS)
def test_outside_its_keys_a_curve_does_what_it_says(curve: Curve, by: float, kind: EndKind) -> None:
    curve = curve.ending(after=kind)
    first, last = float(curve.frames[0]), float(curve.frames[-1])
    period, rise = last - first, float(curve.values[-1] - curve.values[0])
    rounds, rest = divmod(by, period)
    seen = curve_values(curve, [last + by])[0]
    size = max(1.0, np.abs(curve.values).max())
    expected = {
        EndKind.HOLD: lambda: curve.values[-1],
        EndKind.STRAIGHT: lambda: curve.values[-1] + by * gather([curve]).in_slope[-1],
        EndKind.REPEAT: lambda: curve_values(curve, [first + rest])[0],
        EndKind.REPEAT_WITH_OFFSET: lambda: curve_values(curve, [first + rest])[0] + (rounds + 1) * rise,
        EndKind.ROUND: lambda: curve_values(curve, [first + rest])[0] + (rounds + 1) * rise,
        EndKind.BACK_AND_FORTH: lambda: curve_values(curve, [last - rest if rounds % 2 == 0 else first + rest])[0],
    }[kind]()
    steep = np.abs(np.diff(curve_values(curve, np.linspace(first, last, 2000)))).max()
    assert abs(seen - expected) <= 1e-6 * size + 10 * steep * 1e-3 + abs(rounds) * 1e-9


@given(curves(2, 6, stepped=False))
def test_repeat_with_offset_and_back_and_forth_are_continuous(curve: Curve) -> None:
    first, last = float(curve.frames[0]), float(curve.frames[-1])
    period = last - first
    for kind in (EndKind.REPEAT_WITH_OFFSET, EndKind.BACK_AND_FORTH):
        both = curve.ending(kind, kind)
        for seam in (first - period, first, last, last + period):
            near = curve_values(both, [seam - 1e-7, seam + 1e-7])
            inside = np.abs(np.diff(curve_values(curve, np.linspace(first, last, 4000)))).max()
            assert abs(near[1] - near[0]) <= inside + 1e-6 * max(1.0, np.abs(curve.values).max())


def test_ends_are_seen_in_one_frame_as_in_many_and_by_other_channels_not(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    up = rig.channel("hips/up")
    shot = with_ends(splined(demo, "porter"), "porter", [up], after=EndKind.REPEAT, before=EndKind.BACK_AND_FORTH)
    frames = np.linspace(60, 220, 77)
    many = channel_values(shot.curves("porter"), rig, frames)
    single = np.concatenate([channel_values(shot.curves("porter"), rig, [f]) for f in frames])
    assert np.allclose(many, single, atol=1e-12)
    plain = channel_values(splined(demo, "porter").curves("porter"), rig, frames)
    others = np.arange(len(rig.channels)) != up
    assert np.array_equal(many[:, others], plain[:, others]) and not np.allclose(many[:, up], plain[:, up])


ENDS = ("hold", "straight", "repeat", "repeat with offset", "back and forth")


@given(st.sampled_from(ENDS), st.sampled_from(ENDS), st.floats(40.0, 240.0))
def test_a_key_more_changes_no_value_or_says_why_not(before: str, after: str, frame: float) -> None:
    """Outside keys that repeat a key made every round longer: values went up to 30 degrees elsewhere."""
    shot = bv.set_ends(bv.splined(bv.demo(), "porter"), "porter", "head/turn", before, after)
    index = shot.figure("porter").rig.channel("head/turn")
    looks = np.arange(-60.0, 340.0, 0.5)
    curve = shot.curves("porter")[index]
    try:
        made = bv.insert_key(shot, "porter", "head/turn", frame).curves("porter")[index]
    except BadMotion as error:
        assert "every round longer" in error.what
        assert not curve.frames[0] <= frame <= curve.frames[-1] and not {before, after} <= {"hold", "straight"}
        return
    assert made.index_at(frame) is not None
    assert np.abs(curve_values(made, looks) - curve_values(curve, looks)).max() < 1e-9
