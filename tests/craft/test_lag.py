"""Parts that come late stay late, whatever tool is used."""

from collections.abc import Callable

import numpy as np
import pytest

from bovrin import script
from bovrin.craft import pose_keys, timing
from bovrin.craft.breakdown import breakdown, fill_breakdowns
from bovrin.craft.chart import chart, set_chart
from bovrin.craft.lag import card_poses_of, lags_at, values_of_pose
from bovrin.craft.mirror import mirror
from bovrin.craft.push import push_past, settle
from bovrin.shot import Shot

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


def test_mirrored_the_other_part_comes_late(late: Shot) -> None:
    rig = late.figure("porter").rig
    turned = mirror(late, "porter", [109, 117, 129, 141])
    other = list(rig.part_channels(rig.part("right arm")))
    for frame in (109, 117, 129, 141):
        lags = lags_at(turned.curves("porter"), frame)
        assert (lags[other] == LAG).all() and (np.delete(lags, other) == 0).all()
    assert cards(turned) == list(POSES)
    back = mirror(turned, "porter", [109, 117, 129, 141])
    assert_late(back, 109, 117, 129, 141)


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
