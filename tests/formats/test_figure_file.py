import json
import random
import struct
from collections.abc import Callable
from dataclasses import fields, replace
from pathlib import Path
from typing import Any

import numpy as np
import pytest

from bovrin.cast import figure_path
from bovrin.errors import BovrinError
from bovrin.formats.figures.file import figure_bytes, figure_from_bytes, read_figure
from bovrin.shot import Cover, Texture
from bovrin.shot.comparing import Measure, differing


@pytest.fixture(scope="module")
def crate() -> bytes:
    return figure_path("crate").read_bytes()


def changed(data: bytes, change) -> bytes:  # type: ignore[no-untyped-def]
    """The file with its JSON changed."""
    size = struct.unpack_from("<I", data, 12)[0]
    doc = json.loads(data[20 : 20 + size])
    change(doc)
    text = json.dumps(doc).encode()
    text += b" " * (-len(text) % 4)
    body = struct.pack("<II", len(text), 0x4E4F534A) + text + data[20 + size :]
    return struct.pack("<III", 0x46546C67, 2, 12 + len(body)) + body


@pytest.mark.parametrize("name", ["porter", "crate"])
def test_written_and_read_again_is_the_same_file(name: str) -> None:
    data = figure_path(name).read_bytes()
    figure = figure_from_bytes(data, "here", f"cast:{name}")
    assert figure_bytes(figure) == data


def first(doc: dict, group: str) -> dict:  # type: ignore[type-arg]
    return doc[group][0]


def circle(doc: dict) -> None:  # type: ignore[type-arg]
    doc["nodes"].append({"name": "loop", "children": [0]})
    doc["nodes"][0]["children"] = [len(doc["nodes"]) - 1]


BAD = {
    "circle of joints": circle,
    "joint is its own child": lambda d: first(d, "nodes").update(children=[0]),
    "child not there": lambda d: first(d, "nodes").update(children=[99]),
    "joint index not there": lambda d: first(d, "skins").update(joints=[77]),
    "no joints": lambda d: first(d, "skins").update(joints=[]),
    "joints as text": lambda d: first(d, "skins").update(joints="all"),
    "no skin": lambda d: d.pop("skins"),
    "no rig": lambda d: first(d, "skins").pop("extras"),
    "rig of another shape": lambda d: first(d, "skins").update(extras={"bovrin": [1, 2]}),
    "rig names an unknown joint": lambda d: first(d, "skins")["extras"]["bovrin"]["controls"][0].update(joint="tail"),
    "rig from the future": lambda d: first(d, "skins")["extras"]["bovrin"].update(version=50),
    "triangles out of range": lambda d: d["accessors"][first(first(d, "meshes"), "primitives")["indices"]].update(
        count=10**9
    ),
    "view out of range": lambda d: d["bufferViews"][1].update(byteLength=10**9, byteOffset=10**9),
    "negative count": lambda d: d["accessors"][1].update(count=-5),
    "count as text": lambda d: d["accessors"][1].update(count="many"),
    "unknown component": lambda d: d["accessors"][1].update(componentType=42),
    "rotation of nothing": lambda d: first(d, "nodes").update(rotation=[0, 0, 0, 0]),
    "place not finite": lambda d: first(d, "nodes").update(translation=[0, 1e999, 0]),
    "material not there": lambda d: first(first(d, "meshes"), "primitives").update(material=9),
    "nodes as text": lambda d: d.update(nodes="none"),
}


@pytest.mark.parametrize("name", BAD)
def test_damaged_figures_are_refused_in_one_sentence(crate: bytes, name: str) -> None:
    with pytest.raises(BovrinError) as caught:
        figure_from_bytes(changed(crate, BAD[name]), "crate.glb", "crate.glb")
    assert "crate.glb" in caught.value.sentence and "\n" not in caught.value.sentence


def test_lengths_that_lie(crate: bytes) -> None:
    huge = crate[:12] + struct.pack("<I", 2**31) + crate[16:]
    for data in (b"", crate[:15], huge, crate[:8] + struct.pack("<I", 2**31 - 1) + crate[12:], b"glTF" * 10):
        with pytest.raises(BovrinError):
            figure_from_bytes(data, "crate.glb", "crate.glb")


