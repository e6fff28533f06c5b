"""Balance: where a figure's weight is, what bears it, and how far the one is outside the other."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.figure.ground.under import under_of
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.staging import staged
from bovrin.frozen import frozen
from bovrin.measure.bodies import bodies_of
from bovrin.measure.gait.contacts import contacts
from bovrin.shot import Rig, Shot

Floats = NDArray[np.float64]

LOW = 0.02
"""Metres over the ground within which something bears weight."""
FOOT = 0.04
"""Metres over its lowest point within which a foot that is down does."""


@frozen
class Balance:
    """frames (F,); centre (F, 3): the centre of mass, metres; ground (F, 3): the point under it; support: for each frame the
    outline (N, 3) of what bears weight, none in the air; inside (F,): whether the weight is over it; out (F,): by how much it is
    outside, metres, 0 inside, infinite in the air."""

    frames: Floats
    centre: Floats
    ground: Floats
    support: list[Floats]
    inside: NDArray[np.bool_]
    out: Floats


def balance(shot: Shot, figure: str, frames: ArrayLike, *, load: bool = True) -> Balance:
    """How a figure stands at frames (F,). load: with what hangs on it wholly, as heavy as it is large."""
    at = np.atleast_1d(np.asarray(frames, float))
    centre = loaded_centre(shot, figure, at) if load else centre_of(shot, figure, at)
    points, bears = _bearing(shot, figure, at)
    support = [outline(own[row]) for own, row in zip(points, bears, strict=True)]
    high = np.array([own[:, 1].mean() if len(own) else 0.0 for own in support])
    ground = np.stack([centre[:, 0], high, centre[:, 2]], -1)
    out = np.array([outside(own[:, [0, 2]], spot[[0, 2]]) for own, spot in zip(support, ground, strict=True)])
    return Balance(at, centre, ground, support, out <= 0.0, np.maximum(out, 0.0))


def centre_of(shot: Shot, figure: str, frames: Floats) -> Floats:
    """A figure's centre of mass (F, 3), metres: of its meshes, all of one density; of the spans between its joints where it has
    none."""
    return _weighed(shot, figure, frames)[0]


def loaded_centre(shot: Shot, figure: str, frames: Floats) -> Floats:
    """The centre of mass (F, 3) of a figure and of what hangs on it, as far as it does."""
    centre, mass = _weighed(shot, figure, frames)
    moment, total = centre * mass, np.full((len(frames), 1), mass)
    for name, share in carried_by(shot, figure, frames):
        own, heavy = _weighed(shot, name, frames)
        moment, total = moment + own * (heavy * share)[:, None], total + (heavy * share)[:, None]
    return np.asarray(moment / total)


def carried_by(shot: Shot, figure: str, frames: Floats) -> list[tuple[str, Floats]]:
    """The other figures that hang on one as a whole, and how far (F,)."""
    found = []
    for other in shot.cast:
        own = [one for one in shot.attachments(other.name) if one.carrier == figure and one.what != "turn"]
        whole = [
            one for one in own if other.rig.joints[other.rig.controls[other.rig.control(one.control)].joint].parent < 0
        ]
        if other.name == figure or not whole:
            continue
        values = staged(shot, other.name, frames).values
        share = sum(
            (np.clip(values[:, other.rig.channel(one.column)], 0.0, 1.0) for one in whole), np.zeros(len(frames))
        )
        if share.any():
            found.append((other.name, np.minimum(share, 1.0)))
    return found


def _weighed(shot: Shot, figure: str, frames: Floats) -> tuple[Floats, float]:
    """A figure's centre of mass (F, 3) and how heavy it is, cubic metres of it."""
    who, world = shot.figure(figure), staged(shot, figure, frames).world
    bodies = bodies_of(who.rig, who.model)
    if bodies.has_weight:
        return bodies.centre(world), float(bodies.volumes.sum())
    return _of_spans(who.rig, world), 1e-3


