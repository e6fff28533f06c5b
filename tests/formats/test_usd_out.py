"""USD, read back by the library itself: the skin lies where Bovrin draws it."""

import sys
from pathlib import Path

import numpy as np
import pytest
from tests.formats import gltf_maker as make

from bovrin import script
from bovrin.errors import FileProblem
from bovrin.figure.skin import skinned
from bovrin.figure.staging import staged
from bovrin.shot import Shot


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
