"""The shapes of the figure map, made from any rig: two legs, four, or none."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.ground.skin import skin_at_rest, strongest_joints
from bovrin.figure.making.setup import taken_for
from bovrin.figure.solve.plan import plan_of
from bovrin.frozen import frozen
from bovrin.shot import ControlKind, Figure

Floats = NDArray[np.float64]
MIDDLE = 1e-3
"""Metres off the middle within which a joint is in it."""


@frozen
class MapShape:
    """A joint on the map: from, to (metres, seen from the front) and radius."""

    joint: int
    start: Floats
    end: Floats
    radius: float


@cached_by_identity
def shapes_of(figure: Figure) -> list[MapShape]:
    """A capsule for each joint that a control drives, thicker where the bone is longer; thick ones first."""
    rest = seen_flat(plan_of(figure.rig).rest_world[:, :3, 3], _drawn_side(figure))
    helpers = {f.joint for f in figure.rig.follows}
    driven = {c.joint for c in figure.rig.controls if c.kind is ControlKind.JOINT}
    driven |= {limb.end for limb in figure.rig.limbs}
    widths = _middle_widths(figure)
    found = []
    for joint in sorted(driven - helpers - _carriers(figure)):
        children = [i for i, j in enumerate(figure.rig.joints) if j.parent == joint and i not in helpers]
        end = rest[_next(rest, joint, children)] if children else rest[joint] + _beyond(figure, joint)
        length = float(np.linalg.norm(end - rest[joint]))
        radius = max(min(max(0.27 * length, 0.017), 0.062), widths.get(joint, 0.0))
        shrink = (end - rest[joint]) * min(radius / max(length, 1e-6) * 0.8, 0.4)
        found.append(MapShape(joint, rest[joint] + shrink, end - shrink, radius))
    return sorted(found, key=lambda s: -s.radius)


def _carriers(figure: Figure) -> set[int]:
    """What only carries the hips: on the map it would be a bone from the ground."""
    found, at = set(), figure.rig.joints[taken_for(figure.rig).hips].parent
    while at >= 0:
        found.add(at)
        at = figure.rig.joints[at].parent
    return found


def _next(rest: Floats, joint: int, children: list[int]) -> int:
    """Where a joint's bone goes: in the middle of a figure to the child in the middle, not into one of two legs."""
    aside = np.abs(rest[children, 0] - rest[joint, 0])
    return children[int(aside.argmin())] if len(children) > 2 and abs(rest[joint, 0]) < MIDDLE else children[0]


def _drawn_side(figure: Figure) -> Floats | None:
    """What points at whoever sees a drawn figure as it was drawn (3,); None for a body."""
    return figure.model.pieces[0].normals[0].astype(float) if figure.model.is_flat else None


def seen_flat(places: Floats, drawn: Floats | None = None) -> Floats:
    """Places (N, 3) on the map (N, 2): from the front, or a little from the side when a figure is longer than wide; of what is
    drawn as it is drawn."""
    if drawn is not None:
        across = np.cross([0.0, 1.0, 0.0], drawn)
        return np.stack([places @ across, places[:, 1]], 1)
    size = np.ptp(places, axis=0)
    if size[2] > 1.2 * size[0] and size[2] > 0.1:
        return np.asarray(places @ np.array([[0.55, 0.16], [0.0, 1.0], [-0.8, 0.0]]))
    return np.asarray(places[:, :2])


def _beyond(figure: Figure, joint: int) -> Floats:
    """The little bone of a joint at the end of its chain, on the map: on the way it comes from (2,)."""
    world = plan_of(figure.rig).rest_world
    flat = seen_flat(world[:, :3, 3], _drawn_side(figure))
    parent = figure.rig.joints[joint].parent
    away = flat[joint] - flat[parent] if parent >= 0 else np.array([0.0, 0.05])
    size = float(np.linalg.norm(away))
    return np.asarray(away / size * 0.05) if size > 1e-6 else np.array([0.0, 0.05])


def _middle_widths(figure: Figure) -> dict[int, float]:
    """Radii for joints of the trunk and head, from how wide the mesh is there."""
    places = plan_of(figure.rig).rest_world[:, 0, 3]
    positions = skin_at_rest(figure)[:, 0]
    strongest = strongest_joints(figure)
    found = {}
    for joint in np.flatnonzero(np.abs(places) < 1e-6):
        own = np.abs(positions[strongest == joint])
        if len(own) > 40:
            wide = np.sort(own)[int(0.85 * (len(own) - 1))]
            found[int(joint)] = min(0.62 * float(wide), 0.1)
    return found
