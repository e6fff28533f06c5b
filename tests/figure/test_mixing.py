"""Two poses mixed, and one added to another: checked channel by channel against sums written down here."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from bovrin import script
from bovrin.figure.stages.mixing import added, mix_plan, mixed
from bovrin.figure.staging import staged
from bovrin.motion.evaluate import channel_values
from bovrin.shot import ControlKind, Rig, Unit

DEMO = script.demo()
RIG: Rig = DEMO.figure("porter").rig
SWITCHES = [n for n, channel in enumerate(RIG.channels) if channel.unit is Unit.SWITCH]
TURNS = sorted(int(i) for columns in mix_plan(RIG)[1:2] for i in np.asarray(columns).ravel())
PLAIN = [i for i in range(len(RIG.channels)) if i not in {*SWITCHES, *TURNS}]
POSES = channel_values(DEMO.curves("porter"), RIG, [101.0, 119.0])


def two() -> tuple[np.ndarray, np.ndarray]:
    one, other = POSES[:1].copy(), POSES[1:].copy()
    one[:, SWITCHES], other[:, SWITCHES] = 0.0, 1.0
    return one, other


@given(st.floats(0.0, 1.0))
def test_numbers_go_their_share_and_switches_go_over_at_the_middle(share: float) -> None:
    one, other = two()
    made = mixed(RIG, one, other, np.array([share]))
    assert np.abs(made[:, PLAIN] - (one + share * (other - one))[:, PLAIN]).max() < 1e-12
    assert (made[:, SWITCHES] == float(share >= 0.5)).all(), "a limb is never half by reach"


def test_at_the_ends_it_is_the_pose_itself() -> None:
    one, other = two()
    both = mixed(RIG, np.repeat(one, 3, 0), np.repeat(other, 3, 0), np.array([0.0, 0.4, 1.0]))
    assert np.array_equal(both[0], one[0]) and np.array_equal(both[2], other[0])


@given(st.floats(0.02, 0.98))
def test_turns_go_the_shortest_way_at_an_even_pace(share: float) -> None:
    one, other = two()
    made = mixed(RIG, one, other, np.array([share]))
    control = next(c for c, what in enumerate(RIG.controls) if what.name == "head")
    order = RIG.controls[control].order
    columns = [i for i in RIG.span(control) if RIG.channels[i].technical.startswith("rotate")]
    axes = {RIG.channels[i].technical[-1]: i for i in columns}

    def turn(row: np.ndarray) -> Rotation:
        return Rotation.from_euler(order, [row[axes[axis.lower()]] for axis in order])

    whole, part = (turn(one[0]).inv() * turn(own[0]) for own in (other, made))
    assert part.magnitude() == pytest.approx(share * whole.magnitude(), abs=1e-6)


@pytest.mark.parametrize("weight", [0.0, 0.25, 0.5, 1.0])
def test_what_is_added_is_added_by_its_weight(weight: float) -> None:
    one, other = two()
    neutral = one[0] + 0.3
    made = added(RIG, one, other, neutral, np.array([weight]))
    assert np.abs(made[:, PLAIN] - (one + weight * (other - neutral))[:, PLAIN]).max() < 1e-12


@pytest.mark.parametrize("weight", [0.0, 0.25, 0.5])
def test_a_clip_that_is_laid_as_added_is_heard_by_its_weight(weight: float) -> None:
    shot = script.demo("across")
    clip = next(c for c in shot.clips if c.figure == "porter")
    frames = np.arange(110.0, 120.0)

    def heard(own: float) -> np.ndarray:
        laid = script.lay_clip(shot, "porter", clip.name, 105.0, lane=1, how="added", weight=own)
        return staged(laid, "porter", frames).values - staged(shot, "porter", frames).values

    joints = [i for i, _ in enumerate(RIG.channels) if i in PLAIN and _kind(i) is ControlKind.JOINT]
    whole = heard(1.0)[:, joints]
    assert np.abs(whole).max() > 1e-3 and np.abs(heard(weight)[:, joints] - weight * whole).max() < 1e-9


def _kind(column: int) -> ControlKind:
    return next(what.kind for c, what in enumerate(RIG.controls) if column in RIG.span(c))
