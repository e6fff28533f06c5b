"""Clips: kept, laid, made stronger and weaker, faded in step, added to, keyed on top of, and turned back into keys."""

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.spatial.transform import Rotation
from tests.cycles import alone, cycle_of, lively, places, slid

from bovrin import script as bv
from bovrin.craft.clips.keeping import clip_of, with_clip
from bovrin.craft.clips.laying import missing_channels, mute_lane, with_laid
from bovrin.errors import BovrinError
from bovrin.figure.staging import staged
from bovrin.shot import Shot

EVERY = np.arange(101.0, 200.0, 0.5)


@cache
def walk() -> Shot:
    return lively(cycle_of("porter", "walk", 32, 0.8), "porter")


@cache
def shelf() -> Shot:
    """A shot whose porter has no keys, and three clips: walk, run, and a turn of the head."""
    run = lively(cycle_of("porter", "run", 18, 1.2), "porter")
    nod = alone("porter")
    for frame, turn in ((101, 0.0), (109, 30.0), (117, 0.0)):
        nod = bv.set_values(nod, "porter", frame, {"head/turn": turn, "neck/tilt": turn / 3})
    shot = replace(alone("porter"), last=300.0)
    for name, source, end in (("walk", walk(), 133), ("run", run, 119)):
        shot = with_clip(shot, clip_of(source, "porter", name, 101, end, loop=True))
    return with_clip(shot, clip_of(bv.splined(nod, "porter"), "porter", "nod", 101, 117))


def at(shot: Shot, channel: str, frames: object) -> np.ndarray:
    """What clips and keys do together (F,), in the shot's own units."""
    return np.asarray(staged(shot, "porter", frames).values[:, shot.figure("porter").rig.channel(channel)])


def test_a_clip_laid_once_is_its_keys() -> None:
    kept = bv.keep_clip(walk(), "porter", "walk", 101, 133, loop=True)
    laid = bv.lay_clip(kept, "porter", "walk", 101)
    once = np.arange(101.0, 133.01, 0.25)
    assert np.abs(places(laid, "porter", once) - places(walk(), "porter", once)).max() < 1e-12
    assert not any(len(c) for c in laid.curves("porter").curves), "its keys do not count twice"
    four = bv.lay_clip(kept, "porter", "walk", 101, repeats=4.0)
    rounds = np.arange(101.0, 229.0, 0.25)
    assert np.abs(places(four, "porter", rounds) - places(walk(), "porter", rounds)).max() < 1e-9


@given(st.floats(0.3, 5.0), st.floats(0.3, 3.0))
def test_repeats_are_continuous_at_any_speed(repeats: float, speed: float) -> None:
    shot = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=repeats, speed=speed)
    fine = np.arange(99.0, 101 + 32 * repeats / speed + 3, 0.125)
    steps = np.linalg.norm(np.diff(places(shot, "porter", fine), axis=0), axis=2).max()
    natural = np.linalg.norm(np.diff(places(walk(), "porter", np.arange(101.0, 134, 0.125)), axis=0), axis=2).max()
    assert steps < natural * speed * 1.2 + 1e-6


@given(st.sampled_from([0.0, 0.4, 1.0, 1.3]))
def test_strength_goes_about_the_neutral_pose(strength: float) -> None:
    shot = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=2, strength=strength)
    clip = shelf().clip("walk")
    frames = np.arange(101.0, 160.0, 0.5)
    for name in ("left foot/up", "hips/up", "left foot/forward"):
        own, plain = at(shot, name, frames), at(walk(), name, frames)
        assert np.abs(own - (clip.neutral[name] + strength * (plain - clip.neutral[name]))).max() < 1e-9
    way = np.ptp(places(shot, "porter", frames)[:, 0, 2])
    assert way == pytest.approx(strength * np.ptp(places(walk(), "porter", frames)[:, 0, 2]), abs=1e-9)
    if strength == 0.0:
        assert np.ptp(places(shot, "porter", frames), axis=0).max() < 1e-12


def turn(shot: Shot, joint: str, frame: float) -> Rotation:
    motion = bv.sample(shot, "porter", [frame])
    parent = {"head": "neck"}[joint]
    one, above = (Rotation.from_quat(motion.rotation[0, motion.joints.index(name)]) for name in (joint, parent))
    return above.inv() * one


