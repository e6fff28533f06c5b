import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from tests.rigs import goat, one_bone, random_values

from bovrin import script
from bovrin.craft.keying.mirror_keys import mirror_keys, mirror_range
from bovrin.craft.pose.mirror import exchange, mirror, mirrored_values
from bovrin.errors import BadMotion
from bovrin.figure.solve.joints import solve
from bovrin.shot import HandleKind, Rig, Shot


def other(rig: Rig) -> list[int]:
    swap = {"left": "right", "right": "left"}
    names = [j.name for j in rig.joints]
    return [names.index(" ".join(swap.get(w, w) for w in n.split(" "))) for n in names]


def in_root(world: np.ndarray) -> np.ndarray:
    return np.linalg.inv(world[:, :1]) @ world


@settings(max_examples=40, deadline=None)
@given(seed=st.integers(0, 10_000))
def test_twice_is_the_pose_again_on_any_rest_orientation(seed: int) -> None:
    rig = goat(seed % 7).rig
    values = random_values(rig, seed, turn=0.7, move=0.2, count=3)
    who = exchange(rig, None, "swap")
    twice = mirrored_values(rig, mirrored_values(rig, values, who), who)
    assert np.abs(solve(rig, twice) - solve(rig, values)).max() < 1e-6


@settings(max_examples=40, deadline=None)
@given(seed=st.integers(0, 10_000))
def test_joints_change_places_across_the_figure_s_own_plane(seed: int) -> None:
    rig = goat(seed % 7).rig
    values = random_values(rig, seed, count=2)
    new = mirrored_values(rig, values, exchange(rig, None, "swap"))
    before, after = solve(rig, values), solve(rig, new)
    rest = solve(rig, np.array([rig.defaults]))[:, :1]
    places = [(rest @ in_root(w))[..., :3, 3] for w in (before, after)]
    assert np.abs(places[1] - places[0][:, other(rig)] * [-1, 1, 1]).max() < 1e-5


def test_a_range_takes_handles_and_steps_along(demo: Shot) -> None:
    shot = script.splined(demo, "porter", 119, 160)
    frames = np.linspace(101, 160, 119)
    new = mirror_range(shot, "porter", 101, 160)
    rig = shot.figure("porter").rig
    left, right = rig.channel("left hand/up"), rig.channel("right hand/up")
    a, b = shot.curves("porter")[left], new.curves("porter")[right]
    assert np.array_equal(a.frames, b.frames) and np.array_equal(a.out_kind, b.out_kind)
    dense = script.sample(mirror(shot, "porter", frames), "porter", frames)
    assert np.abs(dense.position - script.sample(new, "porter", frames).position).max() < 1e-9
    back = mirror_range(new, "porter", 101, 160)
    assert np.array_equal(
        script.sample(back, "porter", frames).position, script.sample(shot, "porter", frames).position
    )


def test_a_part_of_a_range_leaves_the_rest(demo: Shot) -> None:
    new = mirror_range(demo, "porter", 115, 130, ["left arm"])
    same = script.sample(demo, "porter", [101, 109, 114]).position
    assert np.array_equal(script.sample(new, "porter", [101, 109, 114]).position, same)
    rig = demo.figure("porter").rig
    for name in ("chest/turn", "left foot/up", "head/turn"):
        i = rig.channel(name)
        assert new.curves("porter")[i] is demo.curves("porter")[i]


def test_odd_axes_are_mirrored_key_by_key() -> None:
    figure = goat(2)
    shot = Shot("odd").with_figure(figure)
    values = random_values(figure.rig, 5, count=1)[0]
    named = dict(zip(figure.rig.channel_names, values, strict=True))
    turned = {n: np.degrees(v) for n, v in named.items() if n.startswith(("chest", "left fore thigh"))}
    shot = script.set_mode(script.set_values(shot, "goat", 101, turned), "goat", "left fore leg", 101, "joints")
    new = mirror_range(shot, "goat", 90, 130)
    rest = solve(figure.rig, np.array([figure.rig.defaults]))[0, :, :3, 3]
    a, b = (script.sample(s, "goat", [101]).position[0] for s in (shot, new))
    assert np.abs(a - rest).max() > 0.02
    assert np.abs(b - a[other(figure.rig)] * [-1, 1, 1]).max() < 1e-5


@pytest.mark.parametrize(("how", "kept"), [("left to right", "left"), ("right to left", "right")])
def test_one_side_is_copied_onto_the_other(demo: Shot, how: str, kept: str) -> None:
    new = mirror(demo, "porter", 133, how=how)
    before, after = (script.values(s, "porter", 133) for s in (demo, new))
    assert all(after[n] == pytest.approx(v) for n, v in before.items() if n.startswith(kept) or "hips" in n)
    assert after["left hand/up"] == pytest.approx(after["right hand/up"])
    assert after["left hand/across"] == pytest.approx(-after["right hand/across"])


