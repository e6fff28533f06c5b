from dataclasses import replace

import pytest
from tests.rigs import goat

from bovrin import script
from bovrin.figure.solve.unequal import unequal_limbs
from bovrin.shot import Joint, Rig, Shot


def _longer(rig: Rig, joint: str, factor: float) -> Rig:
    joints = [
        Joint(j.name, j.parent, tuple(factor * x for x in j.translation), j.rotation) if j.name == joint else j  # type: ignore[arg-type]
        for j in rig.joints
    ]
    return replace(rig, joints=tuple(joints))


def test_equal_limbs_are_not_told(demo: Shot) -> None:
    assert unequal_limbs(demo.figure("porter").rig) == {}
    assert unequal_limbs(goat(3).rig) == {}


def test_a_longer_leg_is_told_with_its_length() -> None:
    figure = goat()
    rig = _longer(figure.rig, "left hind shin", 1.1)
    bone = sum(x * x for x in figure.rig.joints[figure.rig.joint("left hind shin")].translation) ** 0.5
    found = unequal_limbs(rig)
    assert list(found) == [("left hind leg", "right hind leg")]
    assert found["left hind leg", "right hind leg"] == pytest.approx(0.1 * bone)
    shot = Shot("x").with_figure(replace(figure, rig=rig))
    assert script.rig_report(shot, "goat")["unequal"] == [
        ["left hind leg", "right hind leg", pytest.approx(0.1 * bone)]
    ]
