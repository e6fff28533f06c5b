"""Shapers: nothing at nought, what they promise at any amount, and nothing else moves."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from bovrin import script
from bovrin.craft.curves.filling import filled, thinned
from bovrin.craft.curves.shapers import SHAPERS, Settings, shaped
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Curve, CurveSet, HandleKind, Key, KeyRole, Shot
from bovrin.shot.curve import recorded_columns

KINDS = [
    HandleKind.SMOOTH,
    HandleKind.NO_OVERSHOOT,
    HandleKind.FLAT,
    HandleKind.LINEAR,
    HandleKind.STEPPED,
    HandleKind.BY_HAND,
]
CHANNEL = "hips/up"
DEMO = script.demo()
"""Not a fixture: a failure would write all of it."""


def random_curve(seed: int, *, stepped: bool = True, free: bool = True, whole: bool = True) -> Curve:
    rng = np.random.default_rng(seed)
    count = int(rng.integers(2, 14))
    frames = 101 + np.cumsum(rng.integers(1, 9, count) if whole else rng.uniform(0.3, 9, count)).astype(float)
    keys = []
    for frame in frames.tolist():
        a, b = (KINDS[int(n)] for n in rng.integers(0, 6 if stepped else 4, 2))
        a = HandleKind.FLAT if a is HandleKind.STEPPED else a
        loose = free and bool(rng.random() < 0.3)
        slopes = rng.normal(0, 0.3, 2)
        lengths = rng.uniform(0.3, 2, 2)
        keys.append(
            Key(frame, float(rng.normal()), a, b, *slopes, *lengths, joined=bool(rng.random() < 0.5), free=loose)
        )
    return Curve.from_keys(keys)


def dense(seed: int, count: int = 120) -> Curve:
    rng = np.random.default_rng(seed)
    frames = 101 + np.arange(count, dtype=float)
    values = np.cumsum(rng.normal(0, 0.2, count)) + 2 * np.sin(frames * rng.uniform(0.05, 0.3))
    return Curve.from_columns({**recorded_columns(frames), "values": values})


def with_curve(curve: Curve) -> tuple[Shot, int]:
    index = DEMO.figure("porter").rig.channel_names.index(CHANNEL)
    return DEMO.with_curves("porter", DEMO.curves("porter").replaced({index: curve})), index


def changed(before: Shot, after: Shot) -> set[str]:
    pairs = zip(before.curves("porter").curves, after.curves("porter").curves, strict=True)
    return {name for name, (a, b) in zip(script.channels(DEMO, "porter"), pairs, strict=True) if a is not b}


def looks(curve: Curve) -> np.ndarray:
    return np.linspace(curve.frames[0] - 3, curve.frames[-1] + 3, 800)


@given(st.integers(0, 10_000), st.sampled_from(sorted(SHAPERS)), st.floats(-1.4, 1.4))
@example(seed=266, name="ease", amount=0.0)
def test_only_chosen_keys_change_and_nought_is_nothing(seed: int, name: str, amount: float) -> None:
    curve = dense(seed) if seed % 2 else random_curve(seed)
    shot, i = with_curve(curve)
    chosen = curve.frames[len(curve) // 3 : max(len(curve) // 3 + 1, 2 * len(curve) // 3)]
    none = shaped(shot, "porter", {i: chosen}, name, 0.0).shot.curves("porter")[i]
    assert np.allclose(curve_values(none, looks(curve)), curve_values(curve, looks(curve)), atol=1e-9)
    made = shaped(shot, "porter", {i: chosen}, name, amount)
    assert changed(shot, made.shot) <= {CHANNEL}
    after = made.shot.curves("porter")[i]
    others = np.setdiff1d(curve.frames, chosen)
    assert np.isin(others, after.frames).all()
    assert np.array_equal(after.values[np.isin(after.frames, others)], curve.values[np.isin(curve.frames, others)])
    assert np.isfinite(curve_values(after, looks(curve))).all()


@given(st.integers(0, 10_000), st.floats(0, 1))
def test_toward_flatten_and_default_reach_what_they_name(seed: int, part: float) -> None:
    curve = dense(seed, 30)
    shot, i = with_curve(curve)
    chosen = curve.frames[8:20]

    def values(name: str, amount: float, **settings: object) -> np.ndarray:
        made = shaped(shot, "porter", {i: chosen}, name, amount, Settings(**settings))  # type: ignore[arg-type]
        return made.shot.curves("porter")[i].values[8:20]

    own = curve.values[8:20]
    assert np.allclose(values("before", 1.0), curve.values[7]) and np.allclose(values("after", 1.0), curve.values[20])
    assert np.allclose(values("before", part), own + part * (curve.values[7] - own))
    assert np.allclose(values("default", 1.0), DEMO.figure("porter").rig.channels[i].default)
    line = np.interp(chosen, curve.frames[[7, 20]], curve.values[[7, 20]])
    assert np.allclose(values("exaggerate", -1.0), line)
    assert np.allclose(values("exaggerate", part) - line, (own - line) * (1 + part))
    assert np.allclose(values("exaggerate", -1.0, about="mean"), own.mean())


@given(st.integers(0, 10_000))
def test_softer_is_smoother_and_rougher_is_rougher_evenly_with_the_slider(seed: int) -> None:
    curve = dense(seed)
    shot, i = with_curve(curve)

    def bend(amount: float) -> float:
        made = shaped(shot, "porter", {i: curve.frames[10:100]}, "soften", amount).shot.curves("porter")[i].values
        return float((np.diff(made[9:101], 2) ** 2).sum())

    course = [bend(a) for a in np.linspace(-1, 1, 21)]
    assert all(a < b * (1 + 1e-9) for a, b in pairwise(course))
    assert course[0] < 0.05 * course[10]


@given(st.integers(0, 10_000), st.floats(-1, 1))
def test_ease_keeps_both_ends_and_turns_nothing_round(seed: int, amount: float) -> None:
    rng = np.random.default_rng(seed)
    frames = 101 + np.arange(20.0)
    curve = Curve.from_columns({**recorded_columns(frames), "values": np.sort(rng.normal(size=20))})
    shot, i = with_curve(curve)
    made = shaped(shot, "porter", {i: frames[3:15]}, "ease", amount).shot.curves("porter")[i].values
    assert made[3] == curve.values[3] and made[14] == pytest.approx(curve.values[14])
    assert (np.diff(made) >= -1e-12).all()
    later = shaped(shot, "porter", {i: frames[3:15]}, "ease", min(amount + 0.1, 1.0)).shot.curves("porter")[i].values
    assert (later <= made + 1e-12).all(), "the farther to easing out, the later"


@example(1122, 1.1875, True)
@given(st.integers(0, 10_000), st.floats(0.1, 24), st.booleans())
def test_filling_in_changes_no_value_anywhere(seed: int, every: float, whole: bool) -> None:
    curve = random_curve(seed, whole=whole)
    start, end = float(curve.frames[0]), float(curve.frames[-1])
    made = filled(curve, start, end, every, 0.0)
    between = np.concatenate([looks(curve), np.arange(start, end, 0.25)])
    off = np.abs(curve_values(made, between) - curve_values(curve, between))
    upright = np.abs(curve_values(curve, between + 1e-12) - curve_values(curve, between - 1e-12))  # no frame tells more
    assert (off < 1e-7 * max(1.0, np.abs(curve.values).max()) + upright).all()
    wanted = np.arange(start, end, every)
    assert all(np.abs(made.frames - frame).min() < 1e-6 for frame in wanted)
    assert np.isin(curve.frames, made.frames).all()


@given(st.integers(0, 10_000))
def test_filled_and_thinned_there_are_no_more_keys_than_before(seed: int) -> None:
    curve = random_curve(seed, stepped=False, free=False)
    more = filled(curve, float(curve.frames[0]), float(curve.frames[-1]), 1.0, 0.0)
    back, off = thinned(more, more.frames, 1e-6, 0.0)
    if (curve.joined | (curve.in_kind == curve.out_kind)).all() and not np.isin(
        curve.in_kind, [HandleKind.LINEAR]
    ).any():
        assert len(back) <= len(more)
    assert off <= 1e-6 + 1e-9
    plain = Curve.from_keys([Key(f, v) for f, v in zip(curve.frames.tolist(), curve.values.tolist(), strict=True)])
    smooth = filled(plain, float(curve.frames[0]), float(curve.frames[-1]), 1.0, 0.0)
    assert len(thinned(smooth, smooth.frames, 1e-6, 0.0)[0]) <= len(curve)


@given(st.integers(0, 10_000), st.floats(0.001, 0.5))
def test_thinning_stays_within_its_tolerance_on_every_half_frame(seed: int, tolerance: float) -> None:
    curve = dense(seed)
    made, off = thinned(curve, curve.frames[5:110], tolerance, 0.0)
    half = np.arange(101, 221, 0.5)
    real = np.abs(curve_values(made, half) - curve_values(curve, half)).max()
    assert real <= tolerance + 1e-9 and off == pytest.approx(real, abs=1e-9)
    assert np.isin(np.concatenate([curve.frames[:6], curve.frames[109:]]), made.frames).all()


def test_trembling_twice_with_one_seed_is_the_same_and_with_another_not() -> None:
    curve = dense(3)
    shot, i = with_curve(curve)
    one, two, other = (
        shaped(shot, "porter", {i: curve.frames}, "tremble", 0.5, Settings(seed=n)).shot.curves("porter")[i].values
        for n in (4, 4, 5)
    )
    assert np.array_equal(one, two) and not np.allclose(one, other)
    assert 0.001 < np.abs(one - curve.values).max() < 0.03, "a share of two centimetres"


def test_shifting_there_and_back_is_the_identity_and_stops_at_neighbours() -> None:
    curve = Curve.from_keys([Key(f, v) for f, v in ((101, 0), (110, 1), (120, 0.5), (130, 2))])
    shot, i = with_curve(curve)
    there = shaped(shot, "porter", {i: curve.frames[1:3]}, "shift", 2.375)
    assert there.keys[i].tolist() == [112.375, 122.375]
    back = shaped(there.shot, "porter", there.keys, "shift", -2.375).shot.curves("porter")[i]
    assert np.array_equal(back.frames, curve.frames) and np.array_equal(back.values, curve.values)
    assert shaped(shot, "porter", {i: curve.frames[1:3]}, "shift", 50).keys[i][-1] < 130


def test_switches_are_left_alone_and_bad_input_is_said() -> None:
    names = DEMO.figure("porter").rig.channel_names
    reach = names.index("left hand/reach")
    frames = DEMO.curves("porter")[reach].frames
    assert len(frames)
    made = shaped(DEMO, "porter", {reach: frames}, "tremble", 1.0)
    assert made.shot.curves("porter")[reach] is DEMO.curves("porter")[reach]
    for bad, words in (("magic", "no shaper 'magic'"), ("soften", "no keys are chosen")):
        with pytest.raises(BadMotion, match=words):
            shaped(DEMO, "porter", {}, bad, 0.3)
    with pytest.raises(BadMotion, match="finite"):
        shaped(DEMO, "porter", {reach: frames}, "soften", float("nan"))
    with pytest.raises(BadMotion, match="every so many frames"):
        script.shape(DEMO, "porter", [CHANNEL], 101, 150, "fill in", -1)


def test_by_script_shapes_a_stretch() -> None:
    splined = script.splined(DEMO, "porter")
    made = script.shape(splined, "porter", [CHANNEL, "head/turn"], 109, 133, "exaggerate", 0.3)
    assert changed(splined, made) == {CHANNEL, "head/turn"}
    assert isinstance(made.curves("porter"), CurveSet) and KeyRole.KEY_POSE in made.curves("porter")[0].role
