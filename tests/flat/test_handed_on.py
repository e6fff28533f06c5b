"""Flat figures in files for others: read back by a player that knows nothing of the product."""

from __future__ import annotations

import json
import struct
from pathlib import Path

import numpy as np
import pytest
from tests.formats.gltf_player import Player

from bovrin import script as bv
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.shot import Shot

FRAMES = (101.0, 111.0, 116.0, 126.0, 140.0)


@pytest.fixture(scope="module")
def shot() -> Shot:
    made = bv.use_take(bv.demo("heron"), "polished")
    made = bv.stack(made, "heron", "near wing", 112, "back")
    return bv.flip(made, "heron", "crest", 130)


def by_piece(shot: Shot, frame: float) -> dict[str, np.ndarray]:
    figure = shot.figure("heron")
    skin = skinned(figure, staged(shot, "heron", np.array([frame])).world[0])
    found, start = {}, 0
    for piece in figure.model.pieces:
        found[piece.name] = skin[start : start + len(piece.positions)]
        start += len(piece.positions)
    return found


def test_drawings_are_shown_by_size_and_lie_in_their_order(shot: Shot, tmp_path: Path) -> None:
    path = tmp_path / "heron.glb"
    bv.export(shot, str(path), rate=shot.frame_rate)
    player = Player(path.read_bytes())
    names = [m["name"] for m in player.doc["materials"]]
    figure = shot.figure("heron")
    for frame in FRAMES:
        vertices = player.vertices("polished", (frame - shot.first) / shot.frame_rate)
        rows, start = {}, 0
        for node in (n for n in player.doc["nodes"] if "mesh" in n):
            for primitive in player.doc["meshes"][node["mesh"]]["primitives"]:
                count = player.doc["accessors"][primitive["attributes"]["POSITION"]]["count"]
                if player.doc["skins"][node["skin"]]["name"] == "heron":
                    rows[names[primitive["material"]]] = vertices[start : start + count]
                start += count
        ours, depth = by_piece(shot, frame), {}
        for piece in figure.model.pieces:
            assert piece.cut is not None
            shown = bv.drawing(shot, "heron", piece.cut.control, frame) in (piece.cut.drawing, "")
            seen = rows[piece.name]
            if not shown:
                assert np.ptp(seen, axis=0).max() < 1e-6, f"{piece.name} is hidden on {frame}"
                continue
            apart = seen - ours[piece.name]
            assert np.abs(apart[:, :2]).max() < 2e-3, (piece.name, frame)  # in the plane, seen from the front
            depth[piece.cut.control] = float(apart[:, 2].mean())
        assert sorted(depth, key=lambda n: -depth[n]) == [n for n in bv.stacking(shot, "heron", frame) if n in depth]
    size = struct.unpack_from("<I", path.read_bytes(), 12)[0]
    doc = json.loads(path.read_bytes()[20 : 20 + size])
    assert all(m.get("alphaMode") == "BLEND" and m.get("doubleSided") for m in doc["materials"] if m["name"] in ours)


def test_a_still_figure_shows_what_it_shows_at_rest(tmp_path: Path) -> None:
    from bovrin.shot import Shot as Empty

    still = bv.add_figure(Empty("Still"), "cast:heron")
    bv.export(still, str(tmp_path / "still.glb"))
    back = bv.bring(str(tmp_path / "still.glb"))
    names = {p.name for p in back.cast[0].model.pieces}
    assert {"beak shut", "beak wide"} <= names
