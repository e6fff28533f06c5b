"""A figure steered through its clips: the same twice, feet held, nothing jumps, kept as a take."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.cycles import alone, cycle_of, lively, steered

from bovrin import script as bv
from bovrin.craft.clips.drive import Drive, Steer, as_take, driven, found_slots
from bovrin.craft.clips.keeping import clip_of, with_clip
from bovrin.craft.clips.naming import removed_clip, renamed_clip
from bovrin.errors import BadMotion
from bovrin.shot import Shot


@cache
def moveset() -> Shot:
    """A porter with a walk, a run and a rest under names that say nothing."""
    walk, run = lively(cycle_of("porter", "walk", 30, 0.8), "porter"), cycle_of("porter", "run", 18, 1.3)
    rest = bv.set_values(alone("porter"), "porter", 101, {"head/turn": 0.0})
    rest = bv.set_values(rest, "porter", 149, {"head/turn": 0.0})
    shot = alone("porter")
    for name, source, end in (("b", run, 119), ("a", walk, 131), ("c", rest, 149)):
        shot = with_clip(shot, clip_of(source, "porter", name, 101, end, loop=True))
    return shot


def test_slots_are_found_by_how_clips_go() -> None:
    assert found_slots(moveset(), "porter") == {"walk": "a", "run": "b", "idle": "c"}


def test_a_clip_called_as_a_slot_fills_it() -> None:
    shot = renamed_clip(moveset(), "b", "Walk")
    assert found_slots(shot, "porter") == {"walk": "Walk", "idle": "c"}, "the slower one is no run"
    shot = with_clip(shot, replace(shot.clip("a"), name="run", curves=shot.clip("a").curves))
    assert found_slots(shot, "porter") == {"walk": "Walk", "run": "run", "idle": "c"}


def test_a_single_clip_of_any_name_is_walked_by() -> None:
    assert found_slots(removed_clip(removed_clip(moveset(), "b"), "c"), "porter") == {"walk": "a"}


def test_no_way_to_go_is_said() -> None:
    with pytest.raises(BadMotion, match="no clip that goes"):
        Drive(alone("porter"), "porter")
    with pytest.raises(BadMotion, match="no slot 'fly'"):
        Drive(moveset(), "porter", {"fly": "a"})


def test_straight_on_it_goes_as_its_clip_goes() -> None:
    """Oracle: stride over rounds, of the clip's own cycle."""
    steps = driven(moveset(), "porter", [Steer(0, 1)] * 120, {"walk": "a", "idle": "c"})
    gone = steps[-1].places[0] - steps[59].places[0]
    assert gone[2] == pytest.approx(60 / 30 * 0.8, rel=0.02)
    assert abs(gone[0]) < 0.05


@settings(max_examples=3)
@given(st.integers(0, 1000))
def test_steered_anyhow_feet_stand_and_nothing_jumps(seed: int) -> None:
    steering = steered(seed, 6.0)
    steps, again = driven(moveset(), "porter", steering), driven(moveset(), "porter", steering)
    places = np.array([step.places for step in steps])
    assert np.array_equal(places, np.array([step.places for step in again])), "the same steering is the same motion"
    assert np.linalg.norm(np.diff(places, axis=0), axis=2).max() < 0.32, "a foot in a run goes 0.25 m a frame"
    slid = np.array([step.slid for step in steps])
    assert slid.mean() < 0.0006 and slid.max() < 0.05


def test_a_drive_is_kept_as_a_take() -> None:
    steps = driven(moveset(), "porter", steered(4, 3.0))
    shot = as_take(moveset(), "porter", steps, "drive")
    shot = as_take(shot, "porter", steps, "drive")
    assert shot.take.name == "drive 2"
    frames = shot.first + np.arange(len(steps))
    assert np.abs(bv.sample(shot, "porter", frames).position - [step.places for step in steps]).max() < 1e-6
    back = shot.with_take(moveset().take.name)
    assert back.curves("porter") == moveset().curves("porter")
    with pytest.raises(BadMotion, match="two frames"):
        as_take(shot, "porter", steps[:1], "drive")
