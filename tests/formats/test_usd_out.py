"""USD, read back by the library itself: the skin lies where Bovrin draws it."""

import sys
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make

from bovrin import script
from bovrin.errors import FileProblem
from bovrin.figure.ground.skin import skinned
from bovrin.figure.staging import staged
from bovrin.shot import Cover, Shot, Texture


def baked(path: Path, figure: str, mesh: str, frame: float) -> np.ndarray:
    """A mesh's points at a frame, as the library skins them."""
    from pxr import Usd, UsdGeom, UsdSkel

    stage = Usd.Stage.Open(str(path))
    root = UsdSkel.Root(stage.GetPrimAtPath(f"/shot/{figure}"))
    assert UsdSkel.BakeSkinning(root)
    points = UsdGeom.Mesh(stage.GetPrimAtPath(f"/shot/{figure}/{mesh}")).GetPointsAttr().Get(frame)
    return np.array(points)


@pytest.mark.parametrize("ending", [".usda", ".usdc"])
def test_the_porter_moves_the_same(demo: Shot, tmp_path: Path, ending: str) -> None:
    shot = script.splined(demo, "porter")
    path = tmp_path / f"heave{ending}"
    script.export(shot, path)
    figure = shot.figure("porter")
    start = 0
    for piece in figure.model.pieces:
        if piece.name == "shirt":
            break
        start += len(piece.positions)
    for frame in (101.0, 123.0, 140.0):
        own = skinned(figure, staged(shot, "porter", [frame]).world[0])[start : start + len(piece.positions)]
        assert np.abs(baked(path, "porter", "shirt", frame) - own).max() < 2e-4


def test_a_brought_figure_moves_the_same(tmp_path: Path) -> None:
    source = tmp_path / "stranger.glb"
    source.write_bytes(make.figure(make.TWO_LEGS).glb())
    shot = script.bring(source, 1.0)
    shot = script.set_values(shot, "stranger", 101, {"Stock_1/turn": 0, "left hand goal/up": 0.0})
    shot = script.set_values(shot, "stranger", 110, {"Stock_1/turn": 40, "left hand goal/up": 0.3})
    script.export(shot, tmp_path / "out.usda")
    for frame in (101.0, 106.0, 110.0):
        own = skinned(shot.cast[0], staged(shot, "stranger", [frame]).world[0])
        assert np.abs(baked(tmp_path / "out.usda", "stranger", "body", frame) - own).max() < 2e-4


def test_time_units_and_shapes(demo: Shot, tmp_path: Path) -> None:
    from pxr import Usd, UsdGeom, UsdSkel

    script.export(demo, tmp_path / "heave.usda")
    stage = Usd.Stage.Open(str(tmp_path / "heave.usda"))
    assert (stage.GetStartTimeCode(), stage.GetEndTimeCode(), stage.GetTimeCodesPerSecond()) == (101, 160, 24)
    assert UsdGeom.GetStageMetersPerUnit(stage) == 1.0
    animation = UsdSkel.Animation(stage.GetPrimAtPath("/shot/porter/animation"))
    names = list(animation.GetBlendShapesAttr().Get())
    weights = animation.GetBlendShapeWeightsAttr().Get(109)
    assert weights[names.index("open")] == pytest.approx(0.8)
    assert UsdSkel.BlendShape(stage.GetPrimAtPath("/shot/porter/lip/open")).GetOffsetsAttr().Get()


