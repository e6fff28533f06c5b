"""Where a figure looks: eyes meet at the place within what they turn, stay on it while the head moves, lids close and open."""

from functools import cache
from pathlib import Path

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation
from tests.cycles import alone
from tests.formats import gltf_maker as make
from tests.strategies import few

from bovrin import cast, script
from bovrin.craft.pose.gaze import gaze_off
from bovrin.errors import BovrinError
from bovrin.figure.solve.joints import solve
from bovrin.figure.stages.gaze import CLOSED, HEAD_WIDEST, WIDEST, eyes_of, gaze_plan, looked
from bovrin.figure.staging import staged, stance
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Shot

DEMO = script.splined(script.demo(), "porter")
EYES = ("left eye", "right eye")


def off(shot: Shot, figure: str, frame: float, place: np.ndarray) -> list[float]:
    """By how many degrees each eye looks past a place: an oracle from sampled joints."""
    motion = script.sample(shot, figure, [frame])
    found = []
    for eye in eyes_of(shot.figure(figure).rig):
        turn = Rotation.from_quat(motion.rotation[0, eye.joint])
        look, way = turn.apply(eye.way), place - motion.position[0, eye.joint]
        found.append(float(np.degrees(np.arccos(np.clip(look @ way / np.linalg.norm(way), -1, 1)))))
    return found


def ahead(frame: float) -> tuple[np.ndarray, np.ndarray]:
    """Between the porter's eyes, and the axes of his head as rows."""
    motion = script.sample(DEMO, "porter", [frame])
    j = motion.joints.index("head")
    eyes = [motion.joints.index(name) for name in EYES]
    return motion.position[0, eyes].mean(0), Rotation.from_quat(motion.rotation[0, j]).as_matrix().T


@few
@given(st.floats(-0.6, 0.6), st.floats(-0.6, 0.6), st.sampled_from([101.0, 114.0, 127.5, 143.0]))
def test_both_eyes_look_at_a_place_before_the_head(across: float, up: float, frame: float) -> None:
    middle, axes = ahead(frame)
    place = middle + axes[2] * 1.5 + axes[0] * across + axes[1] * up
    shot = script.look_at(DEMO, "porter", frame, place, head=0.0)
    assert max(off(shot, "porter", frame, place)) < 0.1
    changed = {c.partition("/")[0] for c in script.channels(shot, "porter") if script.curve(shot, "porter", c).values.size and
               script.values(shot, "porter", frame)[c] != script.values(DEMO, "porter", frame)[c]}  # fmt: skip
    assert changed <= {*EYES, "left lid", "right lid"}
    for other in ("crate", "buoy"):
        assert shot.curves(other) is DEMO.curves(other)


@given(st.floats(-np.pi, np.pi), st.floats(-1.5, 1.5))
def test_no_eye_turns_farther_than_it_can_and_none_jumps(round_: float, up: float) -> None:
    middle, _ = ahead(101)
    rig = DEMO.figure("porter").rig
    shots = []
    for turn in (round_, round_ + 0.002):
        place = middle + [np.sin(turn), up, np.cos(turn)]
        shots.append(script.look_at(DEMO, "porter", 101, place, head=0.0))
    values = [channel_values(s.curves("porter"), rig, [101])[0] for s in shots]
    for name in EYES:
        turn, tilt = (values[0][rig.channel(f"{name}/{c}")] for c in ("turn", "tilt"))
        assert np.arccos(np.clip(np.cos(turn) * np.cos(tilt), -1, 1)) <= WIDEST + 1e-3
    assert np.abs(values[0] - values[1]).max() < 0.08


def test_the_head_takes_its_share() -> None:
    middle, axes = ahead(101)
    place = middle + axes[2] + axes[0] * 1.2
    rig = DEMO.figure("porter").rig
    turns = []
    for share in (0.0, 0.3, 1.0):
        shot = script.look_at(DEMO, "porter", 101, place, head=share)
        turns.append(script.values(shot, "porter", 101)["head/turn"])
        if share:
            assert max(off(shot, "porter", 101, place)) < 0.1
    assert turns[1] - turns[0] == pytest.approx(0.3 * (turns[2] - turns[0]), rel=0.15)
    assert rig.channel("head/turn")


def test_a_look_at_another_figure_s_joint() -> None:
    shot = script.look_at(DEMO, "porter", 119, ("buoy", DEMO.figure("buoy").rig.joints[0].name), head=0.5)
    buoy = script.sample(shot, "buoy", [119]).position[0, 0]
    assert off(shot, "porter", 119, buoy)[0] < off(DEMO, "porter", 119, buoy)[0]


