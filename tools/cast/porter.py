"""The porter's body: one signed-distance field per colour, after the model sheet."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from tools.cast.porter_rig import FINGERS, HAND_DOWN, SIDE, Skeleton
from tools.cast.sdf import Shape, box, cut, ellipsoid, grow, join, meet, mirrored, round_cone, shell

Floats = NDArray[np.float64]

COLOURS = {
    "skin": "#E3A27A",
    "shirt": "#3E6F71",
    "apron": "#D9C9A4",
    "belt": "#BBA679",
    "trousers": "#6B4A57",
    "cap": "#CFA13B",
    "rim": "#B0852B",
    "bobble": "#EFE6CB",
    "boots": "#37303B",
    "beard": "#4B3A33",
    "ink": "#29272F",
    "white": "#F4EFE4",
    "nose": "#C98660",
    "lip": "#D08A6A",
    "mouth": "#6E2A2A",
    "teeth": "#F3EDE0",
}


@dataclass(frozen=True)
class Region:
    """A mesh to be made: its shape, box, how fine, and which joints carry it (one name: rigid)."""

    name: str
    colour: str
    shape: Shape
    low: tuple[float, float, float]
    high: tuple[float, float, float]
    cell: float
    triangles: int
    joints: tuple[str, ...]


def torso() -> Shape:
    """Chest, belly and hips without arms: a barrel that carries its weight low."""
    return join(
        ellipsoid((0, 1.03, -0.012), (0.203, 0.168, 0.150)),
        ellipsoid((0, 0.845, 0.010), (0.214, 0.19, 0.182)),
        ellipsoid((0, 0.70, -0.008), (0.200, 0.12, 0.168)),
        smooth=0.10,
    )


def _left(name: str) -> Floats:
    return np.array(SIDE[name][1], float)


def sleeve() -> Shape:
    """The left sleeve, shoulder to wrist, a little wider at the cuff."""
    shoulder, elbow, wrist = _left("upper arm"), _left("forearm"), _left("hand")
    cuff = elbow + (wrist - elbow) * 0.99
    return join(
        round_cone(shoulder + [-0.045, 0.005, 0], shoulder + [0.004, -0.012, 0], 0.082, 0.086),
        round_cone(shoulder, elbow, 0.084, 0.074),
        round_cone(elbow, cuff, 0.074, 0.068),
        smooth=0.03,
    )


def shirt() -> Shape:
    """Torso and sleeves down to the waist, open at the neck."""
    collar = round_cone((0, 1.13, -0.012), (0, 1.185, -0.012), 0.098, 0.068)
    arm = sleeve()
    whole = join(join(torso(), collar, smooth=0.06), arm, mirrored(arm), smooth=0.045)
    above_belt = lambda p: 0.655 - p[:, 1]
    return meet(whole, above_belt, smooth=0.02)


def trousers() -> Shape:
    """Seat and legs, wide at the thigh, straight at the hem."""
    seat = ellipsoid((0, 0.665, -0.008), (0.190, 0.112, 0.158))
    hip, knee, ankle = _left("thigh"), _left("shin"), _left("foot")
    hem = knee + (ankle - knee) * 0.72
    leg = join(round_cone(hip + [0, 0.005, 0], knee, 0.108, 0.090), round_cone(knee, hem, 0.090, 0.088), smooth=0.03)
    return join(seat, leg, mirrored(leg), smooth=0.03)


def boot() -> Shape:
    """The left boot: a round toe cap, a heel, a short shaft and a flat sole."""
    ankle, toes = _left("foot"), _left("toes")
    shaft = round_cone(ankle + [0, -0.01, -0.004], ankle + [-0.002, 0.068, 0.004], 0.080, 0.084)
    heel = ellipsoid((0.119, 0.048, -0.045), (0.076, 0.062, 0.078))
    instep = round_cone((0.121, 0.055, -0.02), (toes[0], 0.052, 0.11), 0.072, 0.062)
    cap = ellipsoid((0.131, 0.046, 0.135), (0.083, 0.064, 0.085))
    ground = lambda p: -p[:, 1]
    return meet(join(shaft, heel, instep, cap, smooth=0.045), ground, smooth=0.018)


def hand(bones: Skeleton) -> Shape:
    """The left hand: a soft mitten of a palm, three fingers and a thumb."""
    wrist = bones.place("left hand")
    palm = join(
        round_cone(wrist - HAND_DOWN * 0.012, wrist + HAND_DOWN * 0.03, 0.043, 0.052),
        round_cone(wrist + HAND_DOWN * 0.062 + [0, 0, 0.030], wrist + HAND_DOWN * 0.062 + [0, 0, -0.026], 0.052, 0.050),
        round_cone(wrist + HAND_DOWN * 0.098 + [0, 0, 0.038], wrist + HAND_DOWN * 0.092 + [0, 0, -0.034], 0.038, 0.036),
        smooth=0.03,
    )
    fingers = [_finger(bones, name, 0.0335 if name != "little" else 0.0305) for name in FINGERS]
    thumb = join(
        round_cone(wrist + HAND_DOWN * 0.035 + [-0.004, 0, 0.028], bones.place("left thumb"), 0.042, 0.037),
        _finger(bones, "thumb", 0.0330),
        smooth=0.015,
    )
    return join(join(palm, *fingers, smooth=0.010), thumb, smooth=0.016)


def _finger(bones: Skeleton, name: str, radius: float) -> Shape:
    base, tip = bones.place(f"left {name}"), bones.place(f"left {name} tip")
    end = tip + (tip - base) * 0.82
    return join(
        round_cone(base, tip, radius, radius * 0.97), round_cone(tip, end, radius * 0.97, radius * 0.88), smooth=0.006
    )


def head() -> Shape:
    """Skull, cheeks, ears and neck."""
    skull = join(
        ellipsoid((0, 1.425, -0.005), (0.152, 0.150, 0.143)),
        ellipsoid((0, 1.335, 0.012), (0.142, 0.110, 0.130)),
        smooth=0.06,
    )
    ear = ellipsoid((0.158, 1.405, -0.018), (0.028, 0.044, 0.034))
    neck = round_cone((0, 1.13, -0.012), (0, 1.29, -0.006), 0.076, 0.080)
    return join(join(skull, ear, mirrored(ear), smooth=0.012), neck, smooth=0.03)


def beard() -> Shape:
    """A full beard from ear to ear, a moustache over the mouth."""
    jaw = join(
        ellipsoid((0, 1.325, 0.025), (0.160, 0.105, 0.138)),
        ellipsoid((0, 1.262, 0.055), (0.118, 0.100, 0.108)),
        smooth=0.06,
    )
    face = ellipsoid((0, 1.435, 0.165), (0.135, 0.088, 0.12))
    behind = box((0, 1.34, -0.15), (0.3, 0.3, 0.115))
    whiskers = join(
        round_cone((0.0, 1.360, 0.150), (0.060, 1.343, 0.128), 0.021, 0.012),
        round_cone((0.0, 1.360, 0.150), (-0.060, 1.343, 0.128), 0.021, 0.012),
        smooth=0.01,
    )
    return join(cut(jaw, face, behind, smooth=0.03), whiskers, smooth=0.015)


EYE = np.array(SIDE["lid"][1])
LID = 0.0290
WHITE = 0.0262
"""How large the ball of an eye is; the lids close over it."""


def pupil() -> Shape:
    """The left pupil: a cap that lies on the ball and turns about its middle."""
    over = ellipsoid(EYE, (WHITE + 0.0017,) * 3)
    front = lambda p: np.maximum(
        np.hypot((p[:, 0] - EYE[0]) * 1.12, p[:, 1] - EYE[1]) - 0.0145, EYE[2] + 0.016 - p[:, 2]
    )
    return meet(over, front, smooth=0.001)


def lid() -> Shape:
    """The left upper lid, drawn up: a slice of a ball about the eye that turns down over it."""
    ball = shell(ellipsoid(EYE, (0.0282, LID, LID)), 0.0, 0.005)

    def up(p: Floats) -> Floats:
        lean = np.radians(76)
        q = p - EYE
        return -(q[:, 1] * np.cos(lean) - q[:, 2] * np.sin(lean))

    return meet(ball, up, smooth=0.002)


def cap() -> Shape:
    """The knit cap's dome, sitting on the brow."""
    dome = join(
        ellipsoid((0, 1.570, -0.013), (0.181, 0.142, 0.179)),
        ellipsoid((0, 1.628, -0.013), (0.136, 0.092, 0.134)),
        smooth=0.05,
    )
    under = lambda p: 1.545 - p[:, 1]
    return meet(dome, under, smooth=0.012)


