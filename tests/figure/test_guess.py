"""Skeletons of several builds, with good names, odd ones and none, are taken for what they are."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from tests.rigs import goat

from bovrin import script
from bovrin.craft.keying.keys import set_channels
from bovrin.craft.keying.pose_keys import key_pose
from bovrin.craft.pose.mirror import exchange, mirrored_values
from bovrin.craft.pose.modes import set_mode
from bovrin.figure.brought.guess import Guess, guess_build
from bovrin.figure.brought.joint_tree import side_of, without_side, words_of
from bovrin.figure.making.rig_making import make_rig, pole_place
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.solve.stick import stick_model
from bovrin.figure.staging import staged
from bovrin.shot import ControlKind, Figure, Joint, Model, Rig, Shot

PORTER = script.demo().figure("porter").rig.joints
ODD = {
    "root": "Armature",
    "hips": "rig:Pelvis",
    "spine": "rig:Spine.001",
    "chest": "rig:Spine.002",
    "neck": "rig:Neck1",
    "head": "rig:Head_M",
    "shoulder": "Clavicle",
    "upper arm": "UpArm",
    "forearm": "LoArm",
    "hand": "Wrist",
    "thigh": "UpLeg",
    "shin": "Calf",
    "foot": "Ankle",
    "toes": "ToeBase",
}


def renamed(joints: tuple[Joint, ...], how: str) -> tuple[Joint, ...]:
    def name(i: int, old: str) -> str:
        if how == "numbers":
            return f"node_{i}"
        if how == "odd":
            side = "L_" if old.startswith("left ") else "R_" if old.startswith("right ") else ""
            plain = old.removeprefix("left ").removeprefix("right ")
            return f"{side}{ODD.get(plain, plain.title().replace(' ', ''))}"
        return old

    return tuple(replace(joint, name=name(i, joint.name)) for i, joint in enumerate(joints))


def limbs(joints: tuple[Joint, ...], guess: Guess) -> set[tuple[str, ...]]:
    names = [joint.name for joint in joints]
    return {(f"{x.side} {x.kind}", names[x.upper], names[x.middle], names[x.end]) for x in guess.limbs}


@pytest.mark.parametrize("how", ["as they are", "odd", "numbers"])
def test_a_two_legged_figure(how: str) -> None:
    joints = renamed(PORTER, how)
    guess = guess_build(joints)
    at = {joint.name: i for i, joint in enumerate(PORTER)}
    assert guess.build == "two-legged" and guess.hips == at["hips"] and guess.head == at["head"]
    assert guess.spine == (at["spine"], at["chest"]) and guess.neck == (at["neck"],)
    expected = {
        (f"{side} {kind}", *(joints[at[f"{side} {bone}"]].name for bone in bones))
        for side in ("left", "right")
        for kind, bones in (("leg", ("thigh", "shin", "foot")), ("arm", ("upper arm", "forearm", "hand")))
    }
    assert limbs(joints, guess) == expected
    arms = [x for x in guess.limbs if x.kind == "arm"]
    assert all(len(x.digits) == 4 and x.shoulder >= 0 for x in arms)
    assert all(x.sure > (0.9 if how != "numbers" else 0.5) for x in guess.limbs)


@pytest.mark.parametrize("how", ["as they are", "numbers"])
def test_a_four_legged_figure(how: str) -> None:
    joints = renamed(goat(4).rig.joints, how)
    guess = guess_build(joints)
    at = {joint.name: i for i, joint in enumerate(goat().rig.joints)}
    assert guess.build == "four-legged" and guess.hips == at["hips"] and guess.head == at["head"]
    assert {f"{x.side} {x.kind}" for x in guess.limbs} == {
        "left hind leg", "right hind leg", "left fore leg", "right fore leg",
    }  # fmt: skip
    assert guess.tails == ((at["tail"],),) and len(guess.pairs) == 6


def test_a_tentacle_has_no_limbs_and_every_joint_a_control() -> None:
    joints = tuple(Joint(f"t{i}", i - 1, (0.0, 0.2, 0.0)) for i in range(9))
    guess = guess_build(joints)
    assert guess.build == "other" and guess.limbs == () and guess.pairs == ()
    rig = make_rig(joints, guess)
    assert {c.joint for c in rig.controls if c.kind is ControlKind.JOINT} >= set(range(1, 9))


@given(st.integers(0, 40), st.sampled_from(["as they are", "numbers"]))
def test_a_made_rig_rests_where_its_joints_do(seed: int, how: str) -> None:
    joints = renamed(goat(seed).rig.joints, how)
    rig = make_rig(joints, guess_build(joints))
    rest = plan_of(rig).rest_world
    assert np.abs(solve(rig, np.array([rig.defaults]))[0] - rest).max() < 1e-9
    names = [control.name for control in rig.controls]
    assert len(set(names)) == len(names)


def brought(joints: tuple[Joint, ...]) -> Shot:
    rig = make_rig(joints, guess_build(joints))
    shot = Shot("Brought").with_figure(Figure("it", rig, Model(()), "it.glb", (0.5, 0.5, 0.5)))
    return key_pose(shot, "it", 101)


@pytest.mark.parametrize("how", ["odd", "numbers"])
def test_posing_works_on_what_was_brought(how: str) -> None:
    shot = brought(renamed(PORTER, how))
    rig = shot.figure("it").rig
    hand = next(c for c in rig.controls if c.name == "left hand goal")
    up = rig.channel("left hand goal/up")
    before = staged(shot, "it", [101]).world[0, hand.joint, :3, 3]
    raised = set_channels(shot, "it", 101, {up: 0.2})
    after = staged(raised, "it", [101]).world[0, hand.joint, :3, 3]
    assert after[1] - before[1] == pytest.approx(0.2, abs=1e-6), "the arm reaches"
    bent = set_mode(raised, "it", [x.name for x in rig.limbs].index("left arm"), 101, "joints")
    assert np.abs(staged(bent, "it", [101]).world - staged(raised, "it", [101]).world).max() < 1e-6
    values = np.array([rig.defaults])
    values[0, up] = 0.2
    who = exchange(rig, None, "swap")
    twice = mirrored_values(rig, mirrored_values(rig, values, who), who)
    assert np.abs(solve(rig, twice) - solve(rig, values)).max() < 1e-6
    assert len(rig.pairs) > 15


def test_words_and_sides_of_names() -> None:
    assert words_of("rig:L_UpperArm.01") == ("l", "upper", "arm", "01")
    assert words_of("mixed:LeftFootIKGoal2") == ("left", "foot", "ik", "goal", "2")
    assert side_of("hand.R") == "right" and side_of("leftHand") == "left" and side_of("tail") == ""
    assert side_of("leftover_right") == "right" and without_side("L_Hand") == without_side("hand.r") == ("hand",)


def test_a_pole_lies_where_the_joint_bends_and_straight_knees_bend_forward() -> None:
    start, stop = np.array([0.0, 1.0, 0.0]), np.array([0.0, 0.0, 0.0])
    bent = pole_place(start, np.array([0.0, 0.5, 0.1]), stop, leg=False)
    assert bent[2] > 0.5
    knee, elbow = (pole_place(start, np.array([0.0, 0.5, 0.0]), stop, leg=leg) for leg in (True, False))
    assert knee[2] > 0 > elbow[2]


def test_bones_to_be_seen_move_with_the_joint_they_begin_at() -> None:
    joints = goat().rig.joints
    rig: Rig = make_rig(joints, guess_build(joints))
    (piece,) = stick_model(rig).pieces
    bones = sum(joint.parent > 0 for joint in joints)
    assert len(piece.positions) == 6 * bones and len(piece.triangles) == 8 * bones
    starts = plan_of(rig).rest_world[piece.joints[::6, 0], :3, 3]
    assert np.allclose(piece.positions[::6], starts, atol=1e-6)
    a, b, c = (piece.positions[piece.triangles[:, n]] for n in range(3))
    outward = (np.cross(b - a, c - a) * piece.normals[piece.triangles].mean(1)).sum(1)
    assert (outward > 0).all(), "every triangle faces out"
