from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation

from bovrin.motion import rotations as rot

ORDERS = ["".join(p) for p in permutations("XYZ")]
angles = st.lists(st.floats(-7, 7), min_size=3, max_size=3).map(np.array)
quaternions = st.lists(st.floats(-1, 1), min_size=4, max_size=4).map(np.array).filter(lambda q: np.linalg.norm(q) > 0.1)
quaternions = quaternions.map(lambda q: q / np.linalg.norm(q))


@given(angles, st.sampled_from(ORDERS))
def test_angles_to_matrix_as_another_library_has_it(a: np.ndarray, order: str) -> None:
    ordered = [a["XYZ".index(axis)] for axis in order]
    assert np.allclose(rot.euler_matrix(a, order), Rotation.from_euler(order, ordered).as_matrix(), atol=1e-12)


@given(angles, st.sampled_from(ORDERS))
def test_matrix_to_angles_and_back(a: np.ndarray, order: str) -> None:
    matrix = rot.euler_matrix(a, order)
    assert np.allclose(rot.euler_matrix(rot.matrix_euler(matrix, order), order), matrix, atol=1e-7)


@given(angles, st.sampled_from(ORDERS))
def test_the_nearest_angles_are_the_ones_it_came_from(a: np.ndarray, order: str) -> None:
    middle = a["XYZ".index(order[1])]
    if abs(abs(np.cos(middle))) < 1e-3:
        return
    found = rot.nearest_euler(rot.matrix_euler(rot.euler_matrix(a, order), order), a, order)
    assert np.allclose(found, a, atol=1e-6)


@given(quaternions)
def test_quaternion_and_matrix_say_the_same(q: np.ndarray) -> None:
    back = rot.matrix_quaternion(rot.quaternion_matrix(q))
    assert np.allclose(back, q if q[3] >= 0 else -q, atol=1e-9) or abs(q[3]) < 1e-9


@given(quaternions, quaternions)
def test_products_are_matrix_products(a: np.ndarray, b: np.ndarray) -> None:
    product = rot.quaternion_matrix(rot.multiply(a, b))
    assert np.allclose(product, rot.quaternion_matrix(a) @ rot.quaternion_matrix(b), atol=1e-12)


@given(quaternions, quaternions, st.floats(0, 1))
def test_blends_go_the_short_way_at_an_even_pace(a: np.ndarray, b: np.ndarray, share: float) -> None:
    def turn(p: np.ndarray, q: np.ndarray) -> float:
        return 2 * float(np.arccos(np.clip(abs(p @ q), 0, 1)))

    mid = rot.blend(a, b, np.asarray(share))
    assert turn(a, mid) == pytest.approx(share * turn(a, b), abs=1e-5)
    assert turn(a, b) <= np.pi + 1e-9


def test_a_blend_may_go_past_its_ends() -> None:
    a, b = (rot.matrix_quaternion(rot.axis_matrix("Y", np.asarray(x))) for x in (0.0, 0.5))
    past = rot.quaternion_matrix(rot.blend(a, b, np.asarray(1.4)))
    assert np.allclose(past, rot.axis_matrix("Y", np.asarray(0.7)))


def test_unrolled_signs_never_jump() -> None:
    turning = rot.matrix_quaternion(rot.axis_matrix("X", np.linspace(0, 12, 100)))
    smooth = rot.unrolled(turning)
    assert (np.linalg.norm(np.diff(smooth, axis=0), axis=1) < 0.1).all()


def test_wide_and_tall_products_are_the_small_ones() -> None:
    rng = np.random.default_rng(1)
    fixed, moving = rng.normal(size=(5, 3, 3)), rng.normal(size=(5, 7, 3, 3))
    assert np.allclose(rot.fixed_first(fixed, moving), fixed[:, None] @ moving)
    assert np.allclose(rot.fixed_last(moving, fixed), moving @ fixed[:, None])


@given(st.sampled_from(ORDERS), st.integers(0, 2**32 - 1), st.floats(-18, 0))
def test_angles_are_exact_however_near_two_axes_are_to_lining_up(order: str, seed: int, power: float) -> None:
    """The middle angle lies 10^power radians from a right angle; written as angles and back the turn is the same."""
    rng = np.random.default_rng(seed)
    angles = rng.uniform(-3, 3, (20, 3))
    middle = "XYZ".index(order[1])
    angles[:, middle] = rng.choice([-1, 1], 20) * (np.pi / 2 - 10.0**power)
    turn = rot.euler_matrix(angles, order)
    assert np.abs(rot.euler_matrix(rot.matrix_euler(turn, order), order) - turn).max() < 3e-8
