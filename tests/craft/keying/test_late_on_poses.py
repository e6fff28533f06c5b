"""Late parts whose keys lie on the frames of other poses: whose they are is told by what they are and how late the part comes."""

from functools import cache
from itertools import pairwise

import numpy as np
import pytest

from bovrin import script as bv
from bovrin.craft.keying import timing
from bovrin.craft.keying.cards import card_at
from bovrin.craft.keying.keys import whole_poses_of
from bovrin.craft.keying.lag import card_poses_of, lags_at, poses_of
from bovrin.shot import KeyRole, Shot

POSES = (101.0, 113.0, 125.0, 137.0)
SHARES = [0, 0.1, 0.2, 0.3, 0.45, 0.5, 0.6, 0.7, 0.8, 0.85, 0.9, 0.95, 1]
LATE = (0.5, 1.0, 2.0, 3.0)


@cache
def blocked(*, late: float, every: int, eased: bool = False) -> Shot:
    """Four poses of the porter, filled on ones, twos or fours, whose head comes late to all of them."""
    shot = Shot("late", last=150.0).with_figure(bv.demo().figure("porter"))
    for n, frame in enumerate(POSES):
        turned = {"head/turn": 15.0 * (-1) ** n * (n + 1), "chest/tilt": 4.0 * n, "left hand/up": 0.04 * n}
        shot = bv.key_pose(bv.set_values(shot, "porter", frame, turned), "porter", frame)
    for start, end in pairwise(POSES):
        shot = bv.fill_breakdowns(shot, "porter", start, end, every, favour=0.3) if every else shot
    shot = bv.splined(shot, "porter") if eased else shot
    return bv.slide(shot, "porter", late, ["head"])


def drawn(every: int) -> list[float]:
    return np.arange(POSES[0], POSES[-1] + 1, every).tolist() if every else list(POSES)


def cards(shot: Shot) -> dict[float, int]:
    found = card_poses_of(shot.curves("porter"))
    return dict(zip(found.frames.tolist(), found.roles.tolist(), strict=True))


def head(shot: Shot) -> list[int]:
    rig = shot.figure("porter").rig
    return list(rig.part_channels(rig.part("head")))


def assert_late(shot: Shot, frames: list[float], late: float) -> None:
    for frame in frames:
        lags = lags_at(shot.curves("porter"), frame)
        assert np.allclose(lags[head(shot)], late), (frame, lags[head(shot)])
        assert not np.delete(lags, head(shot)).any(), frame


@pytest.mark.parametrize("every", [1, 2, 4])
@pytest.mark.parametrize("late", LATE)
def test_breakdowns_stay_breakdowns_under_a_late_head(late: float, every: int) -> None:
    shot = blocked(late=late, every=every)
    wanted = {f: KeyRole.KEY_POSE if f in POSES else KeyRole.BREAKDOWN for f in drawn(every)}
    assert {f: role for f, role in cards(shot).items() if f in wanted} == wanted
    assert set(cards(shot)) == set(wanted), "what comes late has no card"
    assert_late(shot, drawn(every), late)
    roles = poses_of(shot.curves("porter"))
    assert all(int(r) == wanted[f] for f, r in zip(roles.frames.tolist(), roles.roles, strict=True) if f in wanted)


@pytest.mark.parametrize("every", [1, 2, 4])
@pytest.mark.parametrize("late", LATE)
def test_another_favour_reaches_the_breakdown_and_its_late_head(late: float, every: int) -> None:
    shot = blocked(late=late, every=every)
    at = 117.0
    made = bv.breakdown(shot, "porter", at, 0.8)
    assert_late(made, drawn(every), late)
    assert cards(made) == cards(shot)
    assert card_at(made, "porter", at).blend is not None
    channel = made.figure("porter").rig.channel("head/turn")
    curves = made.curves("porter")[channel]
    before, now, after = (float(curves.values[curves.index_at(f + late) or 0]) for f in (113.0, at, 125.0))
    assert now == pytest.approx(before + 0.8 * (after - before), abs=1e-9)


@pytest.mark.parametrize("eased", [False, True])
@pytest.mark.parametrize("late", LATE)
def test_a_chart_of_the_late_part_reads_what_was_set(late: float, eased: bool) -> None:
    shot = blocked(late=late, every=0, eased=eased)
    charted = bv.set_chart(shot, "porter", 113.0, 125.0, SHARES, part="head")
    off = np.abs(np.array(bv.chart(charted, "porter", 113.0, 125.0, part="head")) - SHARES).max()
    assert off < (0.01 if eased else 1e-6)
    assert_late(charted, list(POSES), late)
    again = bv.set_chart(charted, "porter", 113.0, 125.0, SHARES[::-1][::-1], part="head")
    assert_late(again, list(POSES), late)


COMMANDS = {
    "a chart of the head": lambda s: bv.set_chart(s, "porter", 113.0, 125.0, SHARES, part="head"),
    "a fill on twos": lambda s: bv.fill_breakdowns(s, "porter", 113.0, 125.0, 2),
    "a fill on threes": lambda s: bv.fill_breakdowns(s, "porter", 113.0, 125.0, 3),
    "a value on the pose's own frame": lambda s: bv.set_values(s, "porter", 113.0, {"head/turn": 3.0}),
    "a head keyed on the pose's own frame": lambda s: bv.key_pose(s, "porter", 125.0, parts=["head"]),
    "in-betweens": lambda s: bv.shape(s, "porter", ["head/turn"], 101, 137, "fill in", 1.0, every=2),
}


@pytest.mark.parametrize("eased", [False, True])
@pytest.mark.parametrize("name", COMMANDS)
@pytest.mark.parametrize("late", LATE)
def test_after_a_command_and_another_the_pose_takes_its_head_along(late: float, name: str, eased: bool) -> None:
    shot = COMMANDS[name](blocked(late=late, every=0, eased=eased))
    assert_late(shot, list(POSES), late)
    shot = bv.set_values(shot, "porter", 137.0, {"chest/tilt": 30.0})
    own = bv.values(shot, "porter", 125.0 + late)["head/turn"]
    for by in (1.0, -1.0):
        moved = timing.move_pose(shot, "porter", 125.0, 125.0 + by)
        third = whole_poses_of(moved.curves("porter")).frames.tolist()[-2]  # keys that stay may leave no room
        assert abs(third - 125.0) <= 1.0
        assert_late(moved, [101.0, 113.0, third, 137.0], late)
        assert bv.values(moved, "porter", third + late)["head/turn"] == pytest.approx(own, abs=1e-6)
    held = timing.lengthen(shot, "porter", 113.0, 3.0)
    assert_late(held, [101.0, 113.0, 128.0, 140.0], late)
