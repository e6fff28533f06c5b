"""Over the seam of a loop: what lies around it is what lies in it, and tools that work there keep it closed."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.cycles import cycle_of, lively, places

from bovrin import script as bv
from bovrin.craft.between.breakdown import neighbours
from bovrin.craft.cycle.half import kept_in_step
from bovrin.craft.keying.keys import poses_around
from bovrin.craft.keying.lag import poses_of
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Cycle, Shot

WALK = lively(cycle_of("porter", "walk", 32, 0.8), "porter").with_cycle("porter", Cycle(101.0, 133.0, "walk"))
"""A walk of 32 frames whose halves are edited one by one."""


def closes(shot: Shot) -> tuple[float, float]:
    """By how much value and slope of any channel differ on both sides of the seam, beside what a round gains."""
    rig, curves, h = shot.figure("porter").rig, shot.curves("porter"), 1e-4
    at = channel_values(curves, rig, np.array([101.0, 101.0 + h, 133.0 - h, 133.0, 133.0 + h]))
    gain = at[3] - at[0]
    own = [i for i, c in enumerate(rig.channel_names) if not c.startswith("whole figure/")]
    return float(np.abs(gain[own]).max()), float(np.abs((at[3] - at[2]) / h - (at[1] - at[0]) / h).max())


@given(st.floats(-200.0, 400.0))
def test_the_poses_around_any_frame_are_those_of_the_loop(frame: float) -> None:
    cycle = WALK.cycle("porter")
    assert cycle is not None
    found = poses_around(poses_of(WALK.curves("porter")), cycle, frame)
    before, after = found.before(frame), found.after(frame)
    assert before is not None and after is not None and before < frame < after
    assert after - before <= 8.0 and {before % 4, after % 4} == {101.0 % 4}
    assert len(np.unique(found.frames)) == len(found)


@pytest.mark.parametrize("frame", [101.0, 133.0])
def test_a_breakdown_on_the_seam_lies_between_the_poses_on_both_its_sides(frame: float) -> None:
    """Oracle: the same loop begun eight frames later, in whose middle the seam lies."""
    assert neighbours(WALK, "porter", frame) == (frame - 4, frame + 4)
    made = kept_in_step(WALK, bv.breakdown(WALK, "porter", frame, 0.3))
    value, slope = closes(made)
    assert value < 1e-9 and slope < 1e-3
    before, after = channel_values(WALK.curves("porter"), WALK.figure("porter").rig, np.array([frame - 4, frame + 4]))
    now = channel_values(made.curves("porter"), made.figure("porter").rig, np.array([101.0, 133.0]))
    for name in ("hips/up", "whole figure/forward", "left foot/forward"):
        i = WALK.figure("porter").rig.channel(name)
        wanted = before[i] + 0.3 * (after[i] - before[i])
        assert now[int(frame == 133.0), i] == pytest.approx(wanted, abs=1e-6), name


@pytest.mark.parametrize("span", [(129.0, 133.0), (101.0, 105.0), (109.0, 113.0)])
def test_a_chart_set_beside_the_seam_keeps_the_loop_closed(span: tuple[float, float]) -> None:
    made = kept_in_step(WALK, bv.set_chart(WALK, "porter", *span, [0.0, 0.1, 0.3, 0.6, 1.0]))
    assert closes(made)[0] < 1e-9
    frames = np.arange(101.0, 133.1, 0.5)
    rest = frames[(frames < span[0]) | (frames > span[1])]
    assert np.abs(places(made, "porter", rest) - places(WALK, "porter", rest)).max() < 1e-9, "the other side stays"
    assert np.abs(np.array(bv.chart(made, "porter", *span)) - [0.0, 0.1, 0.3, 0.6, 1.0]).max() < 0.03
