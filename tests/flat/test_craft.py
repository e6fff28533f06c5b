"""What an animator does with a flat figure: swaps and order hold and never blend, joints are kept, bends are shared."""

from __future__ import annotations

from functools import cache
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.flat.drawn import profile, written

from bovrin import cast as bv_cast
from bovrin import script as bv
from bovrin.craft.flat.parts import flat_controls, order_column
from bovrin.craft.keying.keys import whole_poses_of
from bovrin.errors import BovrinError
from bovrin.figure.flat.shown import shown_pieces
from bovrin.figure.staging import staged
from bovrin.shot import HandleKind, Shot

P = "puppet"
WAYS = ["front", "back", "before", "behind"]
FRAMES = st.integers(101, 148)


@cache
def puppet() -> Shot:
    """The walker, posed twice and splined."""
    import tempfile

    with tempfile.TemporaryDirectory() as folder:
        shot = bv.bring(str(written(Path(folder), profile())))
    shot = bv.key_pose(shot, P, 101)
    shot = bv.key_pose(shot, P, 125)
    return bv.set_values(
        shot, P, 125, {"body/tilt": 12, "head/tilt": -20, "near forearm/tilt": -40, "body/forward": 0.1}
    )


def world(shot: Shot, frames: object) -> np.ndarray:
    return staged(shot, P, np.atleast_1d(np.asarray(frames, float))).world.copy()


def joint(shot: Shot, name: str) -> int:
    return shot.figure(P).rig.joint(name)


def others(shot: Shot, *parts: str) -> list[int]:
    """All channels but those of some parts."""
    rig = shot.figure(P).rig
    own = {i for part in parts for i in rig.span(rig.control(part))}
    return [i for i in range(len(rig.channels)) if i not in own]


def sampled(shot: Shot, frames: object) -> np.ndarray:
    return staged(shot, P, np.asarray(frames, float)).values


@settings(max_examples=25, deadline=None)
@given(FRAMES, st.integers(1, 12), st.booleans())
def test_a_swap_holds_and_is_never_blended(frame: int, length: int, eased: bool) -> None:
    shot = bv.splined(puppet(), P) if eased else puppet()
    until = frame + length
    made = bv.swap(shot, P, "hat", frame, "2", until=until)
    fine = np.arange(101, 149, 0.25)
    column = made.figure(P).rig.channel("hat/drawing")
    values = sampled(made, fine)[:, column]
    wanted = ((fine >= frame) & (fine < until)).astype(float)
    next_key = 125 if frame < 125 < until else None
    if next_key is not None:  # a pose says again what it shows
        wanted[(fine >= 125)] = 0.0
    assert set(np.unique(values)) <= {0.0, 1.0}
    assert np.array_equal(values, wanted)
    rest = others(made, "hat")
    assert np.array_equal(sampled(made, fine)[:, rest], sampled(shot, fine)[:, rest])
    poses = [whole_poses_of(s.curves(P)).frames.tolist() for s in (made, shot)]
    assert poses[0] == poses[1]  # a swap makes none


@settings(max_examples=25, deadline=None)
@given(st.integers(102, 140), st.lists(st.sampled_from(["1", "2"]), min_size=1, max_size=6), st.sampled_from([1, 2, 3]))
def test_a_run_shows_one_after_another_and_then_what_was_there(frame: int, names: list[str], every: int) -> None:
    before = bv.swap(puppet(), P, "hat", 103, "2", until=104)
    made = bv.swap_run(before, P, "hat", frame, names, every)
    for f in range(101, 149):
        number = (f - frame) // every
        inside = 0 <= number < len(names)
        assert bv.drawing(made, P, "hat", f) == (names[number] if inside else bv.drawing(before, P, "hat", f))


@pytest.mark.parametrize("kind", [HandleKind.SMOOTH, HandleKind.LINEAR, HandleKind.BY_HAND])
def test_no_handle_makes_a_choice_smooth(kind: HandleKind) -> None:
    shot = bv.swap(puppet(), P, "hat", 110, "2")
    words = kind.name.lower().replace("_", " ")
    made = bv.splined(bv.set_handles(shot, P, "hat/drawing", [101, 110, 125], words), P)
    column = made.figure(P).rig.channel("hat/drawing")
    assert set(np.unique(sampled(made, np.arange(101, 130, 0.1))[:, column])) == {0.0, 1.0}


