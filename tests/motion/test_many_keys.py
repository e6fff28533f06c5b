"""Motions of very many keys are looked at by short ways; each gives what working out all keys gives."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bovrin.motion.evaluate import MANY, channel_values, compile_curves, evaluate
from bovrin.shot import Channel, Control, ControlKind, Curve, CurveSet, EndKind, HandleKind, Joint, Key, Part, Rig, Unit
from bovrin.shot.curve import columns_like, recorded_columns

CURVES, KEYS = 24, 1000
RIG = Rig(
    (Joint("it", -1, (0.0, 0.0, 0.0)),),
    (
        Control(
            "it", ControlKind.JOINT, 0, tuple(Channel(f"c{n}", f"c{n}", Unit.AMOUNT, 0.1 * n) for n in range(CURVES))
        ),
    ),
    (Part("it", (0,)),),
)


def motion(seed: int) -> CurveSet:
    """Recorded curves that share their frames, and others with handles, holds, ends and frames of their own."""
    rng = np.random.default_rng(seed)
    frames = np.arange(101.0, 101.0 + KEYS)
    shared = recorded_columns(frames)
    found = []
    for n in range(CURVES):
        values = np.cumsum(rng.normal(0, 0.1, KEYS))
        if n % 3 == 0:
            found.append(Curve.from_columns({**shared, "values": values}))
            continue
        kind = HandleKind(int(rng.integers(0, 5)))
        own = frames + (rng.uniform(0, 0.4, KEYS) if n % 2 else 0.0)
        curve = Curve.from_columns({**columns_like(Key(0.0, 0.0, kind, kind), own), "values": values})
        if n % 7 == 1:
            curve = curve.ending(EndKind.REPEAT, EndKind.STRAIGHT)
        found.append(curve.silenced(n % 11 == 5))
    found[2] = Curve.from_keys([Key(400.0, 3.0)])
    found[4] = Curve.from_keys([])
    return CurveSet(tuple(found))


@settings(max_examples=25, deadline=None)
@given(st.integers(0, 3), st.lists(st.floats(40, 1300), min_size=1, max_size=40), st.booleans(), st.integers(1, 12))
def test_short_ways_lead_to_the_same_values(seed: int, places: list[float], whole: bool, looks: int) -> None:
    curves = motion(seed)
    assert sum(map(len, curves.curves)) >= MANY * 0.9
    frames = np.round(places) if whole else np.array(places)
    wanted = evaluate(compile_curves(curves.curves, RIG.defaults), frames)
    for _ in range(looks):
        assert np.abs(channel_values(curves, RIG, frames) - wanted).max() < 1e-9


@pytest.mark.parametrize("count", [70, 1000])
def test_many_frames_too(count: int) -> None:
    curves = motion(1)
    for frames in (np.linspace(90.0, 1150.0, count), np.round(np.linspace(90.0, 1150.0, count))):
        wanted = evaluate(compile_curves(curves.curves, RIG.defaults), frames)
        assert np.abs(channel_values(curves, RIG, frames) - wanted).max() < 1e-9
