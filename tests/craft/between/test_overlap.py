"""Overlap and moving holds: late parts stay their poses', there and back is nothing, feet that are down stay."""

from dataclasses import replace
from functools import cache
from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from bovrin import script
from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.craft.keying.lag import belonging, lags_at
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.motion.handles import gather
from bovrin.shot import HandleKind, KeyRole, Shot

STEPPED = script.demo()
DEMO = script.splined(STEPPED, "porter")
RIG = DEMO.figure("porter").rig
CHAIN = ["spine", "chest", "neck", "head"]
ARM = ["left upper arm", "left forearm", "left wrist"]
POSES = belonging(DEMO.curves("porter")).poses.frames


def values(shot: Shot, frames: object) -> np.ndarray:
    return channel_values(shot.curves("porter"), RIG, frames)


def moved(a: Shot, b: Shot) -> set[str]:
    pairs = zip(RIG.channel_names, a.curves("porter").curves, b.curves("porter").curves, strict=True)
    return {name.partition("/")[0] for name, one, two in pairs if one is not two}


@given(st.floats(-1.2, 1.2), st.sampled_from([CHAIN, CHAIN[:2], ARM]), st.booleans())
def test_delayed_there_and_back_is_the_identity(delay: float, chain: list[str], splined: bool) -> None:
    shot = DEMO if splined else STEPPED
    try:
        made = script.overlap(shot, "porter", chain, delay)
    except BadMotion as error:
        assert "no room" in str(error)
        return
    assert moved(shot, made) <= set(chain[1:])
    back = script.overlap(made, "porter", chain, -delay)
    half = np.arange(95, 160, 0.5)
    assert np.abs(values(back, half) - values(shot, half)).max() < 1e-6


def test_each_link_is_later_than_the_one_before_and_belongs_to_its_pose() -> None:
    made = script.overlap(DEMO, "porter", CHAIN, 0.75)
    for frame in POSES.tolist():
        lags = lags_at(made.curves("porter"), frame)
        late = [lags[RIG.channel(f"{name}/turn")] for name in CHAIN]
        assert late == pytest.approx([0, 0.75, 1.5, 2.25])
    assert np.array_equal(belonging(made.curves("porter")).poses.frames, POSES), "no pose more, none less"
    ahead = script.overlap(DEMO, "porter", CHAIN, -0.5)
    assert lags_at(ahead.curves("porter"), 119)[RIG.channel("head/turn")] == pytest.approx(-1.5)


@given(st.floats(0, 1.5), st.floats(0, 1), st.floats(0, 1))
def test_trailing_and_swinging_keep_poses_and_all_else(drag: float, overshoot: float, settle: float) -> None:
    if drag < 1e-3 and overshoot < 1e-3:
        return
    made = script.overlap(DEMO, "porter", CHAIN, 0.0, drag, overshoot, settle)
    assert moved(DEMO, made) <= set(CHAIN[1:])
    assert np.abs(values(made, POSES) - values(DEMO, POSES)).max() < 1e-9
    new = [c for a, c in zip(DEMO.curves("porter").curves, made.curves("porter").curves, strict=True) if a is not c]
    assert all((c.role == KeyRole.IN_BETWEEN).sum() <= 3 * len(POSES) for c in new), "never a key on every frame"
    after = np.arange(POSES[-1] + 13, 160)
    assert np.abs(values(made, after) - values(DEMO, after)).max() < 1e-9, "it comes to rest"


def test_the_end_trails_more_than_the_middle_and_swings_the_way_it_went() -> None:
    made = script.overlap(DEMO, "porter", CHAIN, 0.0, 1.0, 0.6, 0.5)
    i = RIG.channel("head/tilt")
    most = {}
    for name in CHAIN[1:]:
        c = RIG.channel(f"{name}/tilt")
        most[name] = np.abs(values(made, np.arange(101, 160.0))[:, c] - values(DEMO, np.arange(101, 160.0))[:, c]).max()
    assert most["head"] > most["chest"]
    for a, b in pairwise(POSES):
        way = values(DEMO, [b])[0, i] - values(DEMO, [a])[0, i]
        if abs(way) > 0.15 and b - a >= 4:
            at = np.round(a + 0.4 * (b - a))
            assert (values(made, [at])[0, i] - values(DEMO, [at])[0, i]) * way < 0, "behind the way it came"


def test_parts_that_stop_together_are_broken_up_body_first() -> None:
    made = script.break_up(DEMO, "porter", 127)
    lags = lags_at(made.curves("porter"), 127)

    def late(channel: str) -> float:
        return float(lags[RIG.channel(channel)])

    assert late("hips/up") == -1 and late("left foot/up") == 0
    assert late("head/turn") == 0 and late("left hand/up") == 0 and late("left index/curl") == 1
    others = POSES[POSES != 127]
    assert not lags_at(made.curves("porter"), 119).any()
    assert np.abs(values(made, others) - values(DEMO, others)).max() < 1e-9
    with pytest.raises(BadMotion, match="no part comes"):
        script.break_up(made, "porter", 500)


def test_bad_chains_are_said() -> None:
    with pytest.raises(BadMotion, match="at least two"):
        script.overlap(DEMO, "porter", ["head"])
    with pytest.raises(BadMotion, match="no room"):
        script.overlap(DEMO, "porter", CHAIN, 4, start=109, end=114)
    with pytest.raises(BadMotion, match="nothing in this chain turns"):
        script.overlap(DEMO, "porter", ["left index", "left index tip"], 0.0, 1.0, start=143, end=148)


