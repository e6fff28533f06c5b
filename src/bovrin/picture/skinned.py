"""Vertices of some pieces on the graphics side, carried by a figure's bones."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any
from weakref import ref

import moderngl
import numpy as np
from numpy.typing import NDArray

from bovrin.figure.ground.normals import Bending
from bovrin.figure.ground.skin import morphed
from bovrin.figure.solve.joints import bone_matrices
from bovrin.picture.item import Item
from bovrin.shot import Figure, Piece, Rig

Floats = NDArray[np.float64]

MOST_BENT = 40_000
"""Triangles around what shapes move, up to which normals follow them."""
SKINNED = 7 * 4
"""Bytes of a vertex once it is skinned: its place (4,) and its normal (3,)."""
VERTEX = 200
"""Bytes of a vertex in all buffers together, about."""


class Skinned:
    """Places and normals of the vertices of pieces, as they follow one another, in one buffer.

    It does not hold the model: as long as that lives this is kept, and no longer.
    """

    def __init__(self, ctx: Any, program: Any, figure: Figure, pieces: Sequence[Piece]) -> None:
        self._pieces = pieces
        self._placed: tuple[ref[Rig], bytes, bytes] | None = None
        self._bending: dict[int, Bending | None] = {}
        self._morphs = np.zeros(len(figure.rig.morph_columns))
        places = np.concatenate([p.positions for p in pieces]).astype(np.float32)
        self._places = ctx.buffer(np.ascontiguousarray(places).tobytes())
        normals = np.concatenate([p.normals for p in pieces]).astype(np.float32)
        self._normals = ctx.buffer(np.ascontiguousarray(normals).tobytes())
        weights = np.concatenate([p.weights for p in pieces]).astype(np.float32)
        joints = np.concatenate([p.joints for p in pieces]).astype(np.uint32)
        self._skin = ctx.vertex_array(
            program,
            [
                (self._places, "3f", "position"),
                (self._normals, "3f", "normal"),
                (ctx.buffer(weights.tobytes()), "4f", "weight"),
                (ctx.buffer(joints.tobytes()), "4u", "joint"),
            ],
        )
        self.buffer = ctx.buffer(reserve=len(places) * SKINNED)
        bones = figure.model.bones
        carriers = np.arange(len(figure.rig.joints)) if bones is None else np.asarray(bones)
        self.strongest = ctx.buffer(carriers[joints[:, 0]].astype(np.uint32).tobytes())
        self._matrices = np.zeros((len(carriers), 3, 4), np.float32)
        self._joints = ctx.texture((3, len(carriers)), 4, dtype="f4")
        self._joints.filter = (moderngl.NEAREST, moderngl.NEAREST)
        self.nbytes = len(places) * VERTEX

    def place(self, item: Item) -> None:
        """Put bones and shapes where a figure's are, unless they are there already: a view goes about a pose, and a picture
        of it becomes fine."""
        placed = (ref(item.figure.rig), item.world.tobytes(), item.amounts.tobytes())
        if placed == self._placed:
            return
        self._placed = placed
        self._matrices[:] = bone_matrices(item.figure, item.world)[:, :3]
        self._joints.write(self._matrices.tobytes())
        morphs = item.amounts
        if not np.array_equal(morphs, self._morphs):
            self._morphs = morphs.copy()
            at = 0
            for piece in self._pieces:
                if piece.morphs:
                    self._reshape(piece, item.figure.rig, morphs, at)
                at += len(piece.positions)
        self._joints.use(0)
        self._skin.transform(self.buffer, moderngl.POINTS)

    def _reshape(self, piece: Piece, rig: Rig, morphs: Floats, at: int) -> None:
        """Put a piece's vertices, from number `at` on, where amounts of shapes have them; its normals follow."""
        places = morphed(piece, rig, morphs).astype(np.float32)
        self._places.write(np.ascontiguousarray(places).tobytes(), offset=at * 12)
        if id(piece) not in self._bending:
            self._bending[id(piece)] = _bending(piece)
        bending = self._bending[id(piece)]
        if bending is not None:
            self._normals.write(np.ascontiguousarray(bending.at(places)).tobytes(), offset=at * 12)


def triangles_of(pieces: Sequence[Piece]) -> NDArray[np.uint32]:
    """The triangles of all pieces, their vertices counted through."""
    offsets = np.cumsum([0, *[len(p.positions) for p in pieces]])
    return np.concatenate([p.triangles + o for p, o in zip(pieces, offsets, strict=False)]).astype(np.uint32)


def _bending(piece: Piece) -> Bending | None:
    """What makes normals follow shapes; None where there are too many triangles around them to follow in every picture."""
    moved = np.any([np.any(deltas, axis=1) for _, deltas in piece.morphs], axis=0)
    around = piece.triangles[moved[piece.triangles].any(1)]
    return Bending(piece.normals, piece.positions, around) if len(around) <= MOST_BENT else None
