import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st
from tests.strategies import curves

from bovrin.craft.curves.bending import bend, keys_dragged, set_free, set_joined, set_kind
from bovrin.motion.evaluate import compile_curves, curve_values
from bovrin.motion.handles import gather
from bovrin.shot import Curve, HandleKind, Key


@given(curves(2, 6), st.data(), st.floats(-200, 200), st.floats(-1e4, 1e4), st.sampled_from(["in", "out"]))
def test_no_drag_of_a_free_handle_folds_time_back(
    curve: Curve, data: st.DataObject, run: float, rise: float, side: str
) -> None:
    index = data.draw(st.integers(0, len(curve) - 1))
    free = set_free(curve, np.arange(len(curve)), True)
    bent = bend(free, index, side, run, rise)  # type: ignore[arg-type]
    u = np.linspace(0, 1, 65)
    for c0, c1, c2 in compile_curves([bent], [0.0]).time.T[1:-1]:
        assert (np.diff(((c2 * u + c1) * u + c0) * u) >= -1e-12).all()
    assert np.array_equal(bent.frames, curve.frames) and np.array_equal(bent.values, curve.values)


@pytest.fixture
def hill() -> Curve:
    return Curve.from_keys(Key(f, v) for f, v in ((0, 0.0), (10, 5.0), (20, 0.0)))


def test_a_handle_points_where_it_is_dragged(hill: Curve) -> None:
    bent = bend(hill, 1, "out", 4, 2)
    assert bent.out_slope[1] == 0.5 and bent.out_kind[1] == HandleKind.BY_HAND
    assert bent.in_slope[1] == 0.5 and bent.in_kind[1] == HandleKind.BY_HAND
    back = bend(hill, 1, "in", 4, 2)
    assert back.in_slope[1] == -0.5


def test_split_handles_bend_alone(hill: Curve) -> None:
    split = set_joined(hill, np.array([1]), False)
    bent = bend(split, 1, "out", 2, -4)
    assert bent.out_slope[1] == -2 and bent.in_kind[1] == hill.in_kind[1]
    joined = set_joined(set_kind(bent, np.array([1]), HandleKind.BY_HAND), np.array([1]), True)
    assert joined.in_slope[1] == joined.out_slope[1] == -1


def test_free_length_is_kept_and_fixed_length_is_not(hill: Curve) -> None:
    assert bend(set_free(hill, np.array([1]), True), 1, "out", 7, 0).out_length[1] == 7
    assert gather([bend(hill, 1, "out", 7, 0)]).out_length[1] == pytest.approx(10 / 3)


@given(curves(2, 6, stepped=False))
def test_by_hand_starts_from_the_slopes_that_are_there(curve: Curve) -> None:
    fixed = curve.changed(free=np.zeros(len(curve), bool))
    hand = set_kind(fixed, np.arange(len(curve)), HandleKind.BY_HAND)
    frames = np.linspace(curve.frames[0], curve.frames[-1], 60)
    assert np.allclose(curve_values(hand, frames), curve_values(fixed, frames), atol=1e-9)


@given(curves(2, 6), st.floats(-60, 60), st.floats(-5, 5), st.data())
def test_moved_keys_keep_their_order(curve: Curve, by: float, rise: float, data: st.DataObject) -> None:
    assume((np.diff(curve.frames) >= 1).all())
    which = np.array(sorted(data.draw(st.sets(st.integers(0, len(curve) - 1), min_size=1))))
    moved = keys_dragged(curve, which, by, rise)
    assert (np.diff(moved.frames) > 0).all()
    rest = np.setdiff1d(np.arange(len(curve)), which)
    assert np.array_equal(moved.frames[rest], curve.frames[rest]) and np.array_equal(
        moved.values[rest], curve.values[rest]
    )
    assert np.allclose(moved.values[which], curve.values[which] + rise)


def test_moving_nothing_is_the_same_curve(hill: Curve) -> None:
    assert keys_dragged(hill, np.empty(0, np.intp), 3, 3) is hill
