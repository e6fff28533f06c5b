"""A shot as USD: for each figure a skeleton, its meshes, and the motion of the take that is worked on.

Needs the library `usd-core`, which is an extra: `pip install bovrin[usd]`.
"""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import FileProblem
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.staging import staged
from bovrin.formats.files import is_stream, write_atomically
from bovrin.formats.gltf.container import as_floats
from bovrin.formats.usd.bones import bone_tree, held_frames
from bovrin.formats.usd.looks import PICTURES, Looks, apart
from bovrin.motion.rotations import matrix_quaternion, unrolled
from bovrin.shot import Figure, Piece, Shot

Floats = NDArray[np.float64]


class UsdFiles(NamedTuple):
    """The bytes of a stage, and of the pictures that lie beside it, by their way from there."""

    stage: bytes
    beside: dict[str, bytes]


def usd_files(shot: Shot, ending: str, name: str = "shot") -> UsdFiles:
    """The shot as text (.usda), packed (.usd, .usdc), or with its pictures in one package (.usdz). name: what the stage's file is
    called without its ending; pictures lie in a folder called after it."""
    library = _library()
    with tempfile.TemporaryDirectory() as folder:
        own = ".usdc" if ending == ".usdz" else ending
        path, pictures = Path(folder) / f"shot{own}", f"{apart([name])[0]}_{PICTURES}"
        stage = library.Usd.Stage.CreateNew(str(path))
        _Stage(library, stage, shot, Looks(library, stage, Path(folder), pictures)).fill()
        stage.GetRootLayer().Save()
        if ending == ".usdz":
            packed = Path(folder) / "shot.usdz"
            if not library.UsdUtils.CreateNewUsdzPackage(library.Sdf.AssetPath(str(path)), str(packed)):
                raise FileProblem(
                    "the package could not be made.", advice="Write .usdc, which has its pictures beside it."
                )
            return UsdFiles(packed.read_bytes(), {})
        beside = sorted((Path(folder) / pictures).glob("*"))
        return UsdFiles(path.read_bytes(), {f"{pictures}/{one.name}": one.read_bytes() for one in beside})


def write_usd(shot: Shot, path: Path) -> None:
    """Write the shot, its pictures first: a stage never points at what is not there."""
    made = usd_files(shot, path.suffix.lower(), path.stem)
    for way, data in made.beside.items() if not is_stream(path) else ():
        target = path.parent / way
        try:
            target.parent.mkdir(exist_ok=True)
        except OSError as error:
            raise FileProblem(f"the pictures cannot be put beside it: {error.strerror}.", where=str(target)) from error
        write_atomically(target, data)
    write_atomically(path, made.stage)


def _library() -> Any:
    try:
        import pxr  # noqa: PLC0415 - an extra that is not always there
        from pxr import Gf, Sdf, Usd, UsdGeom, UsdShade, UsdSkel, UsdUtils, Vt  # noqa: F401, PLC0415
    except ImportError as error:
        raise FileProblem(
            "writing USD needs the library usd-core, which is not installed.",
            advice="Install it with: pip install usd-core.",
        ) from error
    return pxr


