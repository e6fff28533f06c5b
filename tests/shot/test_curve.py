import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import curves, numbers

from bovrin.errors import BadMotion
from bovrin.shot import Curve, CurveSet, HandleKind, Key, KeyRole


def test_keys_come_back_in_order_of_time() -> None:
    curve = Curve.from_keys(
        [Key(9, 2.0), Key(5, 1.0, role=KeyRole.BREAKDOWN), Key(7, 3.0, out_kind=HandleKind.STEPPED)]
    )
    assert curve.frames.tolist() == [5, 7, 9]
    assert curve.values.tolist() == [1, 3, 2]
    assert curve.key(0).role == KeyRole.BREAKDOWN
    assert curve.key(1).out_kind == HandleKind.STEPPED


def test_arrays_cannot_be_written() -> None:
    curve = Curve.from_keys([Key(1, 1.0), Key(2, 2.0)])
    with pytest.raises(ValueError, match="read-only"):
        curve.values[0] = 5


@pytest.mark.parametrize("frames", [[2.0, 1.0], [1.0, 1.0], [1.0, float("nan")], [1.0, float("inf")]])
def test_impossible_times_are_refused(frames: list[float]) -> None:
    columns = {n: getattr(Curve.from_keys([Key(1, 0), Key(2, 0)]), n) for n in Curve.__dataclass_fields__}
    with pytest.raises(BadMotion):
        Curve(**{**columns, "frames": np.array(frames)})


def test_columns_of_different_length_are_refused() -> None:
    with pytest.raises(BadMotion, match="entries"):
        Curve(frames=np.array([1.0, 2.0]), values=np.array([1.0]))


@given(curves())
def test_keys_and_arrays_say_the_same(curve: Curve) -> None:
    again = Curve.from_keys(curve.keys())
    for name in Curve.__dataclass_fields__:
        assert np.array_equal(getattr(again, name), getattr(curve, name))


@given(curves(), st.floats(90, 260), numbers)
def test_a_new_key_leaves_the_others(curve: Curve, frame: float, value: float) -> None:
    more = curve.with_key(Key(frame, value))
    at = more.index_at(frame)
    assert at is not None and more.values[at] == value
    others = [k for k in curve.keys() if abs(k.frame - frame) > 1e-6]
    assert [k for k in more.keys() if abs(k.frame - frame) > 1e-6] == others


def test_a_curve_set_is_itself_when_nothing_changes() -> None:
    curve = Curve.from_keys([Key(1, 1.0)])
    both = CurveSet((curve, Curve()))
    assert both.replaced({0: curve}) is both
    other = both.replaced({1: curve})
    assert other is not both and other[1] is curve and both[1] is not curve
