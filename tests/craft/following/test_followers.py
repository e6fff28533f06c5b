"""What moves by rule: right against others' sums, steady, the same whatever the rate, keys of its own when wanted."""

from __future__ import annotations

from dataclasses import replace
from functools import cache

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from bovrin import script as bv
from bovrin.craft.keying.edits import Scope, edited
from bovrin.craft.keying.keys import KeyStyle
from bovrin.craft.takes import copied_take
from bovrin.errors import BadMotion, BovrinError
from bovrin.figure.staging import staged
from bovrin.motion.rotations import euler_matrix
from bovrin.shot import Shot
from bovrin.shot.follower import KINDS

TAIL = ["tail", "tail tip"]


@cache
def goat() -> Shot:
    """The goat turns, splined: everything moves."""
    return bv.splined(bv.demo("goat"), "goat")


@pytest.fixture(scope="module")
def shot() -> Shot:
    return goat()


def worlds(shot: Shot, frames: object, figure: str = "goat") -> np.ndarray:
    return staged(shot, figure, np.atleast_1d(np.asarray(frames, float))).world.copy()


def turns(shot: Shot, joint: str, frames: object, figure: str = "goat") -> np.ndarray:
    """How a joint is turned in the world (F, 3, 3)."""
    return worlds(shot, frames, figure)[:, shot.figure(figure).rig.joint(joint), :3, :3]


def angle(a: np.ndarray, b: np.ndarray) -> np.ndarray:
    """Radians between turns (F, 3, 3)."""
    cosine = (np.trace(np.swapaxes(a, -1, -2) @ b, axis1=-2, axis2=-1) - 1) / 2
    return np.arccos(np.clip(cosine, -1, 1))


EVERY = np.arange(101, 150.01, 0.1)
kinds = pytest.mark.parametrize("kind", KINDS)


@kinds
def test_nothing_else_moves_and_nothing_pops(kind: str, shot: Shot) -> None:
    controls = ["whole figure"] if kind == "bob" else TAIL
    made = bv.follow(shot, "goat", controls, kind)
    before, after = worlds(shot, EVERY), worlds(made, EVERY)
    rig = shot.figure("goat").rig
    moved = np.abs(after - before).max((0, 2, 3)) > 1e-9
    own = range(len(rig.joints)) if kind == "bob" else [rig.joint(name) for name in TAIL]
    assert moved.any() and not moved[[j for j in range(len(rig.joints)) if j not in set(own)]].any()
    fine = np.arange(110, 113, 0.001)
    steps = np.abs(np.diff(worlds(made, fine), axis=0)).max((1, 2, 3))
    assert steps.max() < 8 * np.median(steps) + 1e-5


@kinds
def test_at_no_weight_the_keys_are_exact_and_off_is_off(kind: str, shot: Shot) -> None:
    controls = ["whole figure"] if kind == "bob" else TAIL
    made = bv.follow(shot, "goat", controls, kind, name="rule")
    for quiet in (bv.set_follower(made, "goat", "rule", weight=0.0), bv.set_follower(made, "goat", "rule", on=False)):
        assert (worlds(quiet, EVERY) == worlds(shot, EVERY)).all()
    gone = bv.let_go(made, "goat", "rule")
    assert gone.figure("goat").rig.channel_names == shot.figure("goat").rig.channel_names
    assert (worlds(gone, EVERY) == worlds(shot, EVERY)).all()


def hinge(shot: Shot, sways: float, settles: float, lag: float, swing: float) -> tuple[np.ndarray, np.ndarray]:
    """The goat's tail turning sideways alone, to and fro by a swing, and a spring on it: radians told and found."""
    bare = shot.with_curves("goat", shot.figure("goat").no_motion())
    led = bv.follow(bare, "goat", ["tail"], "swing", how_far=12, how_often=swing, about_y=1, delay=0)
    told = {"lags_by": lag, "settles_in": settles, "sways": sways}
    made = bv.follow(led, "goat", ["tail"], "spring", **told)
    rest = turns(bare, "tail", [101.0])
    frames = np.arange(101, 221, 0.5)
    signed = [np.swapaxes(rest, -1, -2) @ turns(one, "tail", frames) for one in (led, made)]
    axis = rest[0].T @ [0, 1, 0]
    vectors = [
        np.stack([m[:, 2, 1] - m[:, 1, 2], m[:, 0, 2] - m[:, 2, 0], m[:, 1, 0] - m[:, 0, 1]], -1) / 2 for m in signed
    ]
    return vectors[0] @ axis, vectors[1] @ axis


