import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import curves

from bovrin import script
from bovrin.measure.spacing import Spacing, channel_spacing, point_spacing
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, HandleKind, Key, Shot


def test_a_level_speed_has_steps_of_one_size() -> None:
    linear = HandleKind.LINEAR
    curve = Curve.from_keys([Key(101, 0.0, linear, linear), Key(111, 5.0, linear, linear)])
    found = channel_spacing(curve, np.arange(101.0, 112.0))
    assert np.allclose(found.steps, 0.5) and found.frames.tolist() == list(range(102, 112))
    assert found.average == pytest.approx(0.5)


@given(curves(1, 6), st.integers(95, 140), st.integers(1, 60))
def test_steps_add_up_to_the_way_gone(curve: Curve, first: int, count: int) -> None:
    frames = np.arange(first, first + count + 1.0)
    found = channel_spacing(curve, frames, 1.0)
    values = curve_values(curve, frames, 1.0)
    assert (found.steps >= 0).all() and len(found.steps) == count
    assert found.steps.sum() == pytest.approx(np.abs(np.diff(values)).sum())
    above, below = found.above_and_below()
    assert above + below <= count


def test_nothing_seen_has_no_speed() -> None:
    empty = Spacing(np.empty(0), np.empty(0))
    assert empty.average == 0.0 and empty.above_and_below() == (0, 0)


def test_a_point_goes_as_far_as_its_joint(demo: Shot) -> None:
    shot = script.splined(demo, "porter")
    rig = shot.figure("porter").rig
    frames = np.arange(119.0, 134.0)
    found = point_spacing(shot, "porter", rig.joint("left hand"), frames)
    motion = script.sample(shot, "porter", frames)
    places = motion.position[:, motion.joints.index("left hand")]
    assert np.allclose(found.steps, np.linalg.norm(np.diff(places, axis=0), axis=1), atol=1e-12)
    held = point_spacing(demo, "porter", rig.joint("left hand"), np.arange(120.0, 127.0))
    assert (held.steps == 0).all(), "a held pose has no speed"


def test_the_buoy_is_fastest_at_its_contacts(demo: Shot) -> None:
    found = point_spacing(demo, "buoy", 0, np.arange(118.0, 127.0))
    assert found.steps[-1] == found.steps.max() and found.steps.argmin() in range(2, 6)


def test_the_largest_change_and_what_is_held_moving_and_settling() -> None:
    steps = np.array([0, 0, 0, 4, 6, 6, 4, 2, 1, 0.5, 0, 0], float)
    found = Spacing(np.arange(102.0, 114.0), steps)
    assert found.largest_change == 105
    assert found.shares() == pytest.approx((5 / 12, 5 / 12, 2 / 12))
    assert Spacing(np.arange(3.0), np.zeros(3)).largest_change is None
    assert Spacing(np.arange(3.0), np.zeros(3)).shares() == (1.0, 0.0, 0.0)
    assert sum(Spacing(np.arange(40.0), np.random.default_rng(1).random(40)).shares()) == pytest.approx(1)