@settings(max_examples=40, deadline=None)
@given(
    st.lists(
        st.tuples(st.integers(0, 8), st.integers(0, 8), st.sampled_from(["front", "back", "before", "behind"])),
        max_size=6,
    )
)
def test_stacking_is_a_list_that_things_are_moved_in(moves: list[tuple[int, int, str]]) -> None:
    shot = puppet()
    names = bv.stacking(shot, P, 110)
    for one, other, how in moves:
        part, mate = names[one % len(names)], names[other % len(names)]
        if part == mate:
            continue
        rest = [n for n in names if n != part]
        at = {"front": 0, "back": len(rest), "before": rest.index(mate), "behind": rest.index(mate) + 1}[how]
        shot = bv.stack(shot, P, part, 110, how if how in ("front", "back") else f"{how} {mate}")
        names = [*rest[:at], part, *rest[at:]]
        assert bv.stacking(shot, P, 110) == names
    assert bv.stacking(shot, P, 109.9) == bv.stacking(puppet(), P, 109.9)
    assert bv.stacking(shot, P, 125) == bv.stacking(puppet(), P, 125)  # the pose there says its own
    figure = shot.figure(P)
    drawn = [figure.model.pieces[n].cut.control for n in shown_pieces(figure, sampled(shot, [110])[0])]
    assert drawn[::-1] == names


def test_many_parts_between_two_still_find_room() -> None:
    shot = puppet()
    for n in range(120):
        shot = bv.stack(shot, P, ("hat", "head")[n % 2], 110, "behind body")
    names = bv.stacking(shot, P, 110)
    assert names[names.index("body") + 1] == "head"
    rig = shot.figure(P).rig
    ranks = [sampled(shot, [110])[0, order_column(rig, c)] for c in flat_controls(rig)]
    assert len(set(ranks)) == len(ranks)


def test_a_branch_goes_along_in_its_order() -> None:
    made = bv.stack(puppet(), P, "near upper arm", 110, "back", branch=True)
    assert bv.stacking(made, P, 110)[-3:] == ["near hand", "near forearm", "near upper arm"]


@settings(max_examples=20, deadline=None)
@given(st.floats(-170, 170), st.floats(0.3, 2.0), st.floats(-60, 60))
def test_turned_over_about_its_pivot(tilt: float, size: float, skew: float) -> None:
    shot = bv.set_values(
        puppet(), P, 110, {"head/tilt": tilt, "head/size up": size, "head/skew": skew, "head/size forward": 1 / size}
    )
    made = bv.flip(shot, P, "head", 110)
    head, hat = joint(made, "head"), joint(made, "hat")
    now, before = world(made, 110)[0], world(shot, 110)[0]
    assert np.allclose(now[head, :3, 3], before[head, :3, 3])
    assert np.allclose(now[head], before[head] @ np.diag([1, 1, -1, 1]), atol=1e-9)  # along the plane, in its own axes
    carried = [np.linalg.inv(own[head]) @ own[hat] for own in (now, before)]
    assert np.allclose(carried[0], carried[1], atol=1e-9)  # and what hangs on it with it
    twice = bv.flip(made, P, "head", 110)
    assert np.allclose(world(twice, 110), world(shot, 110))
    assert np.sign(np.linalg.det(now[head, :3, :3])) == -1


@settings(max_examples=20, deadline=None)
@given(st.floats(-1, 1), st.floats(-1, 1), st.floats(-300, 300))
def test_rejoined_parts_sit_on_their_joints_with_their_turns(forward: float, up: float, tilt: float) -> None:
    plain = bv.set_values(puppet(), P, 110, {"near upper arm/tilt": tilt})
    loose = bv.set_values(plain, P, 110, {"near upper arm/forward": forward, "near upper arm/up": up, "hat/up": 0.2})
    assert np.allclose(world(bv.rejoin(loose, P, 110), 110), world(plain, 110), atol=1e-12)
    one = bv.rejoin(loose, P, 110, ["hat"])
    assert np.allclose(world(one, 110)[0, joint(one, "near forearm")], world(loose, 110)[0, joint(one, "near forearm")])
    assert bv.rejoin(plain, P, 110) is plain


