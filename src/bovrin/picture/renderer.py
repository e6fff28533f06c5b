"""The one renderer: figures in two tones with an ink outline, soft ground shadow and ground lines, drawn offscreen."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Sequence
from functools import lru_cache
from importlib.resources import files
from typing import Any

import moderngl
import numpy as np
from numpy.typing import NDArray

from bovrin.caching import IdentityCache
from bovrin.frozen import frozen_equal
from bovrin.picture.drawable import Brush, Drawable, Mode
from bovrin.picture.graphics import graphics_context
from bovrin.picture.item import Ghost, Item
from bovrin.picture.mesh import Mesh, Programs
from bovrin.picture.picked import Picked
from bovrin.picture.shadow import shadow_map
from bovrin.picture.theme import DAY, INK_LINE, PAPER, Colour, Theme, rgb
from bovrin.picture.view import View
from bovrin.shot import Figure

Floats = NDArray[np.float64]
Pixels = NDArray[np.uint8]

LIGHT = np.array([0.35, 0.80, 0.48]) / np.linalg.norm([0.35, 0.80, 0.48])
SAMPLES = 4
GHOST_LINE = 1.35
SET_LINE = 0.6
"""How strong the outline of a set is, as a share of the actors'."""
SHADOW_HEIGHT = 0.004
"""Metres over the ground at which shadows lie on a set."""
ROUNDED = 16
"""Pixels by which targets grow, so that a splitter that is dragged does not make a new one at each pixel."""
TARGETS = 12
"""Framebuffers kept; one picture uses three at the most."""
MESHES = 256_000_000
"""Bytes of figures' meshes that are kept, about."""


@frozen_equal
class Paper:
    """The stage's paper, with lines on the ground or without."""

    ground: bool = True


Backdrop = Paper
"""What lies behind the figures; None in a style: nothing, the picture is clear there."""


@frozen_equal
class PictureStyle:
    """What belongs in a picture. `fine`: multisampled, as when nothing moves. `line`: outline width in pixels."""

    theme: Theme = PAPER
    backdrop: Backdrop | None = Paper()
    shadow: bool = True
    fine: bool = True
    line: float = 1.5


