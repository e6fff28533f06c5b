"""A figure steered through its clips: the same twice, feet held, nothing jumps, kept as a take."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.cycles import alone, cycle_of, lively, steered

from bovrin import script as bv
from bovrin.craft.clips.drive import Drive, Steer, as_take, driven
from bovrin.craft.clips.keeping import clip_of, with_clip
from bovrin.craft.clips.naming import removed_clip, renamed_clip
from bovrin.craft.clips.slots import found_slots
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


def test_who_carries_something_does_not_walk_in_a_drive() -> None:
    carries = cycle_of("porter", "walk", 40, 0.5)
    for frame in bv.keys(carries, "porter", "hips/up"):
        carries = bv.set_values(carries, "porter", frame, {"left hand/reach": 1.0})
    shot = with_clip(moveset(), clip_of(carries, "porter", "carries", 101, 141, loop=True))
    assert found_slots(shot, "porter") == {"walk": "a", "run": "b", "idle": "c"}
    alone_ = with_clip(alone("porter"), shot.clip("carries"))
    assert found_slots(alone_, "porter") == {"walk": "carries"}, "but where it is all there is"


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


def test_a_clip_of_two_rounds_keeps_step_with_a_clip_of_one() -> None:
    walk = moveset().clip("a")
    twice = cycle_of("porter", "walk", 24, 1.1)
    twice = with_clip(moveset(), clip_of(twice, "porter", "two rounds", 101, 149, loop=True))
    assert len(twice.clip("two rounds").contacts["left leg"]) == 2 and len(walk.contacts["left leg"]) == 1
    drive = Drive(twice, "porter", {"walk": "a", "run": "two rounds"})
    steps = [drive.step(Steer(0, 1, fast=n > 60)) for n in range(180)]
    slid = np.array([step.slid for step in steps])
    assert slid.max() < 0.012, "feet of both come down together"
    assert np.linalg.norm(np.diff([step.places for step in steps], axis=0), axis=2).max() < 0.2
    gone = steps[-1].places[0, 2] - steps[131].places[0, 2]
    assert gone == pytest.approx(2 * 1.1, rel=0.03), "48 frames are two strides"


def test_clips_that_turn_are_found_and_walked_round_by() -> None:
    shot = moveset()
    for way in ("turn left", "turn right"):
        turning = bv.clips_to_keys(bv.sidestep(replace(shot, last=200.0), "porter", "a", way, 101, repeats=3), "porter")
        shot = with_clip(shot, clip_of(turning, "porter", f"round {way[5:]}", 131, 161, loop=True))
    slots = found_slots(shot, "porter")
    assert slots == {
        "walk": "a", "run": "b", "idle": "c", "turn left": "round left", "turn right": "round right"
    }  # fmt: skip
    drive = Drive(shot, "porter")
    steps, heard = [], []
    for across in [0] * 60 + [1] * 60 + [0] * 80:
        steps.append(drive.step(Steer(across, 0 if across else 1)))
        heard.append((drive.weights["turn left"], drive.weights["turn right"]))
    assert max(left for left, _ in heard[60:120]) > 0.5 and max(right for _, right in heard[60:120]) < 0.2
    assert max(right for _, right in heard[120:]) > 0.5
    assert np.degrees(steps[118].stand.turn[0]) == pytest.approx(90.0, abs=3.0)
    assert abs(np.degrees(steps[-1].stand.turn[0])) < 3.0
    assert np.array([step.slid for step in steps]).max() < 0.01
    places = np.array([step.places for step in steps])
    assert np.linalg.norm(np.diff(places, axis=0), axis=2).max() < 0.25
    ran = driven(shot, "porter", [Steer(0, 1, fast=True)] * 20 + [Steer(1, 0, fast=True)] * 40)
    assert np.degrees(ran[-1].stand.turn[0]) == pytest.approx(90.0, abs=3.0), "who runs is turned by the game"


def test_a_foot_that_stands_keeps_its_turn_when_the_figure_turns() -> None:
    """Oracle: where ankles and toes are."""
    steering = [Steer(0, 1)] * 60 + [Steer(1, 0)] * 30 + [Steer(0, 1)] * 30
    steps = driven(moveset(), "porter", steering)
    places, rig = np.array([step.places for step in steps]), moveset().figure("porter").rig
    for n, side in enumerate(("left", "right")):
        way = places[:, rig.joint(f"{side} toes")] - places[:, rig.joint(f"{side} foot")]
        heading = np.unwrap(np.arctan2(way[:, 0], way[:, 2]))
        toes = np.linalg.norm(np.diff(places[:, rig.joint(f"{side} toes")], axis=0), axis=1)
        stands = (toes < 0.01) & np.array([step.down[n] for step in steps[1:]])
        assert stands[60:95].sum() > 8, "it stands on some frames of the turns"
        assert np.degrees(np.abs(np.diff(heading)))[stands].max() < 3.0, "the body turns 8 degrees a frame"


@settings(max_examples=2)
@given(st.integers(0, 1000))
def test_steered_anyhow_feet_stand_and_nothing_jumps(seed: int) -> None:
    steering = steered(seed, 6.0)
    steps, again = driven(moveset(), "porter", steering), driven(moveset(), "porter", steering)
    places = np.array([step.places for step in steps])
    assert np.array_equal(places, np.array([step.places for step in again])), "the same steering is the same motion"
    assert np.linalg.norm(np.diff(places, axis=0), axis=2).max() < 0.32, "a foot in a run goes 0.25 m a frame"
    slid = np.array([step.slid for step in steps])
    assert slid.mean() < 0.001 and slid.max() < 0.05


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
