from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin.craft.markers import add_marker, change_marker, marker_beside, marker_edges, remove_marker, snapped
from bovrin.craft.ranges import add_in_front, fit_to_keys, set_range, set_rate, set_second
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Marker, Shot


@given(st.integers(1, 400))
def test_frames_in_front_are_never_negative(demo: Shot, count: int) -> None:
    more = add_in_front(demo, count)
    assert more.first >= 0 and more.last - more.first == demo.last - demo.first + count
    moved = more.last - demo.last
    rig = demo.figure("porter").rig
    frames = np.arange(101, 161.0)
    assert np.array_equal(
        channel_values(demo.curves("porter"), rig, frames), channel_values(more.curves("porter"), rig, frames + moved)
    )
    assert more.markers[0].start == demo.markers[0].start + moved


def test_ranges_are_checked(demo: Shot) -> None:
    assert (fit_to_keys(demo).first, fit_to_keys(demo).last) == (101, 149)
    assert set_range(demo, demo.first, demo.last) is demo
    for first, last in ((-3, 20), (120, 110)):
        with pytest.raises(BadMotion):
            set_range(demo, first, last)
        with pytest.raises(BadMotion):
            set_second(demo, (first, last))
    aside = set_second(demo, (109, 127))
    assert aside.second == (109, 127) and add_in_front(aside, 121).second == (129, 147)
    assert set_second(aside, None).second is None
    assert set_rate(demo, 60).frame_rate == 60
    with pytest.raises(BadMotion):
        set_rate(demo, 0)
    with pytest.raises(BadMotion, match="no key"):
        fit_to_keys(Shot("bare"))


def test_markers_are_added_changed_and_removed(demo: Shot) -> None:
    horn = Marker(112, 112, " splash ", "dialogue", "teal")
    more = add_marker(demo, horn)
    kept = next(m for m in more.markers if m.words == "splash")
    assert len(more.markers) == len(demo.markers) + 1 and add_marker(more, horn) is more
    longer = change_marker(more, kept, replace(kept, end=118.0))
    assert 118 in marker_edges(longer) and kept not in longer.markers
    assert remove_marker(more, kept).markers == demo.markers
    for bad in (
        replace(kept, words=" "),
        replace(kept, end=1.0),
        replace(kept, kind="song"),
        replace(kept, pencil="x"),
    ):
        with pytest.raises(BadMotion):
            change_marker(more, kept, bad)


def test_markers_are_jumped_to_and_snapped_to(demo: Shot) -> None:
    assert marker_beside(demo, 103, after=True) == 127 and marker_beside(demo, 127, after=False) == 103
    assert marker_beside(demo, 127, after=True) is None
    assert snapped(104.9, [107.0, 103.0], 2.0) == 103 and snapped(104.9, [107.0], 0.5) == 105
    assert snapped(110.2, [], 3.0) == 110
