"""The porter's skeleton and controls, in metres; left is +x, he faces +z."""

from __future__ import annotations

from dataclasses import dataclass, field

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.figure.stages.gaze import GAZE_CHANNELS
from bovrin.motion.rotations import inverse, matrix_quaternion, multiply, quaternion_matrix
from bovrin.shot import Bend, Channel, Control, ControlKind, Follow, Foot, Joint, Limb, Part, Rig, Side, Unit
from tools.cast.mouth import SHAPES

Floats = NDArray[np.float64]

MIDDLE: dict[str, tuple[str, tuple[float, float, float]]] = {
    "root": ("", (0, 0, 0)),
    "hips": ("root", (0, 0.66, -0.005)),
    "spine": ("hips", (0, 0.80, -0.01)),
    "chest": ("spine", (0, 0.98, -0.01)),
    "neck": ("chest", (0, 1.17, -0.01)),
    "head": ("neck", (0, 1.26, 0.0)),
    "bobble": ("head", (0, 1.703, -0.01)),
    "beard": ("head", (0, 1.315, 0.07)),
}

SIDE: dict[str, tuple[str, tuple[float, float, float]]] = {
    "shoulder": ("chest", (0.055, 1.125, -0.01)),
    "upper arm": ("shoulder", (0.195, 1.115, -0.01)),
    "forearm": ("upper arm", (0.325, 0.895, -0.028)),
    "hand": ("forearm", (0.425, 0.69, 0.008)),
    "brow": ("head", (0.062, 1.442, 0.135)),
    "lid": ("head", (0.057, 1.400, 0.1235)),
    "eye": ("head", (0.057, 1.400, 0.1235)),
    "thigh": ("hips", (0.10, 0.63, 0.0)),
    "shin": ("thigh", (0.113, 0.365, 0.018)),
    "foot": ("shin", (0.12, 0.105, -0.02)),
    "toes": ("foot", (0.128, 0.045, 0.10)),
}

HAND_DOWN = np.array([0.36, -0.925, 0.12]) / np.linalg.norm([0.36, -0.925, 0.12])
PALM = np.array([-0.93, -0.36, 0.0])
FINGERS = {"index": 0.054, "middle": 0.002, "little": -0.048}
HELPERS = {"upper arm": "shoulder", "forearm": "upper arm", "hand": "forearm", "thigh": "hips", "shin": "thigh"}

APRON = (0.09, 0.80, 0.13)
"""Where the left half of the apron's skirt swings from; it follows the thigh."""

_MOVE = (
    Channel("across", "translate x", Unit.LENGTH),
    Channel("up", "translate y", Unit.LENGTH),
    Channel("forward", "translate z", Unit.LENGTH),
)
_TURN = (
    Channel("turn", "rotate y", Unit.ANGLE),
    Channel("tilt", "rotate x", Unit.ANGLE),
    Channel("roll", "rotate z", Unit.ANGLE),
)
_REACH = Channel("reach", "reach", Unit.SWITCH, 1.0)
_ANCHOR = Channel("anchor", "anchor", Unit.SWITCH)
_PLANTED = Channel("anchor", "anchor", Unit.SWITCH, 1.0)
_STRETCH = Channel("stretch", "stretch", Unit.AMOUNT, 1.0)
_SIZE = Channel("size", "size", Unit.AMOUNT, 1.0)
_BONES = tuple(
    Channel(f"{bone} {what}", f"{bone} {what}", unit, rest)
    for what, unit, rest in (("twist", Unit.ANGLE, 0.0), ("length", Unit.AMOUNT, 1.0))
    for bone in ("upper", "lower")
)
_ROLLS = (Channel("heel", "heel", Unit.ANGLE), Channel("ball", "ball", Unit.ANGLE))
_CURL = (Channel("curl", "rotate x", Unit.ANGLE),)
_SPREAD = (Channel("spread", "rotate z", Unit.ANGLE),)


