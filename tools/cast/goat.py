"""The goat: one coat over body and legs, hoofs, horns, ears, beard and tail that come late."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.brought.guess import guess_build
from bovrin.figure.making.rig_making import make_rig
from bovrin.shot import Channel, Control, Figure, Model, Piece, Rig, Unit
from tools.cast.dress import hex_colour
from tools.cast.mesh import bone_weights, four_strongest, mesh_shape, shape_normals, smoothed
from tools.cast.porter_rig import Skeleton, upright
from tools.cast.sdf import Shape, box, cut, ellipsoid, join, meet, mirrored, round_cone, shell

Floats = NDArray[np.float64]
Point = tuple[float, float, float]

COAT, DARK, HORN, HOOF, INK, NOSE = "#EAE2D2", "#C7BBA3", "#8A7C62", "#37303B", "#29272F", "#B59A86"
WHITE = "#F7F1E2"

MIDDLE: dict[str, tuple[str, Point]] = {
    "root": ("", (0, 0, 0)),
    "hips": ("root", (0, 0.60, -0.26)),
    "spine": ("hips", (0, 0.615, -0.06)),
    "chest": ("spine", (0, 0.605, 0.14)),
    "neck": ("chest", (0, 0.675, 0.27)),
    "upper neck": ("neck", (0, 0.80, 0.335)),
    "head": ("upper neck", (0, 0.905, 0.385)),
    "jaw": ("head", (0, 0.875, 0.405)),
    "beard": ("jaw", (0, 0.825, 0.485)),
    "tail": ("hips", (0, 0.655, -0.375)),
    "tail tip": ("tail", (0, 0.735, -0.435)),
}
SIDE: dict[str, tuple[str, Point]] = {
    "ear": ("head", (0.060, 0.950, 0.350)),
    "ear tip": ("left ear", (0.130, 0.945, 0.330)),
    "lid": ("head", (0.0545, 0.926, 0.4230)),
    "eye": ("head", (0.0545, 0.926, 0.4230)),
    "hind upper leg": ("hips", (0.088, 0.555, -0.255)),
    "hind lower leg": ("left hind upper leg", (0.096, 0.315, -0.320)),
    "hind ankle": ("left hind lower leg", (0.096, 0.095, -0.275)),
    "hind hoof": ("left hind ankle", (0.096, 0.035, -0.245)),
    "fore upper leg": ("chest", (0.088, 0.520, 0.175)),
    "fore lower leg": ("left fore upper leg", (0.092, 0.310, 0.195)),
    "fore ankle": ("left fore lower leg", (0.092, 0.095, 0.170)),
    "fore hoof": ("left fore ankle", (0.092, 0.035, 0.200)),
}
EYE = np.array(SIDE["lid"][1])


def goat_skeleton() -> Skeleton:
    """All joints; limbs' axes run along their bones."""
    bones = Skeleton()
    for name, (parent, place) in MIDDLE.items():
        bones.add(name, parent, place)
    below = {parent.removeprefix("left "): name for name, (parent, _) in SIDE.items() if parent.startswith("left ")}
    for side, sign in (("left", 1.0), ("right", -1.0)):
        for name, (parent, place) in SIDE.items():
            here = np.array(place) * [sign, 1, 1]
            turn = None
            if name in (
                "lid",
                "eye",
            ):  # eyes look aside: lids turn about the line of sight's own forward axis, down and out
                turn = np.array([[0, 0, sign], [0, 1, 0], [-sign, 0, 0]], float)
            if name in below and "leg" in name:
                turn = upright(np.array(SIDE[below[name]][1]) * [sign, 1, 1] - here)
            bones.add(f"{side} {name}", parent.replace("left", side), here, turn)
    return bones


def _at(name: str) -> Floats:
    return np.array((MIDDLE.get(name) or SIDE[name])[1])


def coat() -> Shape:
    """Trunk, neck, head and legs in one."""
    trunk = join(
        ellipsoid((0, 0.585, 0.135), (0.135, 0.160, 0.165)),
        ellipsoid((0, 0.570, -0.045), (0.140, 0.145, 0.220)),
        ellipsoid((0, 0.590, -0.240), (0.130, 0.140, 0.150)),
        smooth=0.09,
    )
    neck = join(
        round_cone((0, 0.620, 0.190), (0, 0.760, 0.300), 0.112, 0.088),
        round_cone((0, 0.760, 0.300), (0, 0.895, 0.372), 0.088, 0.070),
        smooth=0.04,
    )
    skull = join(
        ellipsoid((0, 0.920, 0.385), (0.072, 0.070, 0.085), 0.35),
        round_cone((0, 0.905, 0.410), (0, 0.862, 0.515), 0.058, 0.042),
        smooth=0.035,
    )
    tail = round_cone(_at("tail"), _at("tail tip") + [0, 0.05, -0.025], 0.036, 0.022)
    legs = [mirrored(leg) if flip else leg for leg in (_leg("hind"), _leg("fore")) for flip in (False, True)]
    return join(join(trunk, neck, smooth=0.07), skull, tail, *legs, smooth=0.035)