@cache
def held_shot() -> Shot:
    """The pose of 133 held until 143."""
    shot = DEMO
    now = dict(zip(RIG.channel_names, values(shot, [133])[0], strict=True))
    for name, value in now.items():
        c = RIG.channel(name)
        if len(shot.curves("porter")[c]):
            own = keyed(
                shot.curves("porter")[c], 141, float(value), KeyStyle(HandleKind.NO_OVERSHOOT, KeyRole.KEY_POSE)
            )
            shot = shot.with_curves("porter", shot.curves("porter").replaced({c: own}))
    return shot


@given(st.floats(0.01, 0.3), st.sampled_from(["on", "next", "aside"]))
def test_a_moving_hold_drifts_eases_out_and_no_foot_that_is_down_moves(amount: float, way: str) -> None:
    shot = held_shot()
    toward = (0.0, 0.0, 0.1) if way == "aside" else way
    made = script.moving_hold(shot, "porter", 133, 141, amount, toward)
    frames = np.arange(133, 141.5, 0.5)
    before, after = (script.sample(s, "porter", frames) for s in (shot, made))
    for foot in ("left foot", "right foot"):
        j = before.joints.index(foot)
        assert np.abs(after.position[:, j] - before.position[:, j]).max() < 1e-4
    moving = np.abs(np.diff(values(made, frames), axis=0)).max(1)
    assert moving[0] > 3 * moving[-1], "easing out to almost nothing"
    assert np.abs(values(made, [133.0]) - values(shot, [133.0])).max() < 1e-9
    early = np.arange(101, 133.5, 0.5)
    late = np.arange(POSES[-1], 160)
    assert np.abs(values(made, early) - values(shot, early)).max() < 1e-9
    assert np.abs(values(made, late) - values(shot, late)).max() < 1e-9


def test_what_cannot_drift_is_said() -> None:
    with pytest.raises(BadMotion, match="nothing that may drift is held"):
        script.moving_hold(script.splined(DEMO, "crate"), "crate", 121, 126, 0.1)
    with pytest.raises(BadMotion, match="two frames or more"):
        script.moving_hold(held_shot(), "porter", 133, 134, 0.1)
    with pytest.raises(BadMotion, match="cannot drift 'sideways'"):
        script.moving_hold(held_shot(), "porter", 133, 141, 0.1, "sideways")


def test_a_hold_goes_on_the_way_it_came_from_any_frame_of_it() -> None:
    """Not only from the frame of its pose: what came before is the pose that differs, not the one that is held."""
    shot = held_shot()
    first, later = (script.moving_hold(shot, "porter", start, 145, 0.1) for start in (133, 137))
    rig = shot.figure("porter").rig
    now = channel_values(shot.curves("porter"), rig, [145])[0]
    ways = [channel_values(made.curves("porter"), rig, [145])[0] - now for made in (first, later)]
    assert np.abs(ways[0]).max() > 1e-3 and np.allclose(ways[0], ways[1], atol=1e-9)


def test_in_betweens_of_a_trailing_part_do_not_pop() -> None:
    shot = script.overlap(
        script.splined(DEMO, "porter"), "porter", ["chest", "neck", "head", "bobble"], 0.0, 0.5, 0.6, 0.5
    )
    keys = gather(shot.curves("porter").curves)
    inner = ~keys.stepped & (np.abs(keys.in_slope - keys.out_slope) > 1e-9)
    before = gather(script.splined(DEMO, "porter").curves("porter").curves)
    assert inner.sum() <= (np.abs(before.in_slope - before.out_slope) > 1e-9).sum()


@given(st.floats(0.05, 1.0), st.sampled_from([(133, 136), (133, 141), (135, 220)]))
def test_breathing_leaves_feet_and_all_outside_and_comes_back(amount: float, span: tuple[int, int]) -> None:
    shot = replace(held_shot(), last=240.0)
    start, end = span
    if end > 141:
        shot = script.lengthen(shot, "porter", 133, 100)
    made = script.moving_hold(shot, "porter", start, end, amount, "breathe")
    assert moved(shot, made) <= {"spine", "chest"} and made is not shot
    outside = np.concatenate([np.arange(95, start + 0.1, 0.5), np.arange(end, 240, 0.5)])
    assert np.abs(values(shot, outside) - values(made, outside)).max() < 1e-9
    inside = np.arange(start, end + 0.1, 0.5)
    lean = np.degrees(values(made, inside) - values(shot, inside)).sum(1)
    assert 0.5 * 12 * amount < -lean.min() < 1.02 * 12 * amount and lean.max() < 1e-6
    tops = ((lean[1:-1] < lean[:-2]) & (lean[1:-1] <= lean[2:]) & (lean[1:-1] < 0.5 * lean.min())).sum()
    assert tops == max(round((end - start) / (3.2 * 24)), 1)
    feet = [script.sample(one, "porter", inside).position for one in (shot, made)]
    names = script.sample(shot, "porter", [133]).joints
    at = [names.index(f"{side} {foot}") for side in ("left", "right") for foot in ("foot", "toes")]
    assert np.abs(feet[0][:, at] - feet[1][:, at]).max() < 1e-4


@pytest.mark.parametrize("late", [0.5, 2.0, 7.25])
def test_what_trails_and_swings_never_moves_the_shot_s_end(late: float) -> None:
    """A delay of half a frame left a range that ended between two frames."""
    shot = script.splined(script.demo(), "porter")
    chain = ["chest", "neck", "head"]
    for settings in ({"delay": late}, {"delay": late, "overshoot": 0.4, "settle": 0.5}, {"delay": late, "drag": 0.5}):
        made = script.overlap(shot, "porter", chain, **settings)
        assert (made.first, made.last) == (shot.first, shot.last), settings
    last = script.slide(shot, "porter", late, ["head"]).last
    assert last == int(last)
