"""Drawings of flat parts as meshes: flat grids with a picture on them, bound to the part's joint."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure
from bovrin.figure.flat.layers import DrawnPart, Lie, PartPicture
from bovrin.shot import ControlKind, Cover, Cut, Piece, Rig, Texture

CELLS = 10
"""Cells along the longer side of a drawing's mesh: enough to bend it."""
PLAIN = (1.0, 1.0, 1.0)


def flat_pieces(layers: Sequence[DrawnPart], rig: Rig, lie: Lie) -> tuple[Piece, ...]:
    """The meshes of all drawings of all parts, parts as they lie, the rearmost first."""
    joints = {joint.name: n for n, joint in enumerate(rig.joints)}
    controls = {c.joint: c.name for c in rig.controls if c.kind is ControlKind.JOINT}
    return tuple(
        _piece(layer, picture, joints[layer.name], controls[joints[layer.name]], lie)
        for layer in layers
        for picture in layer.drawings
    )


def _piece(layer: DrawnPart, picture: PartPicture, joint: int, control: str, lie: Lie) -> Piece:
    left, top, right, bottom = picture.box
    longer = max(right - left, bottom - top)
    if not longer > 0:
        raise BadFigure(f"the drawing '{picture.name}' of '{layer.name}' has no size.")
    across = max(round(CELLS * (right - left) / longer), 1)
    down = max(round(CELLS * (bottom - top) / longer), 1)
    u, v = (grid.ravel() for grid in np.meshgrid(np.linspace(0, 1, across + 1), np.linspace(0, 1, down + 1)))
    places = lie.places(np.stack([left + u * (right - left), top + v * (bottom - top)], 1))
    count = len(places)
    bound = np.zeros((count, 4), np.uint16)
    bound[:, 0] = joint
    weights = np.zeros((count, 4), np.float32)
    weights[:, 0] = 1.0
    texture = Texture(f"{layer.name} {picture.name}", picture.png, (False, False))
    return Piece(
        name=f"{layer.name} {picture.name}",
        colour=PLAIN,
        positions=places.astype(np.float32),
        normals=np.tile(np.array(lie.normal, np.float32), (count, 1)),
        joints=bound,
        weights=weights,
        triangles=_triangles(across, down),
        cover=Cover(texture, np.stack([u, v], 1).astype(np.float32), two_sided=True, blended=True),
        cut=Cut(control, picture.name),
    )


def _triangles(across: int, down: int) -> NDArray[np.uint32]:
    """Two triangles a cell (T, 3), wound so that the seen side is the front."""
    row, column = (grid.ravel() for grid in np.meshgrid(np.arange(down), np.arange(across), indexing="ij"))
    a = row * (across + 1) + column
    b, c, d = a + 1, a + across + 1, a + across + 2
    found = np.concatenate([np.stack([a, c, b], 1), np.stack([b, c, d], 1)])
    return np.ascontiguousarray(found, np.uint32)
