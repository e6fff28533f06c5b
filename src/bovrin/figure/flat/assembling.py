"""Parts with their pictures put together to a figure; a figure taken apart again; what an animator says of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.flat.layers import DrawnPart, Facing, Lie, PartPicture
from bovrin.figure.flat.pieces import flat_pieces
from bovrin.figure.flat.rig import flat_rig
from bovrin.figure.ground.soles import with_soles
from bovrin.figure.solve.plan import rest_matrices, special_column
from bovrin.frozen import frozen_equal
from bovrin.shot import ChannelRole, ControlKind, DrawnIn, Figure, Model, Rig

Floats = NDArray[np.float64]
COLOUR = (0.48, 0.58, 0.66)


@frozen_equal
class FlatSetup:
    """What an animator says of a flat figure: by each part's name the part that it hangs on ("": it carries all), and where it
    turns (metres to the right and down, as it is drawn, from where the figure stands); which way it faces; how many times
    as large."""

    parents: tuple[tuple[str, str], ...]
    pivots: tuple[tuple[str, tuple[float, float]], ...]
    facing: str
    size: float = 1.0


def assembled(
    name: str, layers: Sequence[DrawnPart], parents: Sequence[int], pivots: Floats, lie: Lie, source: str
) -> Figure:
    """The figure of parts (P) that hang on one another and turn at spots (P, 2) of the drawing."""
    drawings = {n.name: [p.name for p in n.drawings] for n in layers if len(n.drawings) > 1}
    rig = flat_rig([layer.name for layer in layers], parents, lie.places(pivots), lie, drawings)
    model = Model(flat_pieces(layers, rig, lie), metres=lie.metres, drawn=DrawnIn(source, lie.middle, lie.ground))
    return Figure(name, with_soles(rig, model), model, source, COLOUR)


def part_controls(rig: Rig) -> list[int]:
    """The controls of drawn parts, the rearmost at rest first."""
    ranked = {n: special_column(rig, n, ChannelRole.ORDER) for n in range(len(rig.controls))}
    return sorted((n for n, c in ranked.items() if c >= 0), key=lambda n: rig.channels[ranked[n]].default)


def facing_now(figure: Figure) -> Facing:
    """Which way a flat figure is taken to face."""
    x, _, z = figure.model.pieces[0].normals[0].tolist()
    return Facing.FRONT if abs(z) > 0.5 else Facing.RIGHT if x < 0 else Facing.LEFT


def as_drawn(figure: Figure, places: Floats) -> Floats:
    """Places (N, 3) at rest as spots (N, 2): metres to the right and down, as the figure is drawn."""
    across = np.cross([0.0, 1.0, 0.0], figure.model.pieces[0].normals[0].astype(float))
    return np.stack([places @ across, -places[:, 1]], 1)


def setup_now(figure: Figure) -> FlatSetup:
    """What a flat figure is taken for."""
    rig = figure.rig
    own = {rig.controls[c].joint: _part_name(rig, c) for c in part_controls(rig)}
    spots = as_drawn(figure, rest_matrices(rig)[1][:, :3, 3])
    parents = tuple((name, own.get(_carrier(rig, joint, own), "")) for joint, name in own.items())
    pivots = tuple((name, (float(spots[joint, 0]), float(spots[joint, 1]))) for joint, name in own.items())
    return FlatSetup(parents, pivots, facing_now(figure).value)


def _part_name(rig: Rig, control: int) -> str:
    return rig.joints[rig.controls[control].joint].name


def _carrier(rig: Rig, joint: int, own: dict[int, str]) -> int:
    """The next joint above that is a part's own; points of bent parts are passed."""
    at = rig.joints[joint].parent
    while at >= 0 and at not in own:
        at = rig.joints[at].parent
    return at


def layers_now(figure: Figure) -> list[DrawnPart]:
    """The parts of a flat figure with their pictures, the rearmost at rest first; boxes as `as_drawn` says."""
    rig, found = figure.rig, []
    for control in part_controls(rig):
        name = rig.controls[control].name
        pictures = []
        for piece in figure.model.pieces:
            if piece.cut is None or piece.cut.control != name or piece.cover.texture is None:
                continue
            spots = as_drawn(figure, piece.positions.astype(float))
            box = (*spots.min(0).tolist(), *spots.max(0).tolist())
            pictures.append(PartPicture(piece.cut.drawing, piece.cover.texture.data, box))
        found.append(DrawnPart(_part_name(rig, control), tuple(pictures)))
    return found


def set_up(figure: Figure, setup: FlatSetup) -> Figure:
    """The figure taken for what an animator says. Points of bent parts are not kept; `bent_parts` tells them."""
    layers = layers_now(figure)
    at = {layer.name: n for n, layer in enumerate(layers)}
    told, spots = dict(setup.parents), dict(setup.pivots)
    parents = [at.get(told.get(layer.name, ""), -1) for layer in layers]
    pivots = np.array([spots[layer.name] for layer in layers], float)
    lie = Lie(Facing(setup.facing), 0.0, 0.0, setup.size)
    made = assembled(figure.name, layers, parents, pivots, lie, figure.source)
    metres = figure.model.metres * setup.size
    model = replace(made.model, metres=metres, drawn=figure.model.drawn)
    return replace(made, colour=figure.colour, model=model)


def bent_parts(figure: Figure) -> dict[str, int]:
    """The parts that bend by points, and by how many."""
    names = [_part_name(figure.rig, c) for c in part_controls(figure.rig)]
    kinds = [c.name for c in figure.rig.controls if c.kind is ControlKind.JOINT]
    counts = {name: sum(own.startswith(f"{name} bend ") for own in kinds) for name in names}
    return {name: count + 1 for name, count in counts.items() if count}
