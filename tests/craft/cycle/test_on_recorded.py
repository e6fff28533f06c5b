"""A new cycle on a recorded figure stands where the figure stood, on the ground that its feet stood on."""

from pathlib import Path

import numpy as np
import pytest

from bovrin import script as bv
from bovrin.shot import Shot

LIMB = " JOINT {0}\n {{\n OFFSET {1}\n CHANNELS 3 Zrotation Xrotation Yrotation\n{2} }}\n"


def joint(name: str, offset: str, inside: str = "", end: str = "") -> str:
    tip = f" End Site\n {{\n OFFSET {end}\n }}\n" if end else ""
    return LIMB.format(name, offset, inside + tip)


def leg(side: str, x: float) -> str:
    foot = joint(f"{side}Foot", "0 -40 -1", joint(f"{side}ToeBase", "0 -6 12", end="0 0 6"))
    return joint(f"{side}UpLeg", f"{x} -8 0", joint(f"{side}Leg", "0 -42 1", foot))


def arm(side: str, x: float) -> str:
    hand = joint(f"{side}ForeArm", f"{x * 2.6} 0 0", joint(f"{side}Hand", f"{x * 2.4} 0 0", end=f"{x} 0 0"))
    return joint(f"{side}Shoulder", f"{x * 0.3} 12 0", joint(f"{side}Arm", f"{x} 0 0", hand))


def recorded(folder: Path, ground: float) -> Shot:
    """Somebody whose hips hold all the travel, file units centimetres, over a floor at so many metres."""
    neck = joint("Neck", "0 22 0", joint("Head", "0 10 2", end="0 18 0"))
    spine = joint("Spine", "0 10 0", joint("Chest", "0 20 0", neck + arm("Left", 10) + arm("Right", -10)))
    body = leg("Left", 9) + leg("Right", -9) + spine
    channels = " CHANNELS 6 Xposition Yposition Zposition Zrotation Xrotation Yrotation\n"
    head = f"HIERARCHY\nROOT Hips\n{{\n OFFSET 0 0 0\n{channels}{body}}}\nMOTION\nFrames: 60\nFrame Time: 0.0333333\n"
    still = " ".join(["0"] * (3 + 3 * body.count("JOINT")))
    rows = [f"150 {96 + 100 * ground + 0.05 * np.sin(f / 5):.4f} {40 + 1.5 * f:.4f} {still}" for f in range(60)]
    (folder / "somebody.bvh").write_text(head + "\n".join(rows) + "\n")
    return bv.bring(folder / "somebody.bvh")


@pytest.mark.parametrize("ground", [0.0, 0.11, -0.6])
def test_it_stands_where_the_figure_stood(tmp_path: Path, ground: float) -> None:
    shot = recorded(tmp_path, ground)
    before = bv.sample(shot, "somebody", [101.0])
    floor = float(bv.sample(shot, "somebody", np.arange(101.0, 149.0)).position[:, 1:, 1].min())
    made = bv.new_cycle(shot, "somebody", "walk", 32, 0.8)
    frames = np.arange(101.0, 133.0)
    after = bv.sample(made, "somebody", frames)
    hips = before.joints.index("Hips") if "Hips" in before.joints else 1
    assert np.abs(after.position[0, hips, [0, 2]] - before.position[0, hips, [0, 2]]).max() < 0.05
    assert abs(float(after.position[:, 1:, 1].min()) - floor) < 0.04
    assert [note.kind for note in bv.proof(made, "somebody") if note.kind in ("locked", "seam", "snap")] == []


def test_and_one_that_stands_by_itself_is_laid_out_as_ever() -> None:
    shot = Shot("porter").with_figure(bv.demo().figure("porter"))
    leaning = bv.set_values(shot, "porter", 101, {"hips/forward": 0.1, "hips/up": -0.1, "whole figure/across": 0.7})
    one, two = (bv.new_cycle(s, "porter", "walk", 24, 0.8) for s in (shot, leaning))
    off = bv.sample(two, "porter", [101.0, 110.0]).position - bv.sample(one, "porter", [101.0, 110.0]).position
    assert np.abs(off - [0.7, 0.0, 0.0]).max() < 1e-9
