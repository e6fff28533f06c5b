"""glTF files of other makers, made up for the tests with nothing but json, struct and NumPy."""

from __future__ import annotations

import json
import struct
import zlib
from collections.abc import Mapping
from typing import Any

import numpy as np

CODES = {"f4": 5126, "u1": 5121, "u2": 5123, "u4": 5125}
KINDS = {1: "SCALAR", 2: "VEC2", 3: "VEC3", 4: "VEC4", 16: "MAT4"}
Point = tuple[float, float, float]


class Maker:
    """Collects arrays and writes a .glb, or a .gltf with its arrays and pictures beside it."""

    def __init__(self) -> None:
        self.doc: dict[str, Any] = {"asset": {"version": "2.0"}}
        self.blob = bytearray()

    def add(self, group: str, **item: Any) -> int:
        self.doc.setdefault(group, []).append(item)
        return len(self.doc[group]) - 1

    def view(self, data: bytes) -> int:
        self.blob += b"\0" * (-len(self.blob) % 4)
        self.blob += data
        return self.add("bufferViews", buffer=0, byteOffset=len(self.blob) - len(data), byteLength=len(data))

    def array(self, values: Any, dtype: str = "f4") -> int:
        data = np.atleast_2d(np.asarray(values, dtype))
        data = data.T if np.ndim(values) == 1 else data
        bounds = {"min": data.min(0).tolist(), "max": data.max(0).tolist()} if data.shape[1] <= 3 else {}
        return self.add(
            "accessors",
            **bounds,
            bufferView=self.view(np.ascontiguousarray(data).tobytes()),
            componentType=CODES[dtype],
            count=len(data),
            type=KINDS[data.shape[1]],
        )

    def glb(self) -> bytes:
        blob = bytes(self.blob) + b"\0" * (-len(self.blob) % 4)
        text = json.dumps({**self.doc, "buffers": [{"byteLength": len(blob)}]}).encode()
        text += b" " * (-len(text) % 4)
        body = struct.pack("<II", len(text), 0x4E4F534A) + text + struct.pack("<II", len(blob), 0x004E4942) + blob
        return struct.pack("<4sII", b"glTF", 2, 12 + len(body)) + body

    def joints(self, rows: Mapping[str, tuple[str, Point]], turns: Mapping[str, Any] = {}, unit: float = 1.0) -> None:
        """Nodes from world places in metres; `turns`: some nodes' rotations (xyzw); `unit`: metres in a unit."""
        from scipy.spatial.transform import Rotation

        world: dict[str, Rotation] = {}
        for name, (parent, place) in rows.items():
            own = Rotation.from_quat(turns.get(name, (0, 0, 0, 1)))
            above = world.get(parent, Rotation.identity())
            world[name] = above * own
            base = np.array(rows[parent][1]) if parent else np.zeros(3)
            offset = above.inv().apply((np.array(place) - base) / unit)
            node = self.add("nodes", name=name, translation=offset.tolist(), rotation=own.as_quat().tolist())
            if parent:
                self.doc["nodes"][self.node(parent)].setdefault("children", []).append(node)

    def node(self, name: str) -> int:
        return next(i for i, n in enumerate(self.doc["nodes"]) if n.get("name") == name)

    def world(self, index: int) -> np.ndarray:
        from scipy.spatial.transform import Rotation

        node = self.doc["nodes"][index]
        own = np.eye(4)
        own[:3, :3] = Rotation.from_quat(node.get("rotation", (0, 0, 0, 1))).as_matrix() * node.get("scale", [1, 1, 1])
        own[:3, 3] = node.get("translation", (0, 0, 0))
        parent = next((i for i, n in enumerate(self.doc["nodes"]) if index in n.get("children", [])), None)
        return own if parent is None else self.world(parent) @ own

    def skin(self, names: list[str], **primitive: Any) -> int:
        """A mesh of a small box round every joint, bound to it and, a little, to its parent; returns its node."""
        nodes = [self.node(n) for n in names]
        parents = {c: i for i, n in enumerate(self.doc["nodes"]) for c in n.get("children", [])}
        binds = np.array([np.linalg.inv(self.world(n)) for n in nodes])
        points, joints, weights, faces = [], [], [], []
        size = 0.04 / np.cbrt(abs(np.linalg.det(self.world(nodes[-1])[:3, :3]))) * _unit_of(self.world(nodes[-1]))
        for i, node in enumerate(nodes):
            corners = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)]) * size
            points.append(self.world(node)[:3, 3] + corners)
            up = nodes.index(parents[node]) if parents.get(node) in nodes else i
            joints += [[up, i, 0, 0]] * 8 if up != i else [[i, 0, 0, 0]] * 8
            weights += [[0.25, 0.75, 0, 0]] * 8 if up != i else [[1, 0, 0, 0]] * 8
            faces.append(np.array(BOX) + 8 * i)
        positions = np.concatenate(points)
        spots = positions[:, :2] - positions[:, :2].min(0)
        attributes = {
            "POSITION": self.array(positions),
            "TEXCOORD_0": self.array(spots / spots.max()),
            "JOINTS_0": self.array(joints, "u1"),
            "WEIGHTS_0": self.array(weights),
        }
        indices = self.array(np.concatenate(faces).ravel(), "u2")
        mesh = self.add("meshes", name="body", primitives=[{"attributes": attributes, "indices": indices, **primitive}])
        inverse = self.array(binds.transpose(0, 2, 1).reshape(-1, 16))
        skin = self.add("skins", joints=nodes, inverseBindMatrices=inverse)
        return self.add("nodes", name="body mesh", mesh=mesh, skin=skin)

    def animate(self, name: str, *rows: tuple[str, str, str, Any, Any]) -> None:
        """An animation of rows: node, path, interpolation, seconds, values."""
        channels, samplers = [], []
        for node, path, kind, times, values in rows:
            output = self.array(np.asarray(values, float).ravel() if path == "weights" else values)
            samplers.append({"input": self.array(times), "output": output, "interpolation": kind})
            channels.append({"sampler": len(samplers) - 1, "target": {"node": self.node(node), "path": path}})
        self.add("animations", name=name, channels=channels, samplers=samplers)