def _leg(end: str) -> Shape:
    top, bend, ankle, hoof = (_at(f"{end} {n}") for n in ("upper leg", "lower leg", "ankle", "hoof"))
    thick = 0.074 if end == "hind" else 0.064
    return join(
        round_cone(top + [0, 0.01, 0], bend, thick, 0.038),
        round_cone(bend, ankle, 0.037, 0.029),
        round_cone(ankle, hoof + [0, 0.012, -0.006], 0.031, 0.031),
        smooth=0.02,
    )


def hoof(end: str) -> Shape:
    """The left hoof of one pair: a block that is wider at the ground, cloven in front."""
    x, _, z = _at(f"{end} hoof")
    block = round_cone((x, 0.042, z - 0.012), (x, 0.020, z + 0.010), 0.034, 0.041)
    cleft = box((x, 0.02, z + 0.055), (0.0035, 0.05, 0.03))
    ground = lambda p: -p[:, 1]
    top = lambda p: p[:, 1] - 0.052
    return meet(cut(block, cleft, smooth=0.004), ground, top, smooth=0.006)


def horn() -> Shape:
    """The left horn, swept back."""
    a, b, c = (0.026, 0.975, 0.372), (0.040, 1.075, 0.335), (0.052, 1.135, 0.255)
    return join(round_cone(a, b, 0.024, 0.018), round_cone(b, c, 0.018, 0.006), smooth=0.02)


def ear() -> Shape:
    """The left ear: a leaf that hangs out to the side."""
    root, tip = _at("ear"), _at("ear tip")
    leaf = join(
        round_cone(root, root + 0.6 * (tip - root), 0.020, 0.033),
        round_cone(root + 0.6 * (tip - root), tip + [0.045, -0.012, 0], 0.033, 0.010),
        smooth=0.02,
    )
    flat = lambda p: np.abs((p[:, 2] - root[2]) * 0.94 - (p[:, 1] - root[1]) * 0.34) - 0.011
    return meet(leaf, flat, smooth=0.01)


def beard() -> Shape:
    """A tuft under the chin."""
    return round_cone((0, 0.835, 0.480), (0, 0.735, 0.470), 0.026, 0.008)


def lid() -> Shape:
    """The left upper lid, drawn up."""
    ball = shell(ellipsoid(EYE, (0.0230, 0.0235, 0.0228)), 0.0, 0.004)
    up = lambda p: -((p[:, 1] - EYE[1]) * np.cos(1.2) - (p[:, 0] - EYE[0]) * np.sin(1.2))
    return meet(ball, up, smooth=0.002)


BALL = 0.0205


def pupil() -> Shape:
    """The left pupil: a broad bar that lies on the ball and turns about its middle."""
    over = ellipsoid(EYE, (BALL + 0.0014,) * 3)
    bar = lambda p: np.maximum(
        np.hypot((p[:, 2] - EYE[2]) * 0.75, (p[:, 1] - EYE[1]) * 1.15) - 0.0098, EYE[0] + 0.012 - p[:, 0]
    )
    return meet(over, bar, smooth=0.001)


def _bones(bones: Skeleton) -> dict[int, tuple[Floats, Floats, float]]:
    """A tapered bone for each joint that carries the coat."""
    place = bones.place
    found = {
        "hips": (place("hips") + [0, -0.01, -0.03], place("hips") + [0, -0.01, 0.07], 0.115),
        "spine": (place("spine") + [0, -0.04, -0.04], place("spine") + [0, -0.04, 0.10], 0.125),
        "chest": (place("chest") + [0, -0.02, 0.0], place("chest") + [0, 0.0, 0.05], 0.130),
        "neck": (place("neck"), place("upper neck"), 0.085),
        "upper neck": (place("upper neck"), place("head") + [0, -0.03, -0.015], 0.070),
        "head": (place("head") + [0, 0.01, 0], (0, 0.885, 0.50), 0.055),
        "jaw": (np.array([0, 0.845, 0.44]), np.array([0, 0.832, 0.515]), 0.012),
        "tail": (place("tail"), place("tail tip"), 0.030),
        "tail tip": (place("tail tip"), place("tail tip") + [0, 0.05, -0.025], 0.020),
    }
    for side in ("left", "right"):
        for end in ("hind", "fore"):
            top, bend, ankle, hoof_at = (
                place(f"{side} {end} {n}") for n in ("upper leg", "lower leg", "ankle", "hoof")
            )
            found[f"{side} {end} upper leg"] = (top + 0.15 * (bend - top), bend, 0.048)
            found[f"{side} {end} lower leg"] = (bend, ankle, 0.032)
            found[f"{side} {end} ankle"] = (ankle, hoof_at, 0.030)
    return {bones.at(name): (np.asarray(a, float), np.asarray(b, float), r) for name, (a, b, r) in found.items()}