@pytest.mark.parametrize(
    "told", [(2.0, 24.0, 2.0, 1.1), (0.0, 18.0, 5.0, 1.0), (4.0, 30.0, 0.0, 0.8), (1.0, 20.0, 6.0, 0.6)]
)
def test_a_spring_goes_as_the_equation_says(told: tuple[float, float, float, float]) -> None:
    """Swinging, damped and over-damped, against a solver at tight tolerance: within a hundredth of how far it goes."""
    sways, settles, lag, often = told
    led, found = hinge(bv.demo("goat"), sways, settles, lag, often)
    seconds, far = np.arange(101, 221, 0.5) / 24 - 101 / 24, np.radians(12)
    times = 5.834 if sways == 0 else 4.0
    for _ in range(20):
        times = min(3.912 + 0.5 * np.log1p((times / (np.pi * max(sways, 1e-9))) ** 2), 5.834)
    decay, sway = times / (settles / 24), np.pi * sways / (settles / 24)
    stiff = decay**2 + sway**2
    along = 1 - (lag / 24) * stiff / (2 * decay)
    speed = 2 * np.pi * often

    def equation(t, state):  # type: ignore[no-untyped-def]
        y, rate = state
        wanted, turning = far * np.sin(speed * t), far * speed * np.cos(speed * t)
        return [rate, stiff * (wanted - y) - 2 * decay * (rate - along * turning)]

    exact = solve_ivp(equation, (0, seconds[-1]), [0, 0], t_eval=seconds, rtol=1e-10, atol=1e-12).y[0]
    assert np.abs(np.arcsin(led) - far * np.sin(speed * seconds)).max() < 1e-9
    assert np.abs(np.arcsin(found) - exact).max() < 0.01 * np.abs(exact).max()


def test_the_same_at_any_frame_rate(shot: Shot) -> None:
    """At shared times the tail's joints are within a millimetre, at 12, 24 and 60 frames a second."""
    made = bv.follow(bv.splined(shot, "goat"), "goat", TAIL, "spring")
    times = np.arange(0, 3.0, 1 / 12)
    found = []
    for rate in (12.0, 24.0, 60.0):
        other = _at_rate(made, rate)
        found.append(worlds(other, other.first + times * rate)[..., :3, 3])
        tips = turns(other, "tail tip", other.first + times * rate)
        found[-1] = np.concatenate([found[-1], tips[:, :, 1][:, None] * 0.1], 1)
    assert max(np.abs(found[0] - found[1]).max(), np.abs(found[2] - found[1]).max()) < 1e-3


def _at_rate(shot: Shot, rate: float) -> Shot:
    """The same motion in time at another rate: every frame as many times as late."""
    by = rate / shot.frame_rate

    def where(frame: float) -> float:
        return shot.first + (frame - shot.first) * by

    def stretched(curve):  # type: ignore[no-untyped-def]
        if not len(curve):
            return curve
        return curve.changed(frames=shot.first + (curve.frames - shot.first) * by)

    take = shot.take.mapped(lambda curves: curves.mapped(stretched), where)
    made = replace(shot, take=take, last=where(shot.last), frame_rate=rate)
    for one in bv.followers(shot, "goat"):
        frames = [word.name for word in KINDS[one.kind] if word.frames]
        made = bv.set_follower(
            made, "goat", one.name, **{w.replace(" ", "_"): one.settings[w.replace(" ", "_")] * by for w in frames}
        )
    return made


def test_what_comes_later_changes_nothing_before(shot: Shot) -> None:
    made = bv.follow(bv.demo("goat"), "goat", TAIL, "spring")  # stepped: nothing of a key is seen before it
    later = bv.set_values(made, "goat", 160, {"hips/up": 0.4, "hips/turn": 60.0})
    before = np.arange(101, 155, 0.3)  # up to where the keys themselves are as they were
    assert (worlds(later, before) == worlds(made, before)).all()
    assert np.abs(worlds(later, [161.5]) - worlds(made, [161.5])).max() > 0.01
    shorter = replace(made, last=150.0)
    assert np.abs(worlds(shorter, before[:150]) - worlds(made, before[:150])).max() < 1e-12


