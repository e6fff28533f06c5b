import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin.desk.kit.timescale import GUTTER, TimeScale

frames = st.floats(-1000, 5000)


@given(frames, st.floats(1, 3000), frames)
def test_pixels_and_frames_are_each_other_s_inverse(first: float, length: float, frame: float) -> None:
    scale = TimeScale()
    scale.show_range(first, first + length)
    assert scale.frame(scale.x(frame)) == pytest.approx(frame, abs=1e-6)
    assert scale.x(first) > GUTTER and scale.x(first + length) <= scale.width


@given(st.floats(0.2, 5), st.floats(200, 900))
def test_zooming_keeps_the_frame_under_the_pointer(factor: float, x: float) -> None:
    scale = TimeScale()
    scale.show_range(101, 160)
    kept = scale.frame(x)
    scale.zoom(factor, x)
    assert scale.x(kept) == pytest.approx(x, abs=1e-6)


def test_a_fitted_range_follows_the_width_and_a_zoomed_one_does_not() -> None:
    scale = TimeScale()
    scale.show_range(101, 160)
    scale.set_width(1600)
    assert scale.x(160) == pytest.approx(1600 - 22)
    scale.zoom(2, 500)
    wide = scale.per_frame
    scale.set_width(900)
    assert scale.per_frame == wide


@given(st.floats(0.05, 100))
def test_numbers_on_the_ruler_never_crowd(per_frame: float) -> None:
    scale = TimeScale()
    scale.first, scale.per_frame = 101.0, per_frame
    numbers = list(scale.numbers(101))
    assert 1 <= len(numbers) <= 40
    assert all((n - 101) % scale.step() == 0 for n in numbers)
    assert scale.step() * per_frame >= 46 or scale.step() == 12000