def test_added_clips_turn_on_top_and_over_replaces() -> None:
    base = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=3)
    over = bv.lay_clip(base, "porter", "nod", 120, lane=1, how="over")
    added = bv.lay_clip(base, "porter", "nod", 120, lane=1, how="added")
    nod = bv.lay_clip(shelf(), "porter", "nod", 120)
    assert (turn(over, "head", 128) * turn(nod, "head", 128).inv()).magnitude() < 1e-9
    here, plain = turn(added, "head", 128), turn(base, "head", 128)
    assert 0.1 < (here * plain.inv()).magnitude() < 1.0
    apart = [f for f in EVERY if f < 120 or f > 136]
    for shot in (over, added):
        assert np.abs(places(shot, "porter", np.array(apart)) - places(base, "porter", np.array(apart))).max() < 1e-12
    half = bv.lay_clip(base, "porter", "nod", 120, lane=1, weight=0.5)
    between = (turn(half, "head", 128) * plain.inv()).magnitude()
    whole = (turn(over, "head", 128) * plain.inv()).magnitude()
    assert between == pytest.approx(whole / 2, rel=0.05)
    none = bv.lay_clip(base, "porter", "nod", 120, lane=1, weight=0.0)
    assert np.abs(places(none, "porter", EVERY) - places(base, "porter", EVERY)).max() < 1e-12


def test_muted_parts_rest_and_muted_lanes_are_not_heard() -> None:
    shot = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=2, mute=("left leg", "hips", "chest/turn"))
    rest = bv.values(alone("porter"), "porter", 101)
    for name in ("left foot/forward", "hips/up", "chest/turn"):
        assert np.abs(at(shot, name, [105, 120, 140]) - rest[name]).max() < 1e-12
    assert np.ptp(at(shot, "right foot/forward", EVERY)) > 0.1
    silent = mute_lane(shot, "porter", 0, muted=True)
    assert np.abs(places(silent, "porter", EVERY) - places(alone("porter"), "porter", EVERY)).max() == 0
    everything = list(bv.parts(shot, "porter"))
    still = bv.lay_clip(shelf(), "porter", "walk", 101, mute=[*everything, "whole figure"])
    assert np.ptp(places(still, "porter", EVERY), axis=0).max() < 1e-12


def test_hand_keys_go_on_top() -> None:
    base = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=3)
    from bovrin.craft.keying.edits import Scope, edited
    from bovrin.craft.keying.keys import EASED, KeyStyle
    from bovrin.shot import KeyRole

    rig = base.figure("porter").rig
    i = rig.channel("chest/turn")
    wanted = np.radians(25.0)
    made = edited(base, "porter", 120, {i: wanted}, Scope.TOUCHED, KeyStyle(EASED, KeyRole.KEY_POSE))
    assert bv.values(made, "porter", 120)["chest/turn"] != pytest.approx(25.0), "what is keyed is what is added"
    assert staged(made, "porter", 120).values[0, i] == pytest.approx(wanted)
    before = staged(base, "porter", 140).values[0, i]
    by = wanted - staged(base, "porter", 120).values[0, i]
    assert staged(made, "porter", 140).values[0, i] == pytest.approx(before + by), "it is added everywhere"


@given(st.floats(150, 200), st.floats(8, 30))
def test_in_a_fade_feet_stay_and_nothing_jumps(start: float, frames: float) -> None:
    start, frames = round(start), round(frames)
    shot = bv.lay_clip(bv.lay_clip(shelf(), "porter", "walk", 101, repeats=4), "porter", "run", 229, repeats=5)
    faded = bv.crossfade(shot, "porter", 0, start, frames)
    fine = np.arange(101.0, start + 70, 0.5)
    steps = np.linalg.norm(np.diff(places(faded, "porter", fine), axis=0), axis=2).max()
    assert steps < 0.095
    for foot, spans in bv.contacts(faded, "porter").items():
        for first, last in spans:
            if last - first > 2 and first < start + frames + 10 and last > start - 10:
                assert slid(faded, "porter", foot, first, last) < 5e-3


