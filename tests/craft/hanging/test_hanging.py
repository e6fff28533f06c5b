"""Things that hang on things: no pop, nothing else moved, the order of one graph, keys of their own when wanted."""

from __future__ import annotations

from functools import cache
from itertools import permutations

import numpy as np
import pytest
from hypothesis import example, given, settings
from hypothesis import strategies as st

from bovrin import script as bv
from bovrin.errors import BadMotion, BovrinError
from bovrin.figure.staging import staged
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Shot

CHEST, LEFT, RIGHT = ("porter", "chest"), ("porter", "left hand"), ("porter", "right hand")
CRATE = ("crate", "crate")


@cache
def splined_demo() -> Shot:
    """The demo, splined: everything moves between its poses."""
    return bv.splined(bv.splined(bv.demo(), "porter"), "crate")


@pytest.fixture(scope="module")
def shot() -> Shot:
    return splined_demo()


def matrix(shot: Shot, who: tuple[str, str], frames: object) -> np.ndarray:
    found = staged(shot, who[0], np.atleast_1d(np.asarray(frames, float)))
    return found.world[:, found.rig.joint(who[1])].copy()


def rigid(world: np.ndarray) -> np.ndarray:
    u, _, v = np.linalg.svd(world[..., :3, :3])
    made = np.tile(np.eye(4), (*world.shape[:-2], 1, 1))
    made[..., :3, :3], made[..., :3, 3] = u @ v, world[..., :3, 3]
    return made


def offset(shot: Shot, what: tuple[str, str], on: tuple[str, str], frames: object) -> np.ndarray:
    """Independent of how it is worked out: where one joint is seen from another."""
    return np.linalg.inv(rigid(matrix(shot, on, frames))) @ rigid(matrix(shot, what, frames))


def pop(shot: Shot, frame: float) -> float:
    """How far the crate jumps over a frame, beside how far it goes in as long a time around it."""
    a, b, c = matrix(shot, CRATE, [frame - 1e-4, frame, frame + 1e-4])
    return float(max(np.abs(b - a).max(), np.abs(c - b).max()))


EVERY = np.arange(101, 160.01, 0.25)


@settings(max_examples=15, deadline=None)
@example(133.0, 1.0, CHEST)  # hung on a key of its own, and let go of right after it
@given(st.floats(102, 155), st.floats(1, 30), st.sampled_from([CHEST, LEFT, RIGHT, ("porter", "head")]))
def test_no_pop_and_nothing_else_moves(start: float, for_: float, on: tuple[str, str]) -> None:
    shot = splined_demo()
    end = min(start + for_, 158.0)
    made = bv.attach(shot, "crate", "whole crate", on, start)
    made = bv.detach(made, "crate", "whole crate", end)
    inside = np.arange(start, end, 0.37)
    held = offset(made, CRATE, on, inside)
    assert np.abs(held - held[0]).max() < 1e-9, "carried"
    for frame in (start, end):
        assert pop(made, frame) < 2e-3
    before = EVERY[start > EVERY]
    assert np.abs(matrix(made, CRATE, before) - matrix(shot, CRATE, before)).max() < 1e-9, "as it was before"
    assert np.abs(staged(made, "porter", EVERY).values - staged(shot, "porter", EVERY).values).max() == 0.0


@settings(max_examples=12, deadline=None)
@given(st.lists(st.tuples(st.integers(1, 8), st.sampled_from([0.0, 0.25, 0.5, 0.8, 1.0])), min_size=2, max_size=6))
def test_no_pop_at_any_influence(steps: list[tuple[int, float]]) -> None:
    shot = splined_demo()
    made, frame = bv.attach(shot, "crate", "whole crate", LEFT, 105), 105.0
    for later, amount in steps:
        frame += later
        there = matrix(made, CRATE, frame)
        counting = [one.to for one in bv.attachments(made, "crate")][-1:]
        made = bv.set_influence(made, "crate", "whole crate", frame, amount, counting[0])
        assert np.abs(matrix(made, CRATE, frame) - there).max() < 1e-6
        now = bv.values(made, "crate", frame)
        assert sum(value for name, value in now.items() if "/hangs" in name) == pytest.approx(amount)


def test_from_hand_to_hand_to_the_ground(shot: Shot) -> None:
    made = bv.attach(shot, "crate", "whole crate", LEFT, 110)
    made = bv.attach(made, "crate", "whole crate", RIGHT, 120)
    made = bv.attach(made, "crate", "whole crate", bv.GROUND, 130)
    assert [one.spans for one in bv.attachments(made, "crate")] == [
        [(110.0, 119.0)],
        [(120.0, 129.0)],
        [(130.0, 160.0)],
    ]
    for frame in (110, 120, 130):
        assert pop(made, frame) < 2e-3
    assert np.abs(matrix(made, CRATE, [131, 140, 155]) - matrix(made, CRATE, 130)).max() < 1e-9
    between = offset(made, CRATE, RIGHT, np.arange(120, 130, 0.5))
    assert np.abs(between - between[0]).max() < 1e-9


