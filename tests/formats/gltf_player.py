"""Plays a glTF file as the standard says, apart from the product: node matrices and skinned vertices at a time."""

from __future__ import annotations

import json
import struct
from typing import Any

import numpy as np
from scipy.spatial.transform import Rotation, Slerp

TYPES = {5126: "<f4", 5123: "<u2", 5125: "<u4", 5121: "u1", 5120: "i1", 5122: "<i2"}
WIDTHS = {"SCALAR": 1, "VEC2": 2, "VEC3": 3, "VEC4": 4, "MAT4": 16}


class Player:
    """One file. Animations are chosen by name."""

    def __init__(self, data: bytes) -> None:
        size = struct.unpack_from("<I", data, 12)[0]
        self.doc = json.loads(data[20 : 20 + size])
        self.blob = data[20 + size + 8 :]
        self.parents = {c: i for i, n in enumerate(self.doc["nodes"]) for c in n.get("children", [])}

    def array(self, index: int) -> np.ndarray:
        a = self.doc["accessors"][index]
        view = self.doc["bufferViews"][a["bufferView"]]
        width = WIDTHS[a["type"]]
        start = view.get("byteOffset", 0) + a.get("byteOffset", 0)
        raw = np.frombuffer(self.blob, TYPES[a["componentType"]], a["count"] * width, start)
        return raw.reshape(a["count"], width).astype(float)

    def world(self, animation: str | None = None, seconds: float = 0.0) -> tuple[np.ndarray, dict[int, np.ndarray]]:
        """World matrices of all nodes (N, 4, 4), and the amounts of shapes by node."""
        local: list[dict[str, Any]] = [dict(n) for n in self.doc["nodes"]]
        for found in self.doc.get("animations", []):
            if found.get("name") != animation:
                continue
            for channel in found["channels"]:
                sampler = found["samplers"][channel["sampler"]]
                path, node = channel["target"]["path"], channel["target"]["node"]
                local[node][path] = self._value(sampler, path, seconds)
        own = np.array([_matrix(n) for n in local])
        weights = {i: np.asarray(n["weights"], float) for i, n in enumerate(local) if "weights" in n}
        return np.array([self._chain(own, i) for i in range(len(own))]), weights

    def _chain(self, own: np.ndarray, index: int) -> np.ndarray:
        parent = self.parents.get(index)
        return own[index] if parent is None else self._chain(own, parent) @ own[index]

    def _value(self, sampler: dict[str, Any], path: str, seconds: float) -> np.ndarray:
        times = self.array(sampler["input"])[:, 0]
        kind = sampler.get("interpolation", "LINEAR")
        raw = self.array(sampler["output"])
        rows = raw.reshape(len(times), 3 if kind == "CUBICSPLINE" else 1, -1)
        s = float(np.clip(seconds, times[0], times[-1]))
        k = int(np.clip(np.searchsorted(times, s, side="right") - 1, 0, max(len(times) - 2, 0)))
        if len(times) == 1:
            return rows[0, len(rows[0]) // 2]
        if kind == "STEP":
            return rows[np.searchsorted(times, s + 1e-6, side="right") - 1, 0]
        span = times[k + 1] - times[k]
        t = (s - times[k]) / span
        if kind == "CUBICSPLINE":
            a, b = rows[k], rows[k + 1]
            value = (
                (2 * t**3 - 3 * t**2 + 1) * a[1]
                + span * (t**3 - 2 * t**2 + t) * a[2]
                + (3 * t**2 - 2 * t**3) * b[1]
                + span * (t**3 - t**2) * b[0]
            )
            return value / np.linalg.norm(value) if path == "rotation" else value
        if path == "rotation":
            return Slerp([0, 1], Rotation.from_quat(rows[[k, k + 1], 0]))(t).as_quat()
        return rows[k, 0] * (1 - t) + rows[k + 1, 0] * t

    def vertices(self, animation: str | None = None, seconds: float = 0.0) -> np.ndarray:
        """Every vertex of every mesh (V, 3), node by node."""
        world, weights = self.world(animation, seconds)
        found = []
        for index, node in enumerate(self.doc["nodes"]):
            if "mesh" not in node:
                continue
            mesh = self.doc["meshes"][node["mesh"]]
            amounts = weights.get(index, np.array(mesh.get("weights", [])))
            for primitive in mesh["primitives"]:
                places = self.array(primitive["attributes"]["POSITION"])
                for amount, target in zip(amounts, primitive.get("targets", []), strict=False):
                    places = places + amount * self.array(target["POSITION"])
                found.append(self._carried(node, primitive, places, world, index))
        return np.concatenate(found)

    def _carried(self, node: Any, primitive: Any, places: np.ndarray, world: np.ndarray, index: int) -> np.ndarray:
        if "skin" not in node:
            return places @ world[index][:3, :3].T + world[index][:3, 3]
        skin = self.doc["skins"][node["skin"]]
        binds = self.array(skin["inverseBindMatrices"]).reshape(-1, 4, 4).transpose(0, 2, 1)
        matrices = world[skin["joints"]] @ binds
        joints = self.array(primitive["attributes"]["JOINTS_0"]).astype(int)
        shares = self.array(primitive["attributes"]["WEIGHTS_0"])
        mixed = (matrices[joints] * shares[..., None, None]).sum(1)
        return (mixed[:, :3, :3] @ places[..., None])[..., 0] + mixed[:, :3, 3]


def _matrix(node: dict[str, Any]) -> np.ndarray:
    if "matrix" in node:
        return np.array(node["matrix"], float).reshape(4, 4).T
    matrix = np.eye(4)
    turn = Rotation.from_quat(node.get("rotation", (0, 0, 0, 1))).as_matrix()
    matrix[:3, :3] = turn * np.asarray(node.get("scale", (1, 1, 1)), float)
    matrix[:3, 3] = node.get("translation", (0, 0, 0))
    return matrix
