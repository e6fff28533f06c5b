"""What joints carry of a figure's mesh: how much of it, where its middle is, and how far it sticks out."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import plan_of
from bovrin.frozen import frozen
from bovrin.shot import Model, Rig

Floats = NDArray[np.float64]

MOST_POINTS = 4000
"""Vertices of one joint that are looked at; of more, every so many-th."""
LEAST = 4


@frozen
class Bodies:
    """By joint, in its own axes and metres: volumes (J,), middles (J, 3), and outermost points by joint, each (N, 3)."""

    volumes: Floats
    middles: Floats
    points: dict[int, Floats]

    @property
    def has_weight(self) -> bool:
        """Whether there is a mesh that weighs anything."""
        return bool(self.volumes.sum() > 0)

    def centre(self, world: Floats) -> Floats:
        """The centre of mass (F, 3) in world space of joints' matrices (F, J, 4, 4), all of one density."""
        places = (world[..., :3, :3] @ self.middles[..., None])[..., 0] + world[..., :3, 3]
        return np.asarray((places * self.volumes[:, None]).sum(1) / self.volumes.sum())

    def points_of(self, joints: list[int], world: Floats) -> Floats:
        """The outermost points (F, N, 3) of some joints in world space."""
        found = [
            np.einsum("fij,nj->fni", world[:, j, :3, :3], self.points[j]) + world[:, j, None, :3, 3]
            for j in joints
            if j in self.points
        ]
        return np.concatenate(found, axis=1) if found else np.empty((len(world), 0, 3))


@cached_by_identity
def bodies_of(rig: Rig, model: Model) -> Bodies:
    """What each joint of a figure carries. Volumes are those of the convex hulls of the vertices that a joint moves most."""
    count = len(rig.joints)
    volumes, middles, points = np.zeros(count), np.zeros((count, 3)), dict[int, Floats]()
    for joint, places in _carried(rig, model).items():
        volumes[joint], middles[joint] = _hull(places)
        points[joint] = _outermost(places)
    return Bodies(volumes, middles, points)


def _carried(rig: Rig, model: Model) -> dict[int, Floats]:
    """Vertices in the axes of the joint that moves them most."""
    world = plan_of(rig).rest_world
    back = np.linalg.inv(world)
    rows: dict[int, list[Floats]] = {}
    for piece in model.pieces:
        joints, first = model.strongest(piece), piece.joints[:, 0].astype(np.intp)
        places = piece.positions.astype(float)
        into = back[joints] if model.binds is None else model.binds[first]
        own = (into[:, :3, :3] @ places[..., None])[..., 0] + into[:, :3, 3]
        order = np.argsort(joints, kind="stable")
        names, starts = np.unique(joints[order], return_index=True)
        for name, part in zip(names.tolist(), np.split(own[order], starts[1:]), strict=True):
            rows.setdefault(name, []).append(part)
    found = {}
    for name, parts in rows.items():
        places = np.concatenate(parts)
        found[name] = places[:: 1 + len(places) // MOST_POINTS]
    return found


def _hull(places: Floats) -> tuple[float, Floats]:
    """The volume and the middle (3,) of points' convex hull; flat ones weigh nothing."""
    from scipy.spatial import ConvexHull, QhullError  # noqa: PLC0415 - kept out of the window's start

    middle = np.asarray(places.mean(0))
    if len(places) < LEAST or not np.isfinite(places).all():
        return 0.0, middle
    try:
        hull = ConvexHull(places)
    except QhullError:
        return 0.0, middle
    corners = places[hull.simplices] - middle
    parts = np.abs(np.linalg.det(corners)) / 6
    return float(parts.sum()), np.asarray(middle + (parts[:, None] * corners.sum(1) / 4).sum(0) / parts.sum())


def _outermost(places: Floats) -> Floats:
    """The points of some (N, 3) that stick out farthest in evenly spread directions."""
    ways = np.stack(np.meshgrid([-1, 0, 1], [-1, 0, 1], [-1, 0, 1]), -1).reshape(-1, 3)
    ways = ways[np.abs(ways).sum(1) > 0].astype(float)
    return np.asarray(places[np.unique((places @ ways.T).argmax(0))])