def test_a_held_gaze_stays_on_its_place_while_the_head_moves() -> None:
    middle, axes = ahead(119)
    place = middle + axes[2] * 2.0
    shot = script.hold_gaze(DEMO, "porter", 115, 127, place)
    limit = np.degrees(WIDEST)
    for frame in np.arange(115, 127.01, 0.5):
        before, now = off(DEMO, "porter", frame, place), off(shot, "porter", frame, place)
        assert all(n < 0.5 or b > limit - 1 for b, n in zip(before, now, strict=True)), frame
    keys = {c: len(script.keys(shot, "porter", c)) for c in script.channels(shot, "porter") if "eye" in c}
    assert max(keys.values()) < 13 + len(script.keys(DEMO, "porter", "head/turn")), "no key on every frame and more"
    frames = np.concatenate([np.arange(90, 115, 0.5), np.arange(127.5, 170, 0.5)])
    rig = shot.figure("porter").rig
    eye = [i for i, c in enumerate(rig.channel_names) if "eye" not in c and "lid" not in c]
    was, now_ = (channel_values(s.curves("porter"), rig, frames)[:, eye] for s in (DEMO, shot))
    assert np.array_equal(was, now_)


@pytest.mark.parametrize("name", ["porter", "goat"])
@pytest.mark.parametrize("share", [0.3, 1.0])
def test_a_place_goes_all_round_and_neither_head_nor_eyes_flip(name: str, share: float) -> None:
    """Straight behind both sides are as near; the head stays within its limit, and what it turns is as the place goes on."""
    bare, steps = alone(name), np.linspace(-np.pi, np.pi, 721)
    rig = bare.figure(name).rig
    rest, plan = stance(bare, name, 101), gaze_plan(rig)
    assert plan is not None
    watched = [plan.head, *(eye.joint for eye in plan.eyes)]
    middle = rest.world[watched[1:], :3, 3].mean(0)
    values = np.tile(rest.values, (len(steps), 1))
    values[:, plan.move] = middle - plan.rest + np.stack([np.sin(steps), 0.03 + 0 * steps, np.cos(steps)], -1)
    values[:, [plan.look, plan.share]] = 1.0, share
    turns = solve(rig, looked(rig, values))[:, watched, :3, :3]
    onward = Rotation.from_matrix((turns[1:] @ np.swapaxes(turns[:-1], -1, -2)).reshape(-1, 3, 3)).magnitude()
    assert np.degrees(onward).max() < 8 * 0.5, "half a degree of the place"
    away = Rotation.from_matrix(turns[:, 0] @ rest.world[plan.head, :3, :3].T).magnitude()
    assert away.max() < HEAD_WIDEST + 1e-6


def test_a_goat_sees_what_is_straight_ahead() -> None:
    bare = alone("goat")
    now = stance(bare, "goat", 101)
    eyes = [eye.joint for eye in eyes_of(now.rig)]
    place = now.world[eyes, :3, 3].mean(0) + [0.0, 0.05, 2.0]
    shot = script.set_gaze(bare, "goat", 101, place, head=0.0)
    assert script.gaze_misses(shot, "goat", 101, 101, place) == []


def test_a_gaze_out_of_reach_is_told_and_leaves_without_a_jump() -> None:
    """Where the eyes cannot stay on the place they go as far as they turn; nothing jumps as they leave and come back."""
    middle, axes = ahead(101)
    aside = middle + axes[2] * 0.6 + axes[0] * 0.55
    shot = script.hold_gaze(DEMO, "porter", 103, 141, aside)
    missed = script.gaze_misses(shot, "porter", 103, 141, aside)
    assert missed and len(missed) < 39
    frames = np.arange(103, 141.01, 0.5)
    turns = staged(shot, "porter", frames).world[:, [shot.figure("porter").rig.joint(name) for name in EYES], :3, :3]
    before = staged(DEMO, "porter", frames).world[:, shot.figure("porter").rig.joint("head"), :3, :3]
    own, heads = (
        Rotation.from_matrix((t[1:] @ np.swapaxes(t[:-1], -1, -2)).reshape(-1, 3, 3)).magnitude()
        for t in (turns, before)
    )
    assert own.max() < heads.max() + np.radians(15)


def test_a_blink_closes_opens_and_leaves_all_else_as_it_was() -> None:
    shot = script.blink(DEMO, "porter", 145)
    lids = [script.values(shot, "porter", f)["left lid/close"] for f in np.arange(144, 152, 0.5)]
    assert max(lids) == pytest.approx(np.degrees(CLOSED), abs=0.1)
    frames = np.concatenate([np.arange(100, 145.01, 0.5), np.arange(150, 160, 0.5)])
    rig = shot.figure("porter").rig
    was, now = (channel_values(s.curves("porter"), rig, frames) for s in (DEMO, shot))
    assert np.abs(was - now).max() < 1e-9
    assert script.blink(shot, "porter", 145).take.curves["porter"] is not None


