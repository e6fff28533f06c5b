"""Figures of other makers that are damaged: what can be trusted is loaded and the rest told, or one sentence says why not."""

import base64
import copy
import json
import resource
import struct
import time
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make
from tests.formats.test_gltf_in import moving

from bovrin import script
from bovrin.errors import BovrinError
from bovrin.formats.bringing import bring_file
from bovrin.formats.bvh.out import bvh_text
from bovrin.formats.gltf.figure import shot_from_gltf
from bovrin.formats.project.store import save
from bovrin.shot import Shot

MUTATIONS = 1_200
LONGEST, LARGEST = 5.0, 1 << 30


def bring(maker: make.Maker, folder: Path) -> tuple[Shot, list[str]]:
    path = folder / "odd.glb"
    path.write_bytes(maker.glb())
    return shot_from_gltf(path, 1.0)[:2]


def _primitive(maker: make.Maker) -> dict:  # type: ignore[type-arg]
    return maker.doc["meshes"][0]["primitives"][0]


def _nan_positions(maker: make.Maker) -> None:
    count = len(make.TWO_LEGS) * 8
    _primitive(maker)["attributes"]["POSITION"] = maker.array(np.full((count, 3), np.nan))


def _unsummed(maker: make.Maker) -> None:
    weights = np.tile([3.0, 1.0, 0.0, 0.0], (len(make.TWO_LEGS) * 8, 1))
    _primitive(maker)["attributes"]["WEIGHTS_0"] = maker.array(weights)


LEFT_OUT: dict[str, tuple[Callable[[make.Maker], object], str]] = {
    "an accessor past the end": (lambda m: m.doc["bufferViews"][2].update(byteOffset=10**7), "past its end"),
    "vertices that are not numbers": (_nan_positions, "not finite"),
    "indices past the vertices": (
        lambda m: _primitive(m).update(indices=m.array([0, 1, 60_000], "u2")),
        "vertices that are not there",
    ),
    "a circle of nodes": (lambda m: m.doc["nodes"][3].setdefault("children", []).append(0), "circle"),
    "two parents": (lambda m: m.doc["nodes"][0]["children"].append(m.node("Hals")), "two parents"),
    "a child that is not there": (lambda m: m.doc["nodes"][0]["children"].append(999), "not there"),
    "weights of another sum": (_unsummed, "sum to one"),
    "a rotation of no length": (lambda m: m.doc["nodes"][2].update(rotation=[0, 0, 0, 0]), "length zero"),
    "lines": (lambda m: _primitive(m).update(mode=1), "points or lines"),
    "a skin without joints": (lambda m: m.doc["skins"][0].update(joints=[]), "joints"),
    "a picture of no kind": (
        lambda m: (
            m.add("images", bufferView=m.view(b"GIF89a"), mimeType="image/gif"),
            m.add("textures", source=0),
            m.add("materials", pbrMetallicRoughness={"baseColorTexture": {"index": 0}}),
            _primitive(m).update(material=0),
        ),
        "neither PNG nor JPEG",
    ),
    "a key of another number": (
        lambda m: m.doc["animations"][0]["samplers"][0].update(output=m.array(np.zeros((2, 3)))),
        "times but values",
    ),
}


@pytest.mark.parametrize("fault", LEFT_OUT)
def test_the_rest_is_loaded_and_the_fault_told(fault: str, tmp_path: Path) -> None:
    damage, words = LEFT_OUT[fault]
    maker = moving()
    damage(maker)
    shot, left_out = bring(maker, tmp_path)
    assert any(words in line for line in left_out), left_out
    assert len(shot.cast[0].rig.joints) >= 10 and shot.cast[0].model.pieces


REFUSED: dict[str, tuple[Callable[[make.Maker], object], str]] = {
    "nothing in it": (lambda m: (m.doc.clear(), m.doc.update(asset={"version": "2.0"})), "no figure"),
    "glTF 1": (lambda m: m.doc["asset"].update(version="1.0"), "glTF 1.0"),
    "pressed meshes": (lambda m: m.doc.update(extensionsRequired=["KHR_draco_mesh_compression"]), "compression"),
    "nodes that are no list": (lambda m: m.doc.update(nodes={"a": 1}), "list of objects"),
    "a number of 400 digits": (lambda m: m.doc["nodes"][1].update(translation=[0, 10**400, 0]), "finite numbers"),
    "beyond all measure": (lambda m: m.doc["nodes"][1].update(translation=[0, 1e30, 0]), "measure"),
}


