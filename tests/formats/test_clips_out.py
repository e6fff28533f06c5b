"""Clips in files: animations of a GLB with their loops, travel by choice, a BVH of one clip."""

from pathlib import Path

import numpy as np
import pytest
from tests.craft.clips.test_clips import shelf
from tests.cycles import places

from bovrin import script as bv
from bovrin.errors import BovrinError
from bovrin.formats.gltf.container import GlbReader
from bovrin.shot import Shot

FRAMES = np.arange(101.0, 197.0)


def laid() -> Shot:
    from dataclasses import replace

    return replace(bv.lay_clip(shelf(), "porter", "walk", 101, repeats=3), last=196.0)


def test_takes_and_clips_are_animations(tmp_path: Path) -> None:
    bv.export(laid(), tmp_path / "a.glb")
    document = GlbReader((tmp_path / "a.glb").read_bytes(), "a.glb").document
    found = {a["name"]: a["extras"]["loops"] for a in document["animations"]}
    assert found == {"A": False, "nod": False, "run": True, "walk": True}


def test_what_clips_do_comes_back(tmp_path: Path) -> None:
    bv.export(laid(), tmp_path / "a.glb")
    again = bv.bring(tmp_path / "a.glb")
    (name,) = bv.figures(again)
    assert set(bv.takes(again)) == {"A", "nod", "run", "walk"}
    take = bv.use_take(again, "A")
    own, back = bv.sample(laid(), "porter", FRAMES), bv.sample(take, name, FRAMES)
    for joint in ("hips", "head", "left foot", "right hand"):
        a, b = own.position[:, own.joints.index(joint)], back.position[:, back.joints.index(joint)]
        assert np.abs(a - b).max() < 2e-3
    first, last, loops = bv.take_range(bv.use_take(again, "walk"), "walk")
    assert last - first == 31 and loops


def test_travel_is_by_choice(tmp_path: Path) -> None:
    for travel in (True, False):
        path = tmp_path / f"{travel}.glb"
        bv.export(laid(), path, travel=travel)
        again = bv.bring(path)
        root = bv.sample(again, bv.figures(again)[0], FRAMES).position[:, 0]
        assert bool(np.ptp(root[:, 2]) > 2.0) is travel


def test_one_clip_as_bvh_and_glb(tmp_path: Path) -> None:
    bv.export(laid(), tmp_path / "run.bvh", clip="run")
    motion = bv.bring(tmp_path / "run.bvh")
    assert motion.last - motion.first == 17
    bv.export(laid(), tmp_path / "run.glb", clip="run")
    document = GlbReader((tmp_path / "run.glb").read_bytes(), "run.glb").document
    assert [a["name"] for a in document["animations"]] == ["run"]
    with pytest.raises(BovrinError):
        bv.export(laid(), tmp_path / "no.glb", clip="waltz")
    assert not (tmp_path / "no.glb").exists()


def test_a_shot_without_clips_is_written_as_ever(tmp_path: Path) -> None:
    from bovrin.figure.reading.baking import baked

    shot = bv.demo()
    assert baked(shot) is shot
    kept = places(baked(laid()), "porter", FRAMES)
    assert np.abs(kept - places(laid(), "porter", FRAMES)).max() < 1e-9
