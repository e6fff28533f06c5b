"""Parts that come late stay late, whatever tool is used."""

from collections.abc import Callable

import numpy as np
import pytest

from bovrin import script
from bovrin.craft.between.breakdown import breakdown, fill_breakdowns
from bovrin.craft.between.chart import chart, set_chart
from bovrin.craft.between.push import push_past, settle
from bovrin.craft.keying import edits, key_sets, pose_keys, timing
from bovrin.craft.keying.keys import KeyStyle
from bovrin.craft.keying.lag import card_poses_of, lags_at, lags_between, values_of_pose
from bovrin.craft.keying.lag import pose_keys as keys_of_pose
from bovrin.craft.keying.mirror_keys import mirror_keys, mirror_range
from bovrin.craft.pose.mirror import mirror
from bovrin.craft.pose.pose_copies import pasted_values
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.shot import HandleKind, Shot

LAG = 3.0
POSES = (101.0, 109.0, 117.0, 129.0, 141.0)


def _even(demo: Shot) -> Shot:
    """The porter with poses far enough apart for a part to come three frames late."""
    shot, rig = demo, demo.figure("porter").rig
    for frame in card_poses_of(demo.curves("porter")).frames.tolist():
        if frame not in (101.0, 109.0):
            shot = pose_keys.delete_keys(shot, "porter", frame)
    rng = np.random.default_rng(4)
    for n, frame in enumerate(POSES[2:]):
        values = {name: rng.uniform(-20, 20) for name in rig.channel_names if name.endswith(("/turn", "/tilt"))}
        shot = script.set_values(shot, "porter", frame, {**values, "hips/up": -4.0 * n})
        shot = script.key_pose(shot, "porter", frame)
    return shot


@pytest.fixture(scope="module", params=["stepped", "eased"])
def late(request: pytest.FixtureRequest) -> Shot:
    shot = _even(script.demo())
    shot = script.splined(shot, "porter") if request.param == "eased" else shot
    return script.slide(shot, "porter", LAG, ["left arm"], start=109)


def arm(shot: Shot) -> list[int]:
    rig = shot.figure("porter").rig
    return list(rig.part_channels(rig.part("left arm")))


def cards(shot: Shot) -> list[float]:
    return card_poses_of(shot.curves("porter")).frames.tolist()


def assert_late(shot: Shot, *frames: float, lag: float = LAG) -> None:
    for frame in frames:
        lags = lags_at(shot.curves("porter"), frame)
        assert (lags[arm(shot)] == lag).all(), frame
        assert (np.delete(lags, arm(shot)) == 0).all(), frame


def test_a_part_that_comes_late_gets_no_card(late: Shot) -> None:
    assert cards(late) == list(POSES)
    assert_late(late, *POSES[1:])
    assert_late(late, 101, lag=0.0)


@pytest.mark.parametrize("by", [-3.0, 4.0])
def test_a_card_takes_its_late_part_along(late: Shot, by: float) -> None:
    moved = timing.move_pose(late, "porter", 117, 117 + by)
    assert cards(moved) == [101, 109, 117 + by, 129, 141]
    assert_late(moved, 109, 117 + by, 129, 141)
    back = timing.move_pose(moved, "porter", 117 + by, 117)
    assert np.array_equal(
        script.sample(back, "porter", np.arange(101, 150)).position,
        script.sample(late, "porter", np.arange(101, 150)).position,
    )


@pytest.mark.parametrize("by", [3.0, -2.0])
@pytest.mark.parametrize("held", [101.0, 109.0, 117.0])
def test_holding_longer_and_shorter_keeps_the_lag(late: Shot, held: float, by: float) -> None:
    longer = timing.lengthen(late, "porter", held, by)
    assert cards(longer) == [f + by if f > held else f for f in POSES]
    assert_late(longer, *(f + by if f > held else f for f in POSES[1:]))


def test_a_pose_goes_with_all_that_belongs_to_it(late: Shot) -> None:
    gone = pose_keys.delete_keys(late, "porter", 117)
    assert cards(gone) == [101, 109, 129, 141]
    assert all(c.index_at(120) is None for c in gone.curves("porter").curves)


def test_a_hold_repeats_the_pose_with_its_late_part(late: Shot) -> None:
    rig = late.figure("porter").rig
    held = pose_keys.hold(late, "porter", 123)
    assert_late(held, 123, 117)
    before, after = (values_of_pose(held.curves("porter"), rig, f) for f in (117, 123))
    assert np.abs(before - after).max() < 1e-9
    assert cards(held) == sorted([*POSES, 123])


