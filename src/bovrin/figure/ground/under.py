"""The ground that feet stand on: flat, or the meshes of the set and of what stands still in a shot."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import RESULTS
from bovrin.figure.ground.feet import Under
from bovrin.figure.ground.skin import skinned
from bovrin.figure.stages.layers import layers_of
from bovrin.figure.staging import staged
from bovrin.shot import Figure, Shot

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

CELL = 0.1
"""Metres between the lines of the grid in which triangles are looked for."""
UP = 0.2
"""How much a triangle faces up (the cosine of its slope) that can be stood on."""
CLIMBS = 0.6
"""Metres over a foot up to which it is on what lies there rather than under it."""
SOLE = 0.03
"""Metres around a point within which the highest bears it: feet bridge gaps between planks."""
AROUND = np.array([[0.0, 0.0], [SOLE, 0.0], [-SOLE, 0.0], [0.0, SOLE], [0.0, -SOLE]])
MOST_PAIRS = 2_000_000
WIDEST = 400
"""Cells a side that the grid has at most."""


class Ground:
    """Triangles (T, 3, 3), metres, that face up, found by where they lie."""

    def __init__(self, triangles: Floats) -> None:
        edges = triangles[:, 1:] - triangles[:, :1]
        normal = np.cross(edges[:, 0], edges[:, 1])
        size = np.linalg.norm(normal, axis=1)
        up = np.abs(normal[:, 1]) > UP * np.maximum(size, 1e-12)
        self._corner, self._edges = triangles[up, 0], edges[up]
        flat = triangles[up][..., [0, 2]]
        low, high = (flat.reshape(-1, 2).min(0), flat.reshape(-1, 2).max(0)) if len(flat) else (np.zeros(2),) * 2
        self._low, self._cell = low, np.maximum((high - low) / WIDEST, CELL)
        self._shape = ((high - low) // self._cell).astype(int) + 1
        self._starts, self._those = self._sorted_in(flat)

    def _sorted_in(self, flat: Floats) -> tuple[Ints, Ints]:
        """Where each cell's triangles begin (cells + 1,) among all (P,), by cell."""
        first = ((flat.min(1) - self._low) // self._cell).astype(int)
        wide = ((flat.max(1) - self._low) // self._cell).astype(int) - first + 1
        counts = wide.prod(1)
        which = np.repeat(np.arange(len(flat)), counts)
        nth = np.arange(len(which)) - np.repeat(np.cumsum(counts) - counts, counts)
        cells = first[which] + np.stack([nth // wide[which, 1], nth % wide[which, 1]], 1)
        flat_cells = cells[:, 0] * self._shape[1] + cells[:, 1]
        order = np.argsort(flat_cells, kind="stable")
        return np.searchsorted(flat_cells[order], np.arange(self._shape.prod() + 1)), which[order]

    def under(self, points: Floats) -> Floats:
        """How high the ground is under points (..., 3), metres: what bears them and is not far over them; 0 beside it all."""
        spots = points.reshape(-1, 1, 3) + np.insert(AROUND, 1, 0.0, axis=1)
        high = self._highest(spots.reshape(-1, 3)).reshape(len(spots), len(AROUND)).max(1, initial=-np.inf)
        return np.asarray(np.where(np.isfinite(high), high, 0.0).reshape(points.shape[:-1]))

    def _highest(self, points: Floats) -> Floats:
        """The highest triangle that can bear each point (P,), -inf where there is none."""
        at = ((points[:, [0, 2]] - self._low) // self._cell).astype(int)
        rows = np.flatnonzero(((at >= 0) & (at < self._shape)).all(1)) if len(self._corner) else np.zeros(0, int)
        found = np.full(len(points), -np.inf)
        cells = at[rows, 0] * self._shape[1] + at[rows, 1]
        counts = self._starts[cells + 1] - self._starts[cells]
        ends = np.cumsum(counts)
        begin = 0
        while begin < len(rows):
            stop = max(int(np.searchsorted(ends, (ends[begin - 1] if begin else 0) + MOST_PAIRS)), begin + 1)
            self._raise(found, points, rows[begin:stop], cells[begin:stop], counts[begin:stop])
            begin = stop
        return found

    def _raise(self, found: Floats, points: Floats, rows: Ints, cells: Ints, counts: Ints) -> None:
        """Write into `found` the heights of triangles that lie under some points."""
        whose = np.repeat(rows, counts)
        nth = np.arange(len(whose)) - np.repeat(np.cumsum(counts) - counts, counts)
        those = self._those[np.repeat(self._starts[cells], counts) + nth]
        away, (one, two) = points[whose] - self._corner[those], np.moveaxis(self._edges[those], 1, 0)
        area = one[:, 0] * two[:, 2] - one[:, 2] * two[:, 0]
        with np.errstate(divide="ignore", invalid="ignore"):
            a = (away[:, 0] * two[:, 2] - away[:, 2] * two[:, 0]) / area
            b = (one[:, 0] * away[:, 2] - one[:, 2] * away[:, 0]) / area
        height = self._corner[those, 1] + a * one[:, 1] + b * two[:, 1]
        bears = (a >= -1e-9) & (b >= -1e-9) & (a + b <= 1 + 1e-9) & (height < points[whose, 1] + CLIMBS)
        np.maximum.at(found, whose[bears], height[bears])


def under_of(shot: Shot, figure: str) -> Under | None:
    """How high the ground is that a figure can stand on; None where that is flat ground, or nothing else stands still."""
    if not shot.on_set:
        return None
    standing = [own for own in shot.cast if own.name != figure and _stands(shot, own)]
    if not standing:
        return None
    key = (Ground, *(part for own in standing for part in (own, shot.curves(own.name))))
    return RESULTS.get(key, lambda: Ground(np.concatenate([_triangles(shot, own) for own in standing]))).under


def _stands(shot: Shot, figure: Figure) -> bool:
    """Whether a figure is of one piece and does not move in a shot."""
    if len(figure.rig.joints) != 1 or not figure.model.triangle_count or layers_of(shot, figure.name) is not None:
        return False
    return all(len(c) < 2 or np.ptp(c.values) < 1e-9 for c in shot.curves(figure.name).curves)


def _triangles(shot: Shot, figure: Figure) -> Floats:
    """The triangles (T, 3, 3) of a figure where it stands, metres."""
    found = staged(shot, figure.name, shot.first)
    corners, start, faces = skinned(figure, found.world[0], found.amounts[0]), 0, []
    for piece in figure.model.pieces:
        faces.append(piece.triangles.reshape(-1, 3).astype(np.intp) + start)
        start += len(piece.positions)
    return np.asarray(corners[np.concatenate(faces)])
