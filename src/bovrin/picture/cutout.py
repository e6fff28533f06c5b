"""A flat figure on the graphics side: drawings of parts painted one over the other, standing in the scene as a card does."""

from __future__ import annotations

import io
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from bovrin.figure.flat.shown import shown_pieces
from bovrin.picture.drawable import Brush, Mode
from bovrin.picture.item import Item
from bovrin.picture.mesh import LARGEST, MOST_PIXELS, Programs
from bovrin.picture.shadow import blob_places
from bovrin.picture.skinned import Skinned, triangles_of
from bovrin.shot import Figure, Piece, Texture

Floats = NDArray[np.float64]
SMALLER = 6
"""Bytes of a pixel of a picture with all its smaller sizes, about."""
ROUND = np.linspace(0, 2 * np.pi, 12, endpoint=False)
"""Ways in which a part is moved to make its outline."""


class Cutout:
    """Parts of one model. Their places come from a mesh; what is seen of them, and in which order, from an item's values."""

    def __init__(self, ctx: Any, programs: Programs, figure: Figure) -> None:
        pieces = figure.model.pieces
        self._skinned = Skinned(ctx, programs.skin, figure, pieces)
        self._program = programs.cutout
        spots = np.concatenate([_spots(piece) for piece in pieces])
        self._array = ctx.vertex_array(
            self._program,
            [
                (self._skinned.buffer, "4f 12x", "place"),
                (ctx.buffer(spots.tobytes()), "2f", "uv"),
                (self._skinned.strongest, "1u", "bone"),
            ],
            ctx.buffer(triangles_of(pieces).tobytes()),
        )
        ends = np.cumsum([0, *(3 * len(piece.triangles) for piece in pieces)])
        self._spans = list(zip(ends[:-1].tolist(), np.diff(ends).tolist(), strict=True))
        made: dict[int, Any] = {}
        self._textures = [_uploaded_once(ctx, piece, made) for piece in pieces]
        self._corners = _corners(figure)
        self._order = np.arange(len(pieces))
        self.nbytes = self._skinned.nbytes + sum(SMALLER * one.width * one.height for one in made.values() if one)

    def place(self, item: Item) -> None:
        """Put parts where a figure's are, and in the order in which they are painted."""
        self._skinned.place(item)
        self._order = shown_pieces(item.figure, item.values)
        self._plane = item.world[0] @ _as_points(self._corners).T

    def draw(self, mode: Mode, brush: Brush) -> None:
        """Draw for a mode. Drawings that are seen through at their edges are painted with what is seen through."""
        program = self._program
        program["to_clip"].write(brush.to_clip)
        program["half_size"], program["aside"] = brush.half_size, (0.0, 0.0)
        program["mode"] = {Mode.GLASS: 0, Mode.PICK: 2}.get(mode, 1)
        order = self._order if self._is_seen_from_before(brush.to_clip) else self._order[::-1]
        brush.ctx.disable(moderngl.CULL_FACE)
        if mode is Mode.GLASS:
            brush.ctx.blend_func = (moderngl.ONE, moderngl.ONE_MINUS_SRC_ALPHA)
            program["light_colour"] = brush.light
            self._paint(order)  # what is painted later lies nearer, so no depth is left
        elif mode is Mode.PICK:
            program["figure_number"] = brush.number
            brush.ctx.fbo.depth_mask = False
            brush.ctx.fbo.use()
            self._paint(order)
            self._leave_depth(brush, order)
        elif mode is Mode.DEPTH:
            self._paint(order)
        elif mode is Mode.OUTLINE:
            program["ink"] = brush.ink
            self._outline(brush, order)
        brush.ctx.enable(moderngl.CULL_FACE)

    def blobs(self, item: Item) -> Floats:
        """Places (B, 3) of blobs that stand for the parts."""
        return blob_places(item.figure, item.world)

    def bounds(self, item: Item) -> tuple[Floats, Floats]:
        """The corners of a box around the parts."""
        places = np.concatenate([self.blobs(item), item.world[:, :3, 3]])
        return places.min(0), places.max(0)

    def _paint(self, order: NDArray[np.intp]) -> None:
        for n in order:
            texture = self._textures[n]
            if texture is not None:
                first, count = self._spans[n]
                texture.use(1)
                self._array.render(vertices=count, first=first)

    def _leave_depth(self, brush: Brush, order: NDArray[np.intp]) -> None:
        """What is painted hides what lies behind it and is drawn later."""
        target = brush.ctx.fbo
        self._program["mode"] = 1
        target.color_mask, target.depth_mask = (False,) * 4, True
        target.use()
        self._paint(order)
        target.color_mask = (True,) * 4
        target.depth_mask = brush.number > 0
        target.use()

    def _outline(self, brush: Brush, order: NDArray[np.intp]) -> None:
        """A line around all that is opaque: the parts moved a little all around, behind where they are."""
        brush.ctx.polygon_offset = (2.0 * brush.line + 2.0, 8.0)  # a part that is moved so far must still lie behind
        for angle in ROUND:
            self._program["aside"] = (float(np.cos(angle)) * brush.line, float(np.sin(angle)) * brush.line)
            self._paint(order)
        brush.ctx.polygon_offset = (0.0, 0.0)

    def _is_seen_from_before(self, to_clip: bytes) -> bool:
        """Whether the drawn side is turned to the viewer; from behind the parts lie the other way round."""
        matrix = np.frombuffer(to_clip, np.float32).reshape(4, 4).T
        clip = matrix @ self._plane
        x, y = clip[:2] / np.where(np.abs(clip[3]) > 1e-9, clip[3], 1e-9)
        area = (x[1] - x[0]) * (y[2] - y[0]) - (x[2] - x[0]) * (y[1] - y[0])
        return bool(area >= 0)


def _spots(piece: Piece) -> NDArray[np.float32]:
    """Places in the picture (V, 2)."""
    uv = piece.cover.uv
    return np.asarray(uv if uv is not None else np.zeros((len(piece.positions), 2)), np.float32)


def _corners(figure: Figure) -> Floats:
    """Three corners (3, 3) of the plane that the parts lie in, in turn to the left as they are seen as drawn."""
    normal = np.array(figure.model.pieces[0].normals[0], float)
    up = np.array([0.0, 1.0, 0.0])
    return np.array([np.zeros(3), np.cross(up, normal), up])


def _as_points(places: Floats) -> Floats:
    return np.column_stack([places, np.ones(len(places))])


def _uploaded_once(ctx: Any, piece: Piece, made: dict[int, Any]) -> Any:
    texture = piece.cover.texture
    if texture is None:
        return None
    if id(texture) not in made:
        made[id(texture)] = _uploaded(ctx, texture)
    return made[id(texture)]


def _uploaded(ctx: Any, texture: Texture) -> Any:
    """The picture with its colours multiplied by alpha, so that edges keep their colour when it is made smaller."""
    from PIL import Image, UnidentifiedImageError  # noqa: PLC0415 - only flat figures need it

    try:
        with Image.open(io.BytesIO(texture.data)) as opened:
            if opened.size[0] * opened.size[1] > MOST_PIXELS:
                return None
            image = opened.convert("RGBa")
            image.thumbnail((LARGEST, LARGEST))
    except (OSError, UnidentifiedImageError, ValueError, Image.DecompressionBombError):
        return None
    made = ctx.texture(image.size, 4, image.tobytes())
    made.build_mipmaps()
    made.filter = (moderngl.LINEAR_MIPMAP_LINEAR, moderngl.LINEAR)
    made.repeat_x = made.repeat_y = False
    return made
