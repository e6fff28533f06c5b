from pathlib import Path

import numpy as np
import pytest
from scipy.spatial.transform import Rotation
from tests.formats import gltf_maker as make
from tests.formats.gltf_player import Player

from bovrin import script
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Shot

TURNS = {n: Rotation.random(random_state=i).as_quat() for i, n in enumerate(make.TWO_LEGS)}


def vertices(shot: Shot, frame: float) -> np.ndarray:
    figure = shot.cast[0]
    values = channel_values(shot.curves(figure.name), figure.rig, [frame])
    world = staged(shot, figure.name, [frame]).world[0]
    return skinned(figure, world, values[0, list(figure.rig.morph_columns)])


def brought(maker: make.Maker, folder: Path, scale: float | None = 1.0) -> tuple[Shot, Player]:
    path = folder / "stranger.glb"
    path.write_bytes(maker.glb())
    return script.bring(path, scale), Player(maker.glb())


def moving() -> make.Maker:
    """Odd rest turns, a textured skin, rigid and mirrored parts, shapes, and every kind of interpolation."""
    maker = make.figure(make.TWO_LEGS, turns=TURNS)
    box = np.array([[x, y, z] for x in (0, 0.1) for y in (0, 0.1) for z in (0, 0.1)])
    plain = {"POSITION": maker.array(box)}
    faces = maker.array(np.array(make.BOX).ravel(), "u4")
    bulge = {"POSITION": maker.array(box * 0.5)}
    mesh = maker.add(
        "meshes",
        primitives=[{"attributes": plain, "indices": faces, "targets": [bulge, bulge]}],
        weights=[0.5, 0.0],
        extras={"targetNames": ["puff", "swell"]},
    )
    hat = maker.add("nodes", name="hat", mesh=mesh, translation=[0, 0.2, 0], scale=[1.5, -0.7, 1.0])
    lid = maker.add("nodes", name="lid", mesh=mesh, matrix=[0, 2, 0, 0, -2, 0, 0, 0, 0, 0, 2, 0, 0.1, 0.2, 0.3, 1])
    maker.doc["nodes"][maker.node("Kugel")]["children"] = [hat]
    maker.doc["nodes"][hat]["children"] = [lid]
    rng = np.random.default_rng(5)
    turned = lambda count, size: Rotation.from_rotvec(rng.normal(0, size, (count, 3))).as_quat()
    dense = np.arange(25) / 24.0
    spin = np.concatenate([rng.normal(0, 0.2, (4, 1, 4)), turned(4, 1.0)[:, None], rng.normal(0, 0.2, (4, 1, 4))], 1)
    maker.animate(
        "all sorts",
        ("Kern", "translation", "LINEAR", [0, 0.5, 1], [[0, 0.9, 0], [0.2, 1, 0.1], [0.4, 0.8, 0.3]]),
        ("Kern", "rotation", "LINEAR", dense, turned(25, 0.4)),
        ("Stock_2", "rotation", "LINEAR", [0, 1], turned(2, 1.2)),
        ("Ast.L", "rotation", "CUBICSPLINE", [0, 0.25, 0.75, 1], spin.reshape(-1, 4)),
        ("Zweig.L", "rotation", "STEP", [0, 0.25, 0.5], turned(3, 0.8)),
        ("Hals", "translation", "CUBICSPLINE", [0, 0.5, 1], rng.normal(0, 0.3, (9, 3))),
        ("Hals", "scale", "LINEAR", [0, 1], [[1, 1, 1], [1.4, 0.8, 1.1]]),
        ("hat", "scale", "STEP", [0, 0.5], [[1.5, -0.7, 1], [1, -1, 1]]),
        ("hat", "weights", "LINEAR", [0, 1], [[0.5, 0], [1.0, 0.25]]),
    )
    maker.animate("nod", ("Kugel", "rotation", "LINEAR", [0, 0.5, 1], turned(3, 0.5)))
    return maker


def test_it_looks_as_the_standard_says_at_rest_and_in_every_animation(tmp_path: Path) -> None:
    shot, player = brought(moving(), tmp_path)
    still = shot.with_take("nod")
    assert {take.name for take in shot.all_takes} == {"all sorts", "nod"} and shot.frame_rate == 24
    for take, one in (("all sorts", shot.with_take("all sorts")), ("nod", still)):
        for frame in range(101, 126):
            own = vertices(one, frame)
            theirs = player.vertices(take, (frame - 101) / 24)
            assert np.abs(own - theirs).max() < 2e-5, (take, frame)
    figure = shot.cast[0]
    world = staged(Shot("", (figure,), still.take), figure.name, [101]).world
    assert world.shape[1] == len(make.TWO_LEGS) + 3