def test_place_and_facing_stay_or_are_mirrored(demo: Shot) -> None:
    shot = script.set_values(demo, "porter", 101, {"whole figure/across": 0.5, "whole figure/turn": 30})
    keeps = script.values(mirror(shot, "porter", 101), "porter", 101)
    assert keeps["whole figure/across"] == pytest.approx(0.5) and keeps["whole figure/turn"] == pytest.approx(30)
    world = mirror(shot, "porter", 101, plane="world", keep_place=False)
    goes = script.values(world, "porter", 101)
    assert goes["whole figure/across"] == pytest.approx(-0.5) and goes["whole figure/turn"] == pytest.approx(-30)
    a, b = (script.sample(s, "porter", [101]).position[0] for s in (shot, world))
    assert np.abs(b - a[other(shot.figure("porter").rig)] * [-1, 1, 1]).max() < 1e-9
    turns = script.values(mirror(shot, "porter", 101, plane="world"), "porter", 101)
    assert turns["whole figure/across"] == pytest.approx(0.5) and turns["whole figure/turn"] == pytest.approx(-30)


def test_a_walk_to_the_left_becomes_one_to_the_right(demo: Shot) -> None:
    shot = script.set_values(demo, "porter", 101, {"whole figure/across": 0.2, "whole figure/turn": 20})
    shot = script.set_values(shot, "porter", 143, {"whole figure/across": 0.9, "whole figure/turn": 60})
    new = mirror(shot, "porter", [101, 143], plane="figure", keep_place=False)
    a, b = (script.sample(s, "porter", [101, 143]) for s in (shot, new))
    root = a.position[0, 0]
    turn = np.radians(20)
    side = np.array([np.cos(turn), 0, -np.sin(turn)])
    across = ((a.position - root) @ side)[..., None] * side
    wanted = (a.position - 2 * across)[:, other(shot.figure("porter").rig)]
    assert np.abs(b.position - wanted).max() < 1e-9
    assert np.allclose(b.position[0, 0], root)


def test_without_pairs_it_says_so() -> None:
    shot = Shot("post").with_figure(one_bone())
    shot = script.set_values(shot, "post", 101, {"arm/turn": 20, "arm/tilt": 10})
    with pytest.raises(BadMotion, match="no left and right side"):
        mirror(shot, "post", 101, how="left to right")
    with pytest.raises(BadMotion, match="not a way to mirror"):
        mirror(shot, "post", 101, how="sideways")
    with pytest.raises(BadMotion, match="not a plane"):
        mirror(shot, "post", 101, plane="table")
    swapped = script.values(mirror(shot, "post", 101), "post", 101)
    assert swapped["arm/turn"] == pytest.approx(-20) and swapped["arm/tilt"] == pytest.approx(10)


def test_what_is_stepped_stays_stepped(demo: Shot) -> None:
    new = script.mirror_range(demo, "porter", 101, 160)
    kinds = [c.out_kind for c in new.curves("porter").curves if len(c)]
    assert all((k == HandleKind.STEPPED).all() for k in kinds)


def test_keys_mirrored_about_the_world_keep_their_handles(demo: Shot) -> None:
    shot = script.set_values(
        script.splined(demo, "porter"), "porter", 101, {"whole figure/across": 0.5, "whole figure/turn": 30}
    )
    shot = script.set_values(shot, "porter", 143, {"whole figure/across": -0.2, "whole figure/turn": 70})
    rig, frames = shot.figure("porter").rig, np.linspace(101, 160, 119)
    for keep in (False, True):
        new = mirror_range(shot, "porter", 101, 160, plane="world", keep_place=keep)
        a, b = (script.sample(s, "porter", frames).position for s in (shot, new))
        if not keep:
            assert np.abs(b - a[:, other(rig)] * [-1, 1, 1]).max() < 1e-6
        across = rig.channel("whole figure/across")
        assert (new.curves("porter")[across] is shot.curves("porter")[across]) is keep
        back = mirror_range(new, "porter", 101, 160, plane="world", keep_place=keep)
        assert np.abs(script.sample(back, "porter", frames).position - a).max() < 1e-9


def test_chosen_keys_leave_the_others(demo: Shot) -> None:
    shot = script.splined(demo, "porter")
    rig, curves = shot.figure("porter").rig, shot.curves("porter")
    left = list(rig.span(rig.control("left hand")))
    chosen = {i: curves[i].frames[2:4] for i in left}
    new = mirror_keys(shot, "porter", chosen)
    both = {*left, *rig.span(rig.control("right hand"))}
    for i, curve in enumerate(curves.curves):
        if i not in both:
            assert new.curves("porter")[i] is curve
    own, taken = curves[rig.channel("left hand/across")], new.curves("porter")[rig.channel("right hand/across")]
    assert [taken.values[taken.index_at(f)] for f in own.frames[2:4]] == (-own.values[2:4]).tolist()
    again = mirror_keys(new, "porter", chosen)
    frames = np.linspace(101, 160, 119)
    a, b = (script.sample(s, "porter", frames).position for s in (shot, again))
    assert np.abs(a - b).max() < 1e-9
