from itertools import pairwise

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import chain_figure

from bovrin.craft.between.breakdown import fill_breakdowns
from bovrin.craft.curves.splining import splined
from bovrin.craft.keying.keys import set_channels
from bovrin.measure.holds import holds_and_moves, share_held
from bovrin.shot import Shot


def rod(*frames: float) -> Shot:
    """A rod that takes another pose on each frame, stepped, from 101 to 148."""
    shot = Shot("Rod").with_figure(chain_figure())
    for n, frame in enumerate(frames):
        shot = set_channels(shot, "rod", frame, dict.fromkeys(range(6), 0.2 * (n % 2)))
    return shot


def rows(shot: Shot, parts=None):  # type: ignore[no-untyped-def]
    return [(s.start, s.frames, s.moving) for s in holds_and_moves(shot, "rod", parts)]


def test_stepped_poses_hold_and_change_on_one_frame() -> None:
    assert rows(rod(101, 113, 131)) == [
        (101, 12, False), (113, 1, True), (114, 17, False), (131, 1, True), (132, 17, False),
    ]  # fmt: skip


def test_eased_moves_take_the_frames_between_the_poses() -> None:
    shot = splined(rod(101, 113, 131), "rod")
    assert rows(shot) == [(101, 1, False), (102, 30, True), (132, 17, False)]


def test_drawings_on_twos_are_one_move_and_parts_are_measured_alone() -> None:
    shot = fill_breakdowns(rod(101, 109, 131), "rod", 101, 109, 2)
    assert rows(shot)[:2] == [(101, 2, False), (103, 7, True)]
    assert rows(shot, ["links"]) == [(101, 48, False)]


@given(st.lists(st.integers(1, 9), min_size=1, max_size=6))
def test_stretches_cover_the_range_once(gaps: list[int]) -> None:
    found = holds_and_moves(rod(*(101 + np.cumsum(gaps))), "rod")
    assert sum(s.frames for s in found) == 48
    assert all(a.start + a.frames == b.start and a.moving != b.moving for a, b in pairwise(found))
    assert 0 <= share_held(found) <= 1
