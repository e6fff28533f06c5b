"""A shot at a frame as a picture."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.errors import BadMotion
from bovrin.figure.solve import solve
from bovrin.motion.evaluate import channel_values
from bovrin.picture.renderer import Item, PictureStyle, Renderer, shared_renderer
from bovrin.picture.skin import NO_MORPHS
from bovrin.picture.view import View
from bovrin.shot import CurveSet, Figure, Rig, Shot

Pixels = NDArray[np.uint8]
Floats = NDArray[np.float64]


def items_at(cast: tuple[Figure, ...], curves: Mapping[str, CurveSet], frame: float) -> list[Item]:
    """Where every figure is at a frame."""
    return [item_at(figure, curves[figure.name], frame) for figure in cast]


def item_at(figure: Figure, curves: CurveSet, frame: float) -> Item:
    """Where one figure is at a frame."""
    return Item(figure, world_at(curves, figure.rig, frame), morphs_at(curves, figure.rig, frame))


def item_posed(figure: Figure, values: Floats) -> Item:
    """Where one figure is at channel values (C,)."""
    return Item(figure, solve(figure.rig, values[None])[0], values[list(figure.rig.morph_columns)])


@cached_by_identity(128)
def values_at(curves: CurveSet, rig: Rig, frame: float) -> Floats:
    """All channels of a figure at one frame (C,): looked up once for its joints and its shapes."""
    return np.asarray(channel_values(curves, rig, [frame])[0])


@cached_by_identity(128)
def morphs_at(curves: CurveSet, rig: Rig, frame: float) -> Floats:
    """The amounts of a figure's shapes at one frame (K,)."""
    if not rig.morph_columns:
        return NO_MORPHS
    return values_at(curves, rig, frame)[list(rig.morph_columns)]


@cached_by_identity(128)
def world_at(curves: CurveSet, rig: Rig, frame: float) -> Floats:
    """A figure's joints at one frame (J, 4, 4), world space; kept, since several views ask for the same."""
    world = np.ascontiguousarray(solve(rig, values_at(curves, rig, frame)[None])[0])
    world.setflags(write=False)
    return world


def shot_picture(
    shot: Shot,
    frame: float,
    view: View,
    size: tuple[int, int],
    style: PictureStyle = PictureStyle(),
    renderer: Renderer | None = None,
) -> Pixels:
    """The shot at a frame (H, W, 4)."""
    if not (16 <= size[0] <= 8192 and 16 <= size[1] <= 8192):
        raise BadMotion(f"a picture of {size[0]} x {size[1]} is not possible.", advice="Use 16 to 8192 pixels a side.")
    return (renderer or shared_renderer()).draw(items_at(shot.cast, shot.take.curves, frame), view, size, style)