def test_a_dart_stays_then_is_there() -> None:
    middle, axes = ahead(145)
    place = middle + axes[2] + axes[0] * 0.4
    shot = script.dart(DEMO, "porter", 145, place)
    rig = shot.figure("porter").rig
    was, now = (channel_values(s.curves("porter"), rig, [145.0])[0] for s in (DEMO, shot))
    assert np.abs(was - now).max() < 1e-9
    assert max(off(shot, "porter", 147, place)) < 0.5


@cache
def stranger(folder: Path) -> Shot:
    joints = {
        **make.TWO_LEGS,
        "eye.L": ("Kugel", (0.03, 1.6, 0.1)),
        "eye.R": ("Kugel", (-0.03, 1.6, 0.1)),
    }
    path = folder / "eyes.glb"
    path.write_bytes(make.figure(joints).glb())
    return script.bring(path)


def test_brought_figures_and_the_goat_look_too(tmp_path: Path) -> None:
    shot = stranger(tmp_path)
    name = shot.cast[0].name
    assert len(eyes_of(shot.cast[0].rig)) == 2
    place = np.array([0.3, 1.5, 2.0])
    assert max(off(script.look_at(shot, name, 101, place, head=0.0), name, 101, place)) < 0.1
    goat = script.load(cast.GOAT)
    motion = script.sample(goat, "goat", [101])
    head = motion.position[0, motion.joints.index("head")]
    eyes = eyes_of(goat.figure("goat").rig)
    assert [eye.lid >= 0 for eye in eyes] == [True, True]
    for eye in eyes:
        turn = Rotation.from_quat(motion.rotation[0, eye.joint])
        place = motion.position[0, eye.joint] + turn.apply(eye.way + [0.3, 0.2, 0.0])
        shot = script.look_at(goat, "goat", 101, place, head=0.0)
        assert off(shot, "goat", 101, place)[eyes.index(eye)] < 0.1
    assert head.shape == (3,)


def test_who_has_no_eyes_and_bad_places_are_told() -> None:
    for act in (
        lambda: script.look_at(DEMO, "crate", 101, (0, 0, 0)),
        lambda: script.blink(DEMO, "crate", 101),
        lambda: script.look_at(DEMO, "porter", 101, (0, 0)),
        lambda: script.look_at(DEMO, "porter", 101, (np.nan, 0, 0)),
        lambda: script.look_at(DEMO, "porter", 101, ("nobody", "hand")),
        lambda: script.look_at(DEMO, "porter", 101, ("buoy", "hand")),
        lambda: script.hold_gaze(DEMO, "porter", 110, 110, (0, 0, 0)),
        lambda: script.dart(DEMO, "porter", 110, (0, 0, 0), 0),
    ):
        with pytest.raises(BovrinError):
            act()


def test_a_gaze_that_is_looked_at_keeps_both_eyes_on_its_place_however_the_head_moves() -> None:
    """Keys on two frames, the head turning between: an oracle from sampled joints on every half frame."""
    middle, axes = ahead(119)
    place = middle + axes[2] * 2.5
    shot = script.set_gaze(DEMO, "porter", 117, place, head=0.0)
    shot = gaze_off(shot, "porter", 131)
    limit = np.degrees(WIDEST)
    for frame in np.arange(117, 127.01, 0.5):  # then it eases off
        assert max(off(shot, "porter", frame, place)) < 0.05, frame
    poses = [119.0, 127.0]
    looks = [script.values(shot, "porter", f)["gaze/look"] for f in (*poses, 131, 133, 143)]
    assert looks == [1, 1, 0, 0, 0] and limit > 30
    eye = shot.figure("porter").rig.joint("left eye")
    turns = [
        script.sample(s, "porter", [131]).rotation[0, eye]
        for s in (script.set_gaze(DEMO, "porter", 117, place, head=0.0), shot)
    ]
    assert abs(turns[0] @ turns[1]) > 1 - 1e-9, "nothing jumps where it goes off"
    rig = shot.figure("porter").rig
    own = {c.partition("/")[0] for c, a, b in zip(rig.channel_names, DEMO.curves("porter").curves, shot.curves("porter").curves,
                                                  strict=True) if a is not b}  # fmt: skip
    assert own <= {"gaze", "head", "left eye", "right eye", "left lid", "right lid"}
    body = [n for n, j in enumerate(rig.joints) if "eye" not in j.name and "lid" not in j.name]
    frames = np.concatenate([np.arange(101, 114.1, 0.5), np.arange(117, 119.1, 0.5), np.arange(143, 160, 0.5)])
    was, seen = (script.sample(s, "porter", frames).position[:, body] for s in (DEMO, shot))
    assert np.abs(was - seen).max() < 1e-9


