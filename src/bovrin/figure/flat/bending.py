"""A drawn part that bends along its own middle: joints along it, and a mesh fine enough to follow them."""

from __future__ import annotations

from dataclasses import replace
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadFigure
from bovrin.figure.flat.reordering import with_joints
from bovrin.figure.solve.plan import columns, rest_matrices
from bovrin.shot import Control, ControlKind, Figure, Joint, Part, Piece, Rig

Floats = NDArray[np.float64]

LEAST, MOST = 3, 8
"""Points that a part is bent by, its pivot among them."""
CELLS = 28
"""Cells along the longer side of the mesh of a part that bends."""
SLICES = 40
"""Slices across a part in which its middle is looked for."""
MADE_OF = ("translate", "rotate")


def bent(figure: Figure, control: int, points: int, middle: Floats) -> Figure:
    """The figure with a part that bends by so many points. control: the part's; middle (n, 3): the part's middle from
    its pivot to its end, metres, as it lies at rest."""
    if not LEAST <= points <= MOST:
        raise BadFigure(
            f"a part bends by {LEAST} to {MOST} points, not {points}.", advice="Use 4 for a neck, 6 for a tail."
        )
    rig, joint = figure.rig, figure.rig.controls[control].joint
    name = rig.controls[control].name
    if any(c.name.startswith(f"{name} bend") for c in rig.controls):
        raise BadFigure(f"the part '{name}' bends already.", advice="Take its points away first, by undo.")
    places = _spread(middle, points)
    carried = [n for n, one in enumerate(rig.joints) if one.parent == joint]
    world = rest_matrices(rig)[1][:, :3, 3]
    nearest = {n: int(np.linalg.norm(places - world[n], axis=1).argmin()) for n in carried}
    first = len(rig.joints)
    at = [joint, *range(first, first + points - 1)]
    new = [
        Joint(f"{name} bend {n}", at[n - 1], _away(places[n], places[n - 1] if n > 1 else world[joint]))
        for n in range(1, points)
    ]
    moved = {n: (at[k], _away(world[n], places[k])) for n, k in nearest.items() if k > 0}
    made, order = with_joints(figure, tuple(new), moved)
    bones = [int(np.flatnonzero(order == j)[0]) for j in at]
    rig = _with_controls(made.rig, control, [made.rig.joints[b].name for b in bones[1:]], bones[1:])
    pieces = tuple(
        _bound(piece, places, bones) if piece.cut is not None and piece.cut.control == name else piece
        for piece in made.model.pieces
    )
    return replace(made, rig=rig, model=replace(made.model, pieces=pieces))


def _away(place: Floats, base: Floats) -> tuple[float, float, float]:
    x, y, z = (float(v) for v in place - base)
    return x, y, z


def _spread(middle: Floats, points: int) -> Floats:
    """Points (P, 3) on a way (n, 3), as far from one another as from the next, its ends among them."""
    steps = np.linalg.norm(np.diff(middle, axis=0), axis=1)
    gone = np.concatenate([[0.0], np.cumsum(steps)])
    if gone[-1] < 1e-6:
        raise BadFigure("the part is too small to bend.", advice="Choose a longer one.")
    wanted = np.linspace(0.0, gone[-1], points)
    return np.stack([np.interp(wanted, gone, middle[:, i]) for i in range(3)], 1)


def _with_controls(rig: Rig, control: int, names: list[str], joints: list[int]) -> Rig:
    """The rig with a control for each new joint, in the part's own lane: moved and turned in the plane."""
    span = rig.span(control)
    plane = [c for word in MADE_OF for c in columns(rig, control, word) if c in span]
    channels = tuple(rig.channels[c] for c in plane)
    order = rig.controls[control].order
    new = [Control(name, ControlKind.JOINT, joint, channels, order) for name, joint in zip(names, joints, strict=True)]
    more = tuple(range(len(rig.controls), len(rig.controls) + len(new)))
    parts = tuple(Part(p.name, (*p.controls, *more), p.side) if control in p.controls else p for p in rig.parts)
    return replace(rig, controls=(*rig.controls, *new), parts=parts)