@pytest.mark.parametrize("fault", REFUSED)
def test_or_it_is_refused_with_one_sentence(fault: str, tmp_path: Path) -> None:
    damage, words = REFUSED[fault]
    maker = moving()
    damage(maker)
    with pytest.raises(BovrinError, match=words) as caught:
        bring(maker, tmp_path)
    assert caught.value.sentence.count("\n") == 0 and "odd.glb" in caught.value.sentence


@pytest.mark.parametrize("uri", ["../secret.png", "/etc/hostname", "file:///etc/hostname", "gone.png"])
def test_nothing_outside_the_folder_is_read(uri: str, tmp_path: Path) -> None:
    inner = tmp_path / "in"
    inner.mkdir()
    (tmp_path / "secret.png").write_bytes(make.png())
    maker = moving()
    maker.add("images", uri=uri)
    maker.add("textures", source=0)
    maker.add("materials", pbrMetallicRoughness={"baseColorTexture": {"index": 0}})
    _primitive(maker)["material"] = 0
    shot, left_out = bring(maker, inner)
    assert any("picture" in line for line in left_out)
    assert all(piece.cover.texture is None for piece in shot.cast[0].model.pieces)


def test_duplicate_names_get_numbers_and_bones_of_no_length_stay(tmp_path: Path) -> None:
    maker = make.figure(make.TENTACLE)
    for node in maker.doc["nodes"]:
        node["name"] = "ring"
    maker.doc["nodes"][4]["translation"] = [0, 0, 0]
    shot, _ = bring(maker, tmp_path)
    names = [joint.name for joint in shot.cast[0].rig.joints]
    assert len(set(names)) == len(names) and "ring 2" in names


def test_three_hundred_joints_and_half_a_million_triangles(tmp_path: Path) -> None:
    rows = {f"j{n}": (f"j{n - 1}" if n else "", (0.0, 0.005 * n, 0.0)) for n in range(300)}
    maker = make.Maker()
    maker.joints(rows)
    count = 250_500
    rng = np.random.default_rng(3)
    attributes = {
        "POSITION": maker.array(rng.normal(0, 0.3, (count, 3))),
        "JOINTS_0": maker.array(np.tile([5, 200, 299, 0], (count, 1)), "u2"),
        "WEIGHTS_0": maker.array(np.tile([0.5, 0.3, 0.2, 0.0], (count, 1))),
    }
    faces = maker.array(rng.integers(0, count, 1_500_000), "u4")
    mesh = maker.add("meshes", primitives=[{"attributes": attributes, "indices": faces}])
    binds = np.array([np.linalg.inv(maker.world(0)) for _ in rows]).transpose(0, 2, 1).reshape(-1, 16)
    skin = maker.add("skins", joints=list(range(300)), inverseBindMatrices=maker.array(binds))
    maker.add("nodes", mesh=mesh, skin=skin)
    shot, left_out = bring(maker, tmp_path)
    assert shot.cast[0].model.triangle_count == 500_000 and len(shot.cast[0].rig.joints) == 301 and not left_out


def _in_one_text(maker: make.Maker) -> bytes:
    """A .gltf with its arrays inside it."""
    uri = "data:application/octet-stream;base64," + base64.b64encode(bytes(maker.blob)).decode()
    return json.dumps({**maker.doc, "buffers": [{"uri": uri, "byteLength": len(maker.blob)}]}).encode()


