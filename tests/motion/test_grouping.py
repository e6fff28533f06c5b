import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from bovrin.motion.grouping import each_once, least_on_each, rows_once

SOME = st.lists(st.tuples(st.integers(0, 6), st.integers(0, 2)), max_size=40)


@given(SOME)
def test_as_numpy_has_it(pairs: list[tuple[int, int]]) -> None:
    rows = np.array(pairs, float).reshape(-1, 2)
    assert np.array_equal(each_once(rows[:, 0]), np.unique(rows[:, 0]))
    found, which = rows_once(rows)
    assert np.array_equal(found, np.unique(rows, axis=0)) and np.array_equal(found[which], rows)
    frames, least = least_on_each(rows[:, 0], rows[:, 1].astype(np.uint8))
    assert {f: int(v) for f, v in zip(frames, least, strict=True)} == {
        f: min(int(v) for g, v in pairs if g == f) for f in {f for f, _ in pairs}
    }
