"""The crate: battens and planks, one joint."""

from __future__ import annotations

import numpy as np

from bovrin.shot import Figure, Model, Piece
from tools.cast.buoy import rigid_piece, whole_rig
from tools.cast.sdf import box, join

HALF = np.array([0.27, 0.19, 0.20])


def _piece(name: str, colour: str, parts: list, triangles: int) -> Piece:  # type: ignore[type-arg]
    return rigid_piece(name, colour, join(*parts), (-0.33, -0.04, -0.26), (0.33, 0.44, 0.26), 0.0095, triangles)


def crate() -> Figure:
    """A wooden crate that stands on the ground, its handles to the left and right."""
    x, y, z = HALF
    planks = [box((0, y + dy, 0), (x - 0.012, 0.052, z - 0.012), 0.008) for dy in (-0.122, 0.0, 0.122)]
    battens = []
    for sx in (-1, 1):
        for sz in (-1, 1):
            battens.append(box((sx * (x - 0.028), y, sz * (z - 0.012)), (0.03, y, 0.024), 0.008))
        battens.append(box((sx * (x - 0.004), y + 0.07, 0), (0.022, 0.028, z - 0.02), 0.008))
    for sz in (-1, 1):
        battens.append(box((0, 2 * y - 0.03, sz * (z - 0.012)), (x, 0.03, 0.026), 0.008))
        battens.append(box((0, 0.03, sz * (z - 0.012)), (x, 0.03, 0.026), 0.008))
    rig = whole_rig("crate", "whole crate")
    pieces = (_piece("planks", "#B09467", planks, 900), _piece("battens", "#94764A", battens, 1500))
    return Figure("crate", rig, Model(pieces), "cast:crate", (0.663, 0.541, 0.357))
