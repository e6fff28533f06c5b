"""The landing: planks, posts with a rope, a bollard and a lamp; calm colours that never compete with the acting."""

from __future__ import annotations

import itertools

import numpy as np

from bovrin.shot import Channel, Control, ControlKind, Figure, Joint, Model, Part, Piece, Rig, Unit
from tools.cast.dress import hex_colour
from tools.cast.mesh import mesh_shape, shape_normals
from tools.cast.sdf import join, round_cone

PLANKS, GAPS, POSTS, ROPE, LAMP, IRON, WATER = (
    "#CDBD9C",
    "#B7A888",
    "#A89878",
    "#C3B28E",
    "#E8C26A",
    "#6E6A70",
    "#BBC6C0",
)
WIDE, DEEP, PLANK = 3.0, 1.7, 0.30
"""Half the width and depth of the deck, and the width of a plank, metres."""
THICK = 0.07
FAR = 90.0
"""Metres to the edge of the water: farther than any view sees, so that it ends in a horizon."""


def _piece(name: str, colour: str, places: np.ndarray, normals: np.ndarray, faces: np.ndarray) -> Piece:
    count = len(places)
    weights = np.zeros((count, 4), np.float32)
    weights[:, 0] = 1
    return Piece(
        name,
        hex_colour(colour),
        places.astype(np.float32),
        normals.astype(np.float32),
        np.zeros((count, 4), np.uint16),
        weights,
        faces.astype(np.uint32),
    )


