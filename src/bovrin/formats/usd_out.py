"""A shot as USD: for each figure a skeleton, its meshes, and the motion of the take that is worked on.

Needs the library `usd-core`, which is an extra: `pip install bovrin[usd]`.
"""

from __future__ import annotations

import re
import tempfile
from pathlib import Path
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import FileProblem
from bovrin.figure.plan import plan_of
from bovrin.figure.staging import staged
from bovrin.formats.colours import to_linear
from bovrin.formats.container import as_floats
from bovrin.motion.rotations import matrix_quaternion, unrolled
from bovrin.shot import Figure, Piece, Shot

Floats = NDArray[np.float64]


def usd_bytes(shot: Shot, ending: str) -> bytes:
    """The shot's bytes, as text (.usda) or packed (.usd, .usdc)."""
    library = _library()
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"shot{ending}"
        stage = library.Usd.Stage.CreateNew(str(path))
        _Stage(library, stage, shot).fill()
        stage.GetRootLayer().Save()
        return path.read_bytes()


def _library() -> Any:
    try:
        import pxr  # noqa: PLC0415 - an extra that is not always there
        from pxr import Gf, Sdf, Usd, UsdGeom, UsdSkel, Vt  # noqa: F401, PLC0415
    except ImportError as error:
        raise FileProblem(
            "writing USD needs the library usd-core, which is not installed.",
            advice="Install it with: pip install usd-core.",
        ) from error
    return pxr


class _Stage:
    def __init__(self, library: Any, stage: Any, shot: Shot) -> None:
        self.lib, self.stage, self.shot = library, stage, shot
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
        names = _apart([figure.name for figure in self.shot.cast])
        for figure, name in zip(self.shot.cast, names, strict=True):
            self._add_figure(figure, f"/shot/{name}")

    def _add_figure(self, figure: Figure, path: str) -> None:
        lib, stage = self.lib, self.stage
        lib.UsdSkel.Root.Define(stage, path)
        bones, binds = _bones(figure)
        tokens = _paths(figure, bones)
        skeleton = lib.UsdSkel.Skeleton.Define(stage, f"{path}/skeleton")
        skeleton.CreateJointsAttr(tokens)
        skeleton.CreateBindTransformsAttr(self._matrices(np.asarray(np.linalg.inv(binds), float)))
        world = staged(self.shot, figure.name, self.frames).world[:, bones]
        parents = _parents(figure, bones)
        rest = plan_of(figure.rig).rest_world[bones]
        skeleton.CreateRestTransformsAttr(self._matrices(_local(rest[None], parents)[0]))
        animation = lib.UsdSkel.Animation.Define(stage, f"{path}/animation")
        animation.CreateJointsAttr(tokens)
        self._add_motion(animation, _local(world, parents))
        lib.UsdSkel.BindingAPI.Apply(skeleton.GetPrim()).CreateAnimationSourceRel().SetTargets([animation.GetPath()])
        names = _apart([piece.name for piece in figure.model.pieces])
        for piece, name in zip(figure.model.pieces, names, strict=True):
            self._add_piece(figure, piece, f"{path}/{name}", skeleton)

    def _add_motion(self, animation: Any, local: Floats) -> None:
        """Places, turns and sizes of all joints on every frame; what is skewed loses its skew."""
        vt, gf = self.lib.Vt, self.lib.Gf
        sizes = np.linalg.norm(local[..., :3, :3], axis=-2)
        turns = unrolled(matrix_quaternion(local[..., :3, :3] / np.maximum(sizes, 1e-9)[..., None, :]))
        places = animation.CreateTranslationsAttr()
        rotations, scales = animation.CreateRotationsAttr(), animation.CreateScalesAttr()
        for n, frame in enumerate(self.frames):  # the library takes one frame at a time
            places.Set(vt.Vec3fArray.FromNumpy(as_floats(local[n, :, :3, 3])), float(frame))
            quats = [gf.Quatf(float(q[3]), float(q[0]), float(q[1]), float(q[2])) for q in turns[n]]
            rotations.Set(vt.QuatfArray(quats), float(frame))
            scales.Set(vt.Vec3hArray([gf.Vec3h(*(float(x) for x in s)) for s in sizes[n]]), float(frame))

    def _add_piece(self, figure: Figure, piece: Piece, path: str, skeleton: Any) -> None:
        lib = self.lib
        vt = lib.Vt
        mesh = lib.UsdGeom.Mesh.Define(self.stage, path)
        mesh.CreatePointsAttr(vt.Vec3fArray.FromNumpy(as_floats(piece.positions)))
        mesh.CreateNormalsAttr(vt.Vec3fArray.FromNumpy(as_floats(piece.normals)))
        mesh.SetNormalsInterpolation(lib.UsdGeom.Tokens.vertex)
        mesh.CreateFaceVertexCountsAttr(vt.IntArray.FromNumpy(np.full(len(piece.triangles), 3, np.int32)))
        mesh.CreateFaceVertexIndicesAttr(vt.IntArray.FromNumpy(piece.triangles.astype(np.int32).ravel()))
        mesh.CreateSubdivisionSchemeAttr(lib.UsdGeom.Tokens.none)
        mesh.CreateDoubleSidedAttr(piece.cover.two_sided)
        colour = np.array([[to_linear(c) for c in piece.colour]], np.float32)
        mesh.CreateDisplayColorAttr(vt.Vec3fArray.FromNumpy(colour))
        binding = lib.UsdSkel.BindingAPI.Apply(mesh.GetPrim())
        binding.CreateSkeletonRel().SetTargets([skeleton.GetPath()])
        binding.CreateJointIndicesPrimvar(False, 4).Set(vt.IntArray.FromNumpy(piece.joints.astype(np.int32).ravel()))
        binding.CreateJointWeightsPrimvar(False, 4).Set(vt.FloatArray.FromNumpy(as_floats(piece.weights).ravel()))
        binding.CreateGeomBindTransformAttr(lib.Gf.Matrix4d(1.0))
        if piece.morphs:
            self._add_shapes(figure, piece, mesh, binding, path)

    def _add_shapes(self, figure: Figure, piece: Piece, mesh: Any, binding: Any, path: str) -> None:
        """A piece's shapes as blend shapes; their amounts go into the figure's animation."""
        lib = self.lib
        names = _apart([name for name, _ in piece.morphs])
        targets = []
        for name, (_, deltas) in zip(names, piece.morphs, strict=True):
            shape = lib.UsdSkel.BlendShape.Define(self.stage, f"{path}/{name}")
            shape.CreateOffsetsAttr(lib.Vt.Vec3fArray.FromNumpy(as_floats(deltas)))
            targets.append(shape.GetPath())
        binding.CreateBlendShapesAttr(names)
        binding.CreateBlendShapeTargetsRel().SetTargets(targets)
        animation = lib.UsdSkel.Animation.Get(self.stage, f"{path.rpartition('/')[0]}/animation")
        if animation.GetBlendShapesAttr().HasAuthoredValue():
            return
        animation.CreateBlendShapesAttr(_apart(list(figure.rig.morph_names)))
        amounts = staged(self.shot, figure.name, self.frames).amounts
        weights = animation.CreateBlendShapeWeightsAttr()
        for n, frame in enumerate(self.frames):
            weights.Set(lib.Vt.FloatArray.FromNumpy(as_floats(amounts[n])), float(frame))

    def _matrices(self, matrices: Floats) -> Any:
        """The library counts vectors as rows."""
        gf = self.lib.Gf
        return self.lib.Vt.Matrix4dArray([gf.Matrix4d(m.T.tolist()) for m in matrices])