class _Stage:
    def __init__(self, library: Any, stage: Any, shot: Shot, looks: Looks) -> None:
        self.lib, self.stage, self.shot, self.looks = library, stage, shot, looks
        self.frames = np.array(shot.whole_frames, float)

    def fill(self) -> None:
        """Units, time, and every figure."""
        geom, stage = self.lib.UsdGeom, self.stage
        geom.SetStageUpAxis(stage, geom.Tokens.y)
        geom.SetStageMetersPerUnit(stage, 1.0)
        stage.SetStartTimeCode(float(self.frames[0]))
        stage.SetEndTimeCode(float(self.frames[-1]))
        stage.SetTimeCodesPerSecond(self.shot.frame_rate)
        stage.SetFramesPerSecond(self.shot.frame_rate)
        root = geom.Xform.Define(stage, "/shot")
        stage.SetDefaultPrim(root.GetPrim())
        root.GetPrim().SetCustomDataByKey("take", self.shot.take.name)
        root.GetPrim().SetCustomDataByKey("loops", self.shot.loops)
        names = apart([figure.name for figure in self.shot.cast])
        for figure, name in zip(self.shot.cast, names, strict=True):
            self._add_figure(figure, f"/shot/{name}")

    def _add_figure(self, figure: Figure, path: str) -> None:
        lib, stage = self.lib, self.stage
        root = lib.UsdSkel.Root.Define(stage, path)
        root.GetPrim().SetDisplayName(figure.name)
        tree = bone_tree(figure)
        skeleton = lib.UsdSkel.Skeleton.Define(stage, f"{path}/skeleton")
        skeleton.CreateJointsAttr(tree.paths)
        skeleton.CreateJointNamesAttr(tree.names)
        skeleton.CreateBindTransformsAttr(self._matrices(tree.binds))
        skeleton.CreateRestTransformsAttr(self._matrices(tree.local(plan_of(figure.rig).rest_world[None])[0]))
        animation = lib.UsdSkel.Animation.Define(stage, f"{path}/animation")
        animation.CreateJointsAttr(tree.paths)
        frames = held_frames(self.shot.curves(figure.name), self.frames)
        found = staged(self.shot, figure.name, frames)
        self._add_motion(animation, tree.local(found.world), frames)
        binding = lib.UsdSkel.BindingAPI.Apply(skeleton.GetPrim())
        binding.CreateAnimationSourceRel().SetTargets([animation.GetPath()])
        if found.amounts.shape[1]:
            self._add_amounts(animation, figure, found.amounts, frames)
        own = ["skeleton", "animation", "materials"]
        names = apart([*own, *(piece.name for piece in figure.model.pieces)])[len(own) :]
        lib.UsdGeom.Scope.Define(stage, f"{path}/materials")
        for piece, name in zip(figure.model.pieces, names, strict=True):
            self._add_piece(piece, tree.of_bone, path, name, skeleton)
        joints = found.world[..., :3, 3].reshape(-1, 3)
        pieces = [piece for piece in figure.model.pieces if len(piece.positions)]
        reach = max((float(np.abs(piece.positions).max()) for piece in pieces), default=0.0)
        ends = np.stack([joints.min(0) - reach, joints.max(0) + reach])
        root.CreateExtentAttr(lib.Vt.Vec3fArray.FromNumpy(as_floats(ends)))

    def _add_motion(self, animation: Any, local: Floats, frames: Floats) -> None:
        """Places, turns and sizes of all joints on some frames (F,); what is skewed loses its skew."""
        vt, gf = self.lib.Vt, self.lib.Gf
        sizes = np.linalg.norm(local[..., :3, :3], axis=-2)
        sizes[np.linalg.det(local[..., :3, :3]) < 0.0, 0] *= -1.0  # mirrored: turned, and sized below nothing
        turns = unrolled(
            matrix_quaternion(local[..., :3, :3] / np.where(np.abs(sizes) < 1e-9, 1e-9, sizes)[..., None, :])
        )
        places = animation.CreateTranslationsAttr()
        rotations, scales = animation.CreateRotationsAttr(), animation.CreateScalesAttr()
        for n, frame in enumerate(frames.tolist()):  # the library takes one frame at a time
            places.Set(vt.Vec3fArray.FromNumpy(as_floats(local[n, :, :3, 3])), frame)
            quats = [gf.Quatf(float(q[3]), float(q[0]), float(q[1]), float(q[2])) for q in turns[n]]
            rotations.Set(vt.QuatfArray(quats), frame)
            scales.Set(vt.Vec3hArray([gf.Vec3h(*(float(x) for x in s)) for s in sizes[n]]), frame)

    def _add_amounts(self, animation: Any, figure: Figure, amounts: Floats, frames: Floats) -> None:
        animation.CreateBlendShapesAttr(apart(list(figure.rig.morph_names)))
        weights = animation.CreateBlendShapeWeightsAttr()
        for n, frame in enumerate(frames.tolist()):
            weights.Set(self.lib.Vt.FloatArray.FromNumpy(as_floats(amounts[n])), frame)

    def _add_piece(self, piece: Piece, of_bone: NDArray[np.intp], figure: str, name: str, skeleton: Any) -> None:
        lib, vt, path = self.lib, self.lib.Vt, f"{figure}/{name}"
        mesh = self.looks.mesh(piece, path, f"{figure}/materials/{name}")
        joints = of_bone[piece.joints.astype(np.intp)].astype(np.int32)
        binding = lib.UsdSkel.BindingAPI.Apply(mesh.GetPrim())
        binding.CreateSkeletonRel().SetTargets([skeleton.GetPath()])
        binding.CreateJointIndicesPrimvar(False, 4).Set(vt.IntArray.FromNumpy(joints.ravel()))
        binding.CreateJointWeightsPrimvar(False, 4).Set(vt.FloatArray.FromNumpy(as_floats(piece.weights).ravel()))
        binding.CreateGeomBindTransformAttr(lib.Gf.Matrix4d(1.0))
        if piece.morphs:
            self._add_shapes(piece, binding, path)

    def _add_shapes(self, piece: Piece, binding: Any, path: str) -> None:
        """A piece's shapes as blend shapes; their amounts are in the figure's animation."""
        lib = self.lib
        names = apart([name for name, _ in piece.morphs])
        targets = []
        for name, (_, deltas) in zip(names, piece.morphs, strict=True):
            shape = lib.UsdSkel.BlendShape.Define(self.stage, f"{path}/{name}")
            shape.CreateOffsetsAttr(lib.Vt.Vec3fArray.FromNumpy(as_floats(deltas)))
            targets.append(shape.GetPath())
        binding.CreateBlendShapesAttr(names)
        binding.CreateBlendShapeTargetsRel().SetTargets(targets)

    def _matrices(self, matrices: Floats) -> Any:
        """The library counts vectors as rows."""
        gf = self.lib.Gf
        return self.lib.Vt.Matrix4dArray([gf.Matrix4d(m.T.tolist()) for m in matrices])