@kinds
def test_one_frame_is_as_all_of_them(kind: str, shot: Shot) -> None:
    made = bv.follow(shot, "goat", ["whole figure"] if kind == "bob" else TAIL, kind)
    for frame in (101.0, 117.3, 130.0):
        alone = worlds(made, [frame])
        among = worlds(made, np.union1d(EVERY, [frame]))[np.searchsorted(np.union1d(EVERY, [frame]), frame)]
        assert np.abs(alone[0] - among).max() < 1e-12


@settings(max_examples=6, deadline=None)
@given(st.sampled_from(list(KINDS)), st.floats(0.3, 4.0), st.floats(0.0, 8.0))
def test_loops_close(kind: str, often: float, lag: float) -> None:
    """The seam of a walk in place: what follows is the same a round later, in place and in speed."""
    shot = bv.new_cycle(bv.demo("goat"), "goat", "walk", 24, 0.6, spot=True)
    told = {"lags_by": lag} if kind == "spring" else {"how_often": often}
    shot = bv.follow(shot, "goat", ["hips"] if kind == "bob" else TAIL, kind, **told)
    cycle = shot.cycle("goat")
    assert cycle is not None
    a, b = (turns(shot, "tail tip", at + np.array([-0.01, 0.0, 0.01])) for at in (cycle.first, cycle.last))
    whole = np.ptp(turns(shot, "tail tip", np.arange(cycle.first, cycle.last, 0.5)), axis=0).max()
    assert np.abs(a - b).max() < 1e-4 * max(whole, 1e-3) + 1e-9


def test_gravity_draws_down_and_it_stays_out_of_the_ground(shot: Shot) -> None:
    def tip(one: Shot) -> np.ndarray:
        world = worlds(one, EVERY)[:, one.figure("goat").rig.joint("tail tip")]
        rig = one.figure("goat").rig
        from bovrin.figure.stages.springs import chain_of

        chain = chain_of(rig, tuple(TAIL))
        return world[:, :3, 3] + world[:, :3, :3] @ (chain.ways[1] * chain.lengths[1])

    loose = {"settles_in": 40, "sways": 3}
    plain, drawn = (bv.follow(shot, "goat", TAIL, "spring", gravity=g, **loose) for g in (0.0, 3.0))
    assert (tip(drawn)[:, 1] < tip(plain)[:, 1] - 0.005).all()
    high = bv.follow(shot, "goat", TAIL, "spring", gravity=3.0, keeps_off=2.0, clear_of=["ground"], **loose)
    base = worlds(high, EVERY)[:, high.figure("goat").rig.joint("tail"), 1, 3]
    assert (tip(high)[:, 1] > tip(drawn)[:, 1]).all() and (tip(high)[:, 1] > base).all()
    off = bv.follow(shot, "goat", TAIL, "spring", gravity=3.0, keeps_off=0.2, clear_of=["left hind ankle"], **loose)
    assert np.isfinite(worlds(off, EVERY)).all()


def test_a_jump_of_what_carries_it_is_no_jump_of_its_own() -> None:
    """Stepped poses: the figure jumps, and what springs on it comes after."""
    stepped = bv.follow(bv.demo("goat"), "goat", TAIL, "spring")
    around = np.array([-1e-4, 1e-4])
    for frame in (f for f in bv.keys(stepped, "goat", "hips/turn")[1:4]):
        a, b = turns(stepped, "tail tip", frame + around)
        hips = turns(stepped, "hips", frame + around)
        assert angle(a[None], b[None])[0] <= 0.6 * angle(hips[:1], hips[1:])[0] + 0.02


@kinds
@pytest.mark.parametrize("every", [False, True])
def test_baked_it_moves_as_it_did(kind: str, every: bool, shot: Shot) -> None:
    made = bv.follow(shot, "goat", ["hips"] if kind == "bob" else TAIL, kind)
    keyed = bv.bake(made, "goat", every_frame=every)
    assert not bv.followers(keyed, "goat")
    at = np.arange(shot.first, shot.last + 0.1, 1.0 if every else 0.5)
    assert np.abs(worlds(keyed, at) - worlds(made, at)).max() < 4e-3
    again = bv.follow(shot, "goat", ["hips"] if kind == "bob" else TAIL, kind)
    part = bv.bake(again, "goat", 110, 130)
    inside = np.arange(110, 130.1, 0.5)
    assert np.abs(worlds(part, inside) - worlds(again, inside)).max() < 4e-3
    assert len(bv.followers(part, "goat")) == 1


