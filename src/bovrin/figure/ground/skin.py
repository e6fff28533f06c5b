"""Where a figure's skin is: every vertex carried by its bones."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.joints import bone_matrices, solve
from bovrin.figure.solve.plan import plan_of
from bovrin.shot import Figure, Model, Piece, Rig

Floats = NDArray[np.float64]
NO_MORPHS: Floats = np.zeros(0)


def morphed(piece: Piece, rig: Rig, morphs: Floats) -> Floats:
    """A piece's positions (V, 3) with amounts (K,), as `rig.morph_columns` names them, of its shapes added."""
    places = piece.positions.astype(float)
    for name, deltas in piece.morphs:
        at = rig.morph_names.get(name, -1)
        if 0 <= at < len(morphs) and morphs[at]:
            places += morphs[at] * deltas
    return places


def skinned(figure: Figure, world: Floats, morphs: Floats = NO_MORPHS) -> Floats:
    """All vertices (V, 3) of a figure whose joints are at world matrices (J, 4, 4), metres. morphs (K,): its amounts."""
    pieces = figure.model.pieces
    if not pieces:
        return np.zeros((0, 3))
    matrices = bone_matrices(figure, world)[:, :3]
    places = []
    for piece in pieces:
        carried = matrices[piece.joints.astype(np.intp)]
        mixed = (carried * piece.weights[..., None, None]).sum(1)
        places.append((mixed[..., :3] @ morphed(piece, figure.rig, morphs)[..., None])[..., 0] + mixed[..., 3])
    return np.concatenate(places)


@cached_by_identity
def skin_at_rest(figure: Figure) -> Floats:
    """All vertices (V, 3) at rest, metres."""
    if figure.model.bones is None:
        return np.concatenate([p.positions for p in figure.model.pieces] or [np.zeros((0, 3), np.float32)]).astype(
            float
        )
    world = solve(figure.rig, np.array([figure.rig.defaults]))[0]
    return skinned(figure, world, np.array(figure.rig.defaults)[list(figure.rig.morph_columns)])


def stiff_places(model: Model, world: Floats) -> Floats:
    """All vertices (V, 3) as the first bone of each alone carries it, for joints' world matrices (J, 4, 4); of meshes that
    lie in the world at rest those at rest."""
    if model.bones is None or model.binds is None:
        return np.concatenate([np.zeros((0, 3)), *(piece.positions for piece in model.pieces)])
    rows = np.ascontiguousarray((world[model.bones] @ model.binds)[:, :3].transpose(1, 2, 0))
    places = [np.zeros((0, 3))]
    for piece in model.pieces:
        first = piece.joints[:, 0].astype(np.intp)
        x, y, z = piece.positions.T.astype(float)
        places.append(np.stack([a[first] * x + b[first] * y + c[first] * z + d[first] for a, b, c, d in rows], 1))
    return np.concatenate(places)


def strongest_joints(figure: Figure) -> NDArray[np.intp]:
    """The rig's joint that carries each vertex most (V,), in the order of `skin_at_rest`."""
    model = figure.model
    return np.concatenate([model.strongest(piece) for piece in model.pieces] or [np.zeros(0, np.intp)])


def rest_inverses(figure: Figure) -> Floats:
    """From the world at rest into each joint's own space (J, 4, 4)."""
    return plan_of(figure.rig).rest_inverse
