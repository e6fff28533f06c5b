"""A second, separate reader of GLB animations, as another program would have it: only struct, json and NumPy."""

from __future__ import annotations

import json
import struct

import numpy as np
from scipy.spatial.transform import Rotation, Slerp


class Glb:
    """Reads nodes and one animation; evaluates node matrices at a time in seconds."""

    def __init__(self, data: bytes) -> None:
        assert data[:4] == b"glTF"
        size = struct.unpack_from("<I", data, 12)[0]
        self.doc = json.loads(data[20 : 20 + size])
        self.blob = data[20 + size + 8 :]
        self.parents = {c: i for i, n in enumerate(self.doc["nodes"]) for c in n.get("children", [])}

    def array(self, index: int) -> np.ndarray:
        a = self.doc["accessors"][index]
        view = self.doc["bufferViews"][a["bufferView"]]
        dtype = {5126: "<f4", 5123: "<u2", 5125: "<u4", 5121: "u1"}[a["componentType"]]
        width = {"SCALAR": 1, "VEC3": 3, "VEC4": 4, "MAT4": 16}[a["type"]]
        start = view["byteOffset"] + a.get("byteOffset", 0)
        return np.frombuffer(self.blob, dtype, a["count"] * width, start).reshape(a["count"], width)

    def pose(self, seconds: float) -> dict[str, np.ndarray]:
        """World matrices by node name."""
        local = {}
        for i, node in enumerate(self.doc["nodes"]):
            local[i] = (
                np.array(node.get("translation", [0, 0, 0]), float),
                np.array(node.get("rotation", [0, 0, 0, 1]), float),
                np.array(node.get("scale", [1, 1, 1]), float),
            )
        for channel in self.doc["animations"][0]["channels"]:
            sampler = self.doc["animations"][0]["samplers"][channel["sampler"]]
            assert sampler["interpolation"] == "LINEAR"
            times = self.array(sampler["input"])[:, 0].astype(float)
            values = self.array(sampler["output"]).astype(float)
            move, turn, size = local[channel["target"]["node"]]
            if channel["target"]["path"] == "translation":
                move = np.array([np.interp(seconds, times, values[:, i]) for i in range(3)])
            elif channel["target"]["path"] == "scale":
                size = np.array([np.interp(seconds, times, values[:, i]) for i in range(3)])
            else:
                turn = Slerp(times, Rotation.from_quat(values))(min(max(seconds, times[0]), times[-1])).as_quat()
            local[channel["target"]["node"]] = (move, turn, size)
        return {n["name"]: self._world(i, local) for i, n in enumerate(self.doc["nodes"])}

    def _world(self, index: int, local: dict) -> np.ndarray:  # type: ignore[type-arg]
        matrix = np.eye(4)
        matrix[:3, :3] = Rotation.from_quat(local[index][1]).as_matrix() * local[index][2]
        matrix[:3, 3] = local[index][0]
        parent = self.parents.get(index)
        return matrix if parent is None else self._world(parent, local) @ matrix