def test_without_the_library_a_sentence_says_what_to_do(
    demo: Shot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setitem(sys.modules, "pxr", None)
    with pytest.raises(FileProblem, match="usd-core"):
        script.export(demo, tmp_path / "heave.usda")
    assert not (tmp_path / "heave.usda").exists()


def covered(tmp_path: Path) -> Shot:
    """A brought, skinned figure with a picture on it, blocked in two poses."""
    source = tmp_path / "stranger.glb"
    source.write_bytes(make.figure(make.TWO_LEGS).glb())
    shot = script.bring(source, 1.0)
    figure = shot.cast[0]
    picture = Texture("red wool", make.png(), (True, False))
    pieces = tuple(
        replace(p, cover=Cover(texture=picture, uv=np.random.default_rng(1).random((len(p.positions), 2), np.float32)))
        for p in figure.model.pieces
    )
    shot = replace(shot, cast=(replace(figure, model=replace(figure.model, pieces=pieces)),))
    shot = script.key_pose(shot, "stranger", 101)
    return script.set_values(script.key_pose(shot, "stranger", 110), "stranger", 110, {"Stock_1/turn": 40})


@pytest.mark.parametrize("ending", [".usda", ".usdc", ".usdz"])
def test_a_brought_figure_keeps_its_tree_its_names_and_its_picture(tmp_path: Path, ending: str) -> None:
    from pxr import Usd, UsdGeom, UsdShade, UsdSkel

    shot = covered(tmp_path)
    script.export(shot, tmp_path / f"out{ending}")
    stage = Usd.Stage.Open(str(tmp_path / f"out{ending}"))
    skeleton = UsdSkel.Skeleton(stage.GetPrimAtPath("/shot/stranger/skeleton"))
    paths, names = list(skeleton.GetJointsAttr().Get()), list(skeleton.GetJointNamesAttr().Get())
    own = shot.cast[0].rig.joints
    assert len(paths) >= len(own)
    above = {
        name: (own[joint.parent].name if joint.parent >= 0 else "") for name, joint in zip(names, own, strict=False)
    }
    for path, name in zip(paths, names, strict=True):
        parent = path.rpartition("/")[0]
        assert (names[paths.index(parent)] if parent else "") == above[name]
    mesh = UsdGeom.Mesh(stage.GetPrimAtPath("/shot/stranger/body"))
    low, high = (np.array(v) for v in mesh.GetExtentAttr().Get())
    points = np.array(mesh.GetPointsAttr().Get())
    assert np.allclose([low, high], [points.min(0), points.max(0)])
    spots = np.array(UsdGeom.PrimvarsAPI(mesh).GetPrimvar("st").Get())
    uv = shot.cast[0].model.pieces[0].cover.uv
    assert np.allclose(spots, np.stack([uv[:, 0], 1 - uv[:, 1]], 1), atol=1e-6)
    material = UsdShade.MaterialBindingAPI(mesh.GetPrim()).ComputeBoundMaterial()[0]
    picture = UsdShade.Shader(stage.GetPrimAtPath(f"{material.GetPath()}/picture"))
    asset = picture.GetInput("file").Get()
    assert asset.resolvedPath
    if ending != ".usdz":
        assert Path(asset.resolvedPath).read_bytes() == make.png()
    assert picture.GetInput("wrapS").Get() == "repeat" and picture.GetInput("wrapT").Get() == "clamp"


def test_what_is_held_is_held_to_the_step(tmp_path: Path) -> None:
    shot = covered(tmp_path)
    script.export(shot, tmp_path / "out.usda")
    for frame in (101.0, 105.5, 109.5, 109.99, 110.0):
        own = skinned(shot.cast[0], staged(shot, "stranger", [frame]).world[0])
        assert np.abs(baked(tmp_path / "out.usda", "stranger", "body", frame) - own).max() < 2e-4


def test_the_library_s_own_check_finds_nothing(demo: Shot, tmp_path: Path) -> None:
    from pxr import Usd, UsdValidation

    script.export(covered(tmp_path), tmp_path / "brought.usdz")
    script.export(demo, tmp_path / "heave.usdc")
    context = UsdValidation.ValidationContext(UsdValidation.ValidationRegistry().GetOrLoadAllValidators())
    for name in ("brought.usdz", "heave.usdc"):
        found = context.Validate(Usd.Stage.Open(str(tmp_path / name)))
        assert [error.GetMessage() for error in found] == [], name


def test_meshes_may_be_called_anything(tmp_path: Path) -> None:
    """Names that the stage uses itself, twice, and of other letters: each mesh is there and moves."""
    shot = covered(tmp_path)
    figure = shot.cast[0]
    names = ("skeleton", "animation", "materials", "materials", "ärmel 1")
    pieces = tuple(replace(figure.model.pieces[0], name=name) for name in names)
    shot = replace(shot, cast=(replace(figure, model=replace(figure.model, pieces=pieces)),))
    script.export(shot, tmp_path / "out.usda")
    own = skinned(figure, staged(shot, "stranger", [110.0]).world[0])[: len(pieces[0].positions)]
    for name in ("skeleton_2", "animation_2", "materials_2", "materials_3", "ärmel_1"):
        assert np.abs(baked(tmp_path / "out.usda", "stranger", name, 110.0) - own).max() < 2e-4
