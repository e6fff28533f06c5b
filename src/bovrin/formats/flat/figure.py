"""A layered drawing as a figure: its parts cut out, hung on one another, and put on a rig."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure, BovrinError, FileProblem
from bovrin.figure.flat.assembling import assembled
from bovrin.figure.flat.guess import Masks, facing_of, parents_of, pivots_of
from bovrin.figure.flat.layers import Box, DrawnPart, Facing, Lie
from bovrin.formats.files import real_path, stem_of
from bovrin.formats.flat.kept_flat import known_flat, told
from bovrin.formats.flat.seen import masks_of
from bovrin.formats.found import Found
from bovrin.shot import Figure, Shot
from bovrin.shot.document import FIRST_FRAME

Floats = NDArray[np.float64]
TALL = 1.0
"""Metres that a flat figure is high when nobody says how high."""
SECOND = 48.0


def shot_from_drawing(path: Path, scale: float | None = None) -> Found:
    """A shot that holds the figure of a layered drawing, and what was left out. scale: metres in a unit of the drawing."""
    try:
        layers, left_out = read_layers(path)
        figure = flat_figure(stem_of(path), layers, str(real_path(path)), scale)
    except BadFigure as error:
        raise BadFigure(error.what, where=error.where or str(path), advice=error.advice) from error
    shot = Shot(figure.name, first=FIRST_FRAME, last=FIRST_FRAME + SECOND - 1)
    return Found(shot.with_figure(figure), left_out, doubtful=False)


def read_layers(path: Path) -> tuple[list[DrawnPart], list[str]]:
    """The parts of a drawing with their pictures, the rearmost first, and what was left out."""
    if not path.exists():
        raise FileProblem("there is no such drawing.", where=str(path), advice="Bring it anew from where it lies now.")
    readers = _readers()
    ending = "" if path.is_dir() else path.suffix.lower()
    if ending not in readers:
        known = ", ".join(filter(None, readers))
        raise BadFigure(
            f"'{ending}' is not an ending of a layered drawing.", advice=f"Use {known} or a folder of PNGs."
        )
    try:
        return readers[ending](path)
    except BovrinError:
        raise
    except (TypeError, ValueError, KeyError, IndexError, OverflowError, AttributeError, RecursionError) as error:
        raise BadFigure(
            "the drawing does not hold what it should.", where=str(path), advice="Save it again."
        ) from error


Reader = Callable[[Path], tuple[list[DrawnPart], list[str]]]


def _readers() -> dict[str, Reader]:
    from bovrin.formats.flat.bitmaps import folder_layers, ora_layers, png_layers  # noqa: PLC0415 - loaded when needed
    from bovrin.formats.flat.svg import svg_layers  # noqa: PLC0415

    return {".svg": svg_layers, ".svgz": svg_layers, ".ora": ora_layers, ".png": png_layers, "": folder_layers}


def flat_figure(name: str, layers: Sequence[DrawnPart], source: str, scale: float | None = None) -> Figure:
    """The figure that layers make, the rearmost first: on the ground under its feet, in the middle of its body. What was
    corrected of a drawing with the same parts is known again."""
    masks = masks_of(layers)
    known = known_flat([layer.name for layer in layers])
    layers = [layer if known is None else told(layer, known, masks.box) for layer in layers]
    parents = parents_of(layers, masks, known.body if known is not None else "")
    pivots = pivots_of(layers, parents, masks)
    facing = facing_of(layers, parents, masks) if known is None else Facing(known.facing)
    return assembled(name, layers, parents, pivots, _lie(facing, parents, pivots, masks, scale), source)


def _lie(facing: Facing, parents: Sequence[int], pivots: Floats, masks: Masks, scale: float | None) -> Lie:
    rows = np.flatnonzero(masks.seen.any((0, 2)))
    columns = np.flatnonzero(masks.seen.any((0, 1)))
    if not len(rows):
        raise BadFigure("nothing of the drawing is seen.", advice="Show its layers, and give them some colour.")
    left, top, right, bottom = _edges(masks, rows, columns)
    metres = scale if scale is not None else TALL / max(bottom - top, 1e-9)
    middle = (left + right) / 2 if facing is Facing.FRONT else float(pivots[list(parents).index(-1)][0])
    return Lie(facing, middle, bottom, metres)


def _edges(masks: Masks, rows: NDArray[np.intp], columns: NDArray[np.intp]) -> Box:
    left, top, right, bottom = masks.box
    height, width = masks.seen.shape[1:]
    across, down = (right - left) / width, (bottom - top) / height
    return (
        left + columns[0] * across,
        top + rows[0] * down,
        left + (columns[-1] + 1) * across,
        top + (rows[-1] + 1) * down,
    )