class Renderer:
    """Draws into framebuffers of its own, on the thread that made it; several on a thread share its context."""

    def __init__(self) -> None:
        self.ctx = graphics_context()
        self._figure_program = self._program("figure.vert.glsl", "figure.frag.glsl")
        skin = self.ctx.program(vertex_shader=_shader("skin.vert.glsl"), varyings=["world_place", "world_normal"])
        skin["joints"] = 0
        cutout = self._program("cutout.vert.glsl", "cutout.frag.glsl")
        cutout["skin"] = 1
        self._programs = Programs(skin, self._figure_program, cutout)
        self._lines_program = self._program("ground.vert.glsl", "lines.frag.glsl")
        self._shadow_program = self._program("ground.vert.glsl", "shadow.frag.glsl")
        vertex = "#version 330\nin vec2 place; out vec2 at; void main() { at = place; gl_Position = vec4(place, 0.999, 1.0); }"
        self._backdrop_program = self.ctx.program(vertex_shader=vertex, fragment_shader=_shader("backdrop.glsl"))
        corners = self.ctx.buffer(np.array([-1, -1, 3, -1, -1, 3], np.float32).tobytes())
        self._backdrop = self.ctx.vertex_array(self._backdrop_program, [(corners, "2f", "place")])
        self._grid_buffer = self.ctx.buffer(_grid_lines().tobytes())
        self._grid = self.ctx.vertex_array(self._lines_program, [(self._grid_buffer, "2f 2f", "place", "uv")])
        self._shadow_corners = self.ctx.buffer(reserve=4 * 4 * 4)
        self._shadow = self.ctx.vertex_array(self._shadow_program, [(self._shadow_corners, "2f 2f", "place", "uv")])
        self._shadow_texture = self.ctx.texture((64, 64), 1, dtype="f1")
        self._shadow_of = b""
        self._drawables = IdentityCache(MESHES)
        self._targets: OrderedDict[tuple[int, int, bool, str], Any] = OrderedDict()
        self._backdrops: dict[tuple[int, int, bool], tuple[Any, ...]] = {}
        self._last_backdrops: dict[tuple[int, int, bool], tuple[Any, ...]] = {}

    def _program(self, vertex: str, fragment: str) -> Any:
        return self.ctx.program(vertex_shader=_shader(vertex), fragment_shader=_shader(fragment))

    def draw(
        self,
        items: Sequence[Item],
        view: View,
        size: tuple[int, int],
        style: PictureStyle = PictureStyle(),
        ghosts: Sequence[Ghost] = (),
    ) -> Pixels:
        """A picture (H, W, 4), rows from the top, colours multiplied by alpha. Ghosts are drawn first, in their order."""
        self.ctx.gc()
        items = [item for item in items if item.figure.model.triangle_count]
        to_clip = _bytes(view.matrix(size[0] / size[1]))
        target = self._target(size, style.fine)
        sets = [item for item in items if item.figure.is_set]
        items = [item for item in items if not item.figure.is_set]
        if style.backdrop is not None:
            self._lay_backdrop(target, sets, view, to_clip, size, style)
        else:
            self._begin(target, size)
            self._draw_figures(sets, to_clip, size, style.line * SET_LINE, style.theme.set_light)
        if style.shadow and items:
            self._draw_shadow(target, items, to_clip, over_a_set=bool(sets))
        for ghost in ghosts:
            self._draw_ghost(target, ghost, to_clip, size, style.line)
        self._draw_figures(items, to_clip, size, style.line)
        return self._read(target, size, style.fine)

    def _draw_ghost(self, target: Any, ghost: Ghost, to_clip: bytes, size: tuple[int, int], line: float) -> None:
        """The outline: the surface pushed out a little, seen only where the figure itself does not cover it."""
        if not ghost.item.figure.model.triangle_count:
            return
        program = self._figure_program
        self._prepare(program, to_clip, size)
        drawable = self.drawable(ghost.item.figure)
        drawable.place(ghost.item)
        ink = (*ghost.colour, ghost.alpha)
        brush = Brush(self.ctx, program, to_clip, _half(size), ink=ink, line=max(line, 1.0) * GHOST_LINE)
        _show_colour(target, on=False)
        drawable.draw(Mode.DEPTH, brush)
        _show_colour(target, on=True)
        self._blend()
        program["ink"] = ink
        drawable.draw(Mode.OUTLINE, brush)
        self.ctx.disable(moderngl.BLEND)
        _show_colour(target, on=False)
        target.clear(depth=1.0)
        _show_colour(target, on=True)

    def pick(self, items: Sequence[Item], view: View, size: tuple[int, int]) -> Picked:
        """What of some items lies under each pixel."""
        target = self._target(size, False)
        self._begin(target, size)
        program = self._figure_program
        to_clip = _bytes(view.matrix(size[0] / size[1]))
        self._prepare(program, to_clip, size)
        for number, item in enumerate(items, 1):
            if item.figure.model.triangle_count:
                drawable = self.drawable(item.figure)
                drawable.place(item)
                drawable.draw(Mode.PICK, Brush(self.ctx, program, to_clip, _half(size), number=number))
        return Picked(self._read(target, size, False), tuple(items))

    def _begin(self, target: Any, size: tuple[int, int]) -> None:
        target.use()
        self.ctx.viewport = (0, 0, *size)
        self.ctx.clear(0, 0, 0, 0)

    def _lay_backdrop(
        self, target: Any, sets: Sequence[Item], view: View, to_clip: bytes, size: tuple[int, int], style: PictureStyle
    ) -> None:
        """The stage without actors, depth too: kept and copied while the view and the set stay, drawn while they move."""
        kept = self._target(size, style.fine, "backdrop")
        standing = tuple((item.figure.model, item.world.tobytes()) for item in sets)
        key = (*_room_for(size), style.fine)
        wanted = (size, view, style.theme.name, style.backdrop, id(kept), style.line, standing)
        stands = self._last_backdrops.get(key) == wanted
        self._last_backdrops[key] = wanted
        if self._backdrops.get(key) != wanted:
            self._begin(kept if stands else target, size)
            self._draw_paper(view, to_clip, style)
            if sets:
                self._draw_figures(sets, to_clip, size, style.line * SET_LINE, style.theme.set_light)
            if not stands:
                return
            self._backdrops[key] = wanted
        self.ctx.copy_framebuffer(target, kept)
        target.use()
        self.ctx.viewport = (0, 0, *size)

    def _draw_paper(self, view: View, to_clip: bytes, style: PictureStyle) -> None:
        theme, paper = style.theme, style.backdrop
        self.ctx.disable(moderngl.DEPTH_TEST | moderngl.CULL_FACE)
        self._backdrop_program["centre"], self._backdrop_program["edge"] = (
            rgb(theme.stage_centre),
            rgb(theme.stage_edge),
        )
        self._backdrop.render()
        if paper is None or not paper.ground or (abs(view.pitch) < 1e-3 and view.flat):
            return
        self._blend()
        program = self._lines_program
        program["to_clip"].write(to_clip)
        program["colour"] = rgb(theme.ground_line)
        program["middle"] = (0.0, 0.0)
        program["reach"] = 5.5
        self._grid.render(moderngl.LINES)

    def _blend(self) -> None:
        self.ctx.enable(moderngl.BLEND)
        self.ctx.blend_func = (
            moderngl.SRC_ALPHA,
            moderngl.ONE_MINUS_SRC_ALPHA,
            moderngl.ONE,
            moderngl.ONE_MINUS_SRC_ALPHA,
        )

    def _draw_shadow(self, target: Any, items: Sequence[Item], to_clip: bytes, *, over_a_set: bool) -> None:
        self._cast_shadow(np.concatenate([self.drawable(i.figure).blobs(i) for i in items]))
        self.ctx.disable(moderngl.DEPTH_TEST | moderngl.CULL_FACE)
        if over_a_set:  # what of the set stands in front covers the shadow; the ground itself does not
            self.ctx.enable(moderngl.DEPTH_TEST)
        self._blend()
        self._shadow_texture.use(0)
        program = self._shadow_program
        program["density"], program["colour"] = 0, (0.15, 0.13, 0.13)
        program["to_clip"].write(to_clip)
        program["height"] = SHADOW_HEIGHT if over_a_set else 0.0
        target.depth_mask = False
        target.use()
        self._shadow.render(moderngl.TRIANGLE_STRIP)
        target.depth_mask = True
        target.use()

    def _cast_shadow(self, blobs: NDArray[np.float64]) -> None:
        """Put the shadow of blobs (B, 3) into its texture, unless it is there already."""
        thrown = blobs.tobytes()
        if thrown == self._shadow_of:
            return
        self._shadow_of = thrown
        density, (x0, z0), (x1, z1) = shadow_map(blobs)
        self._shadow_texture.write(density.tobytes())
        quad = np.array([[x0, z0, 0, 0], [x1, z0, 1, 0], [x0, z1, 0, 1], [x1, z1, 1, 1]], np.float32)
        self._shadow_corners.write(quad.tobytes())

    def _prepare(self, program: Any, to_clip: bytes, size: tuple[int, int]) -> None:
        self.ctx.disable(moderngl.BLEND)
        self.ctx.enable(moderngl.DEPTH_TEST | moderngl.CULL_FACE)
        self.ctx.cull_face = "back"
        program["to_clip"].write(to_clip)
        program["half_size"] = (size[0] / 2, size[1] / 2)
        program["light"] = tuple(LIGHT)
        program["skin"], program["textured"], program["cutoff"] = 1, False, 0.0
        program["blended"], program["opacity"] = False, 1.0

    def _draw_figures(
        self, items: Sequence[Item], to_clip: bytes, size: tuple[int, int], line: float, light: Colour = DAY
    ) -> None:
        program = self._figure_program
        self._prepare(program, to_clip, size)
        program["light_colour"] = light
        program["ink"] = (*INK_LINE, 1.0)
        brush = Brush(self.ctx, program, to_clip, _half(size), light, (*INK_LINE, 1.0), line)
        for item in items:
            if item.figure.model.is_flat:  # all of it is painted over what is not
                continue
            drawable = self.drawable(item.figure)
            drawable.place(item)
            drawable.draw(Mode.PLAIN, brush)
            if line > 0:
                drawable.draw(Mode.OUTLINE, brush)
        self._draw_glass([item for item in items if _has_glass(item.figure)], brush)

    def _draw_glass(self, items: Sequence[Item], brush: Brush) -> None:
        """What is seen through, over what is not: it hides nothing of what is drawn after it."""
        if not items:
            return
        self.ctx.fbo.depth_mask = False
        self.ctx.fbo.use()
        for item in _farthest_first(items, brush.to_clip):
            self._blend()
            drawable = self.drawable(item.figure)
            drawable.place(item)
            drawable.draw(Mode.GLASS, brush)
        self.ctx.fbo.depth_mask = True
        self.ctx.fbo.use()
        self.ctx.disable(moderngl.BLEND)

    def drawable(self, figure: Figure) -> Drawable:
        """What draws a figure; made when it is first drawn."""
        return self._drawables.get((figure.model,), lambda: _made(self.ctx, self._programs, figure))

    def _target(self, size: tuple[int, int], fine: bool, use: str = "") -> Any:
        """What a picture of a size is drawn into: a corner of it is used, so that sizes that are nearly the same share one."""
        room = _room_for(size)
        key = (*room, fine, use)
        if key not in self._targets:
            if len(self._targets) >= TARGETS:
                gone, _ = self._targets.popitem(last=False)
                self._backdrops.pop(gone[:3], None)
                self._last_backdrops.pop(gone[:3], None)
            samples = min(SAMPLES, self.ctx.max_samples) if fine else 0
            colour = self.ctx.renderbuffer(room, 4, samples=samples)
            self._targets[key] = self.ctx.framebuffer([colour], self.ctx.depth_renderbuffer(room, samples=samples))
        self._targets.move_to_end(key)
        self._targets[key].viewport = (0, 0, *size)
        return self._targets[key]

    def _read(self, target: Any, size: tuple[int, int], fine: bool) -> Pixels:
        if fine:
            plain = self._target(size, False)
            self.ctx.copy_framebuffer(plain, target)
            target = plain
        raw = target.read((0, 0, *size), components=4, alignment=1)
        return np.frombuffer(raw, np.uint8).reshape(size[1], size[0], 4)[::-1]


