"""Feet of brought beasts that have no toes: they bear under their joint, walk in every gait, hold, and come back from a file."""

from pathlib import Path

import numpy as np
import pytest
from tests.figure import builds

from bovrin import script as bv
from bovrin.craft.pose.body import BodyDrag
from bovrin.figure.brought.guess import guess_build
from bovrin.figure.making.rig_making import make_rig
from bovrin.figure.solve.stick import stick_model
from bovrin.figure.staging import stance
from bovrin.shot import Figure, Shot


def fox() -> list[builds.Row]:
    """A beast with hocks behind and paws without toes before."""
    rows: list[builds.Row] = [
        ("hips", "", (0, 0.4, -0.25)),
        ("spine 1", "hips", (0, 0.42, -0.05)),
        ("spine 2", "spine 1", (0, 0.42, 0.15)),
        ("neck", "spine 2", (0, 0.48, 0.28)),
        ("head", "neck", (0, 0.55, 0.38)),
        ("tail 1", "hips", (0, 0.4, -0.35)),
        ("tail 2", "tail 1", (0, 0.38, -0.5)),
        ("tail 3", "tail 2", (0, 0.36, -0.65)),
    ]
    for side, x in (("left", 0.07), ("right", -0.07)):
        chain = [("leg 1", 0.36, -0.25), ("leg 2", 0.2, -0.2), ("foot 1", 0.1, -0.29), ("foot 2", 0.02, -0.25)]
        above = "hips"
        for name, y, z in chain:
            rows.append((f"{side} {name}", above, (x, y, z)))
            above = f"{side} {name}"
        above = "spine 2"
        for name, y, z in [("upper arm", 0.34, 0.15), ("forearm", 0.2, 0.12), ("hand", 0.04, 0.15)]:
            rows.append((f"{side} {name}", above, (x, y, z)))
            above = f"{side} {name}"
    return rows


def standing(rows: list[builds.Row]) -> Shot:
    joints = builds.joints_of(rows)
    rig = make_rig(joints, guess_build(joints))
    return Shot("x").with_figure(Figure("it", rig, stick_model(rig), "it", (0.5, 0.5, 0.5)))


BEASTS = {"fox": fox(), "no toes": builds.TWO_LEGS["no toes"][2]}
STRIDES = {"fox": 0.4, "no toes": 1.0}


@pytest.mark.parametrize("name", BEASTS)
def test_every_leg_has_a_foot_and_every_gait_reads_empty(name: str) -> None:
    shot = standing(BEASTS[name])
    legs = [limb for limb in shot.figure("it").rig.limbs if "leg" in limb.name]
    assert legs and all(limb.foot is not None for limb in legs)
    gaits = bv.gaits(shot, "it")
    assert gaits
    for gait in gaits:
        laid = bv.new_cycle(shot, "it", gait, frames=24, stride=STRIDES[name])
        assert bv.proof(laid) == []
        assert all(bv.contacts(laid, "it")[limb.name] for limb in legs)


@pytest.mark.parametrize("name", BEASTS)
def test_paws_hold_while_the_body_is_pulled(name: str) -> None:
    now = stance(standing(BEASTS[name]), "it", 101)
    rig = now.rig
    held = [limb.end for limb in rig.limbs if "leg" in limb.name]
    drag = BodyDrag(now, rig.joint([j.name for j in rig.joints][1]), held)
    start = now.seen(1)
    for step in range(1, 9):
        moved = now.with_values(drag.settle(start + np.array([0.004, -0.008, 0.004]) * step))
        off = [np.linalg.norm(moved.seen(j) - now.seen(j)) for j in held]
        assert max(off) < 5e-4


def test_a_foot_without_toes_comes_back_from_a_file(tmp_path: Path) -> None:
    shot = bv.new_cycle(standing(fox()), "it", "walk", frames=24, stride=0.4)
    bv.save(shot, tmp_path / "fox.bovrin.json")
    again = bv.load(tmp_path / "fox.bovrin.json")
    a, b = (bv.sample(s, "it", np.arange(101, 126)).position for s in (shot, again))
    assert np.array_equal(a, b)
    assert [limb.rolls for limb in again.figure("it").rig.limbs] == [limb.rolls for limb in shot.figure("it").rig.limbs]
