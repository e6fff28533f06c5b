"""The crate: battens and planks, one joint."""

from __future__ import annotations

import numpy as np

from bovrin.shot import Channel, Control, ControlKind, Figure, Joint, Model, Part, Piece, Rig, Unit
from tools.cast.mesh import mesh_shape, shape_normals
from tools.cast.sdf import box, join

HALF = np.array([0.27, 0.19, 0.20])


def _piece(name: str, colour: str, parts: list, triangles: int) -> Piece:  # type: ignore[type-arg]
    shape = join(*parts)
    vertices, faces = mesh_shape(shape, (-0.33, -0.04, -0.26), (0.33, 0.44, 0.26), 0.0095, triangles)
    count = len(vertices)
    weights = np.zeros((count, 4), np.float32)
    weights[:, 0] = 1
    return Piece(
        name=name,
        colour=tuple(round(int(colour[i : i + 2], 16) / 255, 5) for i in (1, 3, 5)),  # type: ignore[arg-type]
        positions=vertices.astype(np.float32),
        normals=shape_normals(shape, vertices, faces).astype(np.float32),
        joints=np.zeros((count, 4), np.uint16),
        weights=weights,
        triangles=faces.astype(np.uint32),
    )


def crate() -> Figure:
    """A wooden crate that stands on the ground, its handles to the left and right."""
    x, y, z = HALF
    planks = [box((0, y + dy, 0), (x - 0.012, 0.052, z - 0.012), 0.008) for dy in (-0.122, 0.0, 0.122)]
    battens = []
    for sx in (-1, 1):
        for sz in (-1, 1):
            battens.append(box((sx * (x - 0.028), y, sz * (z - 0.012)), (0.03, y, 0.024), 0.008))
        battens.append(box((sx * (x - 0.004), y + 0.07, 0), (0.022, 0.028, z - 0.02), 0.008))
    for sz in (-1, 1):
        battens.append(box((0, 2 * y - 0.03, sz * (z - 0.012)), (x, 0.03, 0.026), 0.008))
        battens.append(box((0, 0.03, sz * (z - 0.012)), (x, 0.03, 0.026), 0.008))
    moves = [Channel(n, f"translate {a}", Unit.LENGTH) for n, a in (("across", "x"), ("up", "y"), ("forward", "z"))]
    turns = [Channel(n, f"rotate {a}", Unit.ANGLE) for n, a in (("turn", "y"), ("tilt", "x"), ("roll", "z"))]
    shape = [Channel(name, name, Unit.AMOUNT, 1.0) for name in ("stretch", "size")]
    rig = Rig(
        joints=(Joint("crate", -1, (0.0, 0.0, 0.0)),),
        controls=(Control("whole crate", ControlKind.WHOLE, 0, (*moves, *turns, *shape)),),
        parts=(Part("body", (0,)),),
    )
    pieces = (_piece("planks", "#B09467", planks, 900), _piece("battens", "#94764A", battens, 1500))
    return Figure("crate", rig, Model(pieces), "cast:crate", (0.663, 0.541, 0.357))