@pytest.mark.parametrize("favour", [0.0, 0.3, 1.0])
def test_the_late_part_of_a_breakdown_lies_late(late: Shot, favour: float) -> None:
    rig = late.figure("porter").rig
    made = breakdown(late, "porter", 122, favour)
    assert_late(made, 117, 122, 129)
    a, now, b = (values_of_pose(made.curves("porter"), rig, f) for f in (117, 122, 129))
    if favour in (0.0, 1.0):
        assert np.abs(now - (a, b)[int(favour)])[arm(made)].max() < 1e-9
    again = breakdown(made, "porter", 122, 0.6)
    assert cards(again) == sorted([*POSES, 122]) and not again.curves("porter")[arm(made)[0]].index_at(122)


def test_a_fill_on_fours_fills_the_late_part_too(late: Shot) -> None:
    filled = fill_breakdowns(late, "porter", 117, 141, 4)
    assert_late(filled, 121, 125, 133, 137, 117, 129, 141)
    assert cards(filled) == sorted([*POSES, 121, 125, 133, 137])


def test_pushing_and_settling_keep_the_lag(late: Shot) -> None:
    pushed = push_past(late, "porter", 117)
    assert_late(pushed, 109, 117, 129)
    settled = settle(pushed, "porter", 121)
    assert_late(settled, 117, 121, 129)


def test_a_chart_as_it_is_changes_no_late_part(late: Shot) -> None:
    same = set_chart(late, "porter", 117, 129, chart(late, "porter", 117, 129))
    assert_late(same, 117, 129)
    assert cards(same) == list(POSES)


def test_poses_mirrored_the_arm_still_comes_late(late: Shot) -> None:
    turned = mirror(late, "porter", [109, 117, 129, 141])
    assert_late(turned, 109, 117, 129, 141)
    assert cards(turned) == list(POSES)
    rig = late.figure("porter").rig
    a, b = (values_of_pose(shot.curves("porter"), rig, 129) for shot in (late, mirror(turned, "porter", 129)))
    assert np.abs(a - b).max() < 1e-9
    left, right = rig.channel("left hand/up"), rig.channel("right hand/up")
    assert values_of_pose(turned.curves("porter"), rig, 129)[left] == pytest.approx(a[right])


def test_keys_mirrored_the_other_arm_comes_late(late: Shot) -> None:
    rig = late.figure("porter").rig
    other = list(rig.part_channels(rig.part("right arm")))
    whole = mirror_range(late, "porter", 101, 160)
    for frame in POSES[1:]:
        lags = lags_at(whole.curves("porter"), frame)
        assert (lags[other] == LAG).all() and (np.delete(lags, other) == 0).all()
    everywhere = np.arange(101, 150)
    a, b = (script.sample(s, "porter", everywhere).position for s in (late, mirror_range(whole, "porter", 101, 160)))
    assert np.array_equal(a, b)
    one = mirror_keys(late, "porter", keys_of_pose(late.curves("porter"), 117))
    assert lags_at(one.curves("porter"), 117)[other].tolist() == [LAG] * len(other)
    assert_late(one, 109, 129, 141)
    assert cards(one) == list(POSES)


def test_keying_the_pose_again_leaves_the_late_part_late(late: Shot) -> None:
    again = pose_keys.key_pose(late, "porter", 117)
    assert again is late or again.curves("porter") is late.curves("porter")


@pytest.mark.parametrize("lag", [1.0, 5.0, 7.0])
@pytest.mark.parametrize(
    "use",
    [
        lambda s: timing.move_pose(s, "porter", 129, 130),
        lambda s: timing.lengthen(s, "porter", 117, 2),
        lambda s: breakdown(s, "porter", 137, 0.5),
    ],
)
def test_any_delay_up_to_the_next_pose_survives(demo: Shot, use: Callable[[Shot], Shot], lag: float) -> None:
    shot = script.slide(_even(demo), "porter", lag, ["left arm"], start=109)
    used = use(shot)
    for frame in cards(used)[1:]:
        assert (lags_at(used.curves("porter"), frame)[arm(used)] == lag).all(), frame


def test_a_copied_pose_is_the_pose_with_its_late_part(late: Shot) -> None:
    rig, curves = late.figure("porter").rig, late.curves("porter")
    pasted = script.paste_pose(late, "porter", 160, script.copy_pose(late, "porter", 129))
    here, there = values_of_pose(curves, rig, 129), values_of_pose(pasted.curves("porter"), rig, 160)
    assert np.abs(here - there)[arm(late)].max() < 1e-6


