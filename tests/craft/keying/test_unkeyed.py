import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from bovrin.craft.keying.edits import Scope, edited
from bovrin.craft.keying.keys import KeyStyle
from bovrin.craft.keying.unkeyed import as_unkeyed, drop, keep, unkeyed_at
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Shot
from bovrin.shot.curve import COLUMN_TYPES


def changed(shot: Shot, frame: float, tilt: float, scope: Scope = Scope.WHOLE) -> Shot:
    channel = shot.figure("porter").rig.channel("chest/tilt")
    return as_unkeyed(shot, edited(shot, "porter", frame, {channel: tilt}, scope, KeyStyle()), "porter", frame)


def same(one: Shot, other: Shot) -> bool:
    pairs = zip(one.curves("porter").curves, other.curves("porter").curves, strict=True)
    return all(np.array_equal(getattr(a, n), getattr(b, n)) for a, b in pairs for n in COLUMN_TYPES)


@given(st.integers(101, 150), st.floats(-1, 1), st.sampled_from(list(Scope)))
def test_a_dropped_change_leaves_every_key_as_it_was(demo: Shot, frame: int, tilt: float, scope: str) -> None:
    once = changed(demo, frame, tilt, scope)
    twice = changed(once, frame, tilt / 2, scope)
    assert len(twice.unkeyed) == 1
    back = drop(twice, "porter", frame)
    assert same(back, demo) and back.unkeyed == ()


def test_dropping_one_keeps_the_others_and_keeping_changes_no_motion(demo: Shot) -> None:
    both = changed(changed(demo, 105, 0.4), 111, -0.3)
    assert unkeyed_at(both, "porter", 105) is not None and unkeyed_at(both, "porter", 106) is None
    one = drop(both, "porter", 105)
    assert same(one, keep(changed(demo, 111, -0.3)))
    kept = keep(both, "porter", 111)
    assert [u.frame for u in kept.unkeyed] == [105]
    rig = demo.figure("porter").rig
    frames = np.arange(101, 161)
    assert np.array_equal(
        channel_values(kept.curves("porter"), rig, frames), channel_values(both.curves("porter"), rig, frames)
    )
