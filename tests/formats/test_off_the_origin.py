"""Figures that stand far from the origin of their file: their limbs and their size are those of the joints about themselves."""

import re
from pathlib import Path

import numpy as np
import pytest

from bovrin import script as bv
from bovrin.figure.brought.guess import guess_build
from bovrin.shot import Joint, Shot

AWAY = [(5.0, 0.0, 0.0), (0.0, 0.0, -12.0), (0.0, 40.0, 0.0), (200.0, 3.0, 90.0)]


def joints_of(name: str) -> tuple[Joint, ...]:
    shot = bv.demo() if name == "porter" else bv.demo("goat")
    return shot.figure(name).rig.joints


def carried(joints: tuple[Joint, ...], away: tuple[float, float, float]) -> tuple[Joint, ...]:
    """The joints on one more that lies at the origin, moved far from it."""
    first = joints[0]
    moved = Joint(first.name, 0, tuple(np.add(first.translation, away).tolist()), first.rotation)
    return (
        Joint("carrier", -1, (0.0, 0.0, 0.0)),
        moved,
        *(Joint(j.name, j.parent + 1, j.translation, j.rotation) for j in joints[1:]),
    )


@pytest.mark.parametrize("away", AWAY)
@pytest.mark.parametrize("name", ["porter", "goat"])
def test_a_skeleton_far_away_is_taken_for_the_same(name: str, away: tuple[float, float, float]) -> None:
    here, there = guess_build(joints_of(name)), guess_build(carried(joints_of(name), away))
    assert there.build == here.build
    assert [(x.kind, x.side, tuple(j - 1 for j in x.joints)) for x in there.limbs] == [
        (x.kind, x.side, x.joints) for x in here.limbs
    ]
    assert (there.hips - 1, there.head - 1, [t - 1 for t in there.spine]) == (here.hips, here.head, list(here.spine))


@pytest.mark.parametrize("away", AWAY)
def test_a_bvh_whose_root_lies_far_away_keeps_its_limbs_and_size(
    tmp_path: Path, away: tuple[float, float, float]
) -> None:
    shot = Shot("off", last=120.0).with_figure(bv.demo().figure("porter"))
    bv.export(bv.set_values(shot, "porter", 110, {"head/turn": 20.0}), tmp_path / "here.bvh")

    def moved(match: re.Match[str]) -> str:
        return "OFFSET " + " ".join(f"{float(own) + by:.6f}" for own, by in zip(match.groups(), away, strict=True))

    text = re.sub(r"OFFSET (\S+) (\S+) (\S+)", moved, (tmp_path / "here.bvh").read_text(), count=1)
    (tmp_path / "there.bvh").write_text(text)
    here, there = (bv.bring(tmp_path / f"{name}.bvh") for name in ("here", "there"))
    assert bv.limbs(there, "there") == bv.limbs(here, "here")
    assert len(bv.limbs(there, "there")) == 4
    sizes = [np.ptp(bv.sample(s, n, [101.0]).position[0, 1:], axis=0) for s, n in ((here, "here"), (there, "there"))]
    assert np.abs(sizes[0] - sizes[1]).max() < 1e-4
