"""The porter's mouth: lips, teeth and the dark between, laid on the beard, with shapes that open, widen and curve it."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from bovrin.shot import Piece
from tools.cast.sdf import Shape

Floats = NDArray[np.float64]

ROUND = 20
HEIGHT = 1.298
LIP = 0.0068
SHAPES = ("open", "wide", "smile", "teeth")


@dataclass(frozen=True)
class Form:
    """Half width and half height of the opening, how much its corners are up, half height of the teeth; metres."""

    wide: float = 0.028
    high: float = 0.0009
    curve: float = 0.0035
    teeth: float = 0.0

    def with_shape(self, name: str) -> Form:
        """One shape at its full amount."""
        return {
            "open": replace(self, high=self.high + 0.021),
            "wide": replace(self, wide=self.wide + 0.013),
            "smile": replace(self, curve=self.curve + 0.011),
            "teeth": replace(self, teeth=0.0085),
        }[name]


def mouth_pieces(beard: Shape, joint: int, colours: dict[str, tuple[float, float, float]]) -> list[Piece]:
    """Lips, dark and teeth, carried by one joint; `colours`: of "lip", "mouth" and "teeth"."""
    made = []
    for name, build in (("mouth", _dark), ("teeth", _teeth), ("lip", _lips)):
        base, faces = build(beard, Form())
        shapes = {n: build(beard, Form().with_shape(n))[0] - base for n in SHAPES}
        made.append(_piece(name, colours[name], base, faces, shapes, joint))
    return made


def _piece(
    name: str,
    colour: tuple[float, float, float],
    places: Floats,
    faces: NDArray[np.uint32],
    shapes: dict[str, Floats],
    joint: int,
) -> Piece:
    count = len(places)
    weights = np.zeros((count, 4), np.float32)
    weights[:, 0] = 1
    joints = np.zeros((count, 4), np.uint16)
    joints[:, 0] = joint
    ahead = np.tile([0.0, 0.0, 1.0], (count, 1)).astype(np.float32)
    morphs = tuple((n, d.astype(np.float32)) for n, d in shapes.items() if np.abs(d).max() > 1e-6)
    return Piece(name, colour, places.astype(np.float32), ahead, joints, weights, faces, morphs=morphs)


def _loop(form: Form, grow: float) -> Floats:
    """Points (ROUND, 2) around the opening, across and up, grown by as much; its corners follow the curve."""
    angle = np.linspace(0, 2 * np.pi, ROUND, endpoint=False)
    across = (form.wide + grow) * np.cos(angle)
    up = (form.high + grow) * np.sin(angle) * np.sqrt(np.abs(np.sin(angle)) * 0.3 + 0.7)
    return np.stack([across, up + _bow(form, across)], 1)


def _bow(form: Form, across: Floats) -> Floats:
    return form.curve * ((across / form.wide) ** 2 - 0.45)


def _laid(beard: Shape, flat: Floats, out: Floats | float) -> Floats:
    """Points (N, 2) put on the beard's front, so far outside it: (N, 3)."""
    far = np.full(len(flat), 0.26)
    for _ in range(60):  # step along the line of sight by the distance that is known to be free
        points = np.stack([flat[:, 0], flat[:, 1] + HEIGHT, far], 1)
        far = far - np.maximum(beard(points), 0.0) * 0.9
    return np.stack([flat[:, 0], flat[:, 1] + HEIGHT, far + out], 1)


def _rings(*rings: Floats) -> tuple[Floats, NDArray[np.uint32]]:
    """Loops joined by strips of triangles, seen from the front; the first is the outermost."""
    n = np.arange(ROUND)
    after = (n + 1) % ROUND
    faces = []
    for k in range(len(rings) - 1):
        a, b = k * ROUND, (k + 1) * ROUND
        faces += [np.stack([a + n, a + after, b + after], 1), np.stack([a + n, b + after, b + n], 1)]
    return np.concatenate(rings), np.concatenate(faces).astype(np.uint32)


def _lips(beard: Shape, form: Form) -> tuple[Floats, NDArray[np.uint32]]:
    outer = _laid(beard, _loop(form, LIP), -0.003)
    ridge = _laid(beard, _loop(form, 0.62 * LIP), 0.0062)
    inner = _laid(beard, _loop(form, 0.0), 0.0035)
    return _rings(outer, ridge, inner)


def _dark(beard: Shape, form: Form) -> tuple[Floats, NDArray[np.uint32]]:
    edge = _laid(beard, _loop(form, 0.002), 0.0016)
    middle = _laid(beard, 0.4 * _loop(form, 0.0), 0.0016)
    return _rings(edge, middle, _centre(beard, middle, 0.0016))


def _teeth(beard: Shape, form: Form) -> tuple[Floats, NDArray[np.uint32]]:
    """A bar that follows the curve; at rest it has no height and lies inside the beard."""
    angle = np.linspace(0, 2 * np.pi, ROUND, endpoint=False)
    square = lambda x: np.sign(x) * np.abs(x) ** 0.35
    across = 0.82 * form.wide * square(np.cos(angle))
    up = min(form.teeth, 1.0) * square(np.sin(angle))
    flat = np.stack([across, up + _bow(form, across)], 1)
    out = 0.0028 if form.teeth > 0 else -0.006
    edge = _laid(beard, flat, out)
    half = _laid(beard, flat * [0.5, 0.5], out)
    return _rings(edge, half, _centre(beard, half, out))


def _centre(beard: Shape, ring: Floats, out: float) -> Floats:
    """The middle of a ring, on the surface as well, once for each of its points."""
    flat = ring[:, :2].mean(0) - [0.0, HEIGHT]
    return np.repeat(_laid(beard, flat[None], out), ROUND, 0)