def _bound(piece: Piece, places: Floats, bones: list[int]) -> Piece:
    """The piece on a finer grid, each vertex carried by the joints that it lies between."""
    fine = _finer(piece)
    spots = fine.positions.astype(float)
    segment = np.diff(places, axis=0)
    lengths = np.maximum((segment**2).sum(1), 1e-12)
    away = spots[:, None] - places[:-1]
    share = np.clip((away * segment).sum(-1) / lengths, 0.0, 1.0)
    apart = np.linalg.norm(away - share[..., None] * segment, axis=-1)
    nearest = apart.argmin(1)
    gone = nearest + share[np.arange(len(spots)), nearest]
    # half-way between two joints a vertex is the first one's alone; on a joint it is shared with the bone before
    weights = np.maximum(1.0 - np.abs(gone[:, None] - 0.5 - np.arange(len(places))), 0.0)
    weights[gone < 0.5, 0] = 1.0
    weights[:, 1:][gone < 0.5] = 0.0
    weights /= np.maximum(weights.sum(1, keepdims=True), 1e-9)
    strongest = np.argsort(-weights, axis=1)[:, :4]
    rows = np.take_along_axis(weights, strongest, 1)
    joints = np.array(bones, np.uint16)[strongest]
    pad = 4 - rows.shape[1]
    rows, joints = np.pad(rows, ((0, 0), (0, pad))), np.pad(joints, ((0, 0), (0, pad)))
    rows /= rows.sum(1, keepdims=True)
    return replace(fine, joints=joints.astype(np.uint16), weights=rows.astype(np.float32))


def _finer(piece: Piece) -> Piece:
    """A drawing's mesh on a finer grid; places are as its picture lies."""
    uv = piece.cover.uv
    if uv is None:
        return piece
    base = np.column_stack([uv.astype(float), np.ones(len(uv))])
    way = np.linalg.lstsq(base, piece.positions.astype(float), rcond=None)[0]
    wide, high = np.linalg.norm(way[0]), np.linalg.norm(way[1])
    across, down = (max(round(CELLS * side / max(wide, high)), 1) for side in (wide, high))
    u, v = (grid.ravel() for grid in np.meshgrid(np.linspace(0, 1, across + 1), np.linspace(0, 1, down + 1)))
    spots = np.stack([u, v], 1)
    row, column = (grid.ravel() for grid in np.meshgrid(np.arange(down), np.arange(across), indexing="ij"))
    a = row * (across + 1) + column
    triangles = np.concatenate(
        [np.stack([a, a + across + 1, a + 1], 1), np.stack([a + 1, a + across + 1, a + across + 2], 1)]
    )
    count = len(spots)
    places = np.column_stack([spots, np.ones(count)]) @ way
    return replace(
        piece,
        positions=places.astype(np.float32),
        normals=np.tile(piece.normals[0], (count, 1)),
        joints=np.tile(piece.joints[0], (count, 1)),
        weights=np.tile(piece.weights[0], (count, 1)),
        triangles=triangles.astype(np.uint32),
        cover=replace(piece.cover, uv=spots.astype(np.float32)),
    )


def middle_of(piece: Piece, alpha: NDArray[np.uint8], pivot: Floats, end: Floats | None) -> Floats:
    """The middle of a drawing from its pivot to its end (n, 3), metres at rest. alpha (H, W): how opaque its picture is;
    end: where it ends, or the spot farthest from the pivot."""
    uv = piece.cover.uv
    assert uv is not None
    base = np.column_stack([uv.astype(float), np.ones(len(uv))])
    way = np.linalg.lstsq(base, piece.positions.astype(float), rcond=None)[0]
    rows, columns_ = np.nonzero(alpha > 100)
    height, width = alpha.shape
    spots = np.column_stack([(columns_ + 0.5) / width, (rows + 0.5) / height, np.ones(len(rows))]) @ way
    if not len(spots):
        raise BadFigure("nothing of the part is seen.", advice="Choose a part with a picture.")
    last = spots[np.linalg.norm(spots - pivot, axis=1).argmax()] if end is None else np.asarray(end, float)
    along = last - pivot
    length = float(np.linalg.norm(along))
    if length < 1e-6:
        raise BadFigure("the part has no length.", advice="Choose a longer one.")
    share = (spots - pivot) @ along / length**2
    edges = np.linspace(0.0, 1.0, SLICES + 1)
    found = [pivot]
    for low, high in pairwise(edges.tolist()):
        inside = spots[(share >= low) & (share < high)]
        if len(inside) and 0.08 < (low + high) / 2 < 0.92:
            found.append(inside.mean(0))
    return np.array([*found, last])


def is_bent(rig: Rig, control: int) -> bool:
    """Whether a part bends by points."""
    name = rig.controls[control].name
    return any(c.name.startswith(f"{name} bend ") for c in rig.controls)
