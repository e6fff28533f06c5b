"""A figure's meshes on the graphics side: vertices of all pieces in one array, drawn in as few calls as their covers allow."""

from __future__ import annotations

import io
from typing import Any, NamedTuple

import moderngl
import numpy as np
from numpy.typing import NDArray

from bovrin.picture.drawable import Brush, Mode
from bovrin.picture.item import Item
from bovrin.picture.shadow import blob_places
from bovrin.picture.skinned import Skinned, triangles_of
from bovrin.shot import Figure, Piece, Texture

Floats = NDArray[np.float64]

MOST_PIXELS = 70_000_000
"""Pixels of the largest picture that is drawn; with a larger one a mesh has its plain colour."""
LARGEST = 2048
"""Pixels along a side of a picture on a mesh; larger ones are made smaller."""


TEXTURE = 4_000_000
"""Bytes of a picture, about."""


class Programs(NamedTuple):
    """What skins vertices into a buffer, and what draws them from there, as bodies or as flat drawings."""

    skin: Any
    figure: Any
    cutout: Any


class Mesh:
    """Vertices, joints and pictures of one model. Pieces that need nothing of their own are drawn together, first.

    It does not hold the model: as long as that lives this is kept, and no longer.
    """

    def __init__(self, ctx: Any, programs: Programs, figure: Figure) -> None:
        self._pieces = sorted(figure.model.pieces, key=_order)
        self._solid = sum(3 * len(p.triangles) for p in self._pieces if not p.cover.blended)
        self._skinned = Skinned(ctx, programs.skin, figure, self._pieces)
        fixed = np.concatenate([_fixed(p) for p in self._pieces])
        self._array = ctx.vertex_array(
            programs.figure,
            [
                (self._skinned.buffer, "4f 3f", "place", "normal"),
                (ctx.buffer(fixed.tobytes()), "3f 2f", "colour", "uv"),
                (self._skinned.strongest, "1u", "bone"),
            ],
            ctx.buffer(triangles_of(self._pieces).tobytes()),
        )
        self._textures: dict[int, Any] = {}
        self._batches = self._batched(ctx)
        textures = sum(p.cover.texture is not None for p in self._pieces)
        self.nbytes = self._skinned.nbytes + textures * TEXTURE

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
        """Put bones and shapes where a figure's are."""
        self._skinned.place(item)

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


def _fixed(piece: Piece) -> NDArray[np.float32]:
    """What of a vertex never changes: colour, place in the picture (V, 5)."""
    count = len(piece.positions)
    colours = np.tile(np.array(piece.colour, np.float32), (count, 1))
    if piece.cover.tints is not None:
        colours = colours * piece.cover.tints
    uv = piece.cover.uv if piece.cover.uv is not None else np.zeros((count, 2), np.float32)
    return np.hstack([colours, uv]).astype(np.float32)


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