def test_a_hand_on_the_crate_and_the_crate_on_the_chest(shot: Shot) -> None:
    """One graph over both figures, whoever stands first in the cast."""
    made = bv.attach(shot, "crate", "whole crate", CHEST, 115)
    made = bv.attach(made, "porter", "right hand", CRATE, 115)
    frames = np.arange(115, 140, 0.5)
    on_chest, on_crate = offset(made, CRATE, CHEST, frames), offset(made, RIGHT, CRATE, frames)
    assert np.abs(on_chest - on_chest[0]).max() < 1e-9
    assert np.abs(on_crate - on_crate[0]).max() < 1e-9, "the hand goes with it"
    turned = bv.set_values(made, "porter", 120, {"chest/turn": 0.6})
    assert not np.allclose(matrix(turned, CRATE, 120), matrix(made, CRATE, 120), atol=1e-3)
    for cast in permutations(made.cast[:2]):
        other = bv_with_cast(made, cast)
        assert np.abs(matrix(other, RIGHT, frames) - matrix(made, RIGHT, frames)).max() == 0.0


def bv_with_cast(shot: Shot, first: tuple[object, ...]) -> Shot:
    from dataclasses import replace

    return replace(shot, cast=(*first, *shot.cast[2:]))  # type: ignore[arg-type]


def test_circles_are_refused_and_say_their_way(shot: Shot) -> None:
    made = bv.attach(shot, "crate", "whole crate", RIGHT, 110)
    with pytest.raises(BadMotion, match=r"on itself: .*whole crate of crate on right hand of porter"):
        bv.attach(made, "porter", "right hand", CRATE, 120)
    with pytest.raises(BadMotion, match="itself"):
        bv.attach(shot, "porter", "head", ("porter", "head"), 110)
    with pytest.raises(BadMotion, match="itself"):
        bv.attach(shot, "porter", "whole figure", LEFT, 110)
    through = bv.attach(made, "buoy", bv_whole(shot, "buoy"), CRATE, 110)
    with pytest.raises(BadMotion, match="on itself"):
        bv.attach(through, "porter", "hips", ("buoy", shot.figure("buoy").rig.joints[0].name), 110)


def bv_whole(shot: Shot, name: str) -> str:
    return shot.figure(name).rig.controls[0].name


@pytest.mark.parametrize("control", ["left hand", "right foot", "gaze", "hips", "left elbow", "head"])
def test_any_control_hangs(shot: Shot, control: str) -> None:
    kind = bv.attach(shot, "porter", control, CRATE, 118)
    made = bv.set_values(kind, "crate", 130, {"whole crate/up": 1.4, "whole crate/turn": 0.9})
    now, before = staged(kind, "porter", 118.0).values, staged(shot, "porter", 118.0).values
    assert np.abs(staged(kind, "porter", 118.0).places - staged(shot, "porter", 118.0).places).max() < 1e-6
    assert now.shape[1] == before.shape[1] + 1
    assert np.abs(staged(made, "porter", 130.0).values - staged(kind, "porter", 130.0).values).max() > 0.01, "along"
    early = EVERY[EVERY < 110]
    assert np.abs(staged(made, "porter", early).places - staged(shot, "porter", early).places).max() < 1e-6


def test_onto_the_joint_and_once(shot: Shot) -> None:
    onto = bv.attach(shot, "crate", "whole crate", CHEST, 120, keep=False)
    assert np.abs(offset(onto, CRATE, CHEST, 130)[0, :3, 3]).max() < 1e-9
    once = bv.snap_to(shot, "crate", "whole crate", CHEST, 120, "place")
    assert np.abs(matrix(once, CRATE, 120)[0, :3, 3] - matrix(shot, CHEST, 120)[0, :3, 3]).max() < 1e-9
    assert not bv.attachments(once, "crate")
    turned = bv.snap_to(shot, "porter", "left hand", CRATE, 120, "both")
    assert np.abs(matrix(turned, LEFT, 120)[0, :3, 3] - matrix(shot, CRATE, 120)[0, :3, 3]).max() < 0.8


def test_by_place_or_turn_alone(shot: Shot) -> None:
    frames = np.arange(120, 150, 0.5)
    place = bv.attach(shot, "crate", "whole crate", RIGHT, 118, what="place")
    assert (
        np.abs(offset(place, CRATE, RIGHT, frames)[:, :3, 3] - offset(place, CRATE, RIGHT, 118)[:, :3, 3]).max() < 1e-9
    )
    assert np.abs(matrix(place, CRATE, frames)[:, :3, :3] - matrix(shot, CRATE, frames)[:, :3, :3]).max() < 1e-9
    turn = bv.attach(shot, "crate", "whole crate", RIGHT, 118, what="turn")
    assert np.abs(matrix(turn, CRATE, frames)[:, :3, 3] - matrix(shot, CRATE, frames)[:, :3, 3]).max() < 1e-9