def rim() -> Shape:
    """The turned-up edge of the cap: a thick band."""

    def band(p: Floats) -> Floats:
        around = np.hypot(p[:, 0] / 1.02, (p[:, 2] + 0.012)) - 0.166
        q = np.stack([np.abs(around), np.abs(p[:, 1] - 1.547 - 0.05 * (p[:, 2] + 0.012))], 1) - [0.016, 0.026]
        return np.linalg.norm(np.maximum(q, 0), axis=1) + np.minimum(q.max(1), 0) - 0.014

    return band


def apron_sheet(at: float, thickness: float) -> Shape:
    """A sheet lying on the front of the torso and hanging straight below the belly."""
    hanging = round_cone((0, 0.72, 0.012), (0, 0.38, 0.040), 0.182, 0.190)
    return shell(join(torso(), hanging, smooth=0.05), at, thickness)


def _front(low: float, high: float, half: float, flare: float = 0.0) -> Shape:
    def inside(p: Floats) -> Floats:
        width = half + flare * (0.8 - p[:, 1])
        return np.stack([np.abs(p[:, 0]) - width, p[:, 1] - high, low - p[:, 1], 0.03 - p[:, 2]], 1).max(1)

    return grow(inside, -0.008)


def apron() -> Shape:
    """Bib and skirt of the apron, corners rounded."""
    bib = meet(apron_sheet(0.013, 0.02), _front(0.80, 1.135, 0.115), smooth=0.01)
    skirt = meet(apron_sheet(0.013, 0.02), _front(0.43, 0.90, 0.168, 0.05), smooth=0.01)
    return join(bib, skirt, smooth=0.01)


