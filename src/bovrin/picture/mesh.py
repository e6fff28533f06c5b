"""A figure's meshes on the graphics side: vertices of all pieces in one array, drawn in as few calls as their covers allow."""

from __future__ import annotations

import io
from typing import Any, NamedTuple
from weakref import ref

import moderngl
import numpy as np
from numpy.typing import NDArray

from bovrin.figure.ground.normals import Bending
from bovrin.figure.ground.skin import morphed
from bovrin.figure.solve.joints import bone_matrices
from bovrin.picture.drawable import Brush, Mode
from bovrin.picture.item import Item
from bovrin.picture.shadow import blob_places
from bovrin.shot import Figure, Piece, Rig, Texture

Floats = NDArray[np.float64]

MOST_BENT = 40_000
"""Triangles around what shapes move, up to which normals follow them."""
MOST_PIXELS = 70_000_000
"""Pixels of the largest picture that is drawn; with a larger one a mesh has its plain colour."""
LARGEST = 2048
"""Pixels along a side of a picture on a mesh; larger ones are made smaller."""


SKINNED = 7 * 4
"""Bytes of a vertex once it is skinned: its place (4,) and its normal (3,)."""
VERTEX, TEXTURE = 200, 4_000_000
"""Bytes of a vertex in all buffers together, and of a picture, about."""


class Programs(NamedTuple):
    """What skins vertices into a buffer, and what draws them from there."""

    skin: Any
    figure: Any


class Mesh:
    """Vertices, joints and pictures of one model. Pieces that need nothing of their own are drawn together, first.

    It does not hold the model: as long as that lives this is kept, and no longer.
    """

    def __init__(self, ctx: Any, programs: Programs, figure: Figure) -> None:
        self._pieces = sorted(figure.model.pieces, key=_order)
        self._solid = sum(3 * len(p.triangles) for p in self._pieces if not p.cover.blended)
        self._placed: tuple[ref[Rig], bytes, bytes] | None = None
        self._bending: dict[int, Bending | None] = {}
        self._morphs = np.zeros(len(figure.rig.morph_columns))
        places = np.concatenate([p.positions for p in self._pieces]).astype(np.float32)
        self._places = ctx.buffer(np.ascontiguousarray(places).tobytes())
        normals = np.concatenate([p.normals for p in self._pieces]).astype(np.float32)
        self._normals = ctx.buffer(np.ascontiguousarray(normals).tobytes())
        weights = np.concatenate([p.weights for p in self._pieces]).astype(np.float32)
        joints = np.concatenate([p.joints for p in self._pieces]).astype(np.uint32)
        self._skin = ctx.vertex_array(
            programs.skin,
            [
                (self._places, "3f", "position"),
                (self._normals, "3f", "normal"),
                (ctx.buffer(weights.tobytes()), "4f", "weight"),
                (ctx.buffer(joints.tobytes()), "4u", "joint"),
            ],
        )
        self._skinned = ctx.buffer(reserve=len(places) * SKINNED)
        bones = figure.model.bones
        carriers = np.arange(len(figure.rig.joints)) if bones is None else np.asarray(bones)
        fixed = np.concatenate([_fixed(p) for p in self._pieces])
        self._array = ctx.vertex_array(
            programs.figure,
            [
                (self._skinned, "4f 3f", "place", "normal"),
                (ctx.buffer(fixed.tobytes()), "3f 2f", "colour", "uv"),
                (ctx.buffer(carriers[joints[:, 0]].astype(np.uint32).tobytes()), "1u", "bone"),
            ],
            ctx.buffer(_triangles(self._pieces).tobytes()),
        )
        self._matrices = np.zeros((len(carriers), 3, 4), np.float32)
        self._joints = ctx.texture((3, len(carriers)), 4, dtype="f4")
        self._joints.filter = (moderngl.NEAREST, moderngl.NEAREST)
        self._textures: dict[int, Any] = {}
        self._batches = self._batched(ctx)
        textures = sum(p.cover.texture is not None for p in self._pieces)
        self.nbytes = len(places) * VERTEX + textures * TEXTURE

    def _batched(self, ctx: Any) -> list[tuple[int, int, Piece | None]]:
        """First index, how many, and the piece whose cover counts; None: all plain ones."""
        plain = [p for p in self._pieces if _is_plain(p)]
        count = sum(3 * len(p.triangles) for p in plain)
        found: list[tuple[int, int, Piece | None]] = [(0, count, None)] if count else []
        for piece in self._pieces[len(plain) :]:
            if piece.cover.texture is not None and id(piece.cover.texture) not in self._textures:
                self._textures[id(piece.cover.texture)] = _uploaded(ctx, piece.cover.texture)
            found.append((count, 3 * len(piece.triangles), piece))
            count += 3 * len(piece.triangles)
        return found

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
        self._skin.transform(self._skinned, moderngl.POINTS)

    def _reshape(self, piece: Piece, rig: Rig, morphs: Floats, at: int) -> None:
        """Put a piece's vertices, from number `at` on, where amounts of shapes have them; its normals follow."""
        places = morphed(piece, rig, morphs).astype(np.float32)
        self._places.write(np.ascontiguousarray(places).tobytes(), offset=at * 12)
        if id(piece) not in self._bending:
            self._bending[id(piece)] = _bending(piece)
        bending = self._bending[id(piece)]
        if bending is not None:
            self._normals.write(np.ascontiguousarray(bending.at(places)).tobytes(), offset=at * 12)

    def draw(self, mode: Mode, brush: Brush) -> None:
        """Draw for a mode, where it was placed last."""
        program = brush.program
        program["hull"] = brush.line if mode is Mode.OUTLINE else 0.0
        if mode in (Mode.PLAIN, Mode.GLASS):
            program["mode"] = 0
            self._draw_tones(brush.ctx, program, glass=mode is Mode.GLASS)
            return
        if mode is Mode.PICK:
            program["mode"], program["figure_number"] = 2, brush.number
        else:
            program["mode"] = 1
        if mode is Mode.OUTLINE:  # ink behind glass would be seen through it
            brush.ctx.cull_face = "front"
        count = self._solid if mode is Mode.OUTLINE else -1
        if count:
            self._array.render(vertices=count)
        brush.ctx.cull_face = "back"

    def blobs(self, item: Item) -> Floats:
        """Places (B, 3) of blobs that stand for the mesh."""
        return blob_places(item.figure, item.world)

    def bounds(self, item: Item) -> tuple[Floats, Floats]:
        """The corners of a box around the blobs and the joints."""
        places = np.concatenate([self.blobs(item), item.world[:, :3, 3]])
        return places.min(0), places.max(0)

    def _draw_tones(self, ctx: Any, program: Any, *, glass: bool) -> None:
        """Every piece in its own colours: those that are seen through, or all others."""
        for first, count, piece in self._batches:
            if piece is None:
                if not glass:
                    self._array.render(vertices=count, first=first)
                continue
            if piece.cover.blended is not glass:
                continue
            texture = self._textures.get(id(piece.cover.texture))
            program["textured"], program["cutoff"] = texture is not None, piece.cover.cutoff
            program["blended"], program["opacity"] = glass, piece.cover.opacity
            if texture is not None:
                texture.use(1)
            if piece.cover.two_sided:
                ctx.disable(moderngl.CULL_FACE)
            self._array.render(vertices=count, first=first)
            if piece.cover.two_sided:
                ctx.enable(moderngl.CULL_FACE)
        program["textured"], program["cutoff"], program["blended"] = False, 0.0, False


