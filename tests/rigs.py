"""Figures of other builds, made up for the tests: a goat whose joints may lie any way at rest."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.rotations import matrix_quaternion, vector_matrix
from bovrin.shot import Channel, Control, ControlKind, Figure, Joint, Limb, Model, Part, Piece, Rig, Unit

Floats = NDArray[np.float64]

MOVE = tuple(Channel(n, f"translate {a}", Unit.LENGTH) for n, a in (("across", "x"), ("up", "y"), ("forward", "z")))
TURN = tuple(Channel(n, f"rotate {a}", Unit.ANGLE) for n, a in (("turn", "y"), ("tilt", "x"), ("roll", "z")))
REACH = Channel("reach", "reach", Unit.SWITCH, 1.0)
ANCHOR = Channel("anchor", "anchor", Unit.SWITCH)
PLANTED = Channel("anchor", "anchor", Unit.SWITCH, 1.0)
BONES = tuple(
    Channel(f"{b} {w}", f"{b} {w}", u, d)
    for w, u, d in (("twist", Unit.ANGLE, 0.0), ("length", Unit.AMOUNT, 1.0))
    for b in ("upper", "lower")
)

TRUNK = {
    "root": ("", (0, 0, 0)),
    "hips": ("root", (0, 0.62, -0.3)),
    "chest": ("hips", (0, 0.64, 0.25)),
    "neck": ("chest", (0, 0.72, 0.38)),
    "head": ("neck", (0, 0.95, 0.5)),
    "tail": ("hips", (0, 0.68, -0.42)),
}
LEGS = {
    "fore": ("chest", ((0.11, 0.55, 0.27), (0.12, 0.3, 0.22), (0.12, 0.05, 0.26))),
    "hind": ("hips", ((0.11, 0.52, -0.3), (0.12, 0.3, -0.22), (0.12, 0.05, -0.32))),
}


def goat(seed: int | None = None) -> Figure:
    """A four-legged figure with reach on every leg; with a seed its joints' rest axes are turned at random."""
    names, parents, places = _skeleton()
    rng = np.random.default_rng(seed)
    turns = (
        np.tile(np.eye(3), (len(names), 1, 1)) if seed is None else vector_matrix(rng.normal(0, 1.5, (len(names), 3)))
    )
    joints = []
    for name, parent, place, turn in zip(names, parents, places, turns, strict=True):
        above = turns[parent].T if parent >= 0 else np.eye(3)
        offset = above @ (place - (places[parent] if parent >= 0 else 0.0))
        q = matrix_quaternion(above @ turn)
        joints.append(Joint(name, parent, tuple(map(float, offset)), tuple(map(float, q))))
    controls, limbs, parts = _controls(names, places)
    lefts = [c.name for c in controls if c.name.startswith("left ")]
    rig = Rig(
        tuple(joints),
        tuple(controls),
        tuple(parts),
        tuple(limbs),
        pairs=tuple((n, n.replace("left", "right", 1)) for n in lefts),
    )
    return Figure("goat", rig, Model(()), "goat.glb", (0.6, 0.6, 0.6))


def _skeleton() -> tuple[list[str], list[int], Floats]:
    names, parents, places = [], [], []
    for name, (parent, place) in TRUNK.items():
        parents.append(names.index(parent) if parent else -1)
        names.append(name)
        places.append(place)
    for side, flip in (("left", 1.0), ("right", -1.0)):
        for leg, (parent, points) in LEGS.items():
            above = names.index(parent)
            for bone, (x, y, z) in zip(("thigh", "shin", "hoof"), points, strict=True):
                parents.append(above)
                above = len(names)
                names.append(f"{side} {leg} {bone}")
                places.append((flip * x, y, z))
    return names, parents, np.array(places, float)