def test_what_the_next_clip_does_not_move_stays_as_it_was_left() -> None:
    shot = bv.lay_clip(bv.lay_clip(shelf(), "porter", "walk", 101, repeats=2.0), "porter", "nod", 150)
    fine = np.arange(140.0, 190.0, 0.125)
    steps = np.linalg.norm(np.diff(places(shot, "porter", fine), axis=0), axis=2)
    assert steps.max() < 0.03, "no joint pops where the fade ends"
    last = at(bv.lay_clip(shelf(), "porter", "walk", 101, repeats=2.0), "hips/up", [165.0])
    assert np.abs(at(shot, "hips/up", [180.0, 190.0]) - last).max() < 1e-9, "the hips are as the walk left them"


def test_before_and_after_a_fade_clips_are_themselves() -> None:
    shot = bv.lay_clip(bv.lay_clip(shelf(), "porter", "walk", 101, repeats=4), "porter", "run", 229, repeats=5)
    faded = bv.crossfade(shot, "porter", 0, 180, 16)
    plain = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=4)
    before = np.arange(101.0, 147.0, 0.5)
    assert np.abs(places(faded, "porter", before) - places(plain, "porter", before)).max() < 1e-9
    names = ("chest/turn", "hips/up", "left foot/forward", "right upper arm/tilt")
    after = [230.0, 236.5, 243.0]
    runs = bv.lay_clip(shelf(), "porter", "run", 101, repeats=20)
    shifts = np.arange(0.0, 18.0, 0.0625)
    off = [
        max(np.abs(at(faded, n, after) - at(runs, n, np.array(after) + s - 80)).max() for n in names) for s in shifts
    ]
    assert min(off) < 0.02, "after it the run goes as it goes, on some share of its round"


def test_a_clip_follows_where_the_last_one_got() -> None:
    shot = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=2)
    shot = bv.lay_clip(shot, "porter", "run", 165, repeats=3)
    root = places(shot, "porter", np.arange(101.0, 215.0, 0.5))[:, 0]
    assert np.linalg.norm(np.diff(root, axis=0), axis=1).max() < 0.04
    assert root[-1, 2] > 1.6 + 2.5


def test_a_turning_clip_goes_round_in_a_circle() -> None:
    turning = bv.set_values(walk(), "porter", 133, {"whole figure/turn": 30.0})
    shot = with_clip(shelf(), clip_of(turning, "porter", "bend", 101, 133, loop=True))
    laid = bv.lay_clip(shot, "porter", "bend", 101, repeats=12)
    root = places(laid, "porter", np.array([101.0, 101 + 12 * 32 - 1e-6]))[:, 0]
    assert np.linalg.norm(root[1] - root[0]) < 1e-3, "twelve rounds of 30 degrees come back"


@given(st.sampled_from(["walk", "run", "both", "added"]))
def test_back_to_keys_is_the_same_motion(what: str) -> None:
    shot = bv.lay_clip(shelf(), "porter", "run" if what == "run" else "walk", 101, repeats=2)
    if what == "both":
        shot = bv.crossfade(bv.lay_clip(shot, "porter", "run", 165, repeats=3), "porter", 0, 150, 10)
    if what == "added":
        shot = bv.lay_clip(shot, "porter", "nod", 110, lane=1, how="added", strength=1.4)
    keyed = bv.clips_to_keys(shot, "porter")
    end = max(one.end for lane in bv.laid(shot, "porter") for one in lane)
    frames = np.arange(101.0, end, 0.5)
    off = np.abs(staged(keyed, "porter", frames).values - staged(shot, "porter", frames).values)
    units = [c.unit.value for c in shot.figure("porter").rig.channels]
    assert off[:, [u == "length" for u in units]].max() < 5e-4
    assert off[:, [u == "angle" for u in units]].max() < np.radians(0.1)
    assert not keyed.lanes("porter")
    every = bv.clips_to_keys(shot, "porter", every_frame=True)
    whole = np.arange(101.0, end)
    assert np.abs(places(every, "porter", whole) - places(shot, "porter", whole)).max() < 1e-9