@pytest.mark.parametrize("frame", [117.0, 123.0])
@pytest.mark.parametrize("scope", [edits.Scope.WHOLE, edits.Scope.PART])
def test_an_edit_of_the_rest_leaves_the_arm_as_late(late: Shot, frame: float, scope: edits.Scope) -> None:
    rig, style = late.figure("porter").rig, KeyStyle(HandleKind.NO_OVERSHOOT)
    turned = edits.edited(late, "porter", frame, {rig.channel("hips/turn"): 0.3}, scope, style)
    if scope is edits.Scope.WHOLE:
        assert_late(turned, *sorted({*POSES[1:], frame}))
    before, after = (channel_values(s.curves("porter"), rig, np.arange(101, 150, 0.5)) for s in (late, turned))
    kept = [i for i in range(len(rig.channels)) if i != rig.channel("hips/turn")]
    assert np.abs(after - before)[:, kept].max() < 1e-9


def test_an_edit_of_the_arm_itself_is_seen_there_and_the_pose_stays_late(late: Shot) -> None:
    rig, style = late.figure("porter").rig, KeyStyle(HandleKind.NO_OVERSHOOT)
    up = rig.channel("left hand/up")
    lifted = edits.edited(late, "porter", 117, {up: 0.2}, edits.Scope.WHOLE, style)
    assert channel_values(lifted.curves("porter"), rig, [117])[0, up] == 0.2
    assert_late(lifted, *POSES[1:])
    assert cards(lifted) == list(POSES)
    gone = pose_keys.delete_keys(lifted, "porter", 117)
    assert cards(gone) == [101, 109, 129, 141]
    assert lifted.curves("porter")[up].index_at(117) is not None and gone.curves("porter")[up].index_at(117) is None


def test_a_pose_put_on_late_parts_comes_late(late: Shot) -> None:
    rig, style = late.figure("porter").rig, KeyStyle(HandleKind.NO_OVERSHOOT)
    for frame in (117.0, 123.0):
        pose = script.copy_pose(late, "porter", 141)
        wanted = pasted_values(late, "porter", frame, pose)
        put = edits.posed_anew(late, "porter", frame, wanted, edits.Scope.WHOLE, style)
        assert_late(put, frame)
        now = values_of_pose(put.curves("porter"), rig, frame)
        assert max(abs(now[i] - v) for i, v in wanted.items()) < 1e-12


def test_a_key_pose_between_has_its_arm_late_and_changes_nothing(late: Shot) -> None:
    rig = late.figure("porter").rig
    keyed = pose_keys.key_pose(late, "porter", 123)
    assert_late(keyed, 117, 123, 129)
    frames = np.arange(101, 150, 0.25)
    a, b = (channel_values(s.curves("porter"), rig, frames) for s in (late, keyed))
    assert np.abs(a - b).max() < 1e-9


@pytest.mark.parametrize("every", [2, 3, 4])
def test_fills_as_near_as_the_arm_is_late_are_late_too(late: Shot, every: int) -> None:
    filled = fill_breakdowns(late, "porter", 117, 129, every)
    assert_late(filled, *np.arange(117.0, 129.0, every), 129, 141)


def test_frames_put_in_and_taken_out_keep_the_lag(late: Shot) -> None:
    longer = timing.insert_frames(late, 117, 2)
    assert_late(longer, 109, 117, 131, 143)
    back = timing.remove_frames(longer, 117, 2)
    assert_late(back, *POSES[1:])
    with pytest.raises(BadMotion, match="not empty"):
        timing.remove_frames(late, 117, 9)


def test_poses_drawn_apart_and_spread_keep_the_lag(late: Shot) -> None:
    curves = late.curves("porter")
    chosen = key_sets.joined_keys(*(keys_of_pose(curves, f) for f in POSES[1:]))
    assert_late(key_sets.scale_keys(late, "porter", chosen, 109, 2.0), 109, 125, 149, 173)
    assert_late(key_sets.spread_keys(late, "porter", chosen), 109, 120, 130, 141)


@pytest.mark.parametrize("lag", [0.5, 1.0, 2.5, 3.0])
def test_between_two_poses_that_a_part_comes_equally_late_to_it_is_as_late(lag: float) -> None:
    """To the fraction of a frame; where it comes to one later than to the other, on a whole frame between."""
    shot = _even(script.demo())
    rig = shot.figure("porter").rig
    arm = next(i for n, i in ((rig.channel_names[i], i) for i in range(len(rig.channels))) if n == "left hand/turn")
    body = rig.channel_names.index("chest/turn")
    even = script.slide(shot, "porter", lag, ["left arm"], start=109).curves("porter")
    made = lags_between(even, 117.0, 129.0, 123.0)
    assert made[arm] == pytest.approx(lag, abs=1e-6) and made[body] == 0.0
    odd = script.slide(
        script.slide(shot, "porter", 1.0, ["left arm"], start=109), "porter", lag, ["left arm"], start=125
    )
    wanted = lag + 1.0 if lag else 1.0
    between = lags_between(odd.curves("porter"), 117.0, 129.0, 123.0)[arm]
    assert between == np.round(1.0 + (wanted - 1.0) / 2)
