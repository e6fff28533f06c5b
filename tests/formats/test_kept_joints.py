"""What was brought can be opened again, whatever its joints were: cameras, lights, empties, a skeleton alone."""

from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make

from bovrin import script
from bovrin.figure.staging import staged
from bovrin.shot import Shot

TIMES = [0.0, 1.0]
TURN = [[0, 0, 0, 1], [0, 0.2, 0, 0.98]]
MOVE = [[0, 1, 0], [0.5, 1, 0.2]]


def with_camera() -> make.Maker:
    maker = make.figure(make.TWO_LEGS)
    camera = maker.add("cameras", type="perspective", perspective={"yfov": 1.0, "znear": 0.1})
    maker.add("nodes", name="lookout", camera=camera, translation=[0, 1, 4])
    maker.animate("A", ("lookout", "translation", "LINEAR", TIMES, MOVE), ("Hals", "rotation", "LINEAR", TIMES, TURN))
    return maker


def with_light() -> make.Maker:
    maker = make.figure(make.TWO_LEGS)
    maker.doc["extensionsUsed"] = ["KHR_lights_punctual"]
    maker.doc["extensions"] = {"KHR_lights_punctual": {"lights": [{"type": "point"}]}}
    maker.add("nodes", name="lamp", extensions={"KHR_lights_punctual": {"light": 0}})
    maker.animate("A", ("lamp", "translation", "LINEAR", TIMES, MOVE))
    return maker


def with_attachment() -> make.Maker:
    """An empty on a hand that carries another, both animated, one without a name."""
    maker = make.figure(make.TWO_LEGS)
    tip = maker.add("nodes", name="tip", translation=[0, 0.1, 0])
    grip = maker.add("nodes", name="grip", children=[tip])
    hand = (
        maker.doc["nodes"][maker.node("Blatt.L")]
        if any(n.get("name") == "Blatt.L" for n in maker.doc["nodes"])
        else maker.doc["nodes"][maker.node("Kugel")]
    )
    hand.setdefault("children", []).append(grip)
    maker.animate("A", ("grip", "rotation", "LINEAR", TIMES, TURN), ("tip", "translation", "LINEAR", TIMES, MOVE))
    del maker.doc["nodes"][tip]["name"]
    return maker


def skeleton_alone() -> make.Maker:
    maker = make.Maker()
    maker.joints(make.TWO_LEGS)
    maker.animate("A", *((name, "rotation", "LINEAR", TIMES, TURN) for name in make.TWO_LEGS))
    return maker


MADE = {"camera": with_camera, "light": with_light, "attachment": with_attachment, "skeleton": skeleton_alone}


def worlds(shot: Shot) -> np.ndarray:
    return staged(shot, shot.cast[0].name, np.array(shot.whole_frames, float)).world


@pytest.mark.parametrize("what", MADE)
def test_it_is_saved_opened_and_handed_on_with_all_its_joints(tmp_path: Path, what: str) -> None:
    source = tmp_path / f"{what}.glb"
    source.write_bytes(MADE[what]().glb())
    shot = script.bring(source, 1.0)
    assert np.ptp(worlds(shot), axis=0).max() > 0.1, "it moves"
    project = tmp_path / "kept" / "it.bovrin.json"
    project.parent.mkdir()
    script.save(shot, project)
    opened = script.load(project)
    assert [j.name for j in opened.cast[0].rig.joints] == [j.name for j in shot.cast[0].rig.joints]
    assert np.array_equal(worlds(opened), worlds(shot))
    script.save(opened, project)
    assert np.array_equal(worlds(script.load(project)), worlds(shot)), "twice"
    for metres in (False, True):
        script.export(opened, tmp_path / "out.glb", metres=metres)
        again = script.bring(tmp_path / "out.glb")
        assert [j.name for j in again.cast[0].rig.joints] == [j.name for j in shot.cast[0].rig.joints]
        assert np.abs(worlds(again) - worlds(shot)).max() < 1e-5


def test_beside_others_too(tmp_path: Path) -> None:
    source = tmp_path / "lookout.glb"
    source.write_bytes(with_camera().glb())
    shot = script.bring(source, 1.0)
    both = script.demo().with_figure(shot.cast[0], shot.curves("lookout"))
    script.export(both, tmp_path / "both.glb")
    again = script.bring(tmp_path / "both.glb")
    assert [f.name for f in again.cast] == [f.name for f in both.cast]
    assert [j.name for j in again.figure("lookout").rig.joints] == [j.name for j in both.figure("lookout").rig.joints]
    script.save(again, tmp_path / "again.bovrin.json")
    assert [f.name for f in script.load(tmp_path / "again.bovrin.json").cast] == [f.name for f in both.cast]