def test_a_stretch_of_clips_becomes_keys() -> None:
    shot = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=3)
    part = bv.clips_to_keys(shot, "porter", 130, 150)
    whole = np.arange(101.0, 190.0)
    assert np.abs(places(part, "porter", whole) - places(shot, "porter", whole)).max() < 2e-3
    assert part.lanes("porter") and len(bv.keys(part, "porter", "chest/turn")) >= 3


def test_what_a_clip_lacks_is_said_and_bad_input_too() -> None:
    shot = shelf()
    assert missing_channels(shot, "porter", "walk") == []
    goat = shot.with_figure(alone("goat").figure("goat"))
    assert "left foot/forward" in missing_channels(goat, "goat", "walk")
    for call in (
        lambda: bv.lay_clip(shot, "porter", "waltz", 101),
        lambda: bv.lay_clip(shot, "porter", "walk", 101, lane=5),
        lambda: bv.lay_clip(shot, "porter", "walk", 101, repeats=0.0),
        lambda: bv.lay_clip(shot, "porter", "walk", 101, first=20.0, last=10.0),
        lambda: bv.lay_clip(shot, "porter", "walk", 101, last=99.0),
        lambda: bv.lay_clip(shot, "porter", "walk", 101, how="beside"),
        lambda: bv.keep_clip(walk(), "porter", "", 101, 133),
        lambda: bv.keep_clip(walk(), "porter", "x", 133, 101),
        lambda: bv.keep_clip(alone("porter"), "porter", "x", 101, 133),
        lambda: bv.crossfade(shot, "porter", 0, 120, 10),
        lambda: bv.crossfade(bv.lay_clip(shot, "porter", "walk", 101), "porter", 0, 120, 10),
        lambda: bv.clips_to_keys(shot, "porter"),
    ):
        with pytest.raises(BovrinError):
            call()


@pytest.mark.parametrize(
    ("settings", "words"),
    [
        ({"at": float("nan")}, "finite"),
        ({"at": 1e9}, "frame 1e"),
        ({"repeats": 1e9}, "within"),
        ({"repeats": float("inf")}, "finite number"),
        ({"strength": float("nan")}, "finite"),
        ({"strength": float("inf")}, "finite"),
        ({"speed": 0.0}, "over 0"),
        ({"speed": float("nan")}, "finite number"),
        ({"hold": -1.0}, "over 0"),
        ({"weight": float("nan")}, "finite number"),
        ({"how": "under"}, "Use: over"),
        ({"loudness": 3.0}, "Settings: first"),
        ({"first": 20.0, "last": 10.0}, "not from 20 to 10"),
    ],
)
def test_no_clip_is_laid_as_it_cannot_be(settings: dict[str, object], words: str) -> None:
    with pytest.raises(BovrinError, match=words):
        bv.lay_clip(shelf(), "porter", "walk", **{"at": 101.0, **settings})  # type: ignore[arg-type]


@settings(max_examples=8)
@given(st.integers(-1000, 9000), st.floats(1.0, 90.0))
def test_any_stretch_of_a_loop_is_kept_as_it_goes(start: int, length: float) -> None:
    kept = bv.keep_clip(walk(), "porter", "some", start, start + length)
    laid = bv.lay_clip(replace(alone("porter"), clips=kept.clips), "porter", "some", start)
    fine = np.arange(start, start + length, 0.5)
    values = [staged(shot, "porter", fine).values for shot in (laid, walk())]
    assert np.abs(values[0] - values[1]).max() < 1e-9


def test_a_fade_longer_than_its_clips_is_as_long_as_they_are() -> None:
    shot = bv.lay_clip(bv.lay_clip(shelf(), "porter", "walk", 101), "porter", "nod", 133)
    faded = bv.crossfade(shot, "porter", 0, 120, 500)
    first, second = bv.laid(faded, "porter")[0]
    assert first.end == pytest.approx(second.end) and np.isfinite(places(faded, "porter", EVERY)).all()


