"""A soft ground shadow: the body as a few dozen blobs, each darker the nearer it is to the ground."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.ground.skin import rest_inverses, skin_at_rest, strongest_joints
from bovrin.motion.grouping import rows_once
from bovrin.shot import Figure

Floats = NDArray[np.float64]

FAINT = -40.0
"""The logarithm of the least darkness of a blob."""
SIZE = 64
CELL = 0.16


@cached_by_identity
def _blobs(figure: Figure) -> tuple[NDArray[np.intp], Floats]:
    """Joint (B,) and place in that joint's space (B, 4) of blobs that stand for the mesh."""
    positions = skin_at_rest(figure)
    joints = strongest_joints(figure).astype(np.int64)
    cells = np.column_stack([joints, np.floor(positions / CELL).astype(np.int64)])
    unique, which = rows_once(cells)
    counts = np.bincount(which)[:, None]
    centre = np.stack([np.bincount(which, positions[:, i]) for i in range(3)], 1) / counts
    kept = counts[:, 0] >= min(4, counts.max())
    at = unique[kept, 0].astype(np.intp)
    local = rest_inverses(figure)[at] @ np.column_stack([centre[kept], np.ones(kept.sum())])[..., None]
    return at, local[..., 0]


def blob_places(figure: Figure, world: Floats) -> Floats:
    """Where a figure's blobs are (B, 3), metres, with its joints at world matrices (J, 4, 4)."""
    joints, local = _blobs(figure)
    return np.asarray((world[joints] @ local[..., None])[:, :3, 0])


def _bell(away: Floats) -> Floats:
    """A Gaussian; far out it stays at what no eye sees, since numbers near nothing are slow to work with."""
    return np.asarray(np.exp(np.maximum(-(away**2), FAINT)))


def shadow_map(p: Floats) -> tuple[NDArray[np.uint8], tuple[float, float], tuple[float, float]]:
    """Darkness (64, 64), rows along z, that blobs at places (B, 3) throw, and the corners (x, z) in metres that it covers.

    Each blob is a Gaussian; being separable, their sum over the map is one small matrix product.
    """
    width = 0.085 + 0.10 * np.clip(p[:, 1], 0, 2)
    strength = 0.36 * np.exp(-4.0 * np.clip(p[:, 1], 0, None)) * (0.085 / width)
    margin = 0.45
    low, high = p[:, [0, 2]].min(0) - margin, p[:, [0, 2]].max(0) + margin
    xs, zs = (np.linspace(low[i], high[i], SIZE) for i in range(2))
    gx = _bell((xs[:, None] - p[:, 0]) / width)
    gz = _bell((zs[:, None] - p[:, 2]) / width) * strength
    darkness = 0.42 * (1 - np.exp(-(gz @ gx.T)))
    return (darkness * 255).astype(np.uint8), (float(low[0]), float(low[1])), (float(high[0]), float(high[1]))
