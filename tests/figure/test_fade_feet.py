"""Fades that lie over one another: what several ask for is worked out once, and comes out as for each alone."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin import script as bv
from bovrin.figure.stages import fade_feet
from bovrin.figure.stages.fade_feet import fade_corrections
from bovrin.shot import Laid, Lane

SHOT = bv.keep_clip(bv.keep_clip(bv.demo(), "porter", "go", 101, 125, loop=True), "porter", "turn", 110, 140)
RIG = SHOT.figure("porter").rig


def lane_of(starts: list[float]) -> Lane:
    """Rounds of a walk that begin on some frames."""
    return Lane(tuple(Laid("go", 101.0 + at, 0.0, 24.0, repeats=2.0) for at in starts))


def shares_of(lane: Lane, monkeypatch: pytest.MonkeyPatch, together: float) -> tuple[list[np.ndarray], int]:
    """What is added for each fade, and how often a lane's values were asked for."""
    asked: list[int] = []
    values = fade_feet.lane_values
    with monkeypatch.context() as patch:
        patch.setattr(fade_feet, "TOGETHER", together)
        patch.setattr(fade_feet, "lane_values", lambda *a, **k: (asked.append(1), values(*a, **k))[1])
        found = fade_corrections(replace(lane), tuple(SHOT.clips), RIG)
    return [np.column_stack([one.frames, one.by]) for one in found], len(asked)


@given(st.lists(st.floats(0, 60), min_size=2, max_size=6))
def test_together_as_each_alone(starts: list[float]) -> None:
    with pytest.MonkeyPatch.context() as patch:
        alone, _ = shares_of(lane_of(starts), patch, 0.0)
        both, asked = shares_of(lane_of(starts), patch, 400.0)
    assert len(alone) == len(both)
    assert all(a.shape == b.shape and np.abs(a - b).max() < 1e-12 for a, b in zip(alone, both, strict=True))
    assert asked <= 2


def test_a_hundred_clips_on_one_spot_are_worked_out_at_once(monkeypatch: pytest.MonkeyPatch) -> None:
    _, asked = shares_of(lane_of([0.0] * 100), monkeypatch, fade_feet.TOGETHER)
    assert asked == 1


def test_far_apart_each_on_its_own(monkeypatch: pytest.MonkeyPatch) -> None:
    found, asked = shares_of(lane_of([30.0 * n for n in range(40)]), monkeypatch, fade_feet.TOGETHER)
    assert 3 <= asked <= 8, "a thousand clips are never worked out in one piece"
    assert found