@dataclass
class Skeleton:
    """Joint names, parents, places and rest orientations in the world while the rig is put together."""

    names: list[str] = field(default_factory=list)
    parents: list[int] = field(default_factory=list)
    places: list[Floats] = field(default_factory=list)
    turns: list[Floats] = field(default_factory=list)

    def add(self, name: str, parent: str, place: ArrayLike, turn: Floats | None = None) -> int:
        """Add a joint; its parent must be there."""
        self.names.append(name)
        self.parents.append(self.names.index(parent) if parent else -1)
        self.places.append(np.asarray(place, float))
        self.turns.append(np.eye(3) if turn is None else turn)
        return len(self.names) - 1

    def at(self, name: str) -> int:
        """The index of a joint."""
        return self.names.index(name)

    def place(self, name: str) -> Floats:
        """Where a joint lies at rest."""
        return self.places[self.at(name)]

    def joints(self) -> tuple[Joint, ...]:
        """The joints relative to their parents."""
        result = []
        for name, parent, place, turn in zip(self.names, self.parents, self.places, self.turns, strict=True):
            q = matrix_quaternion(turn)
            if parent >= 0:
                back = inverse(matrix_quaternion(self.turns[parent]))
                place = quaternion_matrix(back) @ (place - self.places[parent])
                q = multiply(back, q)
            result.append(Joint(name, parent, tuple(map(float, place)), tuple(map(float, q))))
        return tuple(result)


def upright(bone: ArrayLike) -> Floats:
    """Axes whose y points back along a bone, with x as near the world's x as it can be."""
    y = -np.asarray(bone, float)
    y = y / np.linalg.norm(y)
    x = np.array([1.0, 0, 0]) - y[0] * y
    x /= np.linalg.norm(x)
    return np.stack([x, y, np.cross(x, y)], 1)


def hinged(bone: ArrayLike, toward: ArrayLike) -> Floats:
    """Axes whose y points back along a bone and whose positive x turn bends it `toward`."""
    b = np.asarray(bone, float) / np.linalg.norm(bone)
    x = np.cross(b, np.asarray(toward, float))
    x /= np.linalg.norm(x)
    return np.stack([x, -b, np.cross(x, -b)], 1)


def _flip(v: Floats, side: str) -> Floats:
    return v * np.array([1.0 if side == "left" else -1.0, 1.0, 1.0])


def skeleton() -> Skeleton:
    """All joints of the porter, helpers last."""
    bones = Skeleton()
    for name, (parent, place) in MIDDLE.items():
        bones.add(name, parent, place)
    for side in ("left", "right"):
        _add_side(bones, side)
    for side in ("left", "right"):
        for leader in HELPERS:
            index = bones.at(f"{side} {leader}")
            parent = bones.names[bones.parents[index]]
            bones.add(f"{side} {leader} half", parent, bones.places[index], bones.turns[index])
        thigh = bones.at(f"{side} thigh")
        bones.add(f"{side} apron", "hips", _flip(np.array(APRON), side), bones.turns[thigh])
    return bones


def _add_side(bones: Skeleton, side: str) -> None:
    following = {"shoulder": None, "upper arm": "forearm", "forearm": "hand", "thigh": "shin", "shin": "foot"}
    for name, (parent, place) in SIDE.items():
        full_parent = parent if parent in MIDDLE else f"{side} {parent}"
        here = _flip(np.array(place, float), side)
        turn = None
        if following.get(name):
            turn = upright(_flip(np.array(SIDE[str(following[name])][1], float), side) - here)
        elif name == "hand":
            turn = upright(_flip(HAND_DOWN, side))
        bones.add(f"{side} {name}", full_parent, here, turn)
    hand = np.array(SIDE["hand"][1], float)
    for finger, forward in FINGERS.items():
        base = hand + HAND_DOWN * (0.128 if finger != "little" else 0.118) + np.array([0, 0, forward])
        aim = HAND_DOWN + np.array([0, 0, forward * 1.2])
        _add_finger(bones, side, finger, base, aim, PALM, 0.053)
    thumb = hand + HAND_DOWN * 0.050 + np.array([-0.020, 0, 0.064])
    _add_finger(bones, side, "thumb", thumb, np.array([-0.12, -0.70, 0.70]), np.array([-0.75, -0.3, -0.6]), 0.054)


def _add_finger(bones: Skeleton, side: str, name: str, base: Floats, aim: Floats, palm: Floats, length: float) -> None:
    aim = aim / np.linalg.norm(aim)
    turn = hinged(_flip(aim, side), _flip(palm, side))
    bones.add(f"{side} {name}", f"{side} hand", _flip(base, side), turn)
    bones.add(f"{side} {name} tip", f"{side} {name}", _flip(base + aim * length, side), turn)