def test_keys_stay_keys_where_curves_can_hold_them(tmp_path: Path) -> None:
    shot = brought(moving(), tmp_path)[0].with_take("all sorts")
    assert script.keys(shot, "stranger", "Kern/up") == [101, 113, 125]
    assert script.keys(shot, "stranger", "Zweig.L/tilt") == [101, 107, 113]
    assert script.keys(shot, "stranger", "Hals/forward") == [101, 113, 125]
    assert len(script.keys(shot, "stranger", "Ast.L/tilt")) == 25  # a spline of quaternions is none of angles


@pytest.mark.parametrize("unit", [0.01, 0.001, 1.0])
def test_units_are_guessed_and_the_figure_is_as_tall(tmp_path: Path, unit: float) -> None:
    maker = make.Maker()
    maker.joints({n: (p, tuple(np.array(x) / unit)) for n, (p, x) in make.TWO_LEGS.items()})
    maker.skin(list(make.TWO_LEGS))
    shot, _ = brought(maker, tmp_path, None)
    rest = script.sample(shot, "stranger", [101]).position[0]
    assert np.ptp(rest[:, 1]) == pytest.approx(1.55, abs=1e-3)


def test_a_size_above_the_skeleton_counts_once(tmp_path: Path) -> None:
    """An armature sized to a hundredth over joints in centimetres, as many programs write it."""
    maker = make.Maker()
    rows = {"Armature": ("", (0, 0, 0)), **make.TWO_LEGS}
    rows["Kern"] = ("Armature", rows["Kern"][1])
    maker.joints({n: (p, tuple(np.array(x) * 100)) for n, (p, x) in rows.items()})
    maker.doc["nodes"][0]["scale"] = [0.01] * 3
    maker.skin(list(make.TWO_LEGS))
    shot, player = brought(maker, tmp_path, None)
    assert np.abs(vertices(shot, 101) - player.vertices()).max() < 1e-5
    assert script.rig_report(shot, "stranger")["build"] == "two-legged"


def test_builds_need_no_correction(tmp_path: Path) -> None:
    two, _ = brought(make.figure(make.TWO_LEGS, turns=TURNS), tmp_path)
    report = script.rig_report(two, "stranger")
    assert report["build"] == "two-legged"
    assert report["limbs"]["left arm"] == ["Oben.L", "Mitte.L", "Ende.L"]
    assert report["limbs"]["right leg"] == ["Ast.R", "Zweig.R", "Schuh.R"]
    assert {"body", "head", "left arm", "right arm", "left leg", "right leg"} <= set(report["parts"])
    four, _ = brought(make.figure(make.FOUR_LEGS), tmp_path)
    report = script.rig_report(four, "stranger")
    assert report["build"] == "four-legged" and len(report["limbs"]) == 4
    assert report["limbs"]["left fore leg"] == ["f0x", "f1x", "f2x"] and "tail" in report["parts"]
    one, _ = brought(make.figure(make.TENTACLE), tmp_path)
    report = script.rig_report(one, "stranger")
    assert report["build"] == "other" and report["limbs"] == {}
    assert sum(len(controls) for controls in report["parts"].values()) == 10


def test_feet_roll_on_what_the_mesh_has_on_the_ground(tmp_path: Path) -> None:
    shot, player = brought(make.figure(make.TWO_LEGS), tmp_path)
    low = float(player.vertices()[:, 1].min())
    legs = [limb for limb in shot.cast[0].rig.limbs if limb.name.endswith("leg")]
    assert len(legs) == 2
    for limb in legs:
        assert limb.foot is not None
        assert 0.09 + limb.foot.heel[1] == pytest.approx(low, abs=1e-5)
        assert limb.foot.heel[2] < 0 < limb.foot.ball[2]


