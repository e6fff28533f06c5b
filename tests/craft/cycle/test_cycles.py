"""Cycles: laid out by a gait, closed, mirrored by halves, however they are edited."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.cycles import alone, cycle_of, lively, off_mirror, places, slid
from tests.strategies import few

from bovrin import script as bv
from bovrin.craft.cycle.gaits import FOUR_LEGS, TWO_LEGS
from bovrin.craft.cycle.half import kept_in_step
from bovrin.errors import BovrinError
from bovrin.motion.handles import gather
from bovrin.shot import Cycle, EndKind, Shot

GAITS = [("porter", gait) for gait in TWO_LEGS] + [("goat", gait) for gait in FOUR_LEGS]


@pytest.mark.parametrize(("name", "gait"), GAITS)
@pytest.mark.parametrize("frames", [12, 25, 32])
def test_a_new_cycle_walks_as_its_gait_has_it(name: str, gait: str, frames: int) -> None:
    shot = cycle_of(name, gait, frames, 0.6)
    table = (TWO_LEGS if name == "porter" else FOUR_LEGS)[gait]
    for foot, spans in bv.contacts(shot, name).items():
        ((start, end),) = shot.contacts(name)[foot]
        assert end - start == pytest.approx(table.bears * frames, abs=0.51)
        assert slid(shot, name, foot, start, end) < 1e-9 and spans
    assert bv.stride(shot, name).length == pytest.approx(0.6) and bv.stride(shot, name).period == frames
    found = bv.contacts(bv.set_contacts(shot, name, foot, None), name)[foot]
    assert any(abs(a - start) <= 2 for a, _ in found), "found by itself it is down where it was laid out"


@pytest.mark.parametrize(("name", "gait"), GAITS)
def test_on_the_spot_it_stays_and_its_ground_runs(name: str, gait: str) -> None:
    shot = cycle_of(name, gait, 24, 0.6, spot=True)
    root = places(shot, name, np.arange(101.0, 160.0))[:, 0]
    assert np.ptp(root, axis=0).max() < 1e-12 and max(bv.slide_of(shot, name).values()) < 1e-9
    assert bv.stride(shot, name).length == pytest.approx(0.6)


def test_four_legs_fall_as_hildebrand_has_them() -> None:
    """A walk: each fore foot a quarter of a round after the hind foot of its side; a trot: diagonals; a pace: sides."""
    late = {"walk": 0.25, "trot": 0.5, "pace": 0.0}
    for gait, lag in late.items():
        down = cycle_of("goat", gait, 32, 0.6).contacts("goat")
        for side in ("left", "right"):
            hind, fore = (down[f"{side} {end} leg"][0][0] for end in ("hind", "fore"))
            assert (fore - hind) % 32 == 32 * lag


@pytest.mark.parametrize(
    ("gait", "frames", "stride"),
    [("walk", 1, 0.6), ("walk", 2, 0.6), ("walk", 0, 0.6), ("walk", 32, 9.0), ("walk", 32, -1.0), ("waltz", 32, 0.6)],
)
def test_what_cannot_be_laid_out_is_said_and_changes_nothing(gait: str, frames: int, stride: float) -> None:
    with pytest.raises(BovrinError) as told:
        bv.new_cycle(alone("porter"), "porter", gait, frames, stride)
    assert str(told.value) and "Traceback" not in str(told.value)


def test_figures_without_legs_say_so() -> None:
    shot = bv.demo()
    for call in (
        lambda: bv.new_cycle(shot, "crate", "walk", 32, 0.6),
        lambda: bv.mirror_half(shot, "crate", 101, 133),
        lambda: bv.plant(shot, "crate"),
        lambda: bv.stride(shot, "crate"),
        lambda: bv.body_ways(shot, "crate"),
    ):
        with pytest.raises(BovrinError):
            call()


amounts = st.floats(-0.2, 0.2)


@few
@given(st.integers(101, 133), st.sampled_from(["hips/up", "chest/turn", "left foot/forward", "right foot/up"]), amounts)
def test_halves_stay_mirror_images_wherever_one_is_edited(frame: int, channel: str, by: float) -> None:
    before = lively(cycle_of("porter", "walk", 32, 0.8), "porter")
    now = bv.values(before, "porter", frame)[channel]
    size = by if channel.split("/")[1] in ("up", "forward") else by * 100
    edited = kept_in_step(before, bv.set_values(before, "porter", frame, {channel: now + size}))
    assert off_mirror(edited, "porter", 101, 133, 0.5) < 1e-6
    assert bv.values(edited, "porter", frame)[channel] == pytest.approx(now + size), (
        "what was edited is as it was edited"
    )


@few
@given(st.lists(st.tuples(st.integers(101, 125), st.floats(-25, 25)), min_size=1, max_size=5))
def test_a_goat_of_many_edits_is_still_mirrored_and_round(edits: list[tuple[int, float]]) -> None:
    shot = cycle_of("goat", "trot", 24, 0.6)
    for frame, angle in edits:
        new = bv.set_values(shot, "goat", frame, {"neck/turn": angle, "left ear/roll": angle, "tail/turn": -angle})
        shot = kept_in_step(shot, new)
    assert off_mirror(shot, "goat", 101, 125, 0.5) < 1e-6
    ends = places(shot, "goat", np.array([101.0, 125.0]))
    assert np.abs(ends[1] - ends[0] - [0, 0, 0.6]).max() < 1e-9


def jumps(shot: Shot, name: str, start: float, end: float) -> tuple[float, float]:
    """How far values and slopes of any channel differ from one end of a loop to the other, travel left out."""
    worst = [0.0, 0.0]
    for channel in bv.channels(shot, name):
        curve = bv.curve(shot, name, channel)
        if not len(curve.frames) or channel.split("/")[0] == "whole figure":
            continue
        near = np.array([start, start + 1e-5, end - 1e-5, end])
        a, b, c, d = (bv.values(shot, name, f)[channel] for f in near)
        worst[0] = max(worst[0], abs(a - d))
        worst[1] = max(worst[1], abs((b - a) - (d - c)) / 1e-5)
    return worst[0], worst[1]


@given(st.integers(0, 1000), st.sampled_from([8, 20, 31]))
def test_a_closed_loop_meets_in_value_and_slope(seed: int, length: int) -> None:
    rng = np.random.default_rng(seed)
    shot = alone("porter")
    some = ["hips/up", "chest/turn", "left upper arm/tilt", "neck/roll", "right foot/up"]
    for frame in (101, 101 + length // 3, 101 + length // 2, 101 + length):
        shot = bv.set_values(shot, "porter", frame, {c: float(rng.normal(0, 0.1)) for c in some})
    shot = bv.splined(shot, "porter")
    closed = bv.close_loop(shot, "porter", 101, 101 + length)
    curves = closed.curves("porter")
    for curve in (c for c in curves.curves if len(c)):
        assert curve.is_round and abs(curve.values[0] - curve.values[-1]) < 1e-9
        handles = gather([curve])
        assert abs(handles.out_slope[0] - handles.in_slope[-1]) < 1e-6
    inner = np.arange(101, 101 + length * 0.3)
    assert np.isfinite(places(closed, "porter", inner)).all()


def test_a_loop_goes_on_in_both_directions_and_gains_its_stride() -> None:
    shot = lively(cycle_of("porter", "walk", 32, 0.8), "porter")
    frames = np.arange(101.0, 133.0, 0.5)
    once, later, earlier = (places(shot, "porter", frames + n * 32) for n in (0, 3, -2))
    assert np.abs(later - once - [0, 0, 2.4]).max() < 1e-9
    assert np.abs(earlier - once + [0, 0, 1.6]).max() < 1e-9


def test_both_keys_of_a_seam_are_one() -> None:
    shot = cycle_of("porter", "walk", 32, 0.8)
    shot = shot.with_cycle("porter", Cycle(101, 133, "walk", mirrored=False))
    for frame in (101, 133):
        new = kept_in_step(shot, bv.set_values(shot, "porter", frame, {"chest/turn": 12.0, "whole figure/up": 0.1}))
        for at in (101, 133):
            assert bv.values(new, "porter", at)["chest/turn"] == pytest.approx(12.0)
            assert bv.values(new, "porter", at)["whole figure/up"] == pytest.approx(0.1)
        assert jumps(new, "porter", 101, 133)[0] < 1e-9
    late = kept_in_step(shot, bv.set_values(shot, "porter", 101 + 32 + 7, {"chest/turn": 9.0}))
    assert bv.values(late, "porter", 108)["chest/turn"] == pytest.approx(9.0), "a key past the loop lies in the loop"
    assert bv.curve(late, "porter", "chest/turn").frames[-1] == 133


def test_a_seam_that_is_taken_out_leaves_a_loop_of_the_same_length() -> None:
    from bovrin.craft.keying.key_sets import remove_keys

    shot = lively(cycle_of("porter", "walk", 32, 0.8), "porter").with_cycle("porter", Cycle(101, 133, "walk"))
    i = shot.figure("porter").rig.channel("chest/turn")
    without = kept_in_step(shot, remove_keys(shot, "porter", {i: np.array([101.0])}))
    curve = bv.curve(without, "porter", "chest/turn")
    assert (curve.frames[0], curve.frames[-1]) == (101, 133) and curve.is_round
    assert jumps(without, "porter", 101, 133)[0] < 1e-9


def test_opened_a_loop_keeps_its_keys() -> None:
    shot = cycle_of("porter", "walk", 32, 0.8)
    held = bv.open_loop(shot, "porter")
    frames = np.arange(101.0, 133.01, 0.5)
    assert held.cycle("porter") is None
    assert all(c.after is EndKind.HOLD for c in held.curves("porter").curves)
    inside = np.arange(102.0, 132.0)
    assert np.abs(places(held, "porter", inside) - places(shot, "porter", inside)).max() < 0.02
    assert np.isfinite(places(held, "porter", frames)).all()


WAYS = st.sampled_from(["twist", "weight", "bounce", "sway", "lean", "arm swing"])


@few
@given(WAYS, st.floats(0.5, 12.0), st.floats(0.0, 8.0))
def test_ways_of_the_body_are_what_was_typed(way: str, first: float, then: float) -> None:
    shot = cycle_of("porter", "walk", 32, 0.7)
    for amount in (first, then):
        shot = bv.set_body_way(shot, "porter", way, amount)
        assert bv.body_ways(shot, "porter")[way] == pytest.approx(amount, rel=0.03, abs=0.02)
    assert off_mirror(shot, "porter", 101, 133) < 1e-6
    others = {k: v for k, v in bv.body_ways(shot, "porter").items() if k != way}
    assert max(others.values()) < 0.2, "no other way came along"


def test_poses_with_counts_are_laid_out_as_far_apart_as_they_were() -> None:
    from dataclasses import replace

    from bovrin.craft.cycle.lay_out import reference_frames, spread_out

    source = lively(cycle_of("porter", "run", 16, 1.0), "porter")
    taken = [(101, 12), (104, 15), (107, 18), (109, 20)]
    poses = [replace(bv.copy_pose(source, "porter", a), name=f"p{a}", reference=float(b)) for a, b in taken]
    assert spread_out(reference_frames(poses), 101) == [101, 104, 107, 109]
    assert spread_out(reference_frames(poses), 101, 16) == [101, 107, 113, 117]
    shot = bv.lay_out(alone("porter"), "porter", poses, [101, 104, 107, 109, 117])
    cycle = shot.cycle("porter")
    assert cycle is not None and (cycle.first, cycle.last) == (101, 117)
    for pose, frame in zip(taken, [101, 104, 107, 109], strict=True):
        for channel in ("chest/turn", "left foot/forward", "hips/up"):
            assert bv.values(shot, "porter", frame)[channel] == pytest.approx(
                bv.values(source, "porter", pose[0])[channel]
            )
    with pytest.raises(BovrinError):
        bv.lay_out(alone("porter"), "porter", poses, [101, 100, 107, 109])
    with pytest.raises(BovrinError):
        reference_frames([poses[0], replace(poses[1], reference=None)])


@few
@given(st.integers(0, 300))
def test_halves_of_any_figure_with_pairs_are_mirror_images(seed: int) -> None:
    from tests.rigs import goat

    rng = np.random.default_rng(seed)
    shot = Shot("any").with_figure(goat(seed))
    rig = shot.figure("goat").rig
    some = [
        c for c in rig.channel_names if not c.startswith("whole") and rig.channels[rig.channel(c)].unit.value == "angle"
    ]
    for frame in (101, 107, 113, 120, 125):
        shot = bv.set_values(shot, "goat", frame, {c: float(rng.normal(0, 12)) for c in some})
    shot = bv.mirror_half(bv.splined(shot, "goat"), "goat", 101, 125)
    assert off_mirror(shot, "goat", 101, 125) < 1e-6