def _mutated(data: bytes, rng: np.random.Generator) -> bytes:
    """A file cut off, with bytes changed, or with something in its description put out of place."""
    way = rng.integers(0, 5)
    if way == 0:
        return data[: rng.integers(0, len(data))]
    raw = bytearray(data)
    if way == 1:
        for at in rng.integers(0, len(raw), rng.integers(1, 12)):
            raw[at] = rng.integers(0, 256)
        return bytes(raw)
    if data[:4] != b"glTF":
        words = data.split()
        words[rng.integers(0, len(words))] = [b"{", b"nan", b"-9", b"1e400", b"", b"JOINT"][rng.integers(0, 6)]
        return b" ".join(words)
    size = struct.unpack_from("<I", data, 12)[0]
    document = json.loads(data[20 : 20 + size])
    for _ in range(rng.integers(1, 4)):
        _spoil(document, rng)
    text = json.dumps(document).encode()
    text += b" " * (-len(text) % 4)
    rest = data[20 + size :]
    head = struct.pack("<4sII", b"glTF", 2, 20 + len(text) + len(rest))
    return head + struct.pack("<II", len(text), 0x4E4F534A) + text + rest


STRANGE = (None, -1, 10**9, 1e39, "x", [], {}, True, [1, 2], {"index": -4}, 0, 3, [0, 0, 0], 2**31)


def _spoil(value: object, rng: np.random.Generator) -> None:
    """Go down a random way and put something strange at its end, or take it away."""
    while True:
        keys = list(value) if isinstance(value, dict) else list(range(len(value)))  # type: ignore[arg-type]
        if not keys:
            return
        key = keys[rng.integers(0, len(keys))]
        child = value[key]  # type: ignore[index]
        if isinstance(child, (dict, list)) and child and rng.random() < 0.85:
            value = child
            continue
        if rng.random() < 0.2:
            del value[key]  # type: ignore[attr-defined]
        else:
            value[key] = copy.deepcopy(STRANGE[rng.integers(0, len(STRANGE))])  # type: ignore[index]
        return


@pytest.mark.sweep
@pytest.mark.parametrize("part", range(4))
def test_mutated_files_never_end_in_a_traceback(part: int, tmp_path: Path, demo: Shot) -> None:
    seeds: list[tuple[str, bytes]] = [("glb", moving().glb()), ("glb", make.figure(make.FOUR_LEGS).glb())]
    small = Shot("walk", first=101, last=104).with_figure(demo.figure("porter"), demo.curves("porter"))
    seeds.append(("bvh", bvh_text(small).encode()))
    seeds.append(("gltf", _in_one_text(make.figure(make.TENTACLE))))
    rng = np.random.default_rng(part)
    brought, refused, worst = 0, 0, 0.0
    before = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss
    for n in range(MUTATIONS // 4):
        ending, data = seeds[n % len(seeds)]
        path = tmp_path / f"m.{ending}"
        path.write_bytes(_mutated(data, rng))
        start = time.process_time()
        try:
            shot, _ = bring_file(path)
            brought += 1
            if n % 20 == 0:
                save(shot, tmp_path / "kept.bovrin.json")
        except BovrinError as error:
            refused += 1
            assert "\n" not in error.sentence
        worst = max(worst, time.process_time() - start)
    grown = (resource.getrusage(resource.RUSAGE_SELF).ru_maxrss - before) * 1024
    assert brought > 50 and refused > 50
    assert worst < LONGEST and grown < LARGEST  # seconds of work, not of waiting


def test_a_vertex_without_weight_goes_with_the_first_bone_whatever_its_joints_say(tmp_path: Path) -> None:
    maker = make.figure(make.TWO_LEGS)
    count = len(make.TWO_LEGS) * 8
    weights, joints = np.tile([1.0, 0.0, 0.0, 0.0], (count, 1)), np.zeros((count, 4))
    weights[3], joints[3] = 0.0, 60_000
    joints[4, 2] = 50_000  # of no weight
    attributes = _primitive(maker)["attributes"]
    attributes["WEIGHTS_0"], attributes["JOINTS_0"] = maker.array(weights), maker.array(joints, "u2")
    shot, _ = bring(maker, tmp_path)
    model = shot.cast[0].model
    assert model.bones is not None and all(piece.joints.max() < len(model.bones) for piece in model.pieces)
    script.export(shot, tmp_path / "out.glb")
