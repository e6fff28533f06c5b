from unittest import mock

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import CubicHermiteSpline
from tests.strategies import curves

from bovrin.motion import evaluate as evaluate_module
from bovrin.motion.evaluate import around, channel_values, compile_curves, curve_values, evaluate, solve_time
from bovrin.shot import Channel, Control, ControlKind, Curve, CurveSet, HandleKind, Joint, Key, Rig, Unit
from bovrin.shot.curve import COLUMN_TYPES


def hand(frame: float, value: float, slope: float, **more: object) -> Key:
    return Key(frame, value, HandleKind.BY_HAND, HandleKind.BY_HAND, slope, slope, **more)  # type: ignore[arg-type]


@given(st.lists(curves(0, 6), min_size=1, max_size=6), st.lists(st.floats(90, 260), min_size=1, max_size=30))
def test_many_curves_at_once_are_each_curve_alone(many: list[Curve], frames: list[float]) -> None:
    together = evaluate(compile_curves(many, [0.5] * len(many)), frames)
    assert together.shape == (len(frames), len(many))
    for column, curve in zip(together.T, many, strict=True):
        one_by_one = [float(curve_values(curve, [f], 0.5)[0]) for f in frames]
        assert np.allclose(column, one_by_one, rtol=1e-11, atol=1e-11)


@given(curves())
def test_every_key_is_hit(curve: Curve) -> None:
    assert np.allclose(curve_values(curve, curve.frames), curve.values, atol=1e-9)


@given(curves())
def test_held_before_the_first_and_after_the_last_key(curve: Curve) -> None:
    first, last = curve.frames[0], curve.frames[-1]
    early = curve_values(curve, [first - 1000, first - 1e-3])
    late = curve_values(curve, [last, last + 0.5, last + 1000])
    assert (early == curve.values[0]).all() and (late == curve.values[-1]).all()


@given(curves())
def test_stepped_keys_hold_exactly(curve: Curve) -> None:
    held = curve.changed(out_kind=np.full(len(curve), HandleKind.STEPPED))
    frames = np.linspace(curve.frames[0], curve.frames[-1], 97)
    expected = held.values[np.searchsorted(held.frames, frames, side="right") - 1]
    assert (curve_values(held, frames) == expected).all()


def test_fixed_handles_are_a_hermite_spline() -> None:
    keys = [hand(1, 0, 2), hand(4, 3, -1), hand(9, 1, 0.5), hand(10, 8, 3)]
    frames = np.linspace(1, 10, 200)
    spline = CubicHermiteSpline([k.frame for k in keys], [k.value for k in keys], [k.out_slope for k in keys])
    assert np.allclose(curve_values(Curve.from_keys(keys), frames), spline(frames), atol=1e-12)


def test_free_handles_of_a_third_are_the_same_as_fixed_ones() -> None:
    fixed = Curve.from_keys([hand(0, 0, 1), hand(9, 5, -2), hand(12, 1, 0)])
    lengths = np.array([3.0, 3.0, 1.0]), np.array([3.0, 1.0, 1.0])
    free = fixed.changed(free=np.ones(3, bool), in_length=lengths[0], out_length=lengths[1])
    frames = np.linspace(0, 12, 121)
    assert np.allclose(curve_values(free, frames), curve_values(fixed, frames), atol=1e-10)


def test_long_flat_handles_hang_longer_at_the_top() -> None:
    def top(length: float) -> Curve:
        return Curve.from_keys(
            [hand(0, 0, 0, free=True, out_length=0.1), hand(10, 1, 0, free=True, in_length=length), hand(20, 0, 0)]
        )

    assert curve_values(top(9.0), [7])[0] > curve_values(top(2.0), [7])[0] + 0.05


