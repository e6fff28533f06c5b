from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin import script
from bovrin.caching import RESULTS
from bovrin.errors import UnknownName
from bovrin.figure.solve.joints import solve
from bovrin.figure.staging import staged, stance, stances
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Curve, CurveSet, Shot
from bovrin.shot.curve import recorded_columns


@given(st.floats(101, 149))
def test_keys_then_reach_then_joints(demo: Shot, frame: float) -> None:
    rig = demo.figure("porter").rig
    keys = channel_values(demo.curves("porter"), rig, [frame, frame + 0.5])
    found = staged(demo, "porter", [frame, frame + 0.5])
    assert np.array_equal(found.values, keys)
    assert np.array_equal(found.world, solve(rig, keys))
    assert np.array_equal(found.places, found.world[..., :3, 3])


def test_a_frame_is_kept_by_what_it_hangs_on(demo: Shot) -> None:
    first = staged(demo, "porter", 119)
    assert staged(demo, "porter", [119.0]) is first
    moved = script.set_values(demo, "crate", 119, {"whole crate/up": 0.3})
    assert staged(moved, "porter", 119) is first, "a drag of one figure leaves the others as they are"
    assert staged(moved, "crate", 119) is not staged(demo, "crate", 119)
    posed = script.set_values(demo, "porter", 119, {"head/turn": 20})
    assert not np.array_equal(staged(posed, "porter", 119).world, first.world)


def test_what_is_kept_cannot_be_written_over(demo: Shot) -> None:
    found = staged(demo, "porter", 119)
    for array in (found.values, found.world):
        with pytest.raises(ValueError, match="read-only"):
            array[:] = 0.0


def test_a_stance_is_the_staging_of_its_frame(demo: Shot) -> None:
    here = stance(demo, "porter", 127)
    assert np.array_equal(here.world, staged(demo, "porter", 127).world[0])
    assert here.with_values({}) is here
    with pytest.raises(UnknownName):
        staged(demo, "nobody", 101)


@given(st.floats(101, 149))
def test_figures_of_one_rig_solved_together_are_each_alone(demo: Shot, frame: float) -> None:
    porter, curves = demo.figure("porter"), demo.curves("porter")
    many = demo
    for n in range(3):
        own = curves.replaced({n: curves[n + 1], 5: curves[6]})
        many = many.with_figure(replace(porter, name=f"porter {n}"), own)
    names = [figure.name for figure in many.cast]
    found = stances(many, names, frame)
    assert list(found) == names
    for name in names:
        values = channel_values(many.curves(name), many.figure(name).rig, [frame])
        assert np.array_equal(found[name].values, values[0])
        assert np.allclose(found[name].world, solve(many.figure(name).rig, values)[0], atol=1e-12)
        assert stance(many, name, frame) is found[name]


def test_a_frame_of_a_recorded_crowd_takes_no_room_for_its_recordings(demo: Shot) -> None:
    """Counted as kept, keys that are there anyway pushed everything else out: a crowd was worked out anew on every frame."""
    porter, rng, frames = demo.figure("porter"), np.random.default_rng(5), 101.0 + np.arange(6000)
    shot = replace(demo, cast=(), take=replace(demo.take, acting={}))
    for n in range(6):
        columns = recorded_columns(frames)
        curves = [
            Curve.from_columns({**columns, "values": 0.01 * rng.normal(size=len(frames))}) for _ in porter.rig.channels
        ]
        shot = shot.with_figure(replace(porter, name=f"porter {n}"), CurveSet(tuple(curves)))
    before = RESULTS.size
    for frame in (110.0, 111.0, 112.0):
        stances(shot, [figure.name for figure in shot.cast], frame)
    assert RESULTS.size - before < 1_500_000
