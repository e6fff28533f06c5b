"""What is handed on as glTF: import, export, import is the same; what came in stays; keys stay keys."""

from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make
from tests.formats.gltf_player import Player
from tests.formats.test_gltf_in import brought, moving, vertices

from bovrin import script
from bovrin.craft.takes import copied_take
from bovrin.errors import BadMotion
from bovrin.figure.staging import staged
from bovrin.formats.gltf.out import shot_glb
from bovrin.shot import Shot


def again(shot: Shot, folder: Path) -> Shot:
    path = folder / f"{shot.title}.glb"
    script.export(shot, path)
    return script.bring(path)


def same_motion(a: Shot, b: Shot, figure: str) -> float:
    """The largest difference of joint matrices on any frame of any take; joints by name."""
    worst = 0.0
    names = [[j.name for j in s.figure(figure).rig.joints] for s in (a, b)]
    at = [names[1].index(n) for n in names[0]]
    frames = np.array(a.whole_frames, float)
    for take in a.all_takes:
        one = staged(a.with_take(take.name), figure, frames).world
        two = staged(b.with_take(take.name), figure, frames).world[:, at]
        worst = max(worst, float(np.abs(one - two).max()))
    return worst


def test_import_export_import_is_the_same_motion(tmp_path: Path) -> None:
    shot, player = brought(moving(), tmp_path)
    second = again(shot, tmp_path)
    assert same_motion(shot, second, "stranger") < 1e-5
    third = again(second, tmp_path)
    assert same_motion(shot, third, "stranger") < 1e-5
    for frame in (101, 109, 118, 125):
        for take in ("nod", "all sorts"):
            theirs = player.vertices(take, (frame - 101) / 24)
            assert np.abs(vertices(third.with_take(take), frame) - theirs).max() < 5e-5
            out = Player((tmp_path / "stranger.glb").read_bytes()).vertices(take, (frame - 101) / 24)
            assert np.abs(out - theirs).max() < 5e-5
    rest, rest_again = (s.cast[0].no_motion() for s in (shot, third))
    still = [s.with_curves("stranger", r) for s, r in ((shot, rest), (third, rest_again))]
    low, high = ([vertices(s, 101).min(0), vertices(s, 101).max(0)] for s in still)
    assert np.allclose(low, high, atol=1e-5)


def test_a_figure_in_centimetres_comes_back_as_it_was(tmp_path: Path) -> None:
    maker = make.Maker()
    maker.joints({n: (p, tuple(np.array(x) * 100)) for n, (p, x) in make.TWO_LEGS.items()})
    maker.skin(list(make.TWO_LEGS))
    shot, _ = brought(maker, tmp_path, None)
    shot = script.set_values(shot, "stranger", 101, {"whole figure/across": 0.0, "Kern/up": 0.0})
    shot = script.set_values(shot, "stranger", 111, {"whole figure/across": 0.5, "Kern/up": -0.1, "Hals/turn": 30})
    second = again(script.splined(shot, "stranger"), tmp_path)
    assert same_motion(script.splined(shot, "stranger"), second, "stranger") < 1e-5
    assert second.cast[0].rig.channel_names[:6] == shot.cast[0].rig.channel_names[:6]


def test_posing_a_brought_figure_shows_elsewhere(tmp_path: Path) -> None:
    """Reach, stretch and size, which no node of its own can hold: the skin of another reader lies where ours does."""
    shot, _ = brought(make.figure(make.TWO_LEGS), tmp_path)
    shot = script.set_values(shot, "stranger", 101, {"left hand goal/up": 0.3, "left hand goal/across": -0.2})
    shot = script.set_values(
        shot, "stranger", 112, {"left elbow/lower length": 1.4, "whole figure/stretch": 0.8, "whole figure/roll": 30}
    )
    shot = script.splined(shot, "stranger")
    player = Player(shot_glb(shot))
    for frame in (101, 106, 112, 120):
        assert np.abs(player.vertices("A", (frame - 101) / 24) - vertices(shot, frame)).max() < 1e-4