def _is_plain(piece: Piece) -> bool:
    return piece.cover.texture is None and not piece.cover.two_sided and not piece.cover.blended


def _order(piece: Piece) -> int:
    """Plain pieces first, those that are seen through last."""
    return 0 if _is_plain(piece) else 2 if piece.cover.blended else 1


def _bending(piece: Piece) -> Bending | None:
    """What makes normals follow shapes; None where there are too many triangles around them to follow in every picture."""
    moved = np.any([np.any(deltas, axis=1) for _, deltas in piece.morphs], axis=0)
    around = piece.triangles[moved[piece.triangles].any(1)]
    return Bending(piece.normals, piece.positions, around) if len(around) <= MOST_BENT else None


def _fixed(piece: Piece) -> NDArray[np.float32]:
    """What of a vertex never changes: colour, place in the picture (V, 5)."""
    count = len(piece.positions)
    colours = np.tile(np.array(piece.colour, np.float32), (count, 1))
    if piece.cover.tints is not None:
        colours = colours * piece.cover.tints
    uv = piece.cover.uv if piece.cover.uv is not None else np.zeros((count, 2), np.float32)
    return np.hstack([colours, uv]).astype(np.float32)


def _triangles(pieces: list[Piece]) -> NDArray[np.uint32]:
    offsets = np.cumsum([0, *[len(p.positions) for p in pieces]])
    return np.concatenate([p.triangles + o for p, o in zip(pieces, offsets, strict=False)]).astype(np.uint32)


def _uploaded(ctx: Any, texture: Texture) -> Any:
    """The picture as a texture, or None when it cannot be drawn; its first row is its top, as glTF counts."""
    from PIL import Image, UnidentifiedImageError  # noqa: PLC0415 - only figures with pictures need it

    try:
        with Image.open(io.BytesIO(texture.data)) as opened:
            if opened.size[0] * opened.size[1] > MOST_PIXELS:
                return None
            opened.thumbnail((LARGEST, LARGEST))
            image = opened.convert("RGBA")
    except (OSError, UnidentifiedImageError, ValueError, Image.DecompressionBombError):
        return None
    made = ctx.texture(image.size, 4, image.tobytes())
    made.build_mipmaps()
    made.repeat_x, made.repeat_y = texture.repeats
    return made