def test_one_clip_changed_is_seen_wherever_it_lies() -> None:
    shot = bv.lay_clip(bv.lay_clip(shelf(), "porter", "walk", 101), "porter", "walk", 133)
    leaning = bv.set_body_way(walk(), "porter", "lean", 12.0)
    changed = with_clip(shot, clip_of(leaning, "porter", "walk", 101, 133, loop=True))
    for frame in (110, 142):
        assert bv.values(shot, "porter", frame) == bv.values(changed, "porter", frame), "keys say nothing"
        j = bv.sample(changed, "porter", [frame]).joints.index("head")
        assert (
            np.abs(places(changed, "porter", np.array([frame])) - places(shot, "porter", np.array([frame])))[0, j].max()
            > 0.02
        )
    ((one, _),) = bv.laid(changed, "porter")
    with pytest.raises(BovrinError):
        with_laid(changed, "porter", 0, one, last=500.0)


@pytest.mark.parametrize("way", ["left", "right", "backward"])
def test_a_step_aside_keeps_time_and_feet(way: str) -> None:
    shot = bv.sidestep(shelf(), "porter", "walk", way, 101, repeats=3)
    frames = np.arange(101.0, 197.0, 0.5)
    root = places(shot, "porter", frames)[:, 0]
    axis, sign = (2, -1.0) if way == "backward" else (0, 1.0 if way == "left" else -1.0)
    assert sign * (root[-1, axis] - root[0, axis]) > 0.3 and np.ptp(root[:, 2 - axis]) < 1e-9
    plain = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=3)
    for name in ("left foot/up", "left foot/ball", "hips/up", "chest/turn", "right foot/heel"):
        then = 298 - frames if way == "backward" else frames
        assert np.ptp(at(shot, name, frames) - at(plain, name, then)) < 1e-9, "the rest keeps its time"
    for foot, spans in bv.contacts(shot, "porter").items():
        assert max(slid(shot, "porter", foot, *span) for span in spans if span[1] <= 197) < 1e-3
    if axis == 0:
        apart = at(shot, "left foot/across", frames) - at(shot, "right foot/across", frames) + 0.24
        assert apart.min() > 0.08, "feet do not cross"
    keyed = bv.clips_to_keys(shot, "porter")
    again = bv.keep_clip(keyed, "porter", f"walk {way} alone", 101, 133, loop=True)
    assert f"walk {way} alone" in bv.clips(again)


@pytest.mark.parametrize("way", ["turn left", "turn right"])
@pytest.mark.parametrize("angle", [20.0, 45.0, 90.0])
def test_a_walk_goes_round_without_a_slide(way: str, angle: float) -> None:
    """Oracle: a circle as long as its steps, gone round once."""
    rounds = 360.0 / angle
    shot = replace(
        bv.sidestep(shelf(), "porter", "walk", way, 101, repeats=rounds, angle=angle), last=101 + 32 * rounds
    )
    frames = np.arange(101.0, 101 + 32 * rounds + 0.5, 0.5)
    root = places(shot, "porter", frames)[:, 0]
    assert np.linalg.norm(root[-1] - root[0]) < 1e-3, "it is where it began"
    middle, radius = (root.max(0) + root.min(0)) / 2, 0.8 / np.radians(angle)
    assert np.abs(np.linalg.norm((root - middle)[:, [0, 2]], axis=1) - radius).max() < 0.01 * radius
    assert np.sign(middle[0]) == (1.0 if way.endswith("left") else -1.0)
    for foot, spans in bv.contacts(shot, "porter").items():
        for start, end in spans[:4]:
            assert slid(shot, "porter", foot, start, min(end, 101 + 32 * rounds)) < 1.5e-3
    plain = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=rounds)
    for name in ("left foot/up", "left foot/ball", "chest/turn", "right foot/heel"):
        assert np.ptp(at(shot, name, frames) - at(plain, name, frames)) < 1e-9, "the rest keeps its time"


def test_a_walk_round_kept_as_a_clip_goes_round_again_without_a_slide() -> None:
    """Its seam lies in a contact; the next round goes another way."""
    source = replace(bv.sidestep(shelf(), "porter", "walk", "turn left", 101, repeats=3), last=197.0)
    kept = bv.keep_clip(bv.clips_to_keys(source, "porter"), "porter", "round", 133, 165, loop=True)
    shot = replace(
        bv.lay_clip(replace(alone("porter"), clips=kept.clips), "porter", "round", 101, repeats=9), last=389.0
    )
    for foot, spans in bv.contacts(shot, "porter").items():
        assert max(slid(shot, "porter", foot, *span) for span in spans if span[1] < 380) < 2e-3
    turned = np.degrees(at(shot, "whole figure/turn", [101.0, 388.0]))
    assert turned[1] - turned[0] == pytest.approx(9 * 45 * 287 / 288, abs=0.5), "past 180 degrees it goes on"