def test_materials_pictures_extras_and_other_nodes_stay(tmp_path: Path) -> None:
    maker = moving()
    image = maker.add("images", bufferView=maker.view(make.png()), mimeType="image/png")
    maker.add("textures", source=image)
    maker.add("materials", name="hide", emissiveTexture={"index": 0}, extras={"gloss": 3})
    maker.doc["meshes"][0]["primitives"][0]["material"] = 0
    camera = maker.add("cameras", type="perspective", perspective={"yfov": 1.0, "znear": 0.1})
    maker.add("nodes", name="lookout", camera=camera, translation=[0, 1, 4])
    maker.doc["nodes"][0]["extras"] = {"note": "ours"}
    maker.doc["extensionsUsed"] = ["KHR_lights_punctual"]
    maker.doc["extensions"] = {"KHR_lights_punctual": {"lights": [{"type": "point"}]}}
    maker.add("nodes", name="lamp", extensions={"KHR_lights_punctual": {"light": 0}})
    shot, _ = brought(maker, tmp_path)
    for beside in (False, True):
        both = script.demo().with_figure(shot.cast[0]) if beside else shot
        doc = Player(shot_glb(both)).doc
        nodes = {n.get("name"): n for n in doc["nodes"]}
        assert nodes["Kern"]["extras"] == {"note": "ours"}
        assert doc["cameras"][nodes["lookout"]["camera"]]["type"] == "perspective"
        assert nodes["lamp"]["extensions"]["KHR_lights_punctual"]["light"] == 0
        hide = next(m for m in doc["materials"] if m["name"] == "hide")
        picture = doc["images"][doc["textures"][hide["emissiveTexture"]["index"]]["source"]]
        view = doc["bufferViews"][picture["bufferView"]]
        data = Player(shot_glb(both)).blob[view["byteOffset"] : view["byteOffset"] + view["byteLength"]]
        assert data == make.png() and hide["extras"] == {"gloss": 3}


def test_takes_are_animations_and_stepped_ones_have_only_their_keys(demo: Shot) -> None:
    only = Shot("alone", first=101, last=160).with_figure(demo.figure("porter"), demo.curves("porter"))
    shot = script.splined(copied_take(only, "splined"), "porter")
    doc = Player(shot_glb(shot)).doc
    found = {a["name"]: a for a in doc["animations"]}
    assert set(found) == {only.take.name, "splined"}
    counts = {}
    for name, animation in found.items():
        rows = [
            (
                animation["samplers"][c["sampler"]]["interpolation"],
                doc["accessors"][animation["samplers"][c["sampler"]]["input"]]["count"],
            )
            for c in animation["channels"]
        ]
        counts[name] = rows
    assert {kind for kind, _ in counts[only.take.name]} == {"STEP"}
    assert max(n for _, n in counts[only.take.name]) == len(script.keys(only, "porter", "hips/up"))
    assert "CUBICSPLINE" in {kind for kind, _ in counts["splined"]}
    assert max(n for _, n in counts["splined"]) == 60


def test_a_rate_of_its_own(demo: Shot) -> None:
    doc = Player(shot_glb(script.splined(demo, "porter"), 12)).doc
    animation = doc["animations"][0]
    longest = max(doc["accessors"][s["input"]]["count"] for s in animation["samplers"])
    assert longest == 30
    with pytest.raises(BadMotion, match="samples"):
        shot_glb(demo, 0.5)


def test_a_shipped_figure_comes_back_with_its_own_rig(demo: Shot, tmp_path: Path) -> None:
    only = Shot("alone", first=101, last=160).with_figure(demo.figure("porter"), demo.curves("porter"))
    back = again(only, tmp_path)
    figure = back.cast[0]
    assert {c.name for c in figure.rig.controls} >= {c.name for c in only.cast[0].rig.controls}
    frames = np.array([101.0, 119, 127, 143])
    one, two = (script.sample(s, s.cast[0].name, frames) for s in (only, back))
    at = [two.joints.index(n) for n in one.joints]
    assert np.abs(one.position - two.position[:, at]).max() < 1e-5