def test_an_edit_of_what_hangs_wholly_changes_how_it_hangs(shot: Shot) -> None:
    from bovrin.craft.keying.edits import Scope, edited
    from bovrin.craft.keying.keys import KeyStyle

    made = bv.attach(shot, "crate", "whole crate", CHEST, 110)
    rig = made.figure("crate").rig
    now = staged(made, "crate", 125.0).values[0]
    wanted = {rig.channel("whole crate/up"): now[rig.channel("whole crate/up")] + 0.1}
    dragged = edited(made, "crate", 125.0, wanted, Scope.TOUCHED, KeyStyle())
    assert dragged.curves("crate") is made.curves("crate"), "its keys are left alone"
    moved = matrix(dragged, CRATE, 125)[0, :3, 3] - matrix(made, CRATE, 125)[0, :3, 3]
    assert np.abs(moved - [0, 0.1, 0]).max() < 1e-9
    assert np.abs(matrix(dragged, CRATE, 125)[0, :3, :3] - matrix(made, CRATE, 125)[0, :3, :3]).max() < 1e-9
    holding = bv.attach(made, "porter", "right hand", CRATE, 110)
    body = holding.figure("porter").rig
    both = {body.channel("chest/turn"): 0.4, body.channel("right hand/up"): 2.0}
    pulled = edited(holding, "porter", 125.0, both, Scope.TOUCHED, KeyStyle())
    assert pulled.attachments("porter") == holding.attachments("porter"), "an edit of the body leaves it where it hangs"
    half = bv.set_influence(made, "crate", "whole crate", 125, 0.6)
    dragged = edited(half, "crate", 125.0, wanted, Scope.TOUCHED, KeyStyle())
    assert dragged.attachments("crate") == half.attachments("crate")
    assert np.abs(matrix(dragged, CRATE, 125)[0, :3, 3] - matrix(made, CRATE, 125)[0, :3, 3] - [0, 0.1, 0]).max() < 1e-6


@pytest.mark.parametrize("every", [False, True])
def test_baked_it_moves_as_it_did(shot: Shot, every: bool) -> None:
    made = bv.attach(shot, "crate", "whole crate", RIGHT, 112)
    frames = np.arange(101, 160.01, 1.0 if every else 0.5)
    whole = bv.bake(made, "crate", every_frame=every)
    assert not bv.attachments(whole, "crate")
    far = np.abs(matrix(whole, CRATE, frames) - matrix(made, CRATE, frames))[:, :3, 3].max()
    assert far < (1e-9 if every else 1e-3)
    part = bv.bake(made, "crate", 120, 130, every_frame=True)
    assert np.abs(matrix(part, CRATE, range(101, 161)) - matrix(made, CRATE, range(101, 161))).max() < 1e-6
    assert (
        bv.values(part, "crate", 125)["whole crate/hangs"] == 0
        and bv.values(part, "crate", 140)["whole crate/hangs"] == 1
    )


def test_on_so_many_things_and_no_more(shot: Shot) -> None:
    made = shot
    for number in range(12):
        made = bv.attach(made, "crate", "whole crate", bv.GROUND, 110 + number)
    with pytest.raises(BadMotion, match="12 things"):
        bv.attach(made, "crate", "whole crate", bv.GROUND, 130)
    assert len(bv.attachments(made, "crate")) == 12