def porter_rig() -> Rig:
    """The porter's rig."""
    bones = skeleton()
    controls: list[Control] = []
    parts: list[tuple[str, list[str], str]] = []

    def add(
        name: str, joint: str, channels: tuple[Channel, ...], kind: ControlKind = ControlKind.JOINT, limb: int = -1
    ) -> str:
        controls.append(Control(name, kind, bones.at(joint), channels, "YXZ", limb))
        return name

    body = [add("whole figure", "root", (*_MOVE, *_TURN, _STRETCH, _SIZE), ControlKind.WHOLE)]
    body += [add("hips", "hips", (*_MOVE, *_TURN, _ANCHOR))]
    body += [add("spine", "spine", _TURN), add("chest", "chest", (*_TURN, _STRETCH, _ANCHOR))]
    head = [add("neck", "neck", _TURN), add("head", "head", (*_TURN, _STRETCH, _ANCHOR))]
    head += [add("beard", "beard", (Channel("open", "rotate x", Unit.ANGLE),)), add("bobble", "bobble", _TURN[1:])]
    head += [add(f"{side} brow", f"{side} brow", (_MOVE[1], _TURN[2])) for side in ("left", "right")]
    head += [
        add(f"{side} lid", f"{side} lid", (Channel("close", "rotate x", Unit.ANGLE),)) for side in ("left", "right")
    ]
    head += [add(f"{side} eye", f"{side} eye", _TURN[:2]) for side in ("left", "right")]
    head += [add("gaze", "head", GAZE_CHANNELS, ControlKind.GAZE)]
    head += [add("mouth", "beard", tuple(Channel(n, f"morph {n}", Unit.AMOUNT) for n in SHAPES))]
    parts += [("body", body, ""), ("head", head, "")]
    for side in ("left", "right"):
        parts.append((f"{side} arm", _arm(add, side, 0 if side == "left" else 1), side))
    for side in ("left", "right"):
        parts.append((f"{side} hand", _hand(add, side), side))
    for side in ("left", "right"):
        parts.append((f"{side} leg", _leg(add, side, 2 if side == "left" else 3), side))
    index = {control.name: i for i, control in enumerate(controls)}
    lefts = [c.name for c in controls if c.name.startswith("left ")]
    return Rig(
        joints=bones.joints(),
        controls=tuple(controls),
        parts=tuple(Part(name, tuple(index[c] for c in members), Side(side)) for name, members, side in parts),
        limbs=tuple(_limb(bones, index, side, arm) for arm in (True, False) for side in ("left", "right")),
        follows=tuple(
            Follow(bones.at(f"{s} {leader} half"), bones.at(f"{s} {leader}"), 0.5, leader == "hand")
            for s in ("left", "right")
            for leader in HELPERS
        )
        + tuple(Follow(bones.at(f"{s} apron"), bones.at(f"{s} thigh"), 0.9) for s in ("left", "right")),
        pairs=tuple((name, name.replace("left ", "right ", 1)) for name in lefts),
        bends=_bends(bones),
    )


FREE = 3.2
_SIDE_BENDS: dict[str, tuple[tuple[float, float, float], tuple[float, float, float], tuple[float, float, float]]] = {
    "shoulder": ((3.0, 3.0, 3.0), (-0.3, -0.5, -0.35), (0.3, 0.5, 0.7)),
    "upper arm": ((1.0, 1.6, 1.0), (-2.9, -1.6, -1.2), (1.2, 1.6, 2.6)),
    "forearm": ((1.0, 2.0, 2.0), (-2.45, -1.4, -0.1), (0.1, 1.4, 0.1)),
    "hand": ((2.5, 2.5, 2.5), (-1.2, -0.9, -0.6), (1.2, 0.9, 0.6)),
    "thigh": ((1.2, 2.0, 1.6), (-2.3, -0.9, -0.7), (0.9, 0.9, 1.0)),
    "shin": ((1.0, 3.0, 3.0), (-0.1, -0.1, -0.1), (2.5, 0.1, 0.1)),
    "foot": ((2.5, 2.5, 2.5), (-0.9, -0.6, -0.5), (0.9, 0.6, 0.5)),
}
_MIDDLE_BENDS = {
    "hips": ((4.0, 4.0, 4.0), (-FREE,) * 3, (FREE,) * 3),
    "spine": ((3.0, 3.5, 3.0), (-0.5, -0.5, -0.45), (0.9, 0.5, 0.45)),
    "chest": ((3.0, 3.5, 3.0), (-0.4, -0.6, -0.4), (0.8, 0.6, 0.4)),
    "neck": ((2.0, 2.0, 2.0), (-0.5, -0.7, -0.4), (0.6, 0.7, 0.4)),
    "head": ((2.0, 2.0, 2.0), (-0.6, -0.8, -0.5), (0.6, 0.8, 0.5)),
}