def _block(
    low: tuple[float, float, float], high: tuple[float, float, float]
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A box with flat faces: places and normals (24, 3), triangles (12, 3)."""
    places, normals, faces = [], [], []
    for axis in range(3):
        for side, value in ((-1.0, low[axis]), (1.0, high[axis])):
            j, k = (axis + 1) % 3, (axis + 2) % 3
            ring = [(low[j], low[k]), (high[j], low[k]), (high[j], high[k]), (low[j], high[k])]
            first = len(places)
            for a, b in ring if side > 0 else ring[::-1]:
                corner = [0.0, 0.0, 0.0]
                corner[axis], corner[j], corner[k] = value, a, b
                places.append(corner)
                normal = [0.0, 0.0, 0.0]
                normal[axis] = side
                normals.append(normal)
            faces += [[first, first + 1, first + 2], [first, first + 2, first + 3]]
    return np.array(places), np.array(normals), np.array(faces)


def _sheet(up: float, low: tuple[float, float], high: tuple[float, float]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A level sheet that is seen from above alone, and so has no outline."""
    (x0, z0), (x1, z1) = low, high
    places = np.array([[x0, up, z0], [x0, up, z1], [x1, up, z1], [x1, up, z0]])
    return places, np.tile([0.0, 1.0, 0.0], (4, 1)), np.array([[0, 1, 2], [0, 2, 3]])


def _joined(blocks: list[tuple[np.ndarray, np.ndarray, np.ndarray]]) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    starts = np.cumsum([0, *[len(b[0]) for b in blocks]])
    return (
        np.concatenate([b[0] for b in blocks]),
        np.concatenate([b[1] for b in blocks]),
        np.concatenate([b[2] + s for b, s in zip(blocks, starts, strict=False)]),
    )


def _deck() -> list[Piece]:
    """Planks across the landing, each a little apart from the next, on two beams; their tops lie on the ground."""
    rows = np.arange(-DEEP, DEEP - 1e-6, PLANK)
    planks = [_block((-WIDE, -THICK, z + 0.008), (WIDE, 0.0, z + PLANK - 0.008)) for z in rows]
    beams = [_block((x - 0.08, -0.22, -DEEP), (x + 0.08, -THICK - 0.004, DEEP)) for x in (-WIDE + 0.4, 0.0, WIDE - 0.4)]
    under = [_block((-WIDE, -THICK - 0.003, -DEEP + 0.02), (WIDE, -THICK + 0.002, DEEP - 0.02))]
    return [_piece("planks", PLANKS, *_joined(planks)), _piece("beams", GAPS, *_joined(beams + under))]


def _round(name: str, colour: str, shape, low, high, cell: float, most: int) -> Piece:  # type: ignore[no-untyped-def]
    places, faces = mesh_shape(shape, low, high, cell, most)
    return _piece(name, colour, places, shape_normals(shape, places, faces), faces)


def _posts() -> list[Piece]:
    """Posts at the back edge, a rope that sags between them, and a lamp on the one to the right."""
    back = -DEEP + 0.12
    xs = (-2.5, -0.9, 0.9, 2.5)
    posts = join(*(round_cone((x, -0.3, back), (x, 0.78, back), 0.075, 0.068) for x in xs))
    ropes = []
    for a, b in ((xs[0], xs[1]), (xs[1], xs[2]), (xs[2], xs[3])):
        t = np.linspace(0, 1, 9)
        line = np.stack([a + (b - a) * t, 0.70 - 0.22 * 4 * t * (1 - t), np.full(9, back)], 1)
        ropes += [round_cone(p, q, 0.020, 0.020) for p, q in itertools.pairwise(line)]
    pole = join(
        round_cone((xs[3], 0.7, back), (xs[3], 2.05, back), 0.030, 0.024),
        round_cone((xs[3], 2.05, back), (xs[3] - 0.26, 2.12, back), 0.022, 0.018),
        smooth=0.03,
    )
    hood = join(round_cone((xs[3] - 0.26, 2.10, back), (xs[3] - 0.26, 2.03, back), 0.03, 0.11), smooth=0.0)
    glass = round_cone((xs[3] - 0.26, 1.97, back), (xs[3] - 0.26, 1.91, back), 0.075, 0.055)
    low, high = (-2.7, -0.42, back - 0.2), (2.7, 0.95, back + 0.2)
    lamp_low, lamp_high = (xs[3] - 0.45, 0.55, back - 0.2), (xs[3] + 0.12, 2.3, back + 0.2)
    return [
        _round("posts", POSTS, posts, low, high, 0.022, 620),
        _round("rope", ROPE, join(*ropes, smooth=0.01), low, high, 0.014, 760),
        _round("lamp post", IRON, join(pole, hood), lamp_low, lamp_high, 0.014, 480),
        _round("lamp", LAMP, glass, lamp_low, lamp_high, 0.012, 260),
    ]


def _edge() -> list[Piece]:
    """A bollard to tie the ferry to, a step down, and the water."""
    foot = round_cone((-2.2, -0.05, 1.15), (-2.2, 0.22, 1.15), 0.10, 0.085)
    knob = round_cone((-2.2, 0.26, 1.15), (-2.2, 0.30, 1.15), 0.125, 0.115)
    step = _block((1.2, -0.30, DEEP + 0.02), (2.4, -0.24, DEEP + 0.38))
    water = _sheet(-0.44, (-FAR, -FAR), (FAR, FAR))
    return [
        _round("bollard", IRON, join(foot, knob, smooth=0.03), (-2.4, -0.2, 0.95), (-2.0, 0.48, 1.35), 0.014, 420),
        _piece("step", PLANKS, *step),
        _piece("water", WATER, *water),
    ]


def landing() -> Figure:
    """One joint that carries all of it; a set, which lies under the actors' shadows."""
    moves = [Channel(n, f"translate {a}", Unit.LENGTH) for n, a in (("across", "x"), ("up", "y"), ("forward", "z"))]
    turns = [Channel("turn", "rotate y", Unit.ANGLE)]
    rig = Rig(
        joints=(Joint("landing", -1, (0.0, 0.0, 0.0)),),
        controls=(Control("whole landing", ControlKind.WHOLE, 0, (*moves, *turns)),),
        parts=(Part("set", (0,)),),
    )
    pieces = tuple(_deck() + _posts() + _edge())
    return Figure("landing", rig, Model(pieces), "cast:landing", hex_colour(PLANKS))
