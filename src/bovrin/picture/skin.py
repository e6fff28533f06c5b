"""Where a figure's skin is: every vertex carried by its joints."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve import skin_matrices
from bovrin.shot import Figure

Floats = NDArray[np.float64]


def skinned(figure: Figure, world: Floats) -> Floats:
    """All vertices (V, 3) of a figure whose joints are at world matrices (J, 4, 4), metres."""
    pieces = figure.model.pieces
    if not pieces:
        return np.zeros((0, 3))
    matrices = skin_matrices(figure.rig, world)[:, :3]
    places = []
    for piece in pieces:
        carried = matrices[piece.joints.astype(np.intp)]
        mixed = (carried * piece.weights[..., None, None]).sum(1)
        places.append((mixed[..., :3] @ piece.positions[..., None])[..., 0] + mixed[..., 3])
    return np.concatenate(places)