def belt() -> Shape:
    """The apron string round the waist."""
    band = lambda p: np.abs(p[:, 1] - 0.885 - 0.02 * p[:, 2]) - 0.013
    return meet(shell(torso(), 0.018, 0.018), band, smooth=0.008)


def pocket() -> Shape:
    """The pocket on the skirt of the apron: a frame of four stitches."""
    frame = cut(_front(0.655, 0.795, 0.075), _front(0.672, 0.812, 0.058), smooth=0.004)
    return meet(apron_sheet(0.024, 0.014), frame, smooth=0.004)


def straps() -> Shape:
    """Straps from the bib over the shoulders."""
    left = round_cone((0.086, 1.095, 0.118), (0.083, 1.195, 0.03), 0.016, 0.016)
    return join(left, mirrored(left))


_ARM = ("shoulder", "upper arm", "forearm")


def regions(bones: Skeleton) -> list[Region]:
    """All meshes of the porter; lefts are mirrored to the right by the builder where the name says so."""
    arms = tuple(f"{s} {j}" for s in ("left", "right") for j in _ARM)
    legs = tuple(f"{s} {j}" for s in ("left", "right") for j in ("thigh", "shin"))
    fingers = tuple(f"left {f}{t}" for f in ("thumb", *FINGERS) for t in ("", " tip"))
    eye = ellipsoid(EYE, (WHITE, WHITE, WHITE))
    brow = round_cone((0.032, 1.456, 0.1385), (0.090, 1.450, 0.1205), 0.0088, 0.0064)
    nose = ellipsoid((0, 1.385, 0.152), (0.029, 0.026, 0.030))
    return [
        Region(
            "shirt",
            "shirt",
            shirt(),
            (-0.54, 0.58, -0.26),
            (0.54, 1.28, 0.26),
            0.011,
            1380,
            ("hips", "spine", "chest", "neck", *arms),
        ),
        Region(
            "trousers", "trousers", trousers(), (-0.26, 0.06, -0.24), (0.26, 0.84, 0.24), 0.011, 900, ("hips", *legs)
        ),
        Region(
            "left boot",
            "boots",
            boot(),
            (-0.02, -0.03, -0.18),
            (0.27, 0.30, 0.28),
            0.009,
            320,
            ("left shin", "left foot", "left toes"),
        ),
        Region(
            "left hand",
            "skin",
            hand(bones),
            (0.28, 0.36, -0.18),
            (0.66, 0.80, 0.28),
            0.0055,
            690,
            ("left forearm", "left hand", *fingers),
        ),
        Region("head", "skin", head(), (-0.24, 1.0, -0.21), (0.24, 1.60, 0.21), 0.010, 560, ("chest", "neck", "head")),
        Region("beard", "beard", beard(), (-0.22, 1.10, -0.2), (0.22, 1.50, 0.24), 0.009, 480, ("head", "beard")),
        Region("nose", "nose", nose, (-0.06, 1.33, 0.08), (0.06, 1.44, 0.22), 0.006, 110, ("head",)),
        Region("left eye", "white", eye, (0.02, 1.35, 0.09), (0.10, 1.45, 0.18), 0.0035, 80, ("head",)),
        Region("left pupil", "ink", pupil(), (0.03, 1.37, 0.10), (0.09, 1.43, 0.17), 0.0018, 40, ("left eye",)),
        Region("left lid", "skin", lid(), (0.02, 1.35, 0.08), (0.10, 1.45, 0.18), 0.0022, 130, ("left lid",)),
        Region("left brow", "ink", brow, (0.0, 1.42, 0.07), (0.13, 1.48, 0.18), 0.004, 80, ("left brow",)),
        Region("cap", "cap", cap(), (-0.24, 1.46, -0.24), (0.24, 1.79, 0.24), 0.009, 520, ("head",)),
        Region("rim", "rim", rim(), (-0.24, 1.44, -0.24), (0.24, 1.64, 0.24), 0.008, 520, ("head",)),
        Region(
            "bobble",
            "bobble",
            ellipsoid((0, 1.756, -0.012), (0.064, 0.060, 0.064)),
            (-0.09, 1.67, -0.1),
            (0.09, 1.84, 0.08),
            0.008,
            200,
            ("bobble",),
        ),
        Region(
            "apron",
            "apron",
            apron(),
            (-0.28, 0.38, -0.02),
            (0.28, 1.20, 0.28),
            0.0085,
            760,
            ("hips", "spine", "chest", "left apron", "right apron"),
        ),
        Region(
            "belt", "belt", belt(), (-0.27, 0.84, -0.24), (0.27, 0.93, 0.26), 0.0085, 320, ("spine", "hips", "chest")
        ),
        Region(
            "pocket",
            "belt",
            pocket(),
            (-0.12, 0.62, 0.02),
            (0.12, 0.84, 0.28),
            0.006,
            220,
            ("hips", "spine", "chest", "left apron", "right apron"),
        ),
        Region("straps", "apron", straps(), (-0.13, 1.05, -0.02), (0.13, 1.24, 0.16), 0.007, 110, ("chest",)),
    ]


MIRRORED = ("left boot", "left hand", "left eye", "left pupil", "left lid", "left brow")