@settings(max_examples=20, deadline=None)
@given(st.floats(-400, 400), st.floats(0, 1))
def test_a_soft_bend_is_shared_and_comes_to_the_whole(degrees: float, soft: float) -> None:
    chain = ["near upper arm", "near forearm", "near hand"]
    shot = puppet()
    made = bv.bend_chain(shot, P, chain, 110, degrees, soft)
    turns = [bv.values(made, P, 110)[f"{c}/tilt"] - bv.values(shot, P, 110)[f"{c}/tilt"] for c in chain]
    assert sum(turns) == pytest.approx(degrees, abs=1e-9)
    assert turns[1] == pytest.approx(turns[2], abs=1e-9) == pytest.approx(soft * degrees / 3, abs=1e-9)


def test_a_part_stays_in_its_plane_whatever_is_pulled() -> None:
    shot = bv.set_values(
        puppet(), P, 110, {"near foot goal/forward": 0.3, "near foot goal/up": 0.2, "far knee/up": 0.3}
    )
    turned = bv.values(shot, P, 110)["whole figure/turn"]
    assert turned == pytest.approx(90)
    places = world(shot, [110, 117.3])[..., :3, 3]
    assert np.abs(places[..., 2]).max() < 1e-12  # seen from the front it stands in one plane


def test_what_is_not_there_is_told() -> None:
    for call in (
        lambda: bv.swap(puppet(), P, "hat", 110, "9"),
        lambda: bv.swap(puppet(), P, "nose", 110, "1"),
        lambda: bv.swap(puppet(), P, "hat", 110, "2", until=110),
        lambda: bv.swap(puppet(), P, "head", 110, "2"),
        lambda: bv.swap_run(puppet(), P, "hat", 110, ["2"], every=0),
        lambda: bv.stack(puppet(), P, "hat", 110, "above head"),
        lambda: bv.stack(puppet(), P, "hat", 110, "before hat"),
        lambda: bv.bend_chain(puppet(), P, ["head", "near hand"], 110, 20),
        lambda: bv.bend_chain(puppet(), P, ["near upper leg"], 110, 20),
        lambda: bv.bend_chain(puppet(), P, [], 110, 20),
        lambda: bv.drawings(bv.demo(), "porter", "head"),
    ):
        with pytest.raises(BovrinError) as told:
            call()
        assert told.value.advice


def test_breakdowns_take_the_drawing_of_the_favoured_pose() -> None:
    shot = bv.swap(puppet(), P, "hat", 125, "2")
    shot = bv.stack(shot, P, "near hand", 125, "back")
    near_first = bv.breakdown(shot, P, 113, favour=0.3)
    near_second = bv.breakdown(shot, P, 113, favour=0.7)
    assert [bv.drawing(s, P, "hat", 113) for s in (near_first, near_second)] == ["1", "2"]
    assert bv.stacking(near_first, P, 113) == bv.stacking(shot, P, 101)
    assert bv.stacking(near_second, P, 113) == bv.stacking(shot, P, 125)


def test_scale_to_nothing_and_back() -> None:
    shot = bv.set_values(puppet(), P, 110, {"head/size up": 0, "body/size forward": 0, "hat/skew": 90})
    assert np.isfinite(world(shot, np.arange(101, 125, 0.5))).all()
    assert np.isfinite(np.asarray(bv.picture(shot, 110, view="front", size=(80, 80)))).all()


def test_a_file_that_would_blend_drawings_does_not(tmp_path: Path) -> None:
    path = tmp_path / "bird.bovrin.json"
    text = (
        bv_cast.HERON.read_text()
        .replace('"leave": "stepped"', '"leave": "smooth"')
        .replace('"leave":"stepped"', '"leave":"smooth"')
    )
    path.write_text(text)
    shot = bv.load(path)
    column = shot.figure("heron").rig.channel("beak/drawing")
    values = staged(shot, "heron", np.arange(150, 165, 0.1)).values[:, column]
    assert set(np.unique(values)) == {0.0, 1.0, 2.0}