BOX = [
    [0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1],
    [2, 3, 7], [2, 7, 6], [0, 2, 6], [0, 6, 4], [1, 5, 7], [1, 7, 3],
]  # fmt: skip


def _unit_of(world: np.ndarray) -> float:
    return 1.0 if world[1, 3] < 5 and abs(world[:3, 3]).max() < 10 else 100.0


def png(width: int = 4, height: int = 4, colour: tuple[int, int, int] = (200, 60, 40)) -> bytes:
    """A picture of one colour."""
    rows = (b"\0" + bytes(colour) * width) * height
    head = struct.pack(">IIBBBBB", width, height, 8, 2, 0, 0, 0)

    def chunk(kind: bytes, data: bytes) -> bytes:
        return struct.pack(">I", len(data)) + kind + data + struct.pack(">I", zlib.crc32(kind + data))

    return b"\x89PNG\r\n\x1a\n" + chunk(b"IHDR", head) + chunk(b"IDAT", zlib.compress(rows)) + chunk(b"IEND", b"")


SIDED = ("Oben", "Mitte", "Ast", "Zweig", "Schuh")
TWO_LEGS: dict[str, tuple[str, Point]] = {
    "Kern": ("", (0, 0.92, 0)),
    "Stock_1": ("Kern", (0, 1.05, 0)),
    "Stock_2": ("Stock_1", (0, 1.25, 0)),
    "Hals": ("Stock_2", (0, 1.45, 0)),
    "Kugel": ("Hals", (0, 1.55, 0.02)),
    **{
        f"{part}.{side}": (f"{above}.{side}" if above in SIDED else above, (s * x, y, z))
        for side, s in (("L", 1.0), ("R", -1.0))
        for part, above, (x, y, z) in (
            ("Oben", "Stock_2", (0.2, 1.4, 0)),
            ("Mitte", "Oben", (0.45, 1.38, -0.02)),
            ("Ende", "Mitte", (0.68, 1.38, 0)),
            ("Ast", "Kern", (0.1, 0.88, 0)),
            ("Zweig", "Ast", (0.1, 0.48, 0.02)),
            ("Schuh", "Zweig", (0.1, 0.09, -0.02)),
            ("Spitze", "Schuh", (0.1, 0.03, 0.12)),
        )
    },
}  # fmt: skip
"""A two-legged figure whose names say nothing but sides."""

FOUR_LEGS: dict[str, tuple[str, Point]] = {
    "b0": ("", (0, 0.6, -0.3)),
    "b1": ("b0", (0, 0.62, 0.0)),
    "b2": ("b1", (0, 0.62, 0.3)),
    "b3": ("b2", (0, 0.78, 0.45)),
    "b4": ("b3", (0, 0.92, 0.55)),
    "b5": ("b0", (0, 0.62, -0.45)),
    "b6": ("b5", (0, 0.55, -0.6)),
    **{
        f"{leg}{n}{side}": ((above if n == 0 else f"{leg}{n - 1}{side}"), (s * 0.12, y, z))
        for side, s in (("x", 1.0), ("y", -1.0))
        for leg, above, rows in (
            ("h", "b0", ((0.55, -0.3), (0.32, -0.24), (0.08, -0.34))),
            ("f", "b2", ((0.55, 0.28), (0.3, 0.22), (0.06, 0.28))),
        )
        for n, (y, z) in enumerate(rows)
    },
}
"""Four legs, a neck and a tail, told apart by nothing but where they lie."""

TENTACLE: dict[str, tuple[str, Point]] = {
    f"ring {n}": (f"ring {n - 1}" if n else "", (0.0, 0.1 + 0.12 * n, 0.0)) for n in range(9)
}


def figure(rows: Mapping[str, tuple[str, Point]], **options: Any) -> Maker:
    """A skinned figure of some joints."""
    maker = Maker()
    maker.joints(rows, **options)
    maker.skin(list(rows))
    return maker
