"""Flat figures against drawing their triangles alone, against resvg, against a solid figure, and against a frame's time."""

from __future__ import annotations

import random
import tempfile
from pathlib import Path

import numpy as np
import resvg_py

from benchmarks.row import Row, best_of, compare
from bovrin import script as bv
from bovrin.figure.staging import staged
from bovrin.formats.flat.figure import shot_from_drawing
from bovrin.picture.item import items_at
from bovrin.picture.renderer import PictureStyle, shared_renderer
from bovrin.picture.view import VIEWS
from bovrin.shot import Shot

SIZE = (860, 520)
PARTS, PATHS = 60, 1000
SWAP_AIM = 30.0
"""Milliseconds from a swap to the next picture."""


def rows() -> list[Row]:
    """A picture of three figures, a swap, a large drawing to its first picture, and 240 frames in one call."""
    with tempfile.TemporaryDirectory() as folder:
        many = _many(Path(folder))
        return [_picture(many), _swap(), _large(Path(folder)), _frames(many)]


def drawing(parts: int, paths: int) -> str:
    """A drawing of parts in rows, of so many paths."""
    dice = random.Random(7)
    made = []
    for n in range(parts):
        x, y = 80 + 110 * (n % 8), 80 + 110 * (n // 8)
        shapes = []
        for _ in range(paths // parts):
            spots = " ".join(f"{x + dice.uniform(-60, 60):.4f},{y + dice.uniform(-60, 60):.4f}" for _ in range(45))
            shapes.append(f'<path d="M{spots} Z" fill="#{dice.randrange(4096):03x}" stroke="#222"/>')
        made.append(f'<g id="part_{chr(97 + n // 26)}{chr(97 + n % 26)}">{"".join(shapes)}</g>')
    return f'<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 960 1000">{"".join(made)}</svg>'


def _many(folder: Path) -> Shot:
    """Three flat figures of sixty parts, side by side, moving."""
    path = folder / "parts.svg"
    path.write_text(drawing(PARTS, PARTS))
    shot = Shot("many", last=340.0)
    for n in range(3):
        shot = bv.add_figure(shot, str(path))
        name = shot.cast[-1].name
        own = [c.name for c in shot.cast[-1].rig.controls if c.name.startswith("part")]
        for frame, angle in ((101, 0), (220, 30), (340, 0)):
            values = {f"{control}/tilt": angle for control in own} | {"whole figure/across": 1.1 * (n - 1)}
            shot = bv.set_values(shot, name, frame, values)
    return bv.splined(bv.splined(shot, shot.cast[0].name), shot.cast[1].name)


def _picture(shot: Shot) -> Row:
    renderer, view = shared_renderer(), VIEWS["front"]
    style = PictureStyle(fine=False)
    posed = [items_at(shot, frame) for frame in np.linspace(101, 340, 12)]
    at = [0]

    def ours() -> None:
        at[0] += 1
        renderer.draw(posed[at[0] % len(posed)], view, SIZE, style)

    def base() -> None:
        """The textured triangles once, blended, and the picture read."""
        at[0] += 1
        items = posed[at[0] % len(posed)]
        target = renderer._target(SIZE, False)
        renderer._begin(target, SIZE)
        to_clip = np.ascontiguousarray(view.matrix(SIZE[0] / SIZE[1]).T, np.float32).tobytes()
        for item in items:
            cutout = renderer.drawable(item.figure)
            cutout.place(item)
            renderer._blend()
            cutout._program["to_clip"].write(to_clip)  # type: ignore[attr-defined]
            cutout._program["mode"] = 0  # type: ignore[attr-defined]
            cutout._paint(cutout._order)  # type: ignore[attr-defined]
        renderer._read(target, SIZE, False)

    return compare("picture of 3 flat figures of 60 parts, over their triangles alone", 2.0, ours, base)


def _swap() -> Row:
    made, view = bv.demo("heron"), VIEWS["front"]
    names = ("shut", "half", "wide")
    count = [0]

    def swapped() -> None:
        count[0] += 1
        told = bv.swap(made, "heron", "beak", 120, names[count[0] % 3])
        shared_renderer().draw(items_at(told, 120), view, SIZE, PictureStyle(fine=False))

    took = best_of(swapped, 15)
    return Row(
        "a swap of a drawing to the next picture, in 30 ms", round(took / SWAP_AIM, 4), 1.0, round(took, 3), SWAP_AIM
    )


def _large(folder: Path) -> Row:
    text = drawing(50, PATHS)
    path = folder / "large.svg"
    path.write_text(text)
    view = VIEWS["front"]

    def ours() -> None:
        shot = shot_from_drawing(path).shot
        shared_renderer().draw(items_at(shot, 101), view, SIZE, PictureStyle(fine=False))

    def base() -> None:
        resvg_py.svg_to_bytes(svg_string=text, width=1344, height=1400, skip_system_fonts=True)

    return compare(f"an SVG of {PATHS} paths to its first picture, over resvg once", 3.0, ours, base, times=4)


def _frames(shot: Shot) -> Row:
    frames, porter = np.arange(101.0, 341.0), bv.splined(bv.demo(), "porter")
    kept = [0.0]
    name = shot.cast[0].name

    def ours() -> None:
        kept[0] += 1e-6
        _ = staged(shot, name, frames + kept[0]).world

    def base() -> None:
        kept[0] += 1e-6
        _ = staged(porter, "porter", frames + kept[0]).world

    return compare("240 frames of a flat figure of 60 parts, over the porter's", 1.0, ours, base)