def _skin(name: str, colour: str, shape: Shape, bounds: tuple[Point, Point], cell: float, most: int, weights) -> Piece:  # type: ignore[no-untyped-def]
    vertices, faces = mesh_shape(shape, bounds[0], bounds[1], cell, most)
    joints, shares = four_strongest(weights(vertices, faces))
    return Piece(
        name,
        hex_colour(colour),
        vertices.astype(np.float32),
        shape_normals(shape, vertices, faces).astype(np.float32),
        joints,
        shares,
        faces.astype(np.uint32),
    )


def _pieces(bones: Skeleton) -> list[Piece]:
    carried, total = _bones(bones), len(bones.names)

    def soft(vertices: Floats, faces: NDArray[np.int64]) -> Floats:
        return smoothed(bone_weights(vertices, carried, total, 0.020), faces, 3)

    def rigid(joint: str):  # type: ignore[no-untyped-def]
        def weights(vertices: Floats, _faces: NDArray[np.int64]) -> Floats:
            found = np.zeros((len(vertices), total))
            found[:, bones.at(joint)] = 1
            return found

        return weights

    def ears(vertices: Floats, _faces: NDArray[np.int64]) -> Floats:
        share = np.clip((vertices[:, 0] - 0.075) / 0.07, 0, 1)
        found = np.zeros((len(vertices), total))
        found[:, bones.at("left ear tip")], found[:, bones.at("left ear")] = share, 1 - share
        return found

    eye = ellipsoid(EYE, (BALL, BALL, BALL))
    nose = ellipsoid((0, 0.873, 0.556), (0.024, 0.015, 0.012))
    line = round_cone((0.004, 0.842, 0.545), (0.034, 0.850, 0.515), 0.0036, 0.003)
    left = [
        _skin(
            "left fore hoof",
            HOOF,
            hoof("fore"),
            ((0.03, -0.02, 0.12), (0.16, 0.09, 0.27)),
            0.006,
            220,
            rigid("left fore hoof"),
        ),
        _skin(
            "left hind hoof",
            HOOF,
            hoof("hind"),
            ((0.03, -0.02, -0.32), (0.16, 0.09, -0.17)),
            0.006,
            220,
            rigid("left hind hoof"),
        ),
        _skin("left horn", HORN, horn(), ((-0.02, 0.93, 0.22), (0.09, 1.16, 0.41)), 0.006, 220, rigid("head")),
        _skin("left ear", DARK, ear(), ((0.02, 0.88, 0.27), (0.22, 1.02, 0.42)), 0.005, 240, ears),
        _skin("left eye", WHITE, eye, ((0.02, 0.89, 0.39), (0.09, 0.96, 0.46)), 0.0030, 120, rigid("head")),
        _skin("left pupil", INK, pupil(), ((0.04, 0.90, 0.40), (0.09, 0.95, 0.45)), 0.0015, 60, rigid("left eye")),
        _skin("left lid", COAT, lid(), ((0.02, 0.89, 0.38), (0.09, 0.96, 0.47)), 0.0022, 240, rigid("left lid")),
        _skin("left mouth", INK, line, ((-0.02, 0.82, 0.48), (0.06, 0.87, 0.57)), 0.0025, 70, rigid("head")),
    ]
    middle = [
        _skin("coat", COAT, coat(), ((-0.22, -0.02, -0.52), (0.22, 1.03, 0.60)), 0.0095, 3400, soft),
        _skin("beard", DARK, beard(), ((-0.04, 0.70, 0.43), (0.04, 0.88, 0.53)), 0.005, 140, rigid("beard")),
        _skin("nose", NOSE, nose, ((-0.04, 0.84, 0.53), (0.04, 0.90, 0.58)), 0.004, 110, rigid("head")),
    ]
    return middle + [piece for one in left for piece in (one, _mirrored(one, bones))]


def _mirrored(piece: Piece, bones: Skeleton) -> Piece:
    swap = [
        bones.at(n.replace("left ", "right ", 1)) if n.startswith("left ") else i for i, n in enumerate(bones.names)
    ]
    flip = np.array([-1, 1, 1], np.float32)
    return replace(
        piece,
        name=piece.name.replace("left", "right"),
        positions=piece.positions * flip,
        normals=piece.normals * flip,
        joints=np.array(swap, np.uint16)[piece.joints],
        triangles=piece.triangles[:, ::-1].copy(),
    )


def goat_rig() -> Rig:
    """As the joints say by themselves, with words of its own for lids and jaw."""
    joints = goat_skeleton().joints()
    rig = make_rig(joints, guess_build(joints))
    words = {"left lid": "close", "right lid": "close", "jaw": "open"}
    return replace(rig, controls=tuple(_worded(c, words.get(c.name, "")) for c in rig.controls))


def _worded(control: Control, word: str) -> Control:
    if not word:
        return control
    return replace(control, channels=(Channel(word, "rotate x", Unit.ANGLE),))


def goat() -> Figure:
    """The goat."""
    bones = goat_skeleton()
    return Figure("goat", goat_rig(), Model(tuple(_pieces(bones))), "cast:goat", hex_colour(DARK))