@given(st.floats(0, 1), st.floats(0, 1), st.lists(st.floats(0, 1), min_size=1, max_size=40))
def test_time_is_solved_for_any_handles(out: float, into: float, xs: list[float]) -> None:
    cubic = np.array([3 * out, 3 * (1 - into) - 6 * out, 1 - 3 * (1 - into) + 3 * out])[:, None] * np.ones(len(xs))
    u = solve_time(cubic, np.array(xs))
    assert ((u >= 0) & (u <= 1)).all()
    assert np.allclose(((cubic[2] * u + cubic[1]) * u + cubic[0]) * u, xs, atol=1e-9)


@given(curves(2, 7))
def test_free_handles_never_fold_back_in_time(curve: Curve) -> None:
    """Whatever lengths are asked for, time along a segment only rises."""
    compiled = compile_curves([curve.changed(free=np.ones(len(curve), bool))], [0.0])
    u = np.linspace(0, 1, 65)
    for c0, c1, c2 in compiled.time.T[1:-1]:
        x = ((c2 * u + c1) * u + c0) * u
        assert (np.diff(x) >= -1e-12).all()


@given(st.permutations([101.0, 104.5, 109.0, 130.25]))
def test_frames_may_come_in_any_order(frames: list[float]) -> None:
    curve = Curve.from_keys([hand(100, 0, 1), hand(120, 9, -1)])
    assert [float(v) for v in curve_values(curve, frames)] == [float(curve_values(curve, [f])[0]) for f in frames]


def test_a_channel_without_keys_rests_at_its_default() -> None:
    assert evaluate(compile_curves([Curve(), Curve()], [1.0, -2.0]), [5.0, 6.0]).tolist() == [[1, -2], [1, -2]]


@pytest.mark.parametrize("value", [1e6, 1e-6])
def test_very_large_and_small_values(value: float) -> None:
    curve = Curve.from_keys([Key(101, -value), Key(111, value)])
    assert curve_values(curve, [106])[0] == pytest.approx(0, abs=value * 1e-9)


@given(st.lists(curves(1, 30), min_size=1, max_size=3), st.floats(95, 400), st.floats(0, 30))
def test_what_lies_around_frames_is_all_that_their_values_need(made: list[Curve], low: float, length: float) -> None:
    frames = np.linspace(low, low + length, 9)
    for curve in made:
        part = around(curve, low, low + length)
        assert np.array_equal(curve_values(part, frames), curve_values(curve, frames))


@given(st.integers(0, 2**32 - 1))
def test_many_keys_are_looked_at_a_stretch_at_a_time(seed: int) -> None:
    """What is worked out around a few frames is what all curves together say, wherever one looks."""
    rng = np.random.default_rng(seed)
    frames = np.cumsum(rng.uniform(0.3, 2.0, 900)) + rng.integers(-300, 300)
    curves = []
    for kind in (0, 1, 2, 3, 4):
        column = np.full(len(frames), kind, np.uint8)
        columns = {n: np.zeros(len(frames), t) for n, t in COLUMN_TYPES.items()}
        columns |= {"frames": frames, "values": rng.normal(0, 1, len(frames)), "in_kind": column, "out_kind": column}
        curves.append(Curve.from_columns({**columns, "in_length": np.ones(900), "out_length": np.ones(900)}))
    channels = tuple(Channel(f"c{n}", "rotate x", Unit.ANGLE) for n in range(5))
    rig = Rig((Joint("j", -1, (0.0, 0.0, 0.0)),), (Control("c", ControlKind.JOINT, 0, channels),), ())
    whole = CurveSet(tuple(curves))
    exact = compile_curves(curves, rig.defaults)
    with mock.patch.multiple(evaluate_module, MANY=100, LOOKS=1):
        for _ in range(6):
            at = rng.uniform(frames[0] - 20, frames[-1] + 20)
            wanted = np.sort(at + rng.uniform(0, 50, rng.integers(1, 6)))
            assert np.allclose(channel_values(whole, rig, wanted), evaluate(exact, wanted), atol=1e-9)
