"""What a figure looks like: meshes bound to joints."""

from __future__ import annotations

from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure
from bovrin.frozen import frozen


@frozen
class Texture:
    """A picture laid on a mesh: the bytes of a PNG or JPEG file. repeats: whether it goes on past its edges, across and up."""

    name: str
    data: bytes
    repeats: tuple[bool, bool] = (True, True)


@frozen
class Cover:
    """What a mesh has besides its colour: a picture, tints (V, 3) sRGB that are multiplied with the colour, and whether
    both its sides are seen. uv : (V, 2), places in the picture. Less opaque than `cutoff`, a spot is not drawn.

    blended: what lies behind it is seen through it, as much as `opacity` and the picture leave."""

    texture: Texture | None = None
    uv: NDArray[np.float32] | None = None
    tints: NDArray[np.float32] | None = None
    cutoff: float = 0.0
    two_sided: bool = False
    blended: bool = False
    opacity: float = 1.0


PLAIN = Cover()


@frozen
class Cut:
    """What makes a mesh a drawing of a flat part: the control whose channels say which drawing is shown and how far in front
    the part is, and the drawing's name. It is drawn as it is, without light, over what is behind it."""

    control: str
    drawing: str


@frozen
class Piece:
    """One mesh of one colour. Bind pose, metres, world axes.

    positions, normals : (V, 3) float32; joints : (V, 4) uint16, indices into the model's bones (the rig's joints where it
    has none of its own), the strongest first; weights : (V, 4) float32, rows sum to one; triangles : (T, 3) uint32;
    colour : sRGB 0..1. morphs: the name of a rig's amount and what that adds to the positions, (V, 3) float32.
    """

    name: str
    colour: tuple[float, float, float]
    positions: NDArray[np.float32]
    normals: NDArray[np.float32]
    joints: NDArray[np.uint16]
    weights: NDArray[np.float32]
    triangles: NDArray[np.uint32]
    cover: Cover = PLAIN
    morphs: tuple[tuple[str, NDArray[np.float32]], ...] = ()
    cut: Cut | None = None

    def __post_init__(self) -> None:
        count = len(self.positions)
        for name, width in (("positions", 3), ("normals", 3), ("joints", 4), ("weights", 4)):
            if getattr(self, name).shape != (count, width):
                raise BadFigure(f"the mesh '{self.name}' has {name} of a wrong size.")
        if self.triangles.size and int(self.triangles.max()) >= count:
            raise BadFigure(f"the mesh '{self.name}' points at vertices that are not there.")
        for name, deltas in self.morphs:
            if deltas.shape != (count, 3) or not np.isfinite(deltas).all():
                raise BadFigure(f"the mesh '{self.name}' has a shape '{name}' that does not fit it.")
        for name in ("positions", "normals", "weights"):
            if not np.isfinite(getattr(self, name)).all():
                raise BadFigure(f"the mesh '{self.name}' holds numbers that are not finite in its {name}.")
        for name in ("positions", "normals", "joints", "weights", "triangles"):
            getattr(self, name).setflags(write=False)


@frozen
class DrawnIn:
    """The layered drawing that a flat figure comes from: where its file lies, and which spot of it is the figure's own nought, in
    the drawing's units."""

    path: str
    middle: float
    ground: float


BONES = "bones"
"""What the mesh of bones is called that a figure without one gets."""


@frozen
class Model:
    """All meshes of a figure.

    bones (B,): the rig's joint that each bone goes with, and binds (B, 4, 4): from the meshes' own space into that joint's;
    None where meshes lie in the world at rest and bones are joints. brought: the GLB file that the figure came from, without
    its animations; metres: how many a unit of that file is; nodes: those of that file that are joints of the rig. drawn: where
    a flat figure was drawn.
    """

    pieces: tuple[Piece, ...]
    bones: NDArray[np.intp] | None = None
    binds: NDArray[np.float64] | None = None
    brought: bytes = b""
    metres: float = 1.0
    nodes: tuple[int, ...] = ()
    drawn: DrawnIn | None = None

    @property
    def is_bones(self) -> bool:
        """Whether what is seen of the figure is its bones alone."""
        return [piece.name for piece in self.pieces] == [BONES] and not self.brought

    @cached_property
    def is_flat(self) -> bool:
        """Whether all of it are drawings of flat parts."""
        return bool(self.pieces) and all(piece.cut is not None for piece in self.pieces)

    @property
    def triangle_count(self) -> int:
        """How many triangles are drawn."""
        return sum(len(piece.triangles) for piece in self.pieces)

    def strongest(self, piece: Piece) -> NDArray[np.intp]:
        """The rig's joint that carries each vertex of a piece most (V,)."""
        first = piece.joints[:, 0].astype(np.intp)
        return first if self.bones is None else self.bones[first]
