"""Curves beyond their keys, frame by frame, against a loop that knows one curve and one frame."""

import math

import numpy as np
from hypothesis import given
from hypothesis import strategies as st
from tests.strategies import curves

from bovrin.motion.evaluate import compile_curves, curve_values, evaluate
from bovrin.motion.handles import gather
from bovrin.shot import Curve, EndKind

ENDS = st.sampled_from(list(EndKind))


def beyond(curve: Curve, frame: float) -> float:
    """The value on one frame as the words say it, from values within the keys alone."""
    first, last = float(curve.frames[0]), float(curve.frames[-1])
    if first <= frame <= last or len(curve.frames) < 2:
        return float(curve_values(curve, np.array([frame]), 0.0)[0])
    kind, edge = (EndKind(curve.before), first) if frame < first else (EndKind(curve.after), last)
    at_edge = float(curve_values(curve, np.array([edge]), 0.0)[0])
    period, rise = last - first, float(curve.values[-1] - curve.values[0])
    rounds = math.floor((frame - first) / period)
    rest = frame - first - rounds * period
    if kind == EndKind.HOLD:
        return at_edge
    if kind == EndKind.STRAIGHT:
        keys = gather([curve])
        stepped = keys.stepped[0] if frame < first else keys.stepped[-2]
        slope = 0.0 if stepped else float(keys.out_slope[0] if frame < first else keys.in_slope[-1])
        return at_edge + slope * (frame - edge)
    if kind == EndKind.BACK_AND_FORTH and rounds % 2:
        rest = period - rest
    inside = float(curve_values(curve, np.array([first + rest]), 0.0)[0])
    return inside + (rounds * rise if kind in (EndKind.REPEAT_WITH_OFFSET, EndKind.ROUND) else 0.0)


@given(curves(2, 6), ENDS, ENDS, st.lists(st.floats(-60, 60), min_size=1, max_size=12))
def test_beyond_its_keys_a_curve_does_what_the_words_say(
    curve: Curve, before: EndKind, after: EndKind, places: list[float]
) -> None:
    curve = curve.ending(before, after)
    first, last = float(curve.frames[0]), float(curve.frames[-1])
    frames = np.array(sorted((first if p < 0 else last) + p for p in places))
    edges = (frames - first) / (last - first)
    frames = frames[np.abs(edges - np.round(edges)) > 1e-6]  # on the seam of a repeat either side is right
    found = curve_values(curve, frames, 0.0)
    wanted = np.array([beyond(curve, float(f)) for f in frames])
    assert np.allclose(found, wanted, atol=1e-6, rtol=1e-9)


@given(st.lists(st.tuples(curves(1, 5), ENDS, ENDS), min_size=1, max_size=5))
def test_many_curves_at_once_are_each_alone(some: list[tuple[Curve, EndKind, EndKind]]) -> None:
    all_of_them = [curve.ending(before, after) for curve, before, after in some]
    frames = np.arange(60.0, 320.0, 3.7)
    together = evaluate(compile_curves(all_of_them, [0.0] * len(all_of_them)), frames)
    alone = np.stack([curve_values(curve, frames, 0.0) for curve in all_of_them], axis=-1)
    assert np.allclose(together, alone, atol=1e-9)