@pytest.mark.parametrize("way", ["left", "turn left"])
def test_a_clip_that_faces_elsewhere_steps_to_its_own_left(way: str) -> None:
    turned = bv.set_values(alone("porter"), "porter", 101, {"whole figure/turn": 90.0})
    source = bv.new_cycle(turned, "porter", "walk", 24, 0.7)
    shot = with_clip(alone("porter"), clip_of(source, "porter", "away", 101, 125, loop=True))
    root = places(bv.sidestep(shot, "porter", "away", way, 101, repeats=2), "porter", np.array([101.0, 149.0]))[:, 0]
    assert (root[1] - root[0])[2] < -0.2, "left of who faces +x is -z"


def test_forward_and_aside_fade_without_a_skate() -> None:
    aside = bv.clips_to_keys(bv.sidestep(shelf(), "porter", "walk", "left", 101, repeats=3), "porter")
    kept = clip_of(aside, "porter", "aside", 133, 165, loop=True)
    shot = with_clip(shelf(), kept)
    shot = bv.lay_clip(bv.lay_clip(shot, "porter", "walk", 101, repeats=3), "porter", "aside", 197, repeats=3)
    faded = bv.crossfade(shot, "porter", 0, 170, 16)
    for foot, spans in bv.contacts(faded, "porter").items():
        for first, last in spans:
            if last - first > 2:
                assert slid(faded, "porter", foot, first, last) < 5e-3
    fine = np.arange(150.0, 240.0, 0.5)
    assert np.linalg.norm(np.diff(places(faded, "porter", fine), axis=0), axis=2).max() < 0.08


def test_what_cannot_step_aside_says_so() -> None:
    for call in (
        lambda: bv.sidestep(shelf(), "porter", "nod", "left", 101),
        lambda: bv.sidestep(shelf(), "porter", "walk", "up", 101),
        lambda: bv.sidestep(shelf(), "porter", "walk", "left", 101, stride=-1.0),
    ):
        with pytest.raises(BovrinError):
            call()


def test_clips_of_another_shot_come_under_free_names() -> None:
    """Its own stay as they are; what is the same comes once."""
    other = bv.keep_clip(walk(), "porter", "walk", 101, 117)
    other = with_clip(other, shelf().clip("nod"))
    made = bv.bring_clips(shelf(), other)
    assert bv.clips(made) == ["nod", "run", "walk", "walk 2"]
    assert made.clip("walk") is shelf().clip("walk") and made.clip("walk 2").length == 16
    assert bv.clips(bv.bring_clips(made, shelf())) == bv.clips(made), "twice is once"
    with pytest.raises(BovrinError, match="holds no clips"):
        bv.bring_clips(shelf(), alone("porter"))


def test_clips_of_another_rate_are_as_fast() -> None:
    """Oracle: the same seconds of the same motion."""
    other = replace(bv.keep_clip(walk(), "porter", "quick", 101, 133, loop=True), frame_rate=30.0)
    made = bv.bring_clips(alone("porter"), other)
    clip = made.clip("quick")
    assert clip.length == pytest.approx(32 * 24 / 30) and clip.contacts["left leg"][0][1] == pytest.approx(19 * 24 / 30)
    laid = bv.lay_clip(made, "porter", "quick", 101, repeats=2.0)
    seconds = np.linspace(0.0, 1.9, 77)
    there, here = places(walk(), "porter", 101 + 30 * seconds), places(laid, "porter", 101 + 24 * seconds)
    assert np.abs(there - here).max() < 1e-6


