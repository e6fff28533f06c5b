import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin.errors import UnknownName
from bovrin.picture.view import VIEWS, View, named_view

SIZE = (860, 520)
views = st.builds(
    View,
    target=st.tuples(st.floats(-2, 2), st.floats(0, 2), st.floats(-2, 2)),
    distance=st.floats(1, 20),
    yaw=st.floats(-4, 4),
    pitch=st.floats(-1.5, 1.5),
    flat=st.booleans(),
)
points = st.lists(st.floats(-0.4, 0.4), min_size=3, max_size=3).map(np.array)


@given(views)
def test_the_target_is_in_the_middle(view: View) -> None:
    assert np.allclose(view.project(np.array(view.target), SIZE)[:2], [430, 260], atol=1e-6)


@given(views, points, st.floats(-100, 100), st.floats(-100, 100))
def test_sliding_a_point_moves_it_by_those_pixels(view: View, offset: np.ndarray, dx: float, dy: float) -> None:
    point = np.array(view.target) + offset
    moved = view.slide(point, dx, dy, SIZE[1])
    shift = view.project(moved, SIZE) - view.project(point, SIZE)
    assert np.allclose(shift[:2], [dx, dy], atol=1e-5)


@given(views, st.floats(-60, 60), st.floats(-60, 60))
def test_sliding_the_view_keeps_what_is_under_the_pointer(view: View, dx: float, dy: float) -> None:
    seen = np.array(view.target)
    after = view.moved(dx, dy, SIZE[1]).project(seen, SIZE)[:2]
    assert np.allclose(after, [430 + dx, 260 + dy], atol=1e-5)


def test_left_and_right_as_the_figure_has_them() -> None:
    """Seen from the front the figure's left (+x) is on the right of the picture; seen from its left side it faces left."""
    front, side = named_view("front"), named_view("side")
    assert front.project([1, 1, 0], SIZE)[0] > 430
    assert side.project([0, 1, 1], SIZE)[0] < 430
    assert named_view("top").project([0, 0, 1], SIZE)[1] > 260


@given(st.lists(points, min_size=2, max_size=9), st.sampled_from(list(VIEWS)))
def test_fitting_brings_everything_into_the_picture(places: list[np.ndarray], name: str) -> None:
    around = np.array(places) * 4
    view = VIEWS[name].fitted(around, SIZE[0] / SIZE[1])
    seen = view.project(around, SIZE)
    assert (seen[:, 0] > 0).all() and (seen[:, 0] < SIZE[0]).all()
    assert (seen[:, 1] > 0).all() and (seen[:, 1] < SIZE[1]).all()


def test_going_nearer_has_an_end() -> None:
    view = View()
    for _ in range(100):
        view = view.nearer(2)
    assert math.isclose(view.distance, 0.3)
    with pytest.raises(UnknownName, match="three-quarter"):
        named_view("behind")