def _bends(bones: Skeleton) -> tuple[Bend, ...]:
    """What gives way when the body is pulled: arms before the spine, the hips last. Right sides are left sides mirrored."""
    found = [Bend(bones.at(name), *row, move=9.0 if name == "hips" else 0.0) for name, row in _MIDDLE_BENDS.items()]
    for name, (stiff, low, high) in _SIDE_BENDS.items():
        found.append(Bend(bones.at(f"left {name}"), stiff, low, high))
        mirrored = ((low[0], -high[1], -high[2]), (high[0], -low[1], -low[2]))
        found.append(Bend(bones.at(f"right {name}"), stiff, *mirrored))
    return tuple(found)


def _arm(add, side: str, limb: int) -> list[str]:  # type: ignore[no-untyped-def]
    return [
        add(f"{side} hand", f"{side} hand", (*_MOVE, *_TURN, _REACH, _ANCHOR), ControlKind.GOAL, limb),
        add(f"{side} elbow", f"{side} forearm", (*_MOVE, *_BONES, _ANCHOR), ControlKind.POLE, limb),
        add(f"{side} shoulder", f"{side} shoulder", _TURN),
        add(f"{side} upper arm", f"{side} upper arm", _TURN, limb=limb),
        add(f"{side} forearm", f"{side} forearm", _TURN, limb=limb),
        add(f"{side} wrist", f"{side} hand", _TURN, limb=limb),
    ]


def _hand(add, side: str) -> list[str]:  # type: ignore[no-untyped-def]
    members = []
    for finger in ("thumb", *FINGERS):
        members.append(add(f"{side} {finger}", f"{side} {finger}", _CURL + _SPREAD))
        members.append(add(f"{side} {finger} tip", f"{side} {finger} tip", _CURL))
    return members


def _leg(add, side: str, limb: int) -> list[str]:  # type: ignore[no-untyped-def]
    return [
        add(f"{side} foot", f"{side} foot", (*_MOVE, *_TURN, *_ROLLS, _REACH, _PLANTED), ControlKind.GOAL, limb),
        add(f"{side} knee", f"{side} shin", (*_MOVE, *_BONES, _ANCHOR), ControlKind.POLE, limb),
        add(f"{side} thigh", f"{side} thigh", _TURN, limb=limb),
        add(f"{side} shin", f"{side} shin", _TURN, limb=limb),
        add(f"{side} ankle", f"{side} foot", _TURN, limb=limb),
        add(f"{side} toes", f"{side} toes", _TURN[1:2]),
    ]


def _limb(bones: Skeleton, index: dict[str, int], side: str, arm: bool) -> Limb:
    names = ("upper arm", "forearm", "hand") if arm else ("thigh", "shin", "foot")
    upper, middle, end = (bones.at(f"{side} {n}") for n in names)
    start, bend, stop = (bones.places[i] for i in (upper, middle, end))
    along = (stop - start) / np.linalg.norm(stop - start)
    aside = bend - start - ((bend - start) @ along) * along
    pole = bend + aside / np.linalg.norm(aside) * (0.5 if arm else 0.6)
    foot = Foot(
        (0.0, -0.105, -0.085),
        tuple(map(float, _flip(np.array([0.008, -0.06, 0.12]), side))),
        bones.at(f"{side} toes"),
    )
    return Limb(
        name=f"{side} arm" if arm else f"{side} leg",
        upper=upper,
        middle=middle,
        end=end,
        goal=index[f"{side} hand" if arm else f"{side} foot"],
        pole=index[f"{side} elbow" if arm else f"{side} knee"],
        pole_rest=tuple(map(float, pole)),
        pole_anchors=(bones.at("chest"),) if arm else (bones.at("hips"), end),
        foot=None if arm else foot,
    )
