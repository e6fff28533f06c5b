"""Bones to be seen: a figure without a mesh gets one of its joints, a spindle for each bone."""

from __future__ import annotations

import numpy as np

from bovrin.figure.solve.plan import plan_of
from bovrin.shot import Model, Piece, Rig
from bovrin.shot.model import BONES

THICK = 0.11
"""A spindle is this share of its length wide, within a share of the figure's size."""
COLOUR = (0.80, 0.74, 0.62)
FACES = np.array([[0, 2, 1], [0, 3, 2], [0, 4, 3], [0, 1, 4], [5, 1, 2], [5, 2, 3], [5, 3, 4], [5, 4, 1]], np.uint32)


def stick_model(rig: Rig) -> Model:
    """One mesh: for each bone six corners and eight triangles that move with the joint it begins at."""
    world = plan_of(rig).rest_world[:, :3, 3]
    size = float(np.ptp(world, axis=0).max()) or 1.0
    corners, joints = [], []
    for j, joint in enumerate(rig.joints):
        if joint.parent < 0:
            continue
        a, b = world[joint.parent], world[j]
        length = float(np.linalg.norm(b - a))
        if length > 1e-6 and joint.parent > 0:
            corners.append(_spindle(a, b, min(max(THICK * length, 0.008 * size), 0.035 * size)))
            joints.append(joint.parent)
    if not corners:
        corners.append(_spindle(world[0], world[0] + [0.0, 0.1 * size, 0.0], 0.02 * size))
        joints.append(0)
    points = np.concatenate(corners)
    triangles = np.concatenate([FACES + 6 * n for n in range(len(corners))])
    middle = np.repeat([c.mean(0) for c in corners], 6, axis=0)
    out = points - middle
    normals = out / np.maximum(np.linalg.norm(out, axis=1, keepdims=True), 1e-9)
    bound = np.zeros((len(points), 4), np.uint16)
    bound[:, 0] = np.repeat(joints, 6)
    weights = np.zeros((len(points), 4), np.float32)
    weights[:, 0] = 1
    return Model(
        (Piece(BONES, COLOUR, points.astype(np.float32), normals.astype(np.float32), bound, weights, triangles),)
    )


def _spindle(a: np.ndarray, b: np.ndarray, radius: float) -> np.ndarray:
    """Six corners (6, 3) of a bone from a to b, thickest a fifth of the way along."""
    along = (b - a) / np.linalg.norm(b - a)
    side = np.cross(along, [0.0, 0.0, 1.0] if abs(along[2]) < 0.9 else [1.0, 0.0, 0.0])
    side /= np.linalg.norm(side)
    other = np.cross(along, side)
    belly = a + 0.2 * (b - a)
    ring = [belly + radius * way for way in (side, other, -side, -other)]
    return np.array([a, *ring, b])
