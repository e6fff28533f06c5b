import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.rigs import goat, random_values

from bovrin.figure.solve.fit import LimbMode, fitted
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import special_column
from bovrin.motion.rotations import rotation_vector, turn_only
from bovrin.shot import Rig, Shot


def switched(rig: Rig, values: np.ndarray, mode: str) -> np.ndarray:
    result = values.copy()
    result[:, [special_column(rig, limb.goal, "reach") for limb in rig.limbs]] = float(mode == LimbMode.REACH)
    return result


def off(rig: Rig, a: np.ndarray, b: np.ndarray) -> tuple[float, float]:
    """The worst limb joint: metres and degrees."""
    joints = [j for limb in rig.limbs for j in (limb.upper, limb.middle, limb.end)]
    first, second = a[:, joints], b[:, joints]
    turn = np.swapaxes(turn_only(first[..., :3, :3]), -1, -2) @ turn_only(second[..., :3, :3])
    angle = np.degrees(np.linalg.norm(rotation_vector(turn), axis=-1))
    return float(np.abs(first[..., :3, 3] - second[..., :3, 3]).max()), float(angle.max())


@pytest.mark.parametrize(
    ("start", "goal"),
    [
        (LimbMode.REACH, LimbMode.JOINTS),
        (LimbMode.JOINTS, LimbMode.REACH),
        (LimbMode.JOINTS, LimbMode.JOINTS),
        (LimbMode.REACH, LimbMode.REACH),
    ],
)
@settings(max_examples=25, deadline=None)
@given(seed=st.integers(0, 10_000))
def test_either_mode_is_matched_to_the_other(start: str, goal: str, seed: int) -> None:
    rig = goat(seed % 5 or None).rig
    values = switched(rig, random_values(rig, seed, count=3), start)
    world = solve(rig, values)
    again = solve(rig, switched(rig, fitted(rig, world, values, [goal] * len(rig.limbs)), goal))
    metres, degrees = off(rig, world, again)
    assert metres < 1e-4 and degrees < 0.1


def test_the_porter_s_limbs_match_with_twists_rolls_and_long_bones(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    values = random_values(rig, 4, count=40)
    lengths = [i for i, c in enumerate(rig.channels) if c.technical.endswith("length")]
    values[:, lengths] = np.random.default_rng(1).uniform(0.8, 1.3, (40, len(lengths)))
    for start, goal in ((LimbMode.REACH, LimbMode.JOINTS), (LimbMode.JOINTS, LimbMode.REACH)):
        world = solve(rig, switched(rig, values, start))
        near = switched(rig, values, start)
        again = solve(rig, switched(rig, fitted(rig, world, near, [goal] * 4), goal))
        metres, degrees = off(rig, world, again)
        assert metres < 1e-4 and degrees < 0.1


def test_what_is_there_already_is_left_bit_for_bit(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    values = switched(rig, random_values(rig, 2, count=5), LimbMode.JOINTS)
    assert np.array_equal(fitted(rig, solve(rig, values), values), values)


def test_a_straight_limb_matches(demo: Shot) -> None:
    rig = demo.figure("porter").rig
    values = switched(rig, np.array([rig.defaults]), LimbMode.JOINTS)
    limb = rig.limbs[0]
    world = solve(rig, values)[0]
    a, b, c = (world[j, :3, 3] for j in (limb.upper, limb.middle, limb.end))
    bent = np.arccos(((b - a) @ (c - b)) / np.linalg.norm(b - a) / np.linalg.norm(c - b))
    values[0, rig.channel("left forearm/tilt")] = bent
    for tilt in np.linspace(bent - 0.02, bent + 0.02, 9):
        values[0, rig.channel("left forearm/tilt")] = tilt
        world = solve(rig, values)
        again = solve(rig, switched(rig, fitted(rig, world, values, [LimbMode.REACH] * 4), LimbMode.REACH))
        assert off(rig, world, again)[0] < 1e-4
