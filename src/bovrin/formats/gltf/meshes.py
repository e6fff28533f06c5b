"""glTF meshes as pieces: skinned ones with the bones of their skins, rigid ones with their node as the only bone."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure, BovrinError
from bovrin.figure.ground.normals import face_normals
from bovrin.formats.gltf.container import GlbReader
from bovrin.formats.gltf.materials import Materials, cut_of
from bovrin.formats.gltf.nodes import NodeTree
from bovrin.frozen import frozen
from bovrin.shot import Model, Piece

Floats = NDArray[np.float64]
Floats32 = NDArray[np.float32]
TRIANGLES, STRIP, FAN = 4, 5, 6
MOST_BONES = 16_000
MOST_VERTICES = 6_000_000


@frozen
class Morph:
    """An amount of a mesh's shape: its channel's name, what it is at rest, and the joint that carries most of it."""

    name: str
    default: float
    joint: int


@dataclass
class Meshes:
    """Collects pieces and bones. shapes: by node, the morphs of its mesh in the file's order."""

    reader: GlbReader
    tree: NodeTree
    left_out: list[str]
    pieces: list[Piece] = field(default_factory=list)
    bones: list[int] = field(default_factory=list)
    binds: list[Floats] = field(default_factory=list)
    shapes: dict[int, list[Morph]] = field(default_factory=dict)
    _skins: dict[int, int] = field(default_factory=dict)
    _spent: float = 0.0

    def __post_init__(self) -> None:
        self._materials = Materials(self.reader, self.left_out)
        self._joint_at = self.tree.of_node()

    def read(self) -> Model:
        """All meshes of the file; what cannot be used is left out and told."""
        for index, node in enumerate(self.reader.items("nodes")):
            if "mesh" not in node:
                continue
            try:
                self._add_node(index, node)
            except BadFigure:
                raise
            except BovrinError as error:
                self.left_out.append(f"The mesh of '{node.get('name', f'node {index}')}' was left out: {error.what}")
        if not self.pieces:
            return Model(())
        return Model(tuple(self.pieces), np.array(self.bones, np.intp), np.array(self.binds))

    def _add_node(self, index: int, node: dict[str, Any]) -> None:
        mesh = self.reader.item("meshes", node["mesh"])
        if "skin" in node:
            first, count = self._skin_bones(node["skin"])
        elif index in self._joint_at:
            first, count = self._add_bone(self._joint_at[index], np.eye(4)), 1
        else:
            return
        primitives = mesh.get("primitives", [])
        title = str(mesh.get("name") or node.get("name") or "mesh")
        made = []
        for primitive in primitives if isinstance(primitives, list) else []:
            try:
                made.append(self._piece(primitive, title, first, count, index, mesh))
            except BadFigure:
                raise
            except BovrinError as error:
                self.left_out.append(f"A part of the mesh '{title}' was left out: {error.what}")
        self.pieces += [piece for piece in made if piece is not None]
        self._add_shapes(index, node, mesh, [piece for piece in made if piece is not None])

    def _add_bone(self, joint: int, inverse_bind: Floats) -> int:
        grow = np.diag([self.tree.grow[joint]] * 3 + [1.0])
        if len(self.bones) >= MOST_BONES:
            raise self.reader.fault(f"the figure has more than {MOST_BONES} joints.")
        self.bones.append(joint)
        self.binds.append(grow @ inverse_bind)
        return len(self.bones) - 1

    def _skin_bones(self, index: Any) -> tuple[int, int]:
        """The first bone of a skin and how many it has."""
        skin = self.reader.item("skins", index)
        listed = skin.get("joints")
        if not isinstance(listed, list) or not listed or any(j not in self._joint_at for j in listed):
            raise self.reader.fault("its skin has no joints, or joints that are not there.")
        if index in self._skins:
            return self._skins[index], len(listed)
        binds = np.tile(np.eye(4), (len(listed), 1, 1))
        if "inverseBindMatrices" in skin:
            given = self.reader.array(skin["inverseBindMatrices"], "MAT4").astype(float)
            if len(given) < len(listed):
                raise self.reader.fault("its skin has fewer matrices than joints.")
            binds = given[: len(listed)].reshape(-1, 4, 4).transpose(0, 2, 1)
        self._skins[index] = len(self.bones)
        for node, bind in zip(listed, binds, strict=True):
            self._add_bone(self._joint_at[node], bind)
        return self._skins[index], len(listed)

    def _piece(
        self, primitive: Any, title: str, first: int, count: int, node: int, mesh: dict[str, Any]
    ) -> Piece | None:
        reader = self.reader
        attributes = primitive.get("attributes") if isinstance(primitive, dict) else None
        if not isinstance(attributes, dict) or "POSITION" not in attributes:
            raise reader.fault("it has no vertices.")
        self._spend(reader.item("accessors", attributes["POSITION"]), primitive)
        positions = reader.array(attributes["POSITION"], "VEC3").astype(np.float32)
        triangles = self._triangles(primitive, len(positions))
        if not len(triangles):
            return None
        joints, weights = self._bound(attributes, len(positions), first, count, title)
        if "JOINTS_0" not in attributes and self._is_mirrored(first):
            triangles = triangles[:, ::-1].copy()
        normals = self._normals(attributes, positions, triangles)
        colour, cover = self._materials.cover(primitive.get("material"), attributes, len(positions))
        name = self._materials.name(primitive.get("material")) or title
        morphs = self._morphs(primitive, node, mesh, len(positions))
        return Piece(name, colour, positions, normals, joints, weights, triangles, cover, morphs, cut_of(primitive))

    def _spend(self, accessor: dict[str, Any], primitive: dict[str, Any]) -> None:
        """BadFigure when the figure would get larger than can be worked with, before anything of it is made."""
        targets = primitive.get("targets")
        shapes = len(targets) if isinstance(targets, list) else 0
        self._spent += self.reader.number(accessor, "count") * (1 + 0.25 * shapes)
        if self._spent > MOST_VERTICES:
            raise BadFigure(
                f"the figure has more than {MOST_VERTICES:,} vertices, those of meshes that are used again counted again.",
                advice="Export it with fewer.",
            )

    def _is_mirrored(self, bone: int) -> bool:
        """Whether sizes above a rigid mesh turn it inside out."""
        flips, at = 1.0, self.bones[bone]
        while at >= 0:
            flips *= float(np.prod(np.sign(self.tree.sizes.get(at, (1.0, 1.0, 1.0)))))
            at = self.tree.joints[at].parent
        return flips < 0

    def _triangles(self, primitive: dict[str, Any], count: int) -> NDArray[np.uint32]:
        mode = primitive.get("mode", TRIANGLES)
        if mode not in (TRIANGLES, STRIP, FAN):
            raise self.reader.fault("it consists of points or lines.")
        if "indices" in primitive:
            indices = self.reader.array(primitive["indices"], "SCALAR")[:, 0].astype(np.int64)
        else:
            indices = np.arange(count)
        if indices.size and (int(indices.max()) >= count or int(indices.min()) < 0):
            raise self.reader.fault("its triangles point at vertices that are not there.")
        if mode == TRIANGLES:
            return indices[: len(indices) // 3 * 3].reshape(-1, 3).astype(np.uint32)
        if len(indices) < 3:
            return np.zeros((0, 3), np.uint32)
        if mode == FAN:
            ring = np.stack([np.full(len(indices) - 2, indices[0]), indices[1:-1], indices[2:]], 1)
            return ring.astype(np.uint32)
        strip = np.stack([indices[:-2], indices[1:-1], indices[2:]], 1)
        strip[1::2] = strip[1::2, [1, 0, 2]]
        return strip.astype(np.uint32)

    def _bound(
        self, attributes: dict[str, Any], count: int, first: int, bones: int, title: str
    ) -> tuple[NDArray[np.uint16], Floats32]:
        """Bones and weights (V, 4), the strongest first, rows summing to one."""
        if bones == 1 and "JOINTS_0" not in attributes:
            joints = np.full((count, 4), first, np.uint16)
            weights = np.zeros((count, 4), np.float32)
            weights[:, 0] = 1.0
            return joints, weights
        sets = [n for n in range(2) if f"JOINTS_{n}" in attributes and f"WEIGHTS_{n}" in attributes]
        if not sets:
            raise self.reader.fault("it hangs on a skin but has no weights.")
        raw_joints = np.hstack([self.reader.array(attributes[f"JOINTS_{n}"], "VEC4") for n in sets]).astype(np.int64)
        raw = np.hstack([self.reader.array(attributes[f"WEIGHTS_{n}"], "VEC4") for n in sets]).astype(float)
        if raw_joints.shape != raw.shape or len(raw) != count:
            raise self.reader.fault("its weights are of another number than its vertices.")
        raw = np.maximum(raw, 0.0)
        if (raw_joints[raw > 0] >= bones).any() or (raw_joints < 0).any():
            raise self.reader.fault("it is bound to joints that are not there.")
        raw_joints = np.where(
            raw_joints < bones, raw_joints, 0
        )  # of no weight; a vertex that has none at all goes with the first
        return self._four(raw_joints, raw, first, title)

    def _four(
        self, joints: NDArray[np.int64], raw: Floats, first: int, title: str
    ) -> tuple[NDArray[np.uint16], Floats32]:
        total = raw.sum(1)
        if (np.abs(total - 1) > 0.02).any():
            self.left_out.append(f"Weights of the mesh '{title}' did not sum to one; they do now.")
        raw[total < 1e-6, 0] = 1.0
        if raw.shape[1] == 4 and (np.diff(raw, axis=1) <= 0).all():
            kept, top = joints, raw
        else:
            order = np.argsort(-raw, axis=1, kind="stable")[:, :4]
            kept, top = np.take_along_axis(joints, order, 1), np.take_along_axis(raw, order, 1)
            if raw.shape[1] > 4 and (raw.sum(1) - top.sum(1)).max() > 0.02:
                self.left_out.append(f"Of more than four joints on a vertex of '{title}' the strongest four count.")
        top = top / top.sum(1, keepdims=True)
        return (np.where(top > 0, kept, 0) + first).astype(np.uint16), top.astype(np.float32)

    def _normals(self, attributes: dict[str, Any], positions: Floats32, triangles: NDArray[np.uint32]) -> Floats32:
        if "NORMAL" in attributes:
            given = self.reader.array(attributes["NORMAL"], "VEC3").astype(np.float32)
            if len(given) == len(positions):
                return given
        return face_normals(positions, triangles)

    def _morphs(
        self, primitive: dict[str, Any], node: int, mesh: dict[str, Any], count: int
    ) -> tuple[tuple[str, Floats32], ...]:
        targets = primitive.get("targets", [])
        found = []
        for n, target in enumerate(targets if isinstance(targets, list) else []):
            if isinstance(target, dict) and "POSITION" in target:
                deltas = self.reader.array(target["POSITION"], "VEC3").astype(np.float32)
                if len(deltas) != count:
                    raise self.reader.fault("it has a shape of another number of vertices.")
                found.append((self._shape_name(node, mesh, n), deltas))
        return tuple(found)

    def _shape_name(self, node: int, mesh: dict[str, Any], number: int) -> str:
        extras = mesh.get("extras")
        named = extras.get("targetNames") if isinstance(extras, dict) else None
        plain = f"shape {number + 1}"
        if isinstance(named, list) and number < len(named) and str(named[number]).strip():
            plain = str(named[number]).strip().replace("/", " ")
        others = {m.name for n, shapes in self.shapes.items() if n != node for m in shapes}
        return plain if plain not in others else f"{plain} of {self.reader.items('nodes')[node].get('name', node)}"

    def _add_shapes(self, index: int, node: dict[str, Any], mesh: dict[str, Any], pieces: list[Piece]) -> None:
        listed = mesh.get("primitives")
        primitives = [p for p in listed if isinstance(p, dict)] if isinstance(listed, list) else []
        count = max((len(p["targets"]) for p in primitives if isinstance(p.get("targets"), list)), default=0)
        if not count or not pieces:
            return
        given = node.get("weights", mesh.get("weights"))
        rest = given if isinstance(given, list) and len(given) == count else [0.0] * count
        found = []
        for n in range(count):
            name = self._shape_name(index, mesh, n)
            default = float(rest[n]) if isinstance(rest[n], (int, float)) and abs(rest[n]) < 1e6 else 0.0
            found.append(Morph(name, default, self._carrier(pieces, name)))
        self.shapes[index] = found

    def _carrier(self, pieces: list[Piece], name: str) -> int:
        """The joint that carries most of what a shape moves."""
        counts = np.zeros(len(self.tree.joints))
        for piece in pieces:
            for own, deltas in piece.morphs:
                if own == name:
                    bones = np.array(self.bones)[piece.joints[:, 0].astype(np.intp)]
                    np.add.at(counts, bones, np.linalg.norm(deltas, axis=1))
        return int(counts.argmax())
