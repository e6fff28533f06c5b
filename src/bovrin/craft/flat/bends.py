"""A part of a flat figure that bends along a curve: points are put on it, each of which is moved, turned and keyed."""

from __future__ import annotations

import io
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.flat.parts import flat_part
from bovrin.errors import BadFigure
from bovrin.figure.flat.bending import bent, middle_of
from bovrin.figure.solve.plan import rest_matrices
from bovrin.shot import CHANGED, Figure, Piece, Shot
from bovrin.shot.regrown import with_channels_of

POINTS = 4


def bend_along(shot: Shot, figure: str, part: str, points: int = POINTS) -> Shot:
    """A part that bends by so many points, its pivot the first. Nothing moves by that alone; its drawings all bend."""
    what = shot.figure(figure)
    made = bent_figure(what, part, points)
    source = what.source if what.source.endswith(CHANGED) else what.source + CHANGED
    return with_channels_of(shot, replace(made, source=source))


def bent_figure(figure: Figure, part: str, points: int = POINTS) -> Figure:
    """A flat figure with a part that bends."""
    control = flat_part(figure, part)
    rig, name = figure.rig, figure.rig.controls[control].name
    piece = next((p for p in figure.model.pieces if p.cut is not None and p.cut.control == name), None)
    if piece is None or piece.cover.texture is None:
        raise BadFigure(f"the part '{name}' has no picture to bend.", advice="Choose a drawn part.")
    world = rest_matrices(rig)[1][:, :3, 3]
    joint = rig.controls[control].joint
    below = [world[n] for n, one in enumerate(rig.joints) if one.parent == joint]
    pivot = world[joint]
    end = max(below, key=lambda place: float(np.linalg.norm(place - pivot))) if below else None
    return bent(figure, control, points, middle_of(piece, _alpha(piece), pivot, end))


def _alpha(piece: Piece) -> NDArray[np.uint8]:
    from PIL import Image  # noqa: PLC0415 - only flat figures need it

    assert piece.cover.texture is not None
    with Image.open(io.BytesIO(piece.cover.texture.data)) as opened:
        return np.asarray(opened.convert("RGBA"))[..., 3]