def test_on_some_frames_alone(shot: Shot) -> None:
    made = bv.follow(shot, "goat", TAIL, "swing", start=115, end=135, ease=(4, 0))
    outside = np.concatenate([np.arange(101, 115.01, 0.5), np.arange(136, 150, 0.5)])
    assert (worlds(made, outside) == worlds(shot, outside)).all()
    assert np.abs(worlds(made, [125.3]) - worlds(shot, [125.3])).max() > 1e-3


def test_saved_and_read_again_it_moves_the_same(shot: Shot, tmp_path) -> None:  # type: ignore[no-untyped-def]
    made = bv.follow(shot, "goat", TAIL, "spring", "late tail", gravity=0.2, clear_of=["ground"])
    made = bv.set_follower(bv.follow(made, "goat", ["head"], "noise", seed=7), "goat", "late tail", 130, sways=4)
    bv.save(made, tmp_path / "shot.bovrin.json")
    read = bv.load(tmp_path / "shot.bovrin.json")
    assert bv.followers(read, "goat") == bv.followers(made, "goat")
    assert (worlds(read, EVERY) == worlds(made, EVERY)).all()
    out = tmp_path / "goat.glb"
    bv.export(made, out, figures=["goat"])
    assert out.stat().st_size > 1000


def test_what_cannot_be_is_said(shot: Shot) -> None:
    cases = [
        (lambda: bv.follow(shot, "goat", [], "swing"), "nothing is named"),
        (lambda: bv.follow(shot, "goat", ["nose ring"], "swing"), "no control"),
        (lambda: bv.follow(shot, "goat", TAIL, "wobble"), "no follower of the kind"),
        (lambda: bv.follow(shot, "goat", TAIL, "bob"), "cannot be moved"),
        (lambda: bv.follow(shot, "goat", TAIL, "swing", lags_by=3), "is not told 'lags_by'"),
        (lambda: bv.follow(shot, "goat", TAIL, "spring", settles_in=1e9), "cannot be 1e\\+09"),
        (lambda: bv.follow(shot, "goat", TAIL, "swing", name="head"), "cannot be called"),
        (lambda: bv.set_follower(shot, "goat", "tail", weight=1), "no follower 'tail'"),
        (lambda: bv.follow(shot, "goat", TAIL, "swing", start=120, end=110), "would end"),
        (lambda: bv.follow(shot, "goat", TAIL, "swing", clear_of=["ground"]), "is no spring"),
    ]
    for call, words in cases:
        with pytest.raises(BovrinError, match=words):
            call()
    one = bv.follow(shot, "goat", TAIL, "swing", name="a")
    with pytest.raises(BadMotion):
        bv.follow(one, "goat", TAIL, "swing", name="a")


def test_two_on_one_tail_are_added_in_order_and_takes_have_their_own(shot: Shot) -> None:
    both = bv.follow(bv.follow(shot, "goat", TAIL, "swing", "wag"), "goat", TAIL, "spring", "late")
    assert [one.name for one in bv.followers(both, "goat")] == ["wag", "late"]
    alone = bv.let_go(copied_take(both, "B"), "goat", "late")
    assert [one.name for one in bv.followers(alone, "goat")] == ["wag"]
    assert bv.followers(bv.use_take(alone, both.take.name), "goat") == bv.followers(both, "goat")
    assert (worlds(bv.use_take(alone, both.take.name), EVERY) == worlds(both, EVERY)).all()
    assert np.abs(worlds(both, EVERY) - worlds(alone, EVERY)).max() > 1e-3


@pytest.mark.parametrize("kind", ["swing", "noise", "turn"])
def test_what_is_dragged_is_seen_where_it_was_dragged_to(kind: str, shot: Shot) -> None:
    """A pose made by hand over a rule: on its frame the figure stands as wanted, and nothing else of it has moved."""
    made = bv.follow(shot, "goat", ["tail", "tail tip", "head"], kind)
    now = staged(made, "goat", 120.0)
    wanted = now.values[0].copy()
    rig = now.rig
    touched = {rig.channel(name): wanted[rig.channel(name)] + 0.3 for name in ("head/turn", "head/tilt")}
    posed = edited(made, "goat", 120.0, touched, Scope.TOUCHED, KeyStyle())
    after = staged(posed, "goat", 120.0)
    wanted[list(touched)] = list(touched.values())
    cols = list(rig.span(rig.control("head")))
    a, b = (
        euler_matrix(v[None, cols][:, [1, 0, 2]], rig.controls[rig.control("head")].order)
        for v in (wanted, after.values[0])
    )
    assert np.abs(a - b).max() < 1e-9
    others = [i for i in range(len(wanted)) if i not in cols]
    assert np.abs(after.values[0, others] - now.values[0, others]).max() < 1e-9


