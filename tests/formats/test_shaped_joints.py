"""Stretched joints as a turn, a scale and a turn: put together again they are what they were, and nothing jumps."""

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from bovrin.formats.gltf.shaped_joints import in_two


@given(st.integers(0, 10_000))
def test_outer_scale_and_inner_are_the_matrix_and_follow_the_frame_before(seed: int) -> None:
    rng = np.random.default_rng(seed)
    time = np.linspace(0, 6, 240)
    a, b, c = rng.uniform(0.3, 1.2, 3)
    one = Rotation.from_rotvec(np.stack([np.sin(a * time), np.cos(b * time), c * time], 1)).as_matrix()
    two = Rotation.from_rotvec(np.stack([np.cos(c * time), a * time, np.sin(b * time)], 1)).as_matrix()
    sizes = np.exp(np.array([0.6, 0.0, -0.6]) * (1.0 + 0.3 * np.sin(time)[:, None]))
    even = rng.integers(0, 30), rng.integers(90, 110), rng.integers(130, 150)
    sizes[: even[0]] = 1.0
    sizes[even[1] : even[2]] = 1.4
    linear = np.einsum("fij,fj,fjk->fik", one, sizes, two)
    outer, scale, inner = in_two(linear)
    assert np.allclose(np.einsum("fij,fj,fjk->fik", outer, scale, inner), linear, atol=1e-9)
    for turns in (outer, inner):
        assert np.allclose(np.linalg.det(turns), 1.0)
    assert np.allclose(outer[: even[0]], np.eye(3)), "where any axes would do, none are made up"
    assert np.allclose(outer[even[1] : even[2]], outer[even[1] - 1])
    stretched = np.ptp(sizes, axis=1) > 1e-3
    running = stretched[1:] & stretched[:-1]
    steps = np.linalg.norm(outer[1:] - outer[:-1], axis=(1, 2))[running]
    free = np.linalg.norm(one[1:] - one[:-1], axis=(1, 2))[running]
    assert np.allclose(steps, free, atol=1e-6), "axes go as far as the stretch itself turns, and no farther"
