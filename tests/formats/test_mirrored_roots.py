"""A figure whose root is mirrored comes out as it is seen, in formats that hold turns alone and in those that hold sizes."""

from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make
from tests.formats.test_usd_out import baked

from bovrin import script as bv
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.shot import Shot


@pytest.fixture
def mirrored(tmp_path: Path) -> Shot:
    """A figure that hangs on a node which mirrors it, in motion."""
    made = make.figure(make.TWO_LEGS)
    tops = [i for i, node in enumerate(made.doc["nodes"]) if node.get("name") == "Kern"]
    carrier = made.add("nodes", name="carrier", scale=[-1.0, 1.0, 1.0], children=tops)
    for scene in made.doc.get("scenes", []):
        scene["nodes"] = [carrier if n in tops else n for n in scene["nodes"]]
    path = tmp_path / "stranger.glb"
    path.write_bytes(made.glb())
    shot = bv.bring(path, 1.0)
    assert np.linalg.det(staged(shot, "stranger", [101.0]).world[0, 1, :3, :3]) < 0, "it is mirrored"
    shot = bv.set_values(shot, "stranger", 101, {"Stock_1/turn": 0, "Stock_2/turn": 0.0})
    return bv.set_values(shot, "stranger", 110, {"Stock_1/turn": 40, "Stock_2/turn": -25.0})


def test_as_usd(mirrored: Shot, tmp_path: Path) -> None:
    bv.export(mirrored, tmp_path / "out.usda")
    for frame in (101.0, 106.0, 110.0):
        own = skinned(mirrored.cast[0], staged(mirrored, "stranger", [frame]).world[0])
        assert np.abs(baked(tmp_path / "out.usda", "stranger", "body", frame) - own).max() < 2e-4


def test_as_bvh(mirrored: Shot, tmp_path: Path) -> None:
    bv.export(mirrored, tmp_path / "out.bvh")
    read = bv.bring(tmp_path / "out.bvh", 1.0)
    own, there = (staged(shot, shot.cast[0].name, np.arange(101.0, 111.0)) for shot in (mirrored, read))
    names = [[joint.name for joint in one.rig.joints] for one in (own, there)]
    for name in sorted(set(names[0]) & set(names[1])):
        places = [one.places[:, found.index(name)] for one, found in zip((own, there), names, strict=True)]
        assert np.abs(places[0] - places[1]).max() < 1e-4, name
