import numpy as np
from hypothesis import assume, example, given, settings
from hypothesis import strategies as st
from tests.strategies import curves

from bovrin import script
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import gather
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, Key, Shot


def upright_somewhere(curve: Curve) -> bool:
    """Whether two handles meet, so that the curve stands upright between keys and has no slope there."""
    keys = gather([curve])
    span = np.diff(keys.frames)
    return bool((keys.out_length[:-1] + keys.in_length[1:] > 0.9 * span).any())


SHORT = Curve.from_keys(
    [Key(102, 0, 0, 5, 0, 1, 0, 0, False, True), Key(105, 0, 0, 0, 0, 0, 0, 0, False, True), Key(106, 0, 0, 0)]
)
"""Handles of no length."""


@example(curve=SHORT, place=0.5)
@settings(max_examples=60, deadline=None)
@given(curve=curves(), place=st.floats(-0.2, 1.2))
def test_a_key_more_changes_no_value(curve: Curve, place: float) -> None:
    assume(not upright_somewhere(curve))
    low, high = curve.frames[0], curve.frames[-1]
    frame = float(low + (high - low + 1) * place)
    new = inserted(curve, frame)
    assert new.index_at(frame) is not None
    frames = np.linspace(low - 3, high + 3, 400)
    was, now = curve_values(curve, frames), curve_values(new, frames)
    size = max(1.0, float(np.abs(curve.values).max()), float(np.ptp(was)))
    assert np.abs(now - was).max() < 1e-9 * size


def test_a_fenced_frame_spoils_nothing_around_it(demo: Shot) -> None:
    shot = script.splined(demo, "porter")
    frames = np.linspace(99, 163, 300)
    fenced = script.fence(shot, "porter", 122)
    before = script.sample(shot, "porter", frames).position
    assert np.abs(script.sample(fenced, "porter", frames).position - before).max() < 1e-9
    edited = script.set_values(fenced, "porter", 122, {"hips/up": 0.2, "chest/turn": 40})
    moved = np.abs(script.sample(edited, "porter", frames).position - before).max((1, 2)) > 1e-9
    assert frames[moved].min() > 121 and frames[moved].max() < 123
    assert script.fence(shot, "porter", 122, ["chest"]).curves("porter")[0] is shot.curves("porter")[0]
