"""What joints carry of a figure's mesh: how much of it, where its middle is, and how far it sticks out."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import plan_of
from bovrin.frozen import frozen
from bovrin.shot import Model, Piece, Rig

Floats = NDArray[np.float64]

MOST_POINTS = 4000
"""Vertices of one joint that are looked at; of more, every so many-th."""
LEAST = 4
LINES, STEPS = 14, 6
"""Lines through a piece to either side, and places on each stretch of one inside it."""
OPEN = 0.02
"""The share of lines that may go in and never come out before a piece is open."""
MOST_PAIRS = 2_000_000


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
    """What each joint of a figure carries. A closed mesh weighs what it encloses, and of each place in it joints carry what they
    carry of the skin next to it; of an open one it is the convex hull of what a joint moves most."""
    count = len(rig.joints)
    volumes, moments = np.zeros(count), np.zeros((count, 3))
    back = np.asarray(np.linalg.inv(plan_of(rig).rest_world), float)
    carried: dict[int, list[Floats]] = {}
    for piece in model.pieces:
        places = _by_joint(piece, model, back)
        weighed = enclosed(piece)
        rows = _filled(piece, model, back, *weighed) if len(weighed[0]) else [(j, *_hull(p)) for j, p in places.items()]
        for joint, volume, middle in rows:
            volumes[joint] += volume
            moments[joint] += volume * middle
        for joint, own in places.items():
            carried.setdefault(joint, []).append(own)
    points = {joint: _outermost(np.concatenate(parts)) for joint, parts in carried.items()}
    return Bodies(volumes, moments / np.where(volumes > 0, volumes, 1.0)[:, None], points)


def _by_joint(piece: Piece, model: Model, back: Floats) -> dict[int, Floats]:
    """The vertices of a piece in the axes of the joint that moves them most."""
    joints, own, found = model.strongest(piece), piece.positions.astype(float), dict[int, Floats]()
    for joint in np.unique(joints).tolist():
        rows = np.flatnonzero(joints == joint)
        into = back[joint] if model.binds is None else model.binds[int(piece.joints[rows[0], 0])]
        rows = rows[:: 1 + len(rows) // MOST_POINTS]
        found[joint] = own[rows] @ into[:3, :3].T + into[:3, 3]
    return found


def _filled(
    piece: Piece, model: Model, back: Floats, places: Floats, volumes: Floats
) -> list[tuple[int, float, Floats]]:
    """What joints carry of the places (P, 3) inside a piece, which weigh so much (P,): joint, volume, middle (3,)."""
    vertices, parts = piece.positions.astype(float), np.array_split(places, 1 + len(places) // 256)
    near = np.concatenate([_nearest(vertices, part) for part in parts])
    bones, weights = piece.joints[near].astype(np.intp), piece.weights[near].astype(float)
    found = []
    for bone in np.unique(bones[weights > 0.0]).tolist():
        into = back[bone] if model.binds is None else model.binds[bone]
        own = ((bones == bone) * weights).sum(1) * volumes
        if own.sum() <= 0.0:
            continue
        joint = bone if model.bones is None else int(model.bones[bone])
        middle = (own[:, None] * (places @ into[:3, :3].T + into[:3, 3])).sum(0) / own.sum()
        found.append((joint, float(own.sum() * abs(np.linalg.det(into[:3, :3]))), np.asarray(middle)))
    return found


def _nearest(vertices: Floats, places: Floats) -> NDArray[np.intp]:
    """The vertex (P,) that is nearest to each place (P, 3)."""
    some = vertices[:: 1 + len(vertices) // MOST_POINTS]
    far = (some * some).sum(1) - 2.0 * places @ some.T
    return np.asarray(far.argmin(1) * (1 + len(vertices) // MOST_POINTS))


def enclosed(piece: Piece) -> tuple[Floats, Floats]:
    """Places (P, 3) inside a piece, in its own units, and the volumes (P,) around them; none where it is open. Lines through it,
    evenly spread across its longest side, are inside from each first face that they meet to the next."""
    triangles = piece.positions.astype(float)[piece.triangles.astype(np.intp)]
    empty = np.empty((0, 3)), np.empty(0)
    if not len(triangles):
        return empty
    low, high = triangles.min((0, 1)), triangles.max((0, 1))
    along = int((high - low).argmax())
    a, b = (axis for axis in range(3) if axis != along)
    across = (
        np.arange(LINES) + 0.5 + 1e-3 * np.sqrt(2.0)
    ) / LINES  # through no vertex of what was built on even numbers
    lines = np.stack(np.meshgrid(low[a] + across * (high[a] - low[a]), low[b] + across * (high[b] - low[b])), -1)
    which, at = _met(triangles[..., [a, b]], triangles[..., along], lines.reshape(-1, 2))
    ends, missed = _pairs(which, at, LINES * LINES)
    if not len(ends) or missed > OPEN * LINES * LINES:
        return empty
    steps = (np.arange(STEPS) + 0.5) / STEPS
    wide = (ends[:, 2] - ends[:, 1])[:, None] / STEPS
    places = np.empty((len(ends), STEPS, 3))
    places[..., along] = ends[:, 1:2] + steps * (ends[:, 2] - ends[:, 1])[:, None]
    places[..., [a, b]] = lines.reshape(-1, 2)[ends[:, 0].astype(int)][:, None]
    cell = (high[a] - low[a]) * (high[b] - low[b]) / LINES**2
    return places.reshape(-1, 3), np.repeat(wide * cell, STEPS, axis=1).reshape(-1)


def _met(flat: Floats, depth: Floats, lines: Floats) -> tuple[NDArray[np.intp], Floats]:
    """Which lines (L, 2) meet triangles, seen along them (T, 3, 2), and how deep (T, 3) that is: rows of line and depth."""
    found: list[tuple[NDArray[np.intp], Floats]] = []
    for part in np.array_split(np.arange(len(flat)), 1 + len(flat) * len(lines) // MOST_PAIRS):
        p, q, r = (flat[part, n][None] for n in range(3))
        areas = [_area(lines[:, None], one, other) for one, other in ((q, r), (r, p), (p, q))]
        whole = areas[0] + areas[1] + areas[2]
        inside = np.logical_and.reduce([(x > 0) == (whole > 0) for x in areas]) & (whole != 0)
        line, face = np.nonzero(inside)
        shares = np.stack([x[line, face] for x in areas], 1) / whole[line, face][:, None]
        found.append((line, (shares * depth[part][face]).sum(1)))
    return np.concatenate([one[0] for one in found]), np.concatenate([one[1] for one in found])


def _area(at: Floats, p: Floats, q: Floats) -> Floats:
    return np.asarray(
        (p[..., 0] - at[..., 0]) * (q[..., 1] - at[..., 1]) - (p[..., 1] - at[..., 1]) * (q[..., 0] - at[..., 0])
    )


def _pairs(which: NDArray[np.intp], at: Floats, count: int) -> tuple[Floats, int]:
    """From where to where lines are inside (S, 3): line, start, end; and how many of them go in and never come out."""
    order = np.lexsort((at, which))
    which, at = which[order], at[order]
    times = np.bincount(which, minlength=count)
    odd = times % 2 == 1
    kept = ~odd[which]
    which, at = which[kept].reshape(-1, 2), at[kept].reshape(-1, 2)
    return np.concatenate([which[:, :1], at], axis=1), int(odd.sum())


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
