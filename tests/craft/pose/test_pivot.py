"""Turning and sizing about any point, against plain turns of places in space."""

from functools import cache

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.rigs import goat, one_bone, random_values

from bovrin import script
from bovrin.craft.pose.pivot import LEAST, can_size, sized, topmost, turned_about
from bovrin.craft.pose.posing import handle_place
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import stance
from bovrin.motion.rotations import about
from bovrin.shot import ChannelRole, Rig

ANGLES = st.floats(-7, 7)
AXES = st.tuples(*[st.floats(-1, 1)] * 3).map(np.array).filter(lambda a: np.linalg.norm(a) > 0.2)


@cache
def porter(frame: float = 119) -> Stance:
    return stance(script.demo(), "porter", frame)


@given(ANGLES, AXES)
def test_the_whole_figure_turns_about_a_point_like_a_thing_of_wood(angle: float, axis: np.ndarray) -> None:
    now = porter()
    pivot = np.array([0.4, 0.2, -0.3])
    whole = now.rig.control("whole figure")
    after = now.with_values(turned_about(now, [whole], axis, angle, pivot))
    turn = about(axis / np.linalg.norm(axis), np.asarray(angle))
    wanted = pivot + (now.world[:, :3, 3] - pivot) @ turn.T
    assert np.abs(after.world[:, :3, 3] - wanted).max() < 1e-6


@given(ANGLES, AXES, st.sampled_from(["head", "left hand", "right foot", "chest"]))
def test_without_a_pivot_a_control_stays_in_its_place(angle: float, axis: np.ndarray, name: str) -> None:
    now = porter()
    control = now.rig.control(name)
    after = now.with_values(turned_about(now, [control], axis, angle, None))
    assert np.abs(handle_place(after, control) - handle_place(now, control)).max() < 1e-6


def test_a_whole_turn_in_small_steps_never_jumps() -> None:
    """A degree at a time past 360: every channel goes on from where it was."""
    now = porter()
    control, axis, pivot = now.rig.control("left hand"), np.array([0.0, 0.0, 1.0]), handle_place(porter(), 5)
    last, places = now.values, []
    for _ in range(400):
        now = now.with_values(turned_about(now, [control], axis, np.radians(1), pivot))
        assert np.abs(now.values - last).max() < np.radians(8)
        last = now.values
        places.append(handle_place(now, control))
    assert np.linalg.norm(np.diff(places, axis=0), axis=1).max() < 0.03


@pytest.mark.parametrize("rig", [goat(), goat(6), one_bone()], ids=["goat", "another goat", "one bone"])
def test_other_builds_turn_about_a_point(rig) -> None:  # type: ignore[no-untyped-def]
    now = Stance(rig.rig, random_values(rig.rig, 3)[0])
    pivot = np.array([0.1, 0.5, 0.0])
    after = now.with_values(turned_about(now, [0], np.array([0.0, 1.0, 0.0]), 2.9, pivot))
    turn = about(np.array([0.0, 1.0, 0.0]), np.asarray(2.9))
    wanted = pivot + turn @ (handle_place(now, 0) - pivot)
    assert np.abs(handle_place(after, 0) - wanted).max() < 1e-6


def test_what_another_carries_is_not_turned_twice() -> None:
    rig: Rig = porter().rig
    chosen = [rig.control(n) for n in ("hips", "chest", "head", "left hand")]
    assert topmost(rig, chosen) == [rig.control("hips"), rig.control("left hand")]


@given(st.floats(0.01, 30))
def test_sizes_stay_in_reason_and_the_pivot_stays_put(factor: float) -> None:
    now = porter()
    rig = now.rig
    sizable = [c for c in range(len(rig.controls)) if can_size(rig, c)]
    control = sizable[0]
    changes = sized(now, [control], ChannelRole.SIZE, factor, None)
    assert all(LEAST <= v <= 20 for v in changes.values())
    back = now.with_values(changes)
    if 0.1 < factor < 10:
        again = sized(back, [control], ChannelRole.SIZE, 1 / factor, None)
        assert all(abs(v - now.values[c]) < 1e-9 for c, v in again.items())
