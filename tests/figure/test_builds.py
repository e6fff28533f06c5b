"""What joints are, on skeletons of many makers: right parts, pairs, limbs and feet with no correction."""

import numpy as np
import pytest
from tests.figure import builds

from bovrin import script
from bovrin.craft.keying.mirror_keys import mirror_range
from bovrin.craft.pose.mirror import mirror
from bovrin.figure.brought.bone_words import Bone, bone_of
from bovrin.figure.brought.guess import guess_build
from bovrin.figure.brought.joint_tree import without_side
from bovrin.figure.making.rig_growing import with_channels
from bovrin.figure.making.rig_making import make_rig
from bovrin.figure.solve.stick import stick_model
from bovrin.motion.rotations import quaternion_matrix
from bovrin.shot import Curve, Figure, Joint, Shot
from bovrin.shot.curve import recorded_columns


def rotated(quaternions: np.ndarray, v: list[float]) -> np.ndarray:
    return (quaternion_matrix(quaternions) @ np.array(v)[:, None])[..., 0]


def limbs_of(joints: tuple[Joint, ...]) -> dict[str, list[str]]:
    guess = guess_build(joints)
    return {f"{x.side} {x.kind}": [joints[j].name for j in (x.upper, x.middle, x.end)] for x in guess.limbs}


@pytest.mark.parametrize("name", builds.TWO_LEGS)
def test_a_two_legged_figure_is_taken_for_what_it_is(name: str) -> None:
    names, sided, rows = builds.TWO_LEGS[name]
    joints = builds.joints_of(rows)
    guess = guess_build(joints)
    wanted = {
        f"{side} {kind}": [sided(names[bone], side) for bone in bones]
        for side in ("left", "right")
        for kind, bones in (("arm", ("upper arm", "forearm", "hand")), ("leg", ("thigh", "shin", "foot")))
    }
    assert limbs_of(joints) == wanted
    assert guess.build == "two-legged"
    at = {joint.name: n for n, joint in enumerate(joints)}
    assert joints[guess.hips].name == names["hips"] and guess.head == at[names["head"]]
    assert [joints[j].name for j in guess.spine] == [names["spine"], names["chest"]]
    for limb in guess.limbs:
        shoulder = sided(names["shoulder"], str(limb.side)) if limb.kind == "arm" else None
        assert (joints[limb.shoulder].name if limb.shoulder >= 0 else None) == shoulder
    pairs = {joints[a].name: joints[b].name for a, b in guess.pairs}
    assert all(pairs[sided(names[b], "left")] == sided(names[b], "right") for b in ("hand", "foot", "thigh", "forearm"))


@pytest.mark.parametrize("arms", [False, True])
def test_a_fox_stands_on_four_feet_whatever_its_fore_legs_are_called(arms: bool) -> None:
    joints = builds.joints_of(builds.four_legs(arms=arms))
    guess = guess_build(joints)
    assert guess.build == "four-legged"
    found = limbs_of(joints)
    assert {name: bones[-1] for name, bones in found.items()} == {
        "left hind leg": "foot_l", "right hind leg": "foot_r",
        "left fore leg": f"{'hand' if arms else 'paw'}_l", "right fore leg": f"{'hand' if arms else 'paw'}_r",
    }  # fmt: skip
    assert found["left hind leg"] == ["thigh_l", "calf_l", "foot_l"], "the hock lies inside"
    assert [len(tail) for tail in guess.tails] == [8]


def test_a_bird_has_wings_and_legs() -> None:
    joints = builds.joints_of(builds.winged())
    assert sorted(limbs_of(joints)) == ["left leg", "left wing", "right leg", "right wing"]


def test_fingers_whose_joints_all_hang_on_the_hand_are_fingers() -> None:
    joints = builds.joints_of(builds.TWO_LEGS["flat hands"][2])
    hands = [limb for limb in guess_build(joints).limbs if limb.kind == "arm"]
    for hand in hands:
        side = str(hand.side).capitalize()
        assert [[joints[j].name for j in finger] for finger in hand.digits] == [
            [f"{side}{finger}{n}" for n in (1, 2, 3)] for finger in ("Thumb", "Index", "Middle", "Ring", "Pinky")
        ]


def all_builds() -> dict[str, tuple[Joint, ...]]:
    found = {name: builds.joints_of(rows) for name, (_, _, rows) in builds.TWO_LEGS.items()}
    found |= {f"fox, arms {arms}": builds.joints_of(builds.four_legs(arms=arms)) for arms in (False, True)}
    return found | {"bird": builds.joints_of(builds.winged())}


@pytest.fixture(params=all_builds())
def figure(request: pytest.FixtureRequest) -> Figure:
    joints = all_builds()[request.param]
    rig = make_rig(joints, guess_build(joints))
    return Figure("it", rig, stick_model(rig), "it", (0.5, 0.5, 0.5))


def test_every_limb_reaches_what_is_within_reach(figure: Figure) -> None:
    shot = Shot("x").with_figure(figure)
    rig, rng = figure.rig, np.random.default_rng(2)
    for limb in rig.limbs:
        rest = script.sample(shot, "it", [101]).position[0]
        start, end = rest[limb.upper], rest[limb.end]
        for _ in range(4):
            goal = start + (end - start) * rng.uniform(0.7, 0.9) + rng.normal(0, 0.04, 3) * np.linalg.norm(end - start)
            placed = script.place(shot, "it", 101, rig.joints[limb.end].name, goal)
            there = script.sample(placed, "it", [101]).position[0, limb.end]
            assert np.linalg.norm(there - goal) < 1e-3, limb.name


