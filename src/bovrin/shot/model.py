"""What a figure looks like: meshes bound to joints."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure


@dataclass(frozen=True, eq=False, repr=False)
class Piece:
    """One mesh of one colour. Bind pose, metres, world axes.

    positions, normals : (V, 3) float32; joints : (V, 4) uint16, indices into the rig's joints;
    weights : (V, 4) float32, rows sum to one; triangles : (T, 3) uint32; colour : sRGB 0..1.
    """

    name: str
    colour: tuple[float, float, float]
    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    joints: NDArray[np.uint16]
    weights: NDArray[np.float32]
    triangles: NDArray[np.uint32]

    def __post_init__(self) -> None:
        count = len(self.positions)
        for name, width in (("positions", 3), ("normals", 3), ("joints", 4), ("weights", 4)):
            if getattr(self, name).shape != (count, width):
                raise BadFigure(f"the mesh '{self.name}' has {name} of a wrong size.")
        if self.triangles.size and int(self.triangles.max()) >= count:
            raise BadFigure(f"the mesh '{self.name}' points at vertices that are not there.")
        for name in ("positions", "normals", "weights"):
            if not np.isfinite(getattr(self, name)).all():
                raise BadFigure(f"the mesh '{self.name}' holds numbers that are not finite in its {name}.")
        for name in ("positions", "normals", "joints", "weights", "triangles"):
            getattr(self, name).setflags(write=False)


@dataclass(frozen=True, eq=False, repr=False)
class Model:
    """All meshes of a figure."""

    pieces: tuple[Piece, ...]

    @property
    def triangle_count(self) -> int:
        """How many triangles are drawn."""
        return sum(len(piece.triangles) for piece in self.pieces)
