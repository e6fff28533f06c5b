"""Moving windows and monotone courses against SciPy, which the program does not load for them."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator
from scipy.ndimage import gaussian_filter1d, maximum_filter1d, minimum_filter1d, uniform_filter1d

from bovrin.motion.monotone import monotone
from bovrin.motion.windows import least_around, mean_around, most_around, soft_mean_around

EDGES = {"symmetric": "reflect", "edge": "nearest"}


@given(st.integers(1, 60), st.integers(0, 12), st.integers(0, 12), st.sampled_from(sorted(EDGES)), st.integers(0, 99))
def test_most_and_least(frames: int, before: int, after: int, edge: str, seed: int) -> None:
    values = np.random.default_rng(seed).normal(size=(frames, 3))
    size = before + 1 + after
    how = {"axis": 0, "mode": EDGES[edge], "origin": before - size // 2}
    assert np.array_equal(most_around(values, before, after, edge), maximum_filter1d(values, size, **how))
    assert np.array_equal(least_around(values, before, after, edge), minimum_filter1d(values, size, **how))


@given(st.integers(1, 60), st.integers(0, 9), st.sampled_from(sorted(EDGES)), st.floats(0.3, 5), st.integers(0, 99))
def test_means(frames: int, reach: int, edge: str, width: float, seed: int) -> None:
    values = np.random.default_rng(seed).normal(size=(frames, 2))
    plain = uniform_filter1d(values, 2 * reach + 1, axis=0, mode=EDGES[edge])
    assert np.allclose(mean_around(values, reach, edge), plain, atol=1e-12)
    soft = gaussian_filter1d(values, width, axis=0, mode=EDGES[edge])
    assert np.allclose(soft_mean_around(values, width, edge), soft, atol=1e-12)


@pytest.mark.parametrize("count", [0, 1])
def test_nothing_much_to_look_at(count: int) -> None:
    values = np.full(count, 2.0)
    for found in (
        most_around(values, 2, 3),
        least_around(values, 3, 0),
        mean_around(values, 2),
        soft_mean_around(values, 2.0),
    ):
        assert np.allclose(found, values)


@given(st.integers(4, 20), st.integers(0, 99))
def test_a_monotone_course(count: int, seed: int) -> None:
    rng = np.random.default_rng(seed)
    places, values = np.cumsum(rng.uniform(0.1, 2, count)), np.round(rng.normal(size=count), 1)
    at = np.linspace(places[1], places[-2], 200)
    assert np.allclose(monotone(places, values, at), PchipInterpolator(places, values)(at), atol=1e-12)