def test_vertices_that_are_not_numbers(crate: bytes) -> None:
    size = struct.unpack_from("<I", crate, 12)[0]
    doc = json.loads(crate[20 : 20 + size])
    where = (
        28
        + size
        + doc["bufferViews"][
            doc["accessors"][doc["meshes"][0]["primitives"][0]["attributes"]["POSITION"]]["bufferView"]
        ]["byteOffset"]
    )
    broken = crate[:where] + struct.pack("<f", float("nan")) + crate[where + 4 :]
    with pytest.raises(BovrinError, match="finite"):
        figure_from_bytes(broken, "crate.glb", "crate.glb")


def test_random_damage_never_gets_through_as_a_crash(crate: bytes) -> None:
    """Bytes of the description flipped, cut and doubled: a figure or a sentence, nothing else."""
    rng = random.Random(7)
    told = 0
    size = struct.unpack_from("<I", crate, 12)[0]
    for _ in range(400):
        data = bytearray(crate)
        for _ in range(rng.randint(1, 4)):
            at = rng.randrange(20 + size) if rng.random() < 0.9 else rng.randrange(len(data))
            data[at] = rng.choice([0, 34, 44, 45, 48, 57, 91, 123, 255, rng.randrange(256)])
        if rng.random() < 0.2:
            data = data[: rng.randrange(len(data))]
        try:
            figure_from_bytes(bytes(data), "x.glb", "x.glb")
        except BovrinError:
            told += 1
    assert told > 100


def test_a_missing_file_is_named(tmp_path: Path) -> None:
    with pytest.raises(BovrinError, match="cannot be read"):
        read_figure(tmp_path / "none.glb", "none.glb")


def test_what_the_porter_carries() -> None:
    porter = read_figure(figure_path("porter"), "cast:porter")
    assert np.isfinite(porter.model.pieces[0].positions).all()
    assert {p.name for p in porter.model.pieces} >= {"shirt", "cap", "beard", "left hand", "right hand", "apron"}


PNG = b"\x89PNG\r\n\x1a\n" + b"a picture, as far as files care"
RNG = np.random.default_rng(4)
COVERS: dict[str, Callable[[int], dict[str, Any]]] = {
    "texture": lambda n: {"texture": Texture("wool", PNG, (True, False)), "uv": RNG.random((n, 2), np.float32)},
    "uv": lambda n: {"texture": Texture("wool", PNG), "uv": RNG.random((n, 2), np.float32) * 3 - 1},
    "tints": lambda n: {"tints": RNG.random((n, 3), np.float32)},
    "cutoff": lambda n: {**COVERS["texture"](n), "cutoff": 0.3},
    "two_sided": lambda _n: {"two_sided": True},
    "blended": lambda _n: {"blended": True},
    "opacity": lambda _n: {"blended": True, "opacity": 0.4},
}


def test_every_field_of_a_cover_is_tried() -> None:
    assert sorted(COVERS) == sorted(field.name for field in fields(Cover))


@pytest.mark.parametrize("name", COVERS)
def test_what_covers_a_mesh_is_there_again(crate: bytes, name: str) -> None:
    """Each mesh of the crate gets a cover, one picture for all of them; the others of its fields stay plain."""
    figure = figure_from_bytes(crate, "crate", "crate")
    same = COVERS[name](1).get("texture")
    pieces = [
        replace(p, cover=Cover(**{**COVERS[name](len(p.positions)), **({"texture": same} if same else {})}))
        for p in figure.model.pieces
    ]
    data = figure_bytes(replace(figure, model=replace(figure.model, pieces=tuple(pieces))))
    assert data.count(PNG) == (same is not None)
    again = figure_from_bytes(data, "crate", "crate")
    for wanted, found in zip(pieces, again.model.pieces, strict=True):
        assert differing(wanted.cover, found.cover, Measure(1e-6)) == []
        assert differing(Cover(), found.cover) == sorted(COVERS[name](1), key=[f.name for f in fields(Cover)].index)
    assert figure_bytes(again) == figure_bytes(figure_from_bytes(figure_bytes(again), "crate", "crate"))
