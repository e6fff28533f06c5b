"""Skeletons as their makers name and build them: rows of (name, parent, place at rest in metres), made up for the tests."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from scipy.spatial.transform import Rotation

from bovrin.shot import Joint

Row = tuple[str, str, tuple[float, float, float]]


def joints_of(rows: list[Row], seed: int | None = None) -> tuple[Joint, ...]:
    """Joints under one on the ground, each placed from its parent; with a seed each rests turned somehow."""
    at = {name: (n + 1, place) for n, (name, _, place) in enumerate(rows)}
    turns = [
        Rotation.identity() if seed is None else Rotation.random(random_state=seed + n) for n in range(len(rows) + 1)
    ]
    turns[0] = Rotation.identity()
    found = [Joint("world", -1, (0.0, 0.0, 0.0))]
    for n, (name, parent, place) in enumerate(rows, 1):
        above, start = at[parent] if parent else (0, (0.0, 0.0, 0.0))
        x, y, z = turns[above].inv().apply(np.subtract(place, start)).tolist()
        found.append(Joint(name, above, (x, y, z), tuple((turns[above].inv() * turns[n]).as_quat().tolist())))
    return tuple(found)


Sided = Callable[[str, str], str]
"""A name for a bone and a side ("left", "right")."""


def two_legs(names: dict[str, str], sided: Sided, *, twist: str = "", toes: bool = True) -> list[Row]:
    """Somebody standing with arms held out; `names` by what bones are; twist: how joints inside the limbs are called."""
    rows: list[Row] = [
        (names["hips"], "", (0, 0.95, 0)),
        (names["spine"], names["hips"], (0, 1.1, 0)),
        (names["chest"], names["spine"], (0, 1.25, 0)),
        (names["neck"], names["chest"], (0, 1.48, 0)),
        (names["head"], names["neck"], (0, 1.58, 0.02)),
    ]
    for side, s in (("left", 1.0), ("right", -1.0)):
        b = {bone: sided(name, side) for bone, name in names.items()}
        rows.append((b["shoulder"], names["chest"], (s * 0.06, 1.42, 0)))
        rows.append((b["upper arm"], b["shoulder"], (s * 0.18, 1.42, 0)))
        above = b["upper arm"]
        if twist:
            rows.append((sided(f"{names['upper arm']}{twist}", side), above, (s * 0.32, 1.42, -0.005)))
            above = rows[-1][0]
        rows.append((b["forearm"], above, (s * 0.45, 1.42, -0.01)))
        above = b["forearm"]
        if twist:
            rows.append((sided(f"{names['forearm']}{twist}", side), above, (s * 0.58, 1.42, -0.005)))
            above = rows[-1][0]
        rows.append((b["hand"], above, (s * 0.7, 1.42, 0)))
        rows.append((b["thigh"], names["hips"], (s * 0.1, 0.9, 0)))
        rows.append((b["shin"], b["thigh"], (s * 0.1, 0.5, 0.01)))
        rows.append((b["foot"], b["shin"], (s * 0.1, 0.09, -0.02)))
        if toes:
            rows.append((b["toe"], b["foot"], (s * 0.1, 0.02, 0.12)))
    return rows


ENGLISH = dict(zip(
    ("hips", "spine", "chest", "neck", "head", "shoulder", "upper arm", "forearm", "hand", "thigh", "shin", "foot", "toe"),
    ("Hips", "Spine", "Spine1", "Neck", "Head", "Shoulder", "Arm", "ForeArm", "Hand", "UpLeg", "Leg", "Foot", "ToeBase"),
    strict=True,
))  # fmt: skip
PLAIN = {
    **ENGLISH,
    "shoulder": "clavicle",
    "upper arm": "upperarm",
    "forearm": "lowerarm",
    "thigh": "thigh",
    "shin": "calf",
}
GERMAN = {
    **ENGLISH, "hips": "Becken", "spine": "Bauch", "chest": "Brust", "neck": "Hals", "head": "Kopf", "shoulder": "Schulter",
    "upper arm": "Oberarm", "forearm": "Unterarm", "hand": "Hand", "thigh": "Oberschenkel", "shin": "Unterschenkel",
    "foot": "Fuß", "toe": "Zehe",
}  # fmt: skip
FRENCH = {
    **ENGLISH, "hips": "bassin", "spine": "colonne", "chest": "thorax", "neck": "cou", "head": "tête", "shoulder": "épaule",
    "upper arm": "bras", "forearm": "avant_bras", "hand": "main", "thigh": "cuisse", "shin": "jambe", "foot": "pied",
    "toe": "orteil",
}  # fmt: skip
SPANISH = {
    **ENGLISH, "hips": "cadera", "spine": "espalda", "chest": "pecho", "neck": "cuello", "head": "cabeza",
    "shoulder": "clavícula", "upper arm": "brazo", "forearm": "antebrazo", "hand": "mano", "thigh": "muslo",
    "shin": "pantorrilla", "foot": "pie", "toe": "dedo",
}  # fmt: skip
BY_JOINTS = {**ENGLISH, "shoulder": "collar", "upper arm": "shoulder", "forearm": "elbow", "hand": "wrist", "thigh": "hip",
             "shin": "knee", "foot": "ankle", "toe": "ball"}  # fmt: skip


def four_legs(*, arms: bool, tail: int = 8) -> list[Row]:
    """A fox on four feet with hocks; its fore legs may be called arms. A tail of many joints."""
    rows: list[Row] = [
        ("pelvis", "", (0, 0.42, -0.25)),
        ("spine_01", "pelvis", (0, 0.43, -0.1)),
        ("spine_02", "spine_01", (0, 0.43, 0.08)),
        ("spine_03", "spine_02", (0, 0.43, 0.22)),
        ("neck", "spine_03", (0, 0.5, 0.33)),
        ("head", "neck", (0, 0.6, 0.4)),
    ]
    fore = (
        ("clavicle", "upperarm", "lowerarm", "hand", "fingers")
        if arms
        else ("scapula", "foreleg_up", "foreleg_low", "paw", "toes")
    )
    for side, s in (("l", 0.08), ("r", -0.08)):
        rows += [
            (f"{fore[0]}_{side}", "spine_03", (s * 0.6, 0.46, 0.22)),
            (f"{fore[1]}_{side}", f"{fore[0]}_{side}", (s, 0.36, 0.27)),
            (f"{fore[2]}_{side}", f"{fore[1]}_{side}", (s, 0.22, 0.2)),
            (f"{fore[3]}_{side}", f"{fore[2]}_{side}", (s, 0.05, 0.22)),
            (f"{fore[4]}_{side}", f"{fore[3]}_{side}", (s, 0.01, 0.26)),
            (f"thigh_{side}", "pelvis", (s, 0.38, -0.25)),
            (f"calf_{side}", f"thigh_{side}", (s, 0.24, -0.18)),
            (f"hock_{side}", f"calf_{side}", (s, 0.15, -0.3)),
            (f"foot_{side}", f"hock_{side}", (s, 0.04, -0.28)),
            (f"toe_{side}", f"foot_{side}", (s, 0.01, -0.24)),
        ]
    above = "pelvis"
    for n in range(tail):
        rows.append((f"tail_{n + 1:02}", above, (0, 0.42 - 0.02 * n, -0.33 - 0.06 * n)))
        above = rows[-1][0]
    return rows


def winged() -> list[Row]:
    """A bird: two legs, two wings with a wrist, a tail."""
    rows: list[Row] = [
        ("body", "", (0, 0.3, 0)),
        ("chest", "body", (0, 0.36, 0.06)),
        ("neck", "chest", (0, 0.44, 0.1)),
        ("head", "neck", (0, 0.52, 0.12)),
    ]
    for side, s in (("L", 1.0), ("R", -1.0)):
        rows += [
            (f"wing_1.{side}", "chest", (s * 0.05, 0.38, 0.05)),
            (f"wing_2.{side}", f"wing_1.{side}", (s * 0.2, 0.4, 0.02)),
            (f"wing_3.{side}", f"wing_2.{side}", (s * 0.38, 0.39, 0.05)),
            (f"feathers.{side}", f"wing_3.{side}", (s * 0.55, 0.38, -0.02)),
            (f"leg.{side}", "body", (s * 0.05, 0.28, -0.01)),
            (f"shank.{side}", f"leg.{side}", (s * 0.05, 0.16, 0.02)),
            (f"foot.{side}", f"shank.{side}", (s * 0.05, 0.02, -0.01)),
        ]
    return [*rows, ("tail feathers", "body", (0, 0.28, -0.15))]


def flat_hand(rows: list[Row], sided: Sided, names: dict[str, str]) -> list[Row]:
    """The rows with fifteen finger joints on each hand that all hang on the hand itself."""
    made = list(rows)
    for side, s in (("left", 1.0), ("right", -1.0)):
        for n, finger in enumerate(("Thumb", "Index", "Middle", "Ring", "Pinky")):
            for bone in range(3):
                made.append(
                    (
                        sided(f"{finger}{bone + 1}", side),
                        sided(names["hand"], side),
                        (s * (0.74 + 0.03 * bone), 1.42, 0.04 - 0.02 * n),
                    )
                )
    return made


def before(name: str, side: str) -> str:
    """LeftHand."""
    return f"{side.capitalize()}{name}"


def behind(name: str, side: str) -> str:
    """hand_l."""
    return f"{name}_{side[0]}"


def dotted(name: str, side: str) -> str:
    """hand.L."""
    return f"{name}.{side[0].upper()}"


def short(name: str, side: str) -> str:
    """L_Hand behind a name of its own."""
    return f"rig:{side[0].upper()}_{name}"


def german(name: str, side: str) -> str:
    """Hand_links."""
    return f"{name}_{'links' if side == 'left' else 'rechts'}"


def french(name: str, side: str) -> str:
    """main_gauche."""
    return f"{name}_{'gauche' if side == 'left' else 'droite'}"


def spanish(name: str, side: str) -> str:
    """mano_izq."""
    return f"{name}_{'izq' if side == 'left' else 'der'}"


TWO_LEGS: dict[str, tuple[dict[str, str], Sided, list[Row]]] = {
    "in one word": (ENGLISH, before, two_legs(ENGLISH, before)),
    "sides behind, twists inside": (PLAIN, behind, two_legs(PLAIN, behind, twist="_twist_01")),
    "named by joints": (BY_JOINTS, dotted, two_legs(BY_JOINTS, dotted)),
    "short, rolls inside": (PLAIN, short, two_legs(PLAIN, short, twist="Roll")),
    "German": (GERMAN, german, two_legs(GERMAN, german)),
    "French": (FRENCH, french, two_legs(FRENCH, french)),
    "Spanish": (SPANISH, spanish, two_legs(SPANISH, spanish)),
    "flat hands": (ENGLISH, before, flat_hand(two_legs(ENGLISH, before), before, ENGLISH)),
    "no toes": (PLAIN, dotted, two_legs(PLAIN, dotted, toes=False)),
}