def _bones(figure: Figure) -> tuple[NDArray[np.intp], Floats]:
    """The joint of each bone (B,) and from the meshes' space into the bone's (B, 4, 4). Bones come with all joints first."""
    count = len(figure.rig.joints)
    model = figure.model
    if model.bones is None or model.binds is None:
        return np.arange(count), plan_of(figure.rig).rest_inverse
    return model.bones, model.binds


def _parents(figure: Figure, bones: NDArray[np.intp]) -> NDArray[np.intp]:
    """The bone that each bone hangs on (B,), -1 for none: bones that are a figure's joints in order keep their tree."""
    if not np.array_equal(bones, np.arange(len(figure.rig.joints))):
        return np.full(len(bones), -1, np.intp)
    return np.array([joint.parent for joint in figure.rig.joints], np.intp)


def _paths(figure: Figure, bones: NDArray[np.intp]) -> list[str]:
    """A path for each bone, such as root/hips/spine."""
    names = _apart([figure.rig.joints[j].name for j in bones])
    parents = _parents(figure, bones)
    found: list[str] = []
    for n, name in enumerate(names):
        found.append(f"{found[parents[n]]}/{name}" if parents[n] >= 0 else name)
    return found


def _local(world: Floats, parents: NDArray[np.intp]) -> Floats:
    local = world.copy()
    has_parent = parents >= 0
    local[:, has_parent] = np.linalg.inv(world[:, parents[has_parent]]) @ world[:, has_parent]
    return local


def _apart(names: list[str]) -> list[str]:
    """Names as USD wants them: letters, digits and underscores, each its own."""
    found: list[str] = []
    for name in names:
        plain = re.sub(r"\W", "_", name) or "_"
        plain = f"_{plain}" if plain[0].isdigit() else plain
        free, n = plain, 2
        while free in found:
            free, n = f"{plain}_{n}", n + 1
        found.append(free)
    return found