@given(st.floats(0, 1), st.floats(0, 1))
def test_look_blends_and_the_head_takes_its_share(look: float, head: float) -> None:
    middle, axes = ahead(101)
    place = middle + axes[2] * 1.5 + axes[0] * 0.5
    shot = script.set_gaze(DEMO, "porter", 101, place, look, head)
    full = script.set_gaze(DEMO, "porter", 101, place, 1.0, 1.0)
    turns = [
        script.sample(s, "porter", [101]).rotation[0, DEMO.figure("porter").rig.joint("head")]
        for s in (DEMO, shot, full)
    ]
    angle = [2 * np.arccos(np.clip(abs(turns[0] @ turn), 0, 1)) for turn in turns[1:]]
    assert angle[0] == pytest.approx(look * head * angle[1], abs=2e-3)
    off_now, off_before = (np.mean(off(s, "porter", 101, place)) for s in (shot, DEMO))
    assert off_now <= off_before + 1e-6 and (look < 1 or off_now < 0.1)


def test_no_gaze_changes_nothing_and_none_jumps_as_it_comes_on() -> None:
    shot = script.set_gaze(DEMO, "porter", 110, (0.0, 1.0, 3.0), look=0.0)
    frames = np.arange(101, 160, 0.5)
    was, now = (script.sample(s, "porter", frames).rotation for s in (DEMO, shot))
    assert np.array_equal(was, now)
    middle, axes = ahead(110)
    for look in (0.0, 0.001):
        shots = [script.set_gaze(DEMO, "porter", 110, middle + axes[2] + axes[0] * 0.3, look=look) for _ in range(1)]
    eye = DEMO.figure("porter").rig.joint("left eye")
    one = script.sample(shots[0], "porter", [110]).rotation[0, eye]
    assert abs(one @ script.sample(DEMO, "porter", [110]).rotation[0, eye]) > 1 - 1e-6


def test_a_gaze_follows_another_figure_and_comes_back_from_a_file(tmp_path: Path) -> None:
    joint = DEMO.figure("buoy").rig.joints[0].name
    shot = script.follow_gaze(DEMO, "porter", 109, 120, ("buoy", joint))
    place = script.sample(shot, "buoy", np.arange(109, 120.1, 0.5)).position[:, 0]
    from bovrin.figure.stages.gaze import gaze_places
    from bovrin.figure.staging import staged

    found = staged(shot, "porter", np.arange(109, 120.1, 0.5))
    off_by = np.linalg.norm(gaze_places(found.rig, found.values, found.world) - place, axis=1)
    assert off_by.max() < 0.01, "within a centimetre on every half frame"
    script.save(shot, tmp_path / "g.bovrin.json")
    back = script.load(tmp_path / "g.bovrin.json")
    a, b = (script.sample(s, "porter", [112, 118]).rotation for s in (shot, back))
    assert np.allclose(a, b, atol=1e-9)
    script.export(shot, tmp_path / "g.glb")
    again = script.bring(tmp_path / "g.glb")
    name = next(f.name for f in again.cast if "porter" in f.name)
    turns = [script.sample(s, n, [115]) for s, n in ((shot, "porter"), (again, name))]
    eye = [t.rotation[0, t.joints.index("left eye")] for t in turns]
    assert abs(eye[0] @ eye[1]) > 1 - 1e-4, "what is handed on looks there, too"


@example(-3.0, 1.0, 0.0)
@example(3.0, 0.0, 0.0)
@given(st.floats(-3.0, 3.0), st.floats(0.0, 1.0), st.floats(0.0, 1.0))
def test_a_lid_goes_along_and_never_past_open_or_closed(up: float, shut: float, head: float) -> None:
    """However far down a figure looks, and however far its lids are down already."""
    rig = DEMO.figure("porter").rig
    lids = [rig.channel_names[eye.lid] for eye in eyes_of(rig)]
    shot = script.set_values(DEMO, "porter", 119, dict.fromkeys(lids, float(np.degrees(CLOSED)) * shut))
    middle, axes = ahead(119.0)
    looks = script.look_at(shot, "porter", 119, middle + 0.4 * axes[2] + up * axes[1], head=head)
    for lid in lids:
        assert -1e-9 <= script.values(looks, "porter", 119)[lid] <= np.degrees(CLOSED) + 1e-9