def test_springs_that_do_not_feel_one_another_are_as_alone(shot: Shot) -> None:
    rows = {"late tail": TAIL, "late ear": ["left ear", "left ear tip"], "late beard": ["beard"]}
    every = shot
    for name, controls in rows.items():
        every = bv.follow(every, "goat", controls, "spring", name)
    together = worlds(every, EVERY)
    for name, controls in rows.items():
        alone = worlds(bv.follow(shot, "goat", controls, "spring", name), EVERY)
        own = [shot.figure("goat").rig.joint(joint) for joint in controls]
        assert np.abs(together[:, own] - alone[:, own]).max() < 1e-12


def test_a_spring_feels_the_spring_that_carries_it(shot: Shot) -> None:
    """An ear on a head whose neck springs goes as on a neck that is keyed to go that way."""
    neck = bv.follow(shot, "goat", ["neck"], "spring", "late neck", lags_by=4, settles_in=24)
    both = bv.follow(neck, "goat", ["left ear"], "spring", "late ear")
    keyed = bv.follow(bv.bake(neck, "goat"), "goat", ["left ear"], "spring", "late ear")
    still = bv.follow(shot, "goat", ["left ear"], "spring", "late ear")
    ears = [turns(one, "left ear", EVERY) for one in (both, keyed, still)]
    heads = [turns(one, "head", EVERY) for one in (both, keyed, still)]
    own = [np.swapaxes(head, -1, -2) @ ear for head, ear in zip(heads, ears, strict=True)]
    assert angle(own[0], own[1]).max() < 0.02 < angle(own[0], own[2]).max()


COMMANDS = {
    "a key": lambda shot: bv.key_pose(shot, "goat", 120),
    "a breakdown": lambda shot: bv.breakdown(shot, "goat", 113, 0.5),
    "a mirror": lambda shot: bv.mirror(shot, "goat", 117),
    "a cycle": lambda shot: bv.new_cycle(shot, "goat", "walk", 24, 0.6),
    "a paste": lambda shot: bv.paste_pose(shot, "goat", 140, bv.copy_pose(shot, "goat", 117)),
    "an overlap": lambda shot: bv.overlap(shot, "goat", ["head", "tail"], 1.0, 0.5, 0.5, 0.5),
}


@pytest.mark.parametrize("name", COMMANDS)
def test_what_poses_the_figure_leaves_what_rules_are_told(name: str, shot: Shot) -> None:
    """Settings are no part of a pose: they are keyed where they are named, and nowhere else."""
    made = bv.follow(shot, "goat", TAIL, "spring", "late", lags_by=4.0)
    after = COMMANDS[name](made)
    rig, was, now = made.figure("goat").rig, made.curves("goat"), after.curves("goat")
    assert after.figure("goat").rig is rig and after is not made
    assert all(now[i] is was[i] for i in rig.of_followers)


def largest_pop(shot: Shot, frames: np.ndarray) -> float:
    """By how many radians the tail's tip turns more from one frame to the next than just before and just after, at most."""
    found = turns(shot, "tail tip", frames)
    steps = angle(found[:-1], found[1:])
    return float((steps[1:-1] - np.maximum(steps[:-2], steps[2:])).max())


@pytest.mark.parametrize("told", [{}, {"gravity": 1.0, "settles_in": 40.0}, {"sways": 60.0, "settles_in": 2.0}])
def test_a_walk_that_travels_goes_on_round_after_round(told: dict[str, float]) -> None:
    """At the seam the figure is a stride farther on: nothing is left behind by that."""
    walking = bv.follow(bv.new_cycle(bv.demo("goat"), "goat", "trot", 16, 0.9), "goat", TAIL, "spring", **told)
    assert largest_pop(walking, np.arange(101, 150, 0.02)) < np.radians(0.2)
    first, third = (turns(walking, "tail tip", np.arange(101.0, 117.0, 0.3) + later) for later in (0.0, 32.0))
    assert np.abs(first - third).max() < 1e-6


def test_a_hair_before_a_stepped_key_nothing_has_happened_yet() -> None:
    made = bv.follow(bv.stepped(bv.demo("goat"), "goat"), "goat", TAIL, "spring")
    for frame in (117.0, 127.0, 131.0, 143.0):
        before = turns(made, "tail tip", [frame - 1e-3, frame - 1e-11])
        assert angle(before[:1], before[1:])[0] < 0.01
