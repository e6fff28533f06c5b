"""Puts mesh, weights and rig of the porter together."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.shot import Figure, Model, Piece
from tools.cast.mesh import bone_weights, four_strongest, mesh_shape, shape_normals, share_with_helpers, smoothed
from tools.cast.mouth import mouth_pieces
from tools.cast.porter import COLOURS, MIRRORED, Region, beard, regions, sleeve
from tools.cast.porter_rig import FINGERS, HAND_DOWN, HELPERS, Skeleton, porter_rig, skeleton
from tools.cast.sdf import mirrored

Floats = NDArray[np.float64]


def hex_colour(text: str) -> tuple[float, float, float]:
    """sRGB 0..1 of "#RRGGBB"."""
    return tuple(round(int(text[i : i + 2], 16) / 255, 5) for i in (1, 3, 5))  # type: ignore[return-value]


def bones_of(bones: Skeleton) -> dict[int, tuple[Floats, Floats, float]]:
    """A tapered bone for each joint that carries skin: from, to, radius."""
    place = bones.place
    up = np.array([0, 1.0, 0])
    found = {
        "hips": (place("hips") + 0.0 * up, place("hips") + 0.09 * up, 0.125),
        "spine": (place("spine") + 0.02 * up, place("spine") + 0.12 * up, 0.160),
        "chest": (place("chest") + 0.02 * up, place("chest") + 0.14 * up, 0.155),
        "neck": (place("neck"), place("neck") + 0.06 * up, 0.070),
        "head": (place("head") + 0.03 * up, place("head") + 0.25 * up, 0.130),
        "beard": (place("beard") + [0, -0.02, 0.02], place("beard") + [0, -0.09, 0.0], 0.090),
    }
    for side, sign in (("left", 1.0), ("right", -1.0)):
        found.update(_side_bones(place, side, np.array([sign, 1.0, 1.0])))
    return {bones.at(name): bone for name, bone in found.items()}


def _side_bones(place, side: str, flip: Floats) -> dict[str, tuple[Floats, Floats, float]]:  # type: ignore[no-untyped-def]
    def p(name: str) -> Floats:
        return np.asarray(place(f"{side} {name}"))

    down = HAND_DOWN * flip
    arm = p("forearm") - p("upper arm")
    found = {
        "shoulder": (p("shoulder") + [0.05 * flip[0], 0, 0], p("upper arm") + [-0.025 * flip[0], 0.015, 0], 0.075),
        "upper arm": (p("upper arm") + 0.22 * arm, p("forearm"), 0.068),
        "forearm": (p("forearm"), p("hand"), 0.060),
        "hand": (p("hand"), p("hand") + 0.085 * down, 0.046),
        "thigh": (p("thigh") + [0, -0.03, 0], p("shin"), 0.092),
        "shin": (p("shin"), p("foot") + [0, 0.05, 0], 0.082),
        "foot": (p("foot"), p("foot") + [0, -0.055, 0.075], 0.066),
        "toes": (p("toes") + [0, 0.004, 0.018], p("toes") + [0, 0.0, 0.075], 0.064),
    }
    for finger in ("thumb", *FINGERS):
        base, tip = p(finger), p(f"{finger} tip")
        found[finger] = (base + 0.25 * (tip - base), tip, 0.028)
        found[f"{finger} tip"] = (tip, tip + 0.8 * (tip - base), 0.026)
    return {f"{side} {name}": bone for name, bone in found.items()}


def _weights(region: Region, vertices: Floats, faces: NDArray[np.int64], bones: Skeleton) -> Floats:
    total = len(bones.names)
    if len(region.joints) == 1:
        rigid = np.zeros((len(vertices), total))
        rigid[:, bones.at(region.joints[0])] = 1
        return rigid
    carried = {j: b for j, b in bones_of(bones).items() if bones.names[j] in region.joints}
    small = region.name == "left hand"
    loose = region.name in ("apron", "pocket", "belt")
    weights = bone_weights(vertices, carried, total, 0.009 if small else 0.035 if loose else 0.022)
    if loose:
        weights = _hanging(weights, vertices, bones)
    if region.name == "shirt":
        weights = _armpits(weights, vertices, bones)
    weights = smoothed(weights, faces, 2 if small else 6 if region.name == "trousers" else 3)
    helpers = []
    for side in ("left", "right"):
        for leader in HELPERS:
            joint = bones.at(f"{side} {leader}")
            helpers.append((bones.at(f"{side} {leader} half"), bones.parents[joint], joint))
    return share_with_helpers(weights, helpers)


ARMS = ("upper arm", "forearm")


def _armpits(weights: Floats, vertices: Floats, bones: Skeleton) -> Floats:
    """What is not sleeve does not go with the arms, however near they hang."""
    arm = sleeve()
    off = np.minimum(arm(vertices), mirrored(arm)(vertices))
    own = np.exp(-np.clip(off, 0.0, 1.0) / 0.012)
    result = weights.copy()
    for side in ("left", "right"):
        for name in ARMS:
            result[:, bones.at(f"{side} {name}")] *= own
    return result / np.maximum(result.sum(1, keepdims=True), 1e-9)


def _hanging(weights: Floats, vertices: Floats, bones: Skeleton) -> Floats:
    """Cloth below the waist swings from the belt, each side with its own thigh."""
    low = np.clip((0.84 - vertices[:, 1]) / 0.14, 0, 1)
    low = low * low * (3 - 2 * low)
    side = np.clip(0.5 + vertices[:, 0] / 0.30, 0, 1)
    result = weights * (1 - low)[:, None]
    result[:, bones.at("left apron")] += low * side
    result[:, bones.at("right apron")] += low * (1 - side)
    return result


def _piece(region: Region, bones: Skeleton) -> Piece:
    vertices, faces = mesh_shape(region.shape, region.low, region.high, region.cell, region.triangles)
    joints, weights = four_strongest(_weights(region, vertices, faces, bones))
    return Piece(
        name=region.name,
        colour=hex_colour(COLOURS[region.colour]),
        positions=vertices.astype(np.float32),
        normals=shape_normals(region.shape, vertices, faces).astype(np.float32),
        joints=joints,
        weights=weights,
        triangles=faces.astype(np.uint32),
    )


def _mirrored(piece: Piece, bones: Skeleton) -> Piece:
    swap = [
        bones.at(n.replace("left ", "right ", 1)) if n.startswith("left ") else i for i, n in enumerate(bones.names)
    ]
    flip = np.array([-1, 1, 1], np.float32)
    return Piece(
        name=piece.name.replace("left", "right"),
        colour=piece.colour,
        positions=piece.positions * flip,
        normals=piece.normals * flip,
        joints=np.array(swap, np.uint16)[piece.joints],
        weights=piece.weights.copy(),
        triangles=piece.triangles[:, ::-1].copy(),
    )


def porter() -> Figure:
    """The porter."""
    bones = skeleton()
    pieces: list[Piece] = []
    for region in regions(bones):
        piece = _piece(region, bones)
        pieces.append(piece)
        if region.name in MIRRORED:
            pieces.append(_mirrored(piece, bones))
    colours = {name: hex_colour(COLOURS[name]) for name in ("lip", "mouth", "teeth")}
    pieces += mouth_pieces(beard(), bones.at("beard"), colours)
    return Figure("porter", porter_rig(), Model(tuple(pieces)), "cast:porter", hex_colour(COLOURS["shirt"]))
