"""Arcs that are cleaned: bowed between poses that stay, with the timing that was; only kinks are mended."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bovrin import script
from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.errors import BadMotion
from bovrin.measure.kinks import kinks_of, turns_of
from bovrin.motion.evaluate import channel_values
from bovrin.shot import HandleKind, KeyRole, Shot

DEMO = script.splined(script.demo(), "porter")
RIG = DEMO.figure("porter").rig
POSES = [101.0, 109.0, 114.0, 119.0, 127.0, 133.0, 143.0]


def path(shot: Shot, point: str, start: float, end: float) -> np.ndarray:
    return script.arc(shot, "porter", point, np.arange(start, end + 1)).position


def shares(places: np.ndarray) -> np.ndarray:
    gone = np.concatenate([[0.0], np.cumsum(np.linalg.norm(np.diff(places, axis=0), axis=1))])
    return gone / gone[-1]


def off_line(places: np.ndarray) -> float:
    way = places[-1] - places[0]
    return float((np.linalg.norm(np.cross(places - places[0], way), axis=1) / np.linalg.norm(way)).max())


def posed(shot: Shot, frames: list[float]) -> np.ndarray:
    return channel_values(shot.curves("porter"), RIG, frames)


def keys(shot: Shot) -> int:
    return sum(len(curve) for curve in shot.curves("porter").curves)


@given(
    st.sampled_from(["hips", "left hand", "right hand"]), st.integers(0, 5), st.tuples(*[st.floats(-0.05, 0.05)] * 3)
)
@settings(max_examples=20)
def test_a_bow_keeps_poses_timing_feet_and_all_else(point: str, at: int, bow: tuple[float, ...]) -> None:
    start, end = POSES[at], POSES[at + 1]
    before = path(DEMO, point, start, end)
    try:
        made = script.on_an_arc(DEMO, "porter", point, start, end, bow)
    except BadMotion as error:
        assert any(
            words in str(error) for words in ("does not reach", "stands still", "wider than", "not keep its timing")
        )
        return
    after = path(made, point, start, end)
    assert np.abs(posed(made, POSES) - posed(DEMO, POSES)).max() < 1e-6
    assert np.abs(shares(after) - shares(before)).max() < 0.01
    way = before[-1] - before[0]
    wanted = np.linalg.norm(np.array(bow) - (np.array(bow) @ way) * way / (way @ way))
    assert off_line(after) == pytest.approx(wanted, abs=0.15 * wanted + 3e-3)
    for joint in ("left foot", "right foot"):
        assert np.abs(path(made, joint, start, end) - path(DEMO, joint, start, end)).max() < 1e-4, "feet stay"
    frames = np.concatenate([np.arange(101, start), np.arange(end, 149)])
    assert np.abs(posed(made, frames.tolist()) - posed(DEMO, frames.tolist())).max() < 1e-6, (
        "the rest of the shot stays"
    )
    inner = max(end - start - 1, 1)
    moved = sum(a is not b for a, b in zip(DEMO.curves("porter").curves, made.curves("porter").curves, strict=True))
    assert keys(made) - keys(DEMO) < moved * inner, "never a key on every frame"


def test_poses_around_lead_the_way_and_a_still_point_is_said() -> None:
    made = script.on_an_arc(DEMO, "porter", "hips", 119, 133)
    assert off_line(path(made, "hips", 119, 127)) > 0.004
    with pytest.raises(BadMotion, match="stands still"):
        script.on_an_arc(DEMO, "porter", "left foot", 133, 143)
    with pytest.raises(BadMotion, match="between two poses"):
        script.on_an_arc(DEMO, "porter", "hips", 119, 120)
    with pytest.raises(BadMotion, match="finite number"):
        script.on_an_arc(DEMO, "porter", "hips", 119, 127, [0, np.nan, 0])


def test_a_head_is_taken_along_by_the_body_while_hands_and_feet_stay() -> None:
    made = script.on_an_arc(DEMO, "porter", "head", 109, 114, [0.03, 0.0, 0.0])
    assert np.abs(path(made, "head", 109, 114) - path(DEMO, "head", 109, 114)).max() > 0.008
    for joint in ("left foot", "right foot", "left hand", "right hand"):
        off = np.abs(path(made, joint, 109, 114) - path(DEMO, joint, 109, 114)).max()
        assert off < (1e-4 if "foot" in joint else 2e-3), (joint, off)
    assert np.abs(posed(made, POSES) - posed(DEMO, POSES)).max() < 1e-6


def kinked(frame: float, by: float) -> Shot:
    """An in-between of the left hand that lies off."""
    i = RIG.channel("left hand/across")
    value = float(posed(DEMO, [frame])[0, i]) + by
    style = KeyStyle(HandleKind.NO_OVERSHOOT, KeyRole.IN_BETWEEN)
    curve = DEMO.curves("porter")[i]
    for at in (frame - 1, frame + 1):
        curve = keyed(curve, at, float(posed(DEMO, [at])[0, i]), style)
    return DEMO.with_curves("porter", DEMO.curves("porter").replaced({i: keyed(curve, frame, value, style)}))


@pytest.mark.parametrize("frame", [116.0, 130.0])
def test_only_the_frame_that_kinks_is_mended(frame: float) -> None:
    bent = kinked(frame, -0.05)
    start, end = frame - 4, frame + 4
    assert kinks_of(path(bent, "left hand", start, end)).tolist() == [4]
    made = script.mend_kinks(bent, "porter", "left hand", start, end)
    assert not len(kinks_of(path(made, "left hand", start, end)))
    assert np.abs(posed(made, POSES) - posed(bent, POSES)).max() < 1e-6
    turns = turns_of(path(made, "left hand", start, end))
    assert turns[4] < turns_of(path(bent, "left hand", start, end))[4] / 2
    with pytest.raises(BadMotion, match="kinks nowhere"):
        script.mend_kinks(made, "porter", "left hand", start, end)


@given(st.integers(0, 10_000))
def test_smooth_paths_do_not_kink_and_bent_ones_do_where_they_bend(seed: int) -> None:
    rng = np.random.default_rng(seed)
    t = np.linspace(0, 1, 25)[:, None]
    a, b, c, d = rng.normal(0, 0.5, (4, 3))
    places = a * (1 - t) ** 3 + 3 * b * t * (1 - t) ** 2 + 3 * c * t**2 * (1 - t) + d * t**3
    if turns_of(places).max() < np.radians(20):
        assert not len(kinks_of(places))
        steps = np.linalg.norm(np.diff(places, axis=0), axis=1)
        at = int(rng.integers(4, 21))
        if steps.min() > 0.01:
            aside = np.cross(places[at + 1] - places[at - 1], rng.normal(size=3))
            places[at] += 2 * steps[at] * aside / np.linalg.norm(aside)
            assert at in kinks_of(places) and len(kinks_of(places)) == 1
