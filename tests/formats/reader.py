"""A second, separate reader of GLB animations, as another program would have it: poses by node name."""

from __future__ import annotations

import numpy as np
from tests.formats.gltf_player import Player


class Glb(Player):
    """The first animation of a file at a time in seconds."""

    def __init__(self, data: bytes) -> None:
        assert data[:4] == b"glTF"
        super().__init__(data)

    def pose(self, seconds: float) -> dict[str, np.ndarray]:
        """World matrices by node name."""
        world, _ = self.world(self.doc["animations"][0]["name"], seconds)
        return {n["name"]: world[i] for i, n in enumerate(self.doc["nodes"])}
