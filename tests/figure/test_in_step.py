"""Clips in step: footfalls of two loops fall together through a fade, whenever it begins, and time never runs back."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.cycles import alone, cycle_of, places, slid
from tests.strategies import few

from bovrin import script as bv
from bovrin.craft.clips.keeping import clip_of, with_clip
from bovrin.figure.stages.in_step import matched, phases
from bovrin.figure.stages.lane_ways import track_of
from bovrin.figure.stages.pieces import progress_of
from bovrin.shot import Clip, Shot


@cache
def goats() -> Shot:
    shot = alone("goat")
    for gait, frames, stride in (("walk", 32, 0.6), ("trot", 18, 0.8)):
        shot = with_clip(
            shot, clip_of(cycle_of("goat", gait, frames, stride), "goat", gait, 101, 101 + frames, loop=True)
        )
    return shot


def loop(length: float, contacts: dict[str, list[tuple[float, float]]]) -> Clip:
    """A loop of which only the feet matter."""
    return Clip("loop", {}, length, loops=True, contacts=contacts)


def rounds_apart(one: Clip, other: Clip, limb: str) -> float:
    """Oracle: by how many rounds a limb's footfall is off when both clips are half seen, through all of a round."""
    match = matched(one, other)
    assert match is not None
    common = np.linspace(0.0, 2.0, 4001)
    first, second = phases(match.later, common, np.full(len(common), 0.5))
    falls = [
        ((clip.contacts[limb][0][0] - zero) / clip.length) % 1.0
        for clip, zero in zip((one, other), match.zero, strict=True)
    ]
    when = common[np.abs((first - falls[0] + 0.5) % 1.0 - 0.5).argmin()]
    there = np.interp(when, common, second)
    return float(abs((there - falls[1] + 0.5) % 1.0 - 0.5))


def test_a_walk_and_a_trot_fall_together_as_far_as_time_allows() -> None:
    walk, trot = goats().clip("walk"), goats().clip("trot")
    match = matched(walk, trot)
    assert match is not None and match.later is not None
    for limb in walk.contacts:
        there = (trot.contacts[limb][0][0] - match.zero[1]) / trot.length
        here = (walk.contacts[limb][0][0] - match.zero[0]) / walk.length
        plain = abs((there - here + 0.5) % 1.0 - 0.5)
        assert plain > 0.1, "a walk's feet come one by one, a trot's by twos"
        assert rounds_apart(walk, trot, limb) < 0.7 * plain, f"{limb} is nearer than without a warp"


@given(st.floats(14.0, 40.0), st.lists(st.floats(0.0, 0.999), min_size=1, max_size=3), st.floats(0.0, 40.0))
def test_loops_of_one_gait_are_in_step_to_the_bit(length: float, falls: list[float], late: float) -> None:
    def made(frames: float, shift: float) -> Clip:
        spans = {f"leg {n}": [(at * frames + shift, at * frames + shift + 0.4 * frames)] for n, at in enumerate(falls)}
        return loop(frames, spans)

    match = matched(made(24.0, 0.0), made(length, late))
    assert match is not None and match.later is None
    for at in falls:
        phase = (at * 24.0 - match.zero[0]) / 24.0
        off = match.zero[1] + phase * length - (at * length + late)
        assert abs((off / length + 0.5) % 1.0 - 0.5) < 1e-6


def test_two_rounds_in_one_loop_keep_step_with_one_in_another() -> None:
    once = loop(24.0, {"left": [(0.0, 14.0)], "right": [(12.0, 26.0)]})
    twice = loop(56.0, {"left": [(3.0, 20.0), (31.0, 48.0)], "right": [(17.0, 34.0), (45.0, 62.0)]})
    match = matched(once, twice)
    assert match is not None
    assert match.rounds == (1, 2) and match.later is None
    assert match.zero == (0.0, 3.0)


def test_a_foot_that_never_leaves_the_ground_is_no_footfall() -> None:
    stands = loop(48.0, {"left": [(0.0, 48.0)], "right": [(0.0, 48.0)]})
    walks = loop(24.0, {"left": [(5.0, 19.0)], "right": [(17.0, 31.0)]})
    match = matched(walks, stands)
    assert match is not None and match.zero == (5.0, 0.0) and match.later is None
    assert matched(walks, loop(10.0, {})) is None


@pytest.mark.parametrize("order", [("walk", "trot"), ("trot", "walk")])
@given(st.floats(2.5, 4.0), st.floats(0.3, 40.0))
def test_time_runs_on_through_any_fade(order: tuple[str, str], repeats: float, width: float) -> None:
    shot = bv.lay_clip(goats(), "goat", order[0], 101, repeats=repeats)
    end = shot.lanes("goat")[0].laid[0].end
    shot = bv.lay_clip(shot, "goat", order[1], end - width, repeats=4.0)
    rig, lane = shot.figure("goat").rig, shot.lanes("goat")[0]
    track = track_of(lane, tuple(shot.clips), rig)
    fine = np.arange(end - width - 8.0, end + 8.0, 0.05)
    for index, piece in enumerate(track.pieces):
        seen = (fine >= piece.laid.at) & ((index == 1) | (fine <= end))
        pace = np.diff(progress_of(track.pieces, index, fine)[seen]) / 0.05
        assert pace.min() > 0.0, "no step goes back"
        own = pace[:20] if index == 0 else pace[-20:]
        assert np.abs(own - piece.laid.speed).max() < 1e-6, "outside the fade it goes at its own pace"


@few
@given(st.sampled_from([("walk", "trot"), ("trot", "walk")]), st.floats(2.0, 3.0), st.floats(3.0, 24.0))
def test_a_goat_s_feet_stay_through_a_fade_of_gaits(order: tuple[str, str], repeats: float, width: float) -> None:
    shot = bv.lay_clip(goats(), "goat", order[0], 101, repeats=repeats)
    end = shot.lanes("goat")[0].laid[0].end
    shot = replace(bv.lay_clip(shot, "goat", order[1], end - width, repeats=4.0), last=float(np.ceil(end + 50.0)))
    for foot, spans in bv.contacts(shot, "goat").items():
        for start, stop in spans:
            if stop - start > 2:
                assert slid(shot, "goat", foot, start, stop) < 5e-3
    fine = np.arange(end - width - 4.0, end + 4.0, 0.25)
    assert np.linalg.norm(np.diff(places(shot, "goat", fine), axis=0), axis=2).max() < 0.07, "nothing jumps"
