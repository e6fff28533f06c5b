"""Turns and moves away from rest: there and back, and the same for rigs that are built differently."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.rigs import goat, random_values

from bovrin import script
from bovrin.figure.solve.rest_space import hinge_angles, move_values, rest_moves, rest_plan, rest_turns, turn_values
from bovrin.motion.rotations import about
from bovrin.shot import Rig


def rigs() -> list[Rig]:
    return [script.demo().figure("porter").rig, goat().rig, goat(6).rig]


@pytest.mark.parametrize("rig", rigs(), ids=["porter", "goat", "another goat"])
@pytest.mark.parametrize("turn", [0.4, 3.0, 9.0])
def test_there_and_back_is_where_it_was(rig: Rig, turn: float) -> None:
    """Turns past 180 degrees too: the angles nearest to those that were there are those that were there."""
    values = random_values(rig, 5, turn=turn, count=6)
    plan = rest_plan(rig)
    turners, movers = np.arange(len(plan.turners)), np.arange(len(plan.movers))
    result = np.full_like(values, np.nan)
    turn_values(rig, rest_turns(rig, values, turners), turners, values, result)
    move_values(rig, rest_moves(rig, values, movers), movers, result)
    written = ~np.isnan(result)
    again = np.where(written, result, values)
    assert np.abs(rest_turns(rig, again, turners) - rest_turns(rig, values, turners)).max() < 1e-9
    moved = plan.move_columns[plan.move_columns >= 0]
    assert np.abs(result[:, moved] - values[:, moved]).max() < 1e-12
    if turn < 1:
        assert np.abs(again - values).max() < 1e-9


@pytest.mark.parametrize("rig", rigs(), ids=["porter", "goat", "another goat"])
def test_at_rest_nothing_is_turned_or_moved(rig: Rig) -> None:
    plan = rest_plan(rig)
    rest = np.asarray(rig.defaults, float)[None]
    turns = rest_turns(rig, rest, np.arange(len(plan.turners)))
    assert np.abs(turns - np.eye(3)).max() < 1e-9
    assert np.abs(rest_moves(rig, rest, np.arange(len(plan.movers)))).max() < 1e-9


@given(st.integers(0, 2), st.floats(-30, 30), st.floats(-30, 30))
def test_a_hinge_is_read_as_the_angle_nearest_to_where_it_was(axis: int, angle: float, near: float) -> None:
    turns = about(np.eye(3)[axis], np.asarray(angle))[None, None]
    before = np.zeros((1, 1, 3))
    before[..., axis] = near
    found = float(hinge_angles(turns, np.array([axis]), before)[0, 0])
    assert abs(np.sin((found - angle) / 2)) < 1e-6
    assert abs(found - near) <= np.pi + 1e-6
