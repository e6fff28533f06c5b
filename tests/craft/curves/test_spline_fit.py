"""Curves through given values: the slopes against a plain least-squares solver, and as few keys as will do, near or far."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin.craft.curves.spline_fit import best_slopes, fewest_keys, through_keys
from bovrin.motion.hermite import hermite_basis


def plain_slopes(frames: np.ndarray, target: np.ndarray, keyed: np.ndarray, *, goes_round: bool) -> np.ndarray:
    """Oracle: the whole matrix of what slopes do to frames, and NumPy's solver."""
    at, near = np.flatnonzero(keyed), np.gradient(target, frames, axis=0)[keyed]
    matrix, left = np.zeros((len(frames), len(at))), target.copy()
    for k, (i, j) in enumerate(pairwise(at)):
        rows, span = np.arange(i, j + 1), frames[j] - frames[i]
        basis = hermite_basis((frames[rows] - frames[i]) / span)
        left[rows] -= basis.start[:, None] * target[i] + basis.end[:, None] * target[j]
        matrix[rows, k], matrix[rows, k + 1] = span * basis.start_slope, span * basis.end_slope
    if goes_round:
        ends = target[1] - target[0] + target[-1] - target[-2]
        near[[0, -1]] = ends / (frames[1] - frames[0] + frames[-1] - frames[-2])
        matrix[:, 0] += matrix[:, -1]
        matrix[:, -1] = 0.0
    left, inner = left - matrix @ near, ~keyed
    slopes = near + np.linalg.lstsq(matrix[inner], left[inner], rcond=None)[0]
    slopes[-1] = slopes[0] if goes_round else slopes[-1]
    return np.asarray(slopes)


@given(st.integers(0, 10_000), st.booleans())
def test_slopes_are_those_of_a_plain_solver(seed: int, goes_round: bool) -> None:
    rng = np.random.default_rng(seed)
    frames = 101 + np.cumsum(rng.choice([0.5, 1.0], int(rng.integers(5, 90))))
    target = np.cumsum(rng.normal(size=(len(frames), 3)), axis=0)
    target[-1] = target[0] if goes_round else target[-1]
    keyed = rng.random(len(frames)) < rng.random()
    keyed[[0, -1]] = True
    made = best_slopes(frames, target, keyed, goes_round=goes_round)
    wanted = plain_slopes(frames, target, keyed, goes_round=goes_round)
    off = through_keys(frames, target, made, keyed) - through_keys(frames, target, wanted, keyed)
    assert np.abs(off).max() < 1e-6 * np.abs(target).max()


@pytest.mark.parametrize("rounds", [3, 60])
def test_long_motion_gets_as_many_keys_a_round_as_short(rounds: int, monkeypatch: pytest.MonkeyPatch) -> None:
    """And not by one key after another from both ends: 60 rounds took a hundred solutions."""
    from bovrin.craft.curves import spline_fit

    solved: list[int] = []
    own = spline_fit.best_slopes
    monkeypatch.setattr(spline_fit, "best_slopes", lambda *a, **k: (solved.append(1), own(*a, **k))[1])
    frames = np.arange(0.0, 32.0 * rounds + 0.1, 0.5)
    target = (np.sin(frames / 16 * np.pi) + 0.2 * np.sin(frames / 4 * np.pi))[:, None]
    keyed, slopes = fewest_keys(frames, target, np.full((len(frames), 1), 1e-2), frames[:1], np.ones(len(frames), bool))
    assert np.abs(through_keys(frames, target, slopes, keyed) - target).max() <= 1e-2
    assert keyed.sum() <= 23 * rounds
    assert len(solved) < 25


@pytest.mark.parametrize("row", [1, 239, 240, 241, 480, 719])
def test_one_frame_that_is_off_gets_its_key_wherever_it_lies(row: int) -> None:
    frames, target = np.arange(721.0), np.zeros((721, 1))
    target[row] = 1.0
    keyed, slopes = fewest_keys(frames, target, np.full((721, 1), 0.9), frames[:1], np.ones(721, bool))
    assert np.abs(through_keys(frames, target, slopes, keyed) - target).max() <= 0.9
