"""What is handed on of a figure from elsewhere is as it came in but for what was changed: nodes, names, units."""

from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make
from tests.formats.gltf_player import Player
from tests.formats.test_bvh import read
from tests.formats.test_gltf_in import brought, moving

from bovrin import script
from bovrin.figure.staging import staged
from bovrin.formats.bvh.out import bvh_text
from bovrin.formats.gltf.out import shot_glb
from bovrin.shot import Shot

NOD = ("Hals", "rotation", "LINEAR", [0, 1], [[0, 0, 0, 1], [0.1, 0, 0, 0.995]])


def in_centimetres(scale: float = 100.0) -> make.Maker:
    maker = make.Maker()
    maker.joints({n: (p, tuple(np.array(x) * scale)) for n, (p, x) in make.TWO_LEGS.items()})
    maker.skin(list(make.TWO_LEGS))
    maker.animate("nod", ("Kern", "translation", "LINEAR", [0, 1], [[0, 90, 0], [20, 95, 0]]), NOD)
    return maker


def test_nodes_that_nothing_moves_are_untouched_and_none_is_added(tmp_path: Path) -> None:
    maker = moving()
    for number, node in enumerate(maker.doc["nodes"]):
        if number % 3 == 0:
            node.pop("name", None)
    maker.add("nodes", matrix=[1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0.5, 0, 0, 1])
    shot, player = brought(maker, tmp_path)
    out = Player(shot_glb(shot)).doc
    assert [n.get("name") for n in out["nodes"]] == [n.get("name") for n in player.doc["nodes"]]
    assert [n.get("children", []) for n in out["nodes"]] == [n.get("children", []) for n in player.doc["nodes"]]
    animated = {c["target"]["node"] for a in player.doc["animations"] for c in a["channels"]}
    assert {c["target"]["node"] for a in out["animations"] for c in a["channels"]} >= animated
    told = {c["target"]["node"] for a in out["animations"] for c in a["channels"] if c["target"]["path"] != "weights"}
    for number, (new, old) in enumerate(zip(out["nodes"], player.doc["nodes"], strict=True)):
        assert number in told or new == old
        assert not (number in told and "matrix" in new), "what is animated has no matrix"


def test_a_whole_figure_that_goes_somewhere_gets_a_node_that_carries_it(tmp_path: Path) -> None:
    shot, player = brought(moving(), tmp_path)
    gone = script.set_values(shot, "stranger", 101, {"whole figure/across": 2.0})
    out = Player(shot_glb(gone))
    assert len(out.doc["nodes"]) == len(player.doc["nodes"]) + 1
    take = gone.take.name
    assert np.abs(out.vertices(take, 0.0) - player.vertices(take, 0.0) - [2.0, 0, 0]).max() < 1e-4


@pytest.mark.parametrize("keyed", [False, True])
def test_units_are_those_it_came_in_unless_metres_are_asked_for(tmp_path: Path, keyed: bool) -> None:
    shot, player = brought(in_centimetres(), tmp_path, None)
    if keyed:
        shot = script.set_values(shot, "stranger", 101, {"whole figure/up": 0.25})
    lift = np.array([0.0, 25.0 if keyed else 0.0, 0.0])
    for seconds in (0.0, 0.5, 1.0):
        theirs = player.vertices("nod", seconds) + lift
        assert np.abs(Player(shot_glb(shot)).vertices("nod", seconds) - theirs).max() < 1e-2
        assert np.abs(Player(shot_glb(shot, metres=True)).vertices("nod", seconds) - theirs / 100).max() < 1e-4
    for metres in (False, True):
        path = tmp_path / f"{metres}.glb"
        script.export(shot, path, metres=metres)
        second = script.bring(path)
        assert np.abs(worlds(second) - worlds(shot)).max() < 1e-5
        assert second.cast[0].rig.channel_names == shot.cast[0].rig.channel_names


def worlds(shot: Shot) -> np.ndarray:
    return staged(shot, shot.cast[0].name, np.array(shot.whole_frames, float)).world


def test_a_bvh_goes_out_in_the_units_it_came_in(tmp_path: Path) -> None:
    inches = script.demo()
    only = Shot("alone", first=101, last=140).with_figure(inches.figure("porter"), inches.curves("porter"))
    path = tmp_path / "own.bvh"
    script.export(only, path)
    rows = path.read_text()
    large = "\n".join(
        "OFFSET " + " ".join(f"{float(x) / 0.0254:.6f}" for x in line.split()[1:]) if "OFFSET" in line else line
        for line in rows.splitlines()
    )
    shot, _ = read(large.encode(), 0.0254)
    again, _ = read(bvh_text(shot).encode(), 0.0254)
    assert np.abs(worlds(again) - worlds(shot)).max() < 1e-4
    metric, _ = read(bvh_text(shot, metres=True).encode(), 1.0)
    assert np.abs(worlds(metric) - worlds(shot)).max() < 1e-4
    kept = tmp_path / "kept.bovrin.json"
    script.save(shot, kept)
    assert bvh_text(script.load(kept)) == bvh_text(shot), "the unit is kept with the project"