def _of_spans(rig: Rig, world: Floats) -> Floats:
    """The middle (F, 3) of a figure's bones, as heavy as they are long at rest; of its joints where it has no bones."""
    rest, places = plan_of(rig).rest_world[:, :3, 3], world[..., :3, 3]
    bones = [(j.parent, n) for n, j in enumerate(rig.joints) if j.parent > 0 or (j.parent == 0 and n > 0)]
    long = np.array([np.linalg.norm(rest[a] - rest[b]) for a, b in bones])
    if not len(bones) or not long.any():
        return np.asarray(places.mean(1))
    middles = (places[:, [a for a, _ in bones]] + places[:, [b for _, b in bones]]) / 2
    return np.asarray((middles * long[:, None]).sum(1) / long.sum())


def _bearing(shot: Shot, figure: str, frames: Floats) -> tuple[Floats, NDArray[np.bool_]]:
    """A figure's outermost points (F, N, 3) and which of them bear weight (F, N): what lies on the ground, and the soles of feet
    that are down."""
    who, world = shot.figure(figure), staged(shot, figure, frames).world
    rig, bodies = who.rig, bodies_of(who.rig, who.model)
    joints = [j for j in range(len(rig.joints)) if j in bodies.points]
    points = bodies.points_of(joints, world) if joints else world[..., :3, 3]
    owner = np.repeat(joints, [len(bodies.points[j]) for j in joints]) if joints else np.arange(len(rig.joints))
    under = under_of(shot, figure)
    bears = points[..., 1] - (0.0 if under is None else under(points)) <= LOW
    down = contacts(shot, figure) if rig.limbs else {}
    for limb in rig.limbs:
        own = np.isin(owner, _below(rig, limb.end))
        spans = down.get(limb.name, [])
        stands = (
            np.any([(frames >= a) & (frames <= b) for a, b in spans], axis=0) if spans else np.zeros(len(frames), bool)
        )
        if own.any() and stands.any():
            height = points[..., 1][:, own]
            bears[:, own] |= (height <= height.min(1, keepdims=True) + FOOT) & stands[:, None]
    return points, bears


def _below(rig: Rig, joint: int) -> list[int]:
    found = {joint}
    for n, one in enumerate(rig.joints):
        if one.parent in found:
            found.add(n)
    return sorted(found)


def outline(points: Floats) -> Floats:
    """The corners (N, 3) of the convex outline of points (M, 3) seen from above, in order; two or one where they lie on a line or
    a spot.

    A. M. Andrew, "Another efficient algorithm for convex hulls in two dimensions", Information Processing Letters 9, 1979.
    """
    order = points[np.lexsort((points[:, 2], points[:, 0]))]
    if len(order) < 3:
        return order
    lower, upper = _half(order), _half(order[::-1])
    return np.stack([*lower[:-1], *upper[:-1]]) if len(lower) > 1 else order[:1]


def _half(order: Sequence[Floats] | Floats) -> list[Floats]:
    made: list[Floats] = []
    for point in order:
        while len(made) > 1 and _turn(made[-2], made[-1], point) <= 1e-12:
            made.pop()
        if not made or np.abs(point - made[-1])[[0, 2]].max() > 1e-9:
            made.append(point)
    return made


def _turn(a: Floats, b: Floats, c: Floats) -> float:
    return float((b[0] - a[0]) * (c[2] - a[2]) - (b[2] - a[2]) * (c[0] - a[0]))


def outside(corners: Floats, spot: Floats) -> float:
    """How far (metres) a spot (2,) is outside a convex outline (N, 2) in order; negative inside, infinite of none."""
    if not len(corners):
        return float("inf")
    if len(corners) == 1:
        return float(np.linalg.norm(spot - corners[0]))
    after = np.roll(corners, -1, axis=0)
    along, to = after - corners, spot - corners
    part = np.clip((to * along).sum(1) / np.maximum((along * along).sum(1), 1e-18), 0.0, 1.0)
    far = float(np.linalg.norm(to - part[:, None] * along, axis=1).min())
    sides = along[:, 0] * to[:, 1] - along[:, 1] * to[:, 0]
    within = len(corners) > 2 and ((sides >= 0).all() or (sides <= 0).all())
    return -far if within else far