def _controls(names: list[str], places: Floats) -> tuple[list[Control], list[Limb], list[Part]]:
    size = tuple(Channel(n, n, Unit.AMOUNT, 1.0) for n in ("stretch", "size"))
    controls = [Control("whole goat", ControlKind.WHOLE, 0, (*MOVE, *TURN, *size))]
    controls.append(Control("hips", ControlKind.JOINT, names.index("hips"), (*MOVE, *TURN, ANCHOR)))
    controls += [
        Control(n, ControlKind.JOINT, names.index(n), (*TURN, ANCHOR)) for n in ("chest", "neck", "head", "tail")
    ]
    parts = [Part("body", tuple(range(len(controls))))]
    limbs = []
    for side in ("left", "right"):
        for leg in LEGS:
            first = len(controls)
            upper, middle, end = (names.index(f"{side} {leg} {b}") for b in ("thigh", "shin", "hoof"))
            limb, word = len(limbs), f"{side} {leg}"
            controls.append(Control(f"{word} foot", ControlKind.GOAL, end, (*MOVE, *TURN, REACH, PLANTED), limb=limb))
            controls.append(Control(f"{word} knee", ControlKind.POLE, middle, (*MOVE, *BONES, ANCHOR), limb=limb))
            for bone, joint in (("thigh", upper), ("shin", middle), ("hoof", end)):
                controls.append(Control(f"{word} {bone}", ControlKind.JOINT, joint, TURN, limb=limb))
            parts.append(Part(f"{word} leg", tuple(range(first, len(controls))), side))
            pole = places[middle] + np.array([0, 0, -0.5 if leg == "fore" else 0.5])
            carriers = (names.index(LEGS[leg][0]), end)
            limbs.append(Limb(f"{word} leg", upper, middle, end, first, first + 1, tuple(map(float, pole)), carriers))
    return controls, limbs, parts


def one_bone() -> Figure:
    """A post with an arm of one bone: no limbs, no pairs."""
    joints = (Joint("post", -1, (0.0, 0.0, 0.0)), Joint("arm", 0, (0.0, 1.0, 0.0)), Joint("hand", 1, (0.4, 0.0, 0.0)))
    controls = (
        Control("whole post", ControlKind.WHOLE, 0, (*MOVE, *TURN)),
        Control("arm", ControlKind.JOINT, 1, TURN),
        Control("hand", ControlKind.JOINT, 2, TURN),
    )
    rig = Rig(joints, controls, (Part("post", (0,)), Part("arm", (1, 2))))
    return Figure("post", rig, Model((_box(),)), "post.glb", (0.5, 0.4, 0.3))


def _box() -> Piece:
    corners = np.array([[x, y, z] for x in (-0.05, 0.05) for y in (0, 1) for z in (-0.05, 0.05)], np.float32)
    faces = np.array(
        [[0, 1, 3], [0, 3, 2], [4, 6, 7], [4, 7, 5], [0, 4, 5], [0, 5, 1], [2, 3, 7], [2, 7, 6]], np.uint32
    )
    weights = np.zeros((8, 4), np.float32)
    weights[:, 0] = 1
    normals = (corners / np.linalg.norm(corners + 1e-3, axis=1, keepdims=True)).astype(np.float32)
    return Piece("box", (0.5, 0.4, 0.3), corners, normals, np.zeros((8, 4), np.uint16), weights, faces)


def random_values(rig: Rig, seed: int, turn: float = 0.4, move: float = 0.05, count: int = 1) -> Floats:
    """Poses (count, C) about the default: angles and lengths at random; switches and amounts at their defaults."""
    rng = np.random.default_rng(seed)
    values = np.tile(np.array(rig.defaults), (count, 1))
    for i, channel in enumerate(rig.channels):
        if channel.unit is Unit.ANGLE:
            values[:, i] += rng.normal(0, turn, count)
        elif channel.unit is Unit.LENGTH:
            values[:, i] += rng.normal(0, move, count)
    return values


def stiff() -> Rig:
    """Three joints of which only the last can be posed."""
    joints = (Joint("base", -1, (0.0, 0.0, 0.0)), Joint("plate", 0, (0.0, 0.1, 0.0)), Joint("knob", 1, (0.0, 0.1, 0.0)))
    return Rig(joints, (Control("knob", ControlKind.JOINT, 2, MOVE + TURN),), (Part("all", (0,)),))