def test_keys_instead_and_added_again_look_the_same_where_they_are() -> None:
    base = bv.lay_clip(shelf(), "porter", "walk", 101, repeats=4)
    rig = base.figure("porter").rig
    keyed = bv.set_values(bv.set_values(base, "porter", 105, {"head/turn": 25.0}), "porter", 121, {"head/turn": -10.0})
    alone_ = bv.keys_instead(keyed, "porter", ["head", "left hand"], 110)
    for frames in ([105.0, 121.0], [110.0]):
        channels = "head/turn" if len(frames) == 2 else "left hand/up"
        assert np.abs(at(alone_, channels, frames) - at(keyed, channels, frames)).max() < 1e-9
    assert np.ptp(at(alone_, "left hand/up", EVERY)) < 1e-9, "a key of its own, and no clip is heard any more"
    hips = [i for i, name in enumerate(rig.channel_names) if not name.startswith(("head/", "left hand/"))]
    values = [staged(shot, "porter", EVERY).values[:, hips] for shot in (alone_, keyed)]
    assert np.array_equal(*values), "nothing else is touched"
    again = bv.keys_instead(alone_, "porter", ["head", "left hand"], 110, instead=False)
    assert not again.take.of("porter").instead
    assert np.abs(at(again, "head/turn", EVERY) - at(keyed, "head/turn", EVERY)).max() < 1e-9
    with pytest.raises(BovrinError, match="no clip lies under"):
        bv.keys_instead(walk(), "porter", ["head"], 110)


def blocked_under() -> Shot:
    """A porter with poses of its own, and the walk on its shelf."""
    shot = with_clip(replace(alone("porter"), last=300.0), clip_of(walk(), "porter", "walk", 101, 133, loop=True))
    for frame, along in ((101.0, 0.0), (117.0, 0.6), (133.0, 2.2)):
        own = {"hips/forward": along, "head/turn": 20.0, "porter/forward": along}
        shot = bv.set_values(shot, "porter", frame, {c: v for c, v in own.items() if c in bv.channels(shot, "porter")})
    return bv.splined(shot, "porter")


def test_a_clip_over_other_keys_is_seen_as_it_is() -> None:
    """Keys under it were added to it without a word: the hips went three times as far."""
    shot = blocked_under()
    laid = bv.lay_clip(shot, "porter", "walk", 101, repeats=3.0)
    clean = bv.lay_clip(
        blocked_under().with_curves("porter", alone("porter").curves("porter")), "porter", "walk", 101, repeats=3.0
    )
    moved = set(shot.clip("walk").curves)
    names = shot.figure("porter").rig.channel_names
    values = [staged(one, "porter", EVERY).values for one in (laid, clean)]
    own = [i for i, name in enumerate(names) if name in moved]
    assert np.abs(values[0] - values[1])[:, own].max() < 1e-12
    for name, curve in zip(names, laid.curves("porter").curves, strict=True):
        assert len(curve) == 0 if name in moved else curve is shot.curves("porter")[names.index(name)]


@pytest.mark.parametrize("keys", ["on top", "instead"])
def test_or_its_keys_are_kept(keys: str) -> None:
    shot = blocked_under()
    laid = bv.lay_clip(shot, "porter", "walk", 101, keys=keys, repeats=3.0)
    assert laid.curves("porter") is shot.curves("porter")
    rig, own = shot.figure("porter").rig, staged(shot, "porter", EVERY).values
    alone_ = staged(laid.with_curves("porter", alone("porter").curves("porter")), "porter", EVERY).values
    keyed = [
        i
        for i, c in enumerate(shot.curves("porter").curves)
        if len(c) and rig.channel_names[i] in shot.clip("walk").curves
    ]
    plain = [i for i in keyed if rig.channels[i].technical.startswith("translate")]
    wanted = own if keys == "instead" else own + alone_ - np.asarray(rig.defaults)
    assert plain
    assert np.abs(staged(laid, "porter", EVERY).values - wanted)[:, plain].max() < 1e-9


def test_keys_put_on_top_stay_when_another_clip_is_laid() -> None:
    laid = bv.lay_clip(shelf(), "porter", "walk", 101)
    posed = bv.set_values(laid, "porter", 110.0, {"head/turn": 12.0})
    again = bv.lay_clip(posed, "porter", "walk", 133)
    assert again.curves("porter") is posed.curves("porter")
    added = bv.lay_clip(blocked_under(), "porter", "walk", 101, how="added")
    assert added.curves("porter") is not None and any(len(c) for c in added.curves("porter").curves)
    with pytest.raises(BovrinError, match="not 'away'"):
        bv.lay_clip(shelf(), "porter", "walk", 101, keys="away")
