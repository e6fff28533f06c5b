"""The buoy that bounces, and the steps it bounces down."""

from __future__ import annotations

import numpy as np

from bovrin.shot import Channel, Control, ControlKind, Figure, Joint, Model, Part, Piece, Rig, Unit
from tools.cast.mesh import mesh_shape, shape_normals
from tools.cast.sdf import Shape, box, cut, ellipsoid, join, meet, round_cone

RADIUS = 0.13
RISE, DEPTH, WIDE, STEPS = 0.18, 0.27, 0.34, 3
"""Height and depth of a step, half its width, and how many there are."""


def rigid_piece(name: str, colour: str, shape: Shape, low: tuple, high: tuple, cell: float, most: int) -> Piece:  # type: ignore[type-arg]
    """A mesh that moves with the first joint."""
    vertices, faces = mesh_shape(shape, low, high, cell, most)
    count = len(vertices)
    weights = np.zeros((count, 4), np.float32)
    weights[:, 0] = 1
    red, green, blue = (round(int(colour[i : i + 2], 16) / 255, 5) for i in (1, 3, 5))
    return Piece(
        name=name,
        colour=(red, green, blue),
        positions=vertices.astype(np.float32),
        normals=shape_normals(shape, vertices, faces).astype(np.float32),
        joints=np.zeros((count, 4), np.uint16),
        weights=weights,
        triangles=faces.astype(np.uint32),
    )


def whole_rig(joint: str, control: str) -> Rig:
    """One joint on the ground that is moved, turned, stretched and sized."""
    moves = [Channel(n, f"translate {a}", Unit.LENGTH) for n, a in (("across", "x"), ("up", "y"), ("forward", "z"))]
    turns = [Channel(n, f"rotate {a}", Unit.ANGLE) for n, a in (("turn", "y"), ("tilt", "x"), ("roll", "z"))]
    shape = [Channel(name, name, Unit.AMOUNT, 1.0) for name in ("stretch", "size")]
    return Rig(
        joints=(Joint(joint, -1, (0.0, 0.0, 0.0)),),
        controls=(Control(control, ControlKind.WHOLE, 0, (*moves, *turns, *shape)),),
        parts=(Part("body", (0,)),),
    )


def buoy() -> Figure:
    """A round float with a pale belt and a ring on top; it sits on its lowest point, so that it squashes onto the ground."""
    ball = ellipsoid((0, RADIUS, 0), (RADIUS, RADIUS, RADIUS))
    belt = meet(ellipsoid((0, RADIUS, 0), (RADIUS + 0.006,) * 3), box((0, RADIUS, 0), (0.3, 0.034, 0.3), 0.004))
    neck = round_cone((0, 2 * RADIUS - 0.012, 0), (0, 2 * RADIUS + 0.022, 0), 0.03, 0.022)
    ring = cut(
        round_cone((0, 2 * RADIUS + 0.045, -0.006), (0, 2 * RADIUS + 0.045, 0.006), 0.032, 0.032),
        round_cone((0, 2 * RADIUS + 0.047, -0.06), (0, 2 * RADIUS + 0.047, 0.06), 0.015, 0.015),
    )
    low, high = (-0.15, -0.02, -0.15), (0.15, 0.36, 0.15)
    pieces = (
        rigid_piece("float", "#C8553D", ball, low, high, 0.007, 620),
        rigid_piece("belt", "#F3E9D2", belt, low, high, 0.005, 420),
        rigid_piece("ring", "#4A4754", join(neck, ring, smooth=0.008), low, high, 0.004, 420),
    )
    return Figure("buoy", whole_rig("buoy", "whole buoy"), Model(pieces), "cast:buoy", (0.784, 0.333, 0.239))


def steps() -> Figure:
    """Wooden steps that go down along +x from a small landing at x = 0."""
    treads = []
    sides = []
    for n in range(STEPS):
        top = RISE * (STEPS - n)
        middle = (n + 0.5) * DEPTH if n else 0.0
        half = DEPTH / 2 if n else DEPTH
        treads.append(box((middle, top - 0.02, 0), (half + 0.012, 0.02, WIDE), 0.008))
        sides.append(box((middle, (top - 0.04) / 2, 0), (half - 0.012, (top - 0.04) / 2, WIDE - 0.03), 0.006))
    low, high = (-0.34, -0.04, -0.4), (STEPS * DEPTH + 0.1, STEPS * RISE + 0.05, 0.4)
    pieces = (
        rigid_piece("treads", "#B8AD95", join(*treads), low, high, 0.012, 520),
        rigid_piece("sides", "#8F866F", join(*sides), low, high, 0.012, 420),
    )
    return Figure("steps", whole_rig("steps", "whole steps"), Model(pieces), "cast:steps", (0.62, 0.58, 0.49))
