import numpy as np
from hypothesis import given
from tests.strategies import curves

from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.shot import Curve, HandleKind, Key


def of_kind(kind: HandleKind, values: list[float]) -> Curve:
    return Curve.from_keys(Key(float(i * 4), v, kind, kind) for i, v in enumerate(values))


@given(curves(2, 7, stepped=False))
def test_no_overshoot_stays_between_its_keys(curve: Curve) -> None:
    """With any lengths, free or fixed."""
    kinds = np.full(len(curve), HandleKind.NO_OVERSHOOT)
    safe = curve.changed(in_kind=kinds, out_kind=kinds)
    for i in range(len(safe) - 1):
        between = curve_values(safe, np.linspace(safe.frames[i], safe.frames[i + 1], 50))
        low, high = sorted(safe.values[i : i + 2])
        assert (between >= low - 1e-9 * max(1, abs(low))).all() and (between <= high + 1e-9 * max(1, abs(high))).all()


def test_no_overshoot_takes_the_largest_and_the_smallest_numbers() -> None:
    for size in (1e6, 1e-6, 1e-200, 5e-324):
        values = [0.0, size, 3 * size, 3 * size + 1.0, 4.0]
        curve = of_kind(HandleKind.NO_OVERSHOOT, values)
        found = curve_values(curve, np.linspace(0, 16, 65))
        assert np.isfinite(found).all() and np.allclose(curve_values(curve, curve.frames), values)


def test_smooth_passes_evenly_and_comes_to_rest_at_the_ends() -> None:
    now = gather([of_kind(HandleKind.SMOOTH, [0, 1, 4])])
    assert now.out_slope[0] == 0 and now.in_slope[2] == 0
    assert now.in_slope[1] == now.out_slope[1] == (4 - 0) / 8


def test_smooth_may_pass_its_neighbours_where_no_overshoot_does_not() -> None:
    values = [0.0, 10.0, 11.0, 11.0]
    frames = np.linspace(0, 12, 200)
    assert curve_values(of_kind(HandleKind.SMOOTH, values), frames).max() > 11.01
    assert curve_values(of_kind(HandleKind.NO_OVERSHOOT, values), frames).max() <= 11 + 1e-12


def test_linear_is_straight() -> None:
    frames = np.linspace(0, 8, 33)
    expected = np.interp(frames, [0, 4, 8], [0, 1, -3])
    assert np.allclose(curve_values(of_kind(HandleKind.LINEAR, [0, 1, -3]), frames), expected)


def test_flat_rests_at_each_key() -> None:
    curve = of_kind(HandleKind.FLAT, [0, 1, 5])
    eps = 1e-4
    assert abs(curve_values(curve, [4 + eps])[0] - 1) < 1e-6 and abs(curve_values(curve, [4 - eps])[0] - 1) < 1e-6


def test_a_key_after_a_hold_starts_from_rest() -> None:
    curve = Curve.from_keys([Key(0, 0, out_kind=HandleKind.STEPPED), Key(4, 1, out_kind=HandleKind.SMOOTH), Key(8, 9)])
    assert gather([curve]).out_slope[1] == 0


def test_curves_do_not_see_each_other() -> None:
    a, b = of_kind(HandleKind.SMOOTH, [0, 1, 4]), of_kind(HandleKind.SMOOTH, [100, -50])
    together, alone = gather([a, Curve(), b]), gather([b])
    assert together.offset.tolist() == [0, 3, 3, 5]
    assert np.array_equal(together.out_slope[3:], alone.out_slope)
    assert np.array_equal(together.in_slope[3:], alone.in_slope)