def _made(ctx: Any, programs: Programs, figure: Figure) -> Drawable:
    """What draws a figure, by what its model is made of."""
    if not figure.model.is_flat:
        return Mesh(ctx, programs, figure)
    from bovrin.picture.cutout import Cutout  # noqa: PLC0415 - kept out of the window's start

    return Cutout(ctx, programs, figure)


def _half(size: tuple[int, int]) -> tuple[float, float]:
    return size[0] / 2, size[1] / 2


def _farthest_first(items: Sequence[Item], to_clip: bytes) -> list[Item]:
    """Items in the order in which they are painted over one another: by where the middle of their joints is."""
    if len(items) < 2:
        return list(items)
    matrix = np.frombuffer(to_clip, np.float32).reshape(4, 4).T
    middles = np.array([[*item.world[:, :3, 3].mean(0), 1.0] for item in items])
    clip = middles @ matrix.T
    away = clip[:, 2] / np.where(np.abs(clip[:, 3]) > 1e-9, clip[:, 3], 1e-9)
    return [items[n] for n in np.argsort(-away, kind="stable")]


def _room_for(size: tuple[int, int]) -> tuple[int, int]:
    """The size of the target that a picture of a size is drawn into."""
    width, height = size
    return -(-width // ROUNDED) * ROUNDED, -(-height // ROUNDED) * ROUNDED


def _has_glass(figure: Figure) -> bool:
    return any(piece.cover.blended for piece in figure.model.pieces)


def _show_colour(target: Any, *, on: bool) -> None:
    """Whether what is drawn leaves colour; depth it leaves in any case."""
    target.color_mask = (on, on, on, on)
    target.use()


def _shader(name: str) -> str:
    return (files("bovrin.picture") / name).read_text()


def _bytes(matrix: Floats) -> bytes:
    return np.ascontiguousarray(matrix.T, np.float32).tobytes()


def _grid_lines() -> NDArray[np.float32]:
    """Ends of ground lines every half metre as (x, z, strength, 0), cut into short pieces so that they fade."""
    steps = np.linspace(-5.5, 5.5, 23)
    n, a = (grid.ravel() for grid in np.meshgrid(steps, steps[:-1]))
    strength = np.where(np.abs(n) < 1e-6, 0.75, 0.42)
    zero, b = np.zeros_like(n), a + (steps[1] - steps[0])
    ends = [(n, a), (n, b), (a, n), (b, n)]
    return np.stack([np.stack([x, z, strength, zero], 1) for x, z in ends], 1).reshape(-1, 4).astype(np.float32)


@lru_cache(maxsize=1)
def shared_renderer() -> Renderer:
    """The program's renderer, made on first use; the main thread's alone."""
    return Renderer()