def test_feet_have_anchors_on_the_ground(figure: Figure) -> None:
    rest = script.sample(Shot("x").with_figure(figure), "it", [101]).position[0]
    legs = [limb for limb in figure.rig.limbs if "leg" in limb.name]
    assert len(legs) == (
        4 if len(figure.rig.limbs) == 4 and "fore" in " ".join(x.name for x in figure.rig.limbs) else 2
    )
    height = float(np.ptp(rest[:, 1]))
    assert all(rest[limb.end, 1] < 0.12 * height for limb in legs)


def test_swapped_sides_are_symmetric_and_stay_in_place(figure: Figure) -> None:
    shot, rng = Shot("x").with_figure(figure), np.random.default_rng(7)
    rig = figure.rig
    turns = {
        n: rng.uniform(-25, 25)
        for n in rig.channel_names
        if n.rsplit("/")[-1] in ("turn", "tilt", "roll") and "whole" not in n
    }
    posed = script.set_values(shot, "it", 101, turns)
    a, b = (script.sample(s, "it", [101]).position[0] for s in (posed, mirror(posed, "it", 101)))
    other = np.arange(len(rig.joints))
    for left, right in guess_build(rig.joints).pairs:
        other[[left, right]] = right, left
    assert np.abs(b - a[other] * [-1, 1, 1]).max() < 1e-5


def walking(rows: list[builds.Row], hips: str) -> Shot:
    """A recording of somebody who walks off, turning, all of it in the hips."""
    joints = builds.joints_of(rows)
    rig = with_channels(make_rig(joints, guess_build(joints), reach=False), {1}, set(range(1, len(joints))))
    figure = Figure("it", rig, stick_model(rig), "it", (0.5, 0.5, 0.5))
    frames, rng = np.arange(101.0, 141.0), np.random.default_rng(11)
    shared = recorded_columns(frames)
    curves = {}
    for i, name in enumerate(rig.channel_names):
        control, word = name.split("/")
        if control == hips and word in ("across", "forward", "turn"):
            values = {"across": 0.03, "forward": 0.05, "turn": 0.02}[word] * (frames - 101) + 1.0 * (word == "across")
        elif word in ("turn", "tilt", "roll") and control != "whole figure" and "goal" not in control:
            values = rng.normal(0, 0.3) * np.sin((frames - 101) / 6 + rng.uniform(0, 6))
        else:
            continue
        curves[i] = Curve.from_columns({**shared, "values": values})
    return Shot("x", last=140).with_figure(figure, figure.no_motion().replaced(curves))


@pytest.mark.parametrize("name", ["in one word", "sides behind, twists inside", "German"])
def test_hips_that_travel_stay_where_they_are_when_mirrored(name: str) -> None:
    names, _, rows = builds.TWO_LEGS[name]
    shot = walking(rows, names["hips"])
    rig, frames = shot.figure("it").rig, np.arange(101.0, 141.0, 3)
    hips, other = [j.name for j in rig.joints].index(names["hips"]), np.arange(len(rig.joints))
    for left, right in guess_build(rig.joints).pairs:
        other[[left, right]] = right, left
    before = script.sample(shot, "it", frames)
    ahead = rotated(before.rotation[:, hips], [0.0, 0.0, 1.0])
    side = np.stack([ahead[:, 2], 0 * ahead[:, 0], -ahead[:, 0]], -1)
    side /= np.linalg.norm(side, axis=-1, keepdims=True)
    from_hips = before.position - before.position[:, [hips]]
    across = (from_hips * side[:, None]).sum(-1, keepdims=True) * side[:, None]
    wanted = (before.position - 2 * across)[:, other]
    keep = [j for j in range(len(rig.joints)) if j]
    for turned in (mirror(shot, "it", frames), mirror_range(shot, "it", 101, 140)):
        after = script.sample(turned, "it", frames).position
        assert np.abs(after - wanted)[:, keep].max() < 1e-5
    twice = mirror_range(mirror_range(shot, "it", 101, 140), "it", 101, 140)
    assert np.abs(script.sample(twice, "it", frames).position - before.position).max() < 1e-5


@pytest.mark.parametrize(
    ("name", "bone"),
    [
        ("LeftForeArm", Bone.FOREARM),
        ("upperarm_twist_01_l", Bone.HELPER),
        ("LeftHandIndex1", Bone.HAND),
        ("L_Clavicle", Bone.SHOULDER),
        ("avant_bras_gauche", Bone.FOREARM),
        ("Knöchel.R", Bone.FOOT),
        ("left hind upper leg", Bone.THIGH),
        ("右ひざ", Bone.SHIN),
        ("左手首", Bone.HAND),
        ("RightToeBase", Bone.DIGIT),
        ("mano_der", Bone.HAND),
        ("spine_02", None),
        ("Kern", None),
    ],
)
def test_names_say_what_bones_are(name: str, bone: Bone | None) -> None:
    assert bone_of(without_side(name)) == bone
