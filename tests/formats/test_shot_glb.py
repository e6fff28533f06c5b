from pathlib import Path

import numpy as np
import pygltflib
import pytest
from tests.formats.reader import Glb
from tests.strategies import chain_figure

from bovrin import script
from bovrin.errors import FileProblem
from bovrin.figure.solve.joints import skin_matrices
from bovrin.figure.staging import staged
from bovrin.formats.gltf.out import shot_glb
from bovrin.shot import Shot


@pytest.mark.parametrize("splined", [False, True])
def test_another_reader_plays_the_same_motion(demo: Shot, splined: bool) -> None:
    shot = script.splined(demo, "porter") if splined else demo
    glb = Glb(shot_glb(shot))
    for figure in ("porter", "crate", "buoy"):
        frames = np.array([101.0, 114, 123, 131, 160])
        motion = script.sample(shot, figure, frames)
        for i, frame in enumerate(frames):
            pose = glb.pose((frame - shot.first) / shot.frame_rate)
            for j, joint in enumerate(motion.joints):
                assert np.linalg.norm(pose[joint][:3, 3] - motion.position[i, j]) < 1e-4, (figure, joint, frame)


def test_a_library_reads_it_too(demo: Shot) -> None:
    read = pygltflib.GLTF2().load_from_bytes(shot_glb(demo))
    assert len(read.skins) == len(read.meshes) == len(demo.cast), "one mesh and one skin for each figure"
    assert sum(len(mesh.primitives) for mesh in read.meshes) == sum(len(f.model.pieces) for f in demo.cast)
    assert [a.name for a in read.animations] == [t.name for t in demo.all_takes]
    names = {node.name for node in read.nodes}
    assert {"porter mesh", "crate mesh", "left hand", "crate"} <= names
    assert all(accessor.count > 0 for accessor in read.accessors)


def test_joints_that_share_a_name_carry_their_figure_s(demo: Shot) -> None:
    shot = demo.with_figure(chain_figure("a")).with_figure(chain_figure("b"))
    names = {node["name"] for node in Glb(shot_glb(shot)).doc["nodes"]}
    assert {"a/link 1", "b/link 1", "left hand"} <= names and "link 1" not in names


def test_a_figure_without_a_mesh_still_hands_its_motion_on(demo: Shot) -> None:
    rod = script.set_values(demo.with_figure(chain_figure("rod")), "rod", 101, {"link 1/roll": 40})
    glb = Glb(shot_glb(rod))
    assert all(mesh["primitives"] for mesh in glb.doc["meshes"])
    motion = script.sample(rod, "rod", [101])
    assert np.allclose(glb.pose(0.0)["link 2"][:3, 3], motion.position[0, 2], atol=1e-6)


def test_the_skin_is_bound_at_rest(demo: Shot) -> None:
    glb = Glb(shot_glb(demo))
    for skin in glb.doc["skins"]:
        bind = glb.array(skin["inverseBindMatrices"]).reshape(-1, 4, 4).transpose(0, 2, 1)
        for node, matrix in zip(skin["joints"], bind, strict=True):
            at, rest = node, np.eye(4)
            while at is not None:
                turned = np.eye(4)
                from scipy.spatial.transform import Rotation

                turned[:3, :3] = Rotation.from_quat(glb.doc["nodes"][at].get("rotation", (0, 0, 0, 1))).as_matrix()
                turned[:3, 3] = glb.doc["nodes"][at].get("translation", (0, 0, 0))
                rest = turned @ rest
                at = glb.parents.get(at)
            assert np.allclose(rest @ matrix, np.eye(4), atol=1e-5)


def test_only_endings_that_are_known(demo: Shot, tmp_path: Path) -> None:
    with pytest.raises(FileProblem, match="ending"):
        script.export(demo, tmp_path / "shot.xyz")
    script.export(demo, tmp_path / "shot.glb")
    assert (tmp_path / "shot.glb").stat().st_size > 100_000


def test_stretched_figures_look_the_same_elsewhere(demo: Shot) -> None:
    """Squashed as a whole and in one limb: the skin of another reader lies where Bovrin draws it."""
    shot = script.set_values(demo, "porter", 119, {"whole figure/stretch": 0.7, "head/stretch": 1.3})
    shot = script.set_values(shot, "porter", 133, {"left elbow/lower length": 1.4, "whole figure/size": 1.2})
    shot = script.splined(shot, "porter")
    glb = Glb(shot_glb(shot))
    figure = shot.figure("porter")
    skin = glb.doc["skins"][0]
    bind = glb.array(skin["inverseBindMatrices"]).reshape(-1, 4, 4).transpose(0, 2, 1)
    for frame in (101.0, 119.0, 126.0, 133.0, 150.0):
        pose = glb.pose((frame - shot.first) / shot.frame_rate)
        matrices = np.array([pose[glb.doc["nodes"][n]["name"]] for n in skin["joints"]]) @ bind
        world = staged(shot, "porter", [frame]).world[0]
        own = skin_matrices(figure.rig, world)
        assert np.abs(matrices - own).max() < 1e-4
        motion = script.sample(shot, "porter", [frame])
        for j, joint in enumerate(motion.joints):
            assert np.linalg.norm(pose[joint][:3, 3] - motion.position[0, j]) < 1e-4
    read = pygltflib.GLTF2().load_from_bytes(shot_glb(shot))
    assert len(read.skins[0].joints) == len(figure.rig.joints)


@pytest.mark.parametrize("piece", [1, 7, 59])
def test_a_take_in_pieces_is_the_take(piece: int, demo: Shot, monkeypatch: pytest.MonkeyPatch) -> None:
    whole = shot_glb(demo)
    monkeypatch.setattr("bovrin.formats.gltf.out.PIECE", piece)
    pieces = shot_glb(demo)
    start = whole.index(b"BIN\0") + 4
    assert pieces[:start] == whole[:start], "the same keys, as many bytes"
    told, wanted = (np.frombuffer(data[start:], np.float32) for data in (pieces, whole))
    assert np.nanmax(np.abs(told - wanted)) < 1e-6, "nothing but the rounding of a product"