def test_pictures_colours_and_what_is_cut_out(tmp_path: Path) -> None:
    maker = make.figure(make.TENTACLE)
    image = maker.add("images", bufferView=maker.view(make.png()), mimeType="image/png", name="scales")
    texture = maker.add("textures", source=image, sampler=maker.add("samplers", wrapS=33071))
    pbr = {"baseColorFactor": [0.5, 0.5, 0.5, 1], "baseColorTexture": {"index": texture}}
    maker.add("materials", name="hide", pbrMetallicRoughness=pbr, alphaMode="MASK", alphaCutoff=0.4, doubleSided=True)
    maker.doc["meshes"][0]["primitives"][0]["material"] = 0
    shot, _ = brought(maker, tmp_path)
    (piece,) = shot.cast[0].model.pieces
    assert piece.name == "hide" and piece.colour[0] == pytest.approx(0.735, abs=1e-3)
    assert piece.cover.texture is not None and piece.cover.texture.data == make.png()
    assert piece.cover.texture.repeats == (False, True) and piece.cover.two_sided
    assert piece.cover.cutoff == pytest.approx(0.4)
    seen = script.picture(shot, 101, "front", (200, 300))
    middle = seen[100:200, 90:110].reshape(-1, 4)
    reddish = (middle[:, 0].astype(int) - middle[:, 2]) > 60
    assert reddish.mean() > 0.1


def test_it_is_kept_beside_the_project_with_all_it_came_with(tmp_path: Path) -> None:
    maker = moving()
    maker.doc["nodes"][0]["extras"] = {"note": "ours"}
    shot, _ = brought(maker, tmp_path)
    script.save(shot, tmp_path / "kept.bovrin.json")
    again = script.load(tmp_path / "kept.bovrin.json")
    assert np.abs(vertices(again, 113) - vertices(shot, 113)).max() < 1e-6
    kept = Player((tmp_path / again.cast[0].source).read_bytes())
    assert kept.doc["nodes"][0]["extras"] == {"note": "ours"} and "animations" not in kept.doc
    assert np.abs(kept.vertices() - Player(maker.glb()).vertices()).max() < 1e-6


def test_a_gltf_with_its_arrays_and_pictures_beside_it(tmp_path: Path) -> None:
    maker = moving()
    image = maker.add("images", uri="my%20scales.png")
    maker.add("textures", source=image)
    maker.add("materials", pbrMetallicRoughness={"baseColorTexture": {"index": 0}})
    maker.doc["meshes"][0]["primitives"][0]["material"] = 0
    import json

    (tmp_path / "arrays.bin").write_bytes(bytes(maker.blob))
    (tmp_path / "my scales.png").write_bytes(make.png())
    doc = {**maker.doc, "buffers": [{"uri": "arrays.bin", "byteLength": len(maker.blob)}]}
    path = tmp_path / "stranger.gltf"
    path.write_text(json.dumps(doc))
    shot = script.bring(path, 1.0)
    assert shot.cast[0].model.pieces[0].cover.texture is not None
    player = Player(moving().glb())
    assert np.abs(vertices(shot.with_take("nod"), 107) - player.vertices("nod", 0.25)).max() < 2e-5


def test_several_roots_and_joints_outside_the_skin(tmp_path: Path) -> None:
    """Two skeletons under no common node, a joint that no skin lists, and a rigid prop: one figure, moved as a whole."""
    maker = make.figure(make.TWO_LEGS)
    more = {f"tentacle {n}": (f"tentacle {n - 1}" if n else "", (1.5, 0.1 + 0.1 * n, 0.0)) for n in range(5)}
    maker.joints(more)
    maker.skin(list(more)[:-1])
    box = np.array([[x, y, z] for x in (0, 0.1) for y in (0, 0.1) for z in (0, 0.1)])
    mesh = maker.add(
        "meshes",
        primitives=[
            {"attributes": {"POSITION": maker.array(box)}, "indices": maker.array(np.array(make.BOX).ravel(), "u4")}
        ],
    )
    maker.add("nodes", name="stone", mesh=mesh, translation=[-1.0, 0, 0])
    maker.animate("drift", ("tentacle 4", "translation", "LINEAR", [0, 1], [[0, 0.1, 0], [0, 0.3, 0]]))
    shot, player = brought(maker, tmp_path)
    names = [joint.name for joint in shot.cast[0].rig.joints]
    assert {"Kern", "tentacle 0", "tentacle 4", "stone"} <= set(names)
    for frame in (101, 110, 125):
        assert np.abs(vertices(shot, frame) - player.vertices("drift", (frame - 101) / 24)).max() < 2e-5
    moved = script.set_values(shot, "stranger", 101, {"whole figure/across": 2.0})
    assert np.allclose(vertices(moved, 101) - vertices(shot, 101), [2.0, 0, 0], atol=1e-6)