def test_kept_in_files(shot: Shot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    made = bv.attach(shot, "crate", "whole crate", CHEST, 115)
    made = bv.attach(made, "porter", "right hand", CRATE, 115)
    made = bv.attach(made, "porter", "right hand", bv.GROUND, 140)
    bv.save(made, tmp_path / "hangs.bovrin.json")
    again = bv.load(tmp_path / "hangs.bovrin.json")
    for name in ("crate", "porter"):
        assert again.attachments(name) == made.attachments(name)
        assert np.abs(staged(again, name, EVERY).values - staged(made, name, EVERY).values).max() < 1e-5
    bare = tmp_path / "without.bovrin.json"
    bv.save(shot, bare)
    assert "hooks" not in bare.read_text() and "attachments" not in bare.read_text()


@pytest.mark.parametrize(
    ("change", "words"),
    [
        (lambda s: bv.attach(s, "crate", "whole crate", ("nobody", "chest"), 110), "nobody"),
        (lambda s: bv.attach(s, "crate", "whole crate", ("porter", "tail"), 110), "tail"),
        (lambda s: bv.attach(s, "crate", "whole crate", CHEST, float("nan")), "finite"),
        (lambda s: bv.attach(s, "crate", "whole crate", CHEST, 110, what="all"), "no way"),
        (lambda s: bv.detach(s, "crate", "whole crate", 110), "hangs on nothing"),
        (lambda s: bv.set_influence(s, "crate", "whole crate", 110, 0.5), "does not hang"),
        (
            lambda s: bv.set_influence(bv.attach(s, "crate", "whole crate", CHEST), "crate", "whole crate", 110, 2.0),
            "share",
        ),
        (lambda s: bv.bake(s, "crate"), "hangs on anything"),
    ],
)
def test_what_cannot_be_says_so(shot: Shot, change, words: str) -> None:  # type: ignore[no-untyped-def]
    with pytest.raises(BovrinError, match=words):
        change(shot)


def test_who_leaves_lets_things_stay_where_they_were(shot: Shot) -> None:
    from bovrin.craft.company import left

    made = bv.attach(bv.attach(shot, "crate", "whole crate", LEFT, 115), "buoy", bv_whole(shot, "buoy"), CRATE, 120)
    gone = left(made, "porter")
    assert not bv.attachments(gone, "crate") and bv.attachments(gone, "buoy")
    frames = np.arange(101, 160.01, 0.5)
    buoy = ("buoy", shot.figure("buoy").rig.joints[0].name)
    for who in (CRATE, buoy):
        assert np.abs(matrix(gone, who, frames)[:, :3, 3] - matrix(made, who, frames)[:, :3, 3]).max() < 1.5e-3


def test_handed_on_it_moves_as_it_looks(shot: Shot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    made = bv.attach(bv.attach(shot, "crate", "whole crate", CHEST, 115), "porter", "right hand", CRATE, 115)
    bv.export(made, tmp_path / "hangs.glb")
    read = bv.bring(tmp_path / "hangs.glb")
    frames = np.arange(101, 161.0)
    names = [figure.name for figure in read.cast]
    for name, joint in (CRATE, RIGHT):
        other = next(n for n in names if n.startswith(name))
        own = [j.name for j in read.figure(other).rig.joints]
        there = matrix(read, (other, next(j for j in own if j.endswith(joint))), frames)[:, :3, 3]
        assert np.abs(there - matrix(made, (name, joint), frames)[:, :3, 3]).max() < 1e-3


@pytest.mark.parametrize("how", ["blocked", "clips", "cycle"])
def test_in_steps_in_clips_and_in_loops(how: str) -> None:
    """Hung and let go of on fractional frames: no pop of its own, the carrier as it was, undone to the byte."""
    made = {"blocked": bv.demo, "clips": lambda: bv.demo("across"), "cycle": lambda: bv.demo("goat")}[how]()
    who = "goat" if how == "cycle" else "porter"
    if how == "cycle":
        made = bv.add_figure(made, "cast:buoy")
    thing = made.cast[-1].name if how == "cycle" else "crate"
    control, joint = bv_whole(made, thing), made.figure(thing).rig.joints[0].name
    start, end = made.first + 3.3, made.first + 9.7
    hung = bv.detach(bv.attach(made, thing, control, (who, "head"), start), thing, control, end)
    inside = offset(hung, (thing, joint), (who, "head"), np.linspace(start, end - 0.01, 40))
    assert np.abs(inside - inside[0]).max() < 1e-8
    for at in (start, end):
        before, on = matrix(hung, (thing, joint), [at - 1e-6, at])
        assert np.abs(on - before).max() < 1e-4
    every = np.arange(made.first, made.last, 0.5)
    assert np.abs(matrix(hung, (who, "head"), every) - matrix(made, (who, "head"), every)).max() == 0.0


def test_a_copied_pose_and_a_clip_hold_what_is_seen(shot: Shot) -> None:
    made = bv.detach(bv.attach(shot, "crate", "whole crate", CHEST, 115), "crate", "whole crate", 150)
    held = bv.detach(bv.attach(shot, "porter", "right hand", CRATE, 115), "porter", "right hand", 140)
    pasted = bv.paste_pose(held, "porter", 155, bv.copy_pose(held, "porter", 130))
    there, put = (offset(one, RIGHT, CHEST, at)[0, :3, 3] for one, at in ((held, 130), (pasted, 155)))
    assert np.abs(there - put).max() < 0.01
    kept = bv.keep_clip(made, "crate", "carried", 115, 145)
    up, frames = kept.clip("carried").curves["whole crate/up"], np.arange(0.0, 30.0)
    seen = staged(made, "crate", frames + 115).values[:, made.figure("crate").rig.channel("whole crate/up")]
    assert np.abs(curve_values(up, frames) - seen).max() < 1e-3
