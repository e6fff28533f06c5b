"""Writes the second demo: the goat stands on the landing, hears the horn, and turns about, a pair of feet at a time."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bovrin import script
from bovrin.craft.keying.cards import name_pose
from bovrin.craft.takes import chosen_take, copied_take
from bovrin.figure.solve.plan import plan_of
from bovrin.formats.figures.files import load_figure
from bovrin.shot import Marker, Rig, Shot
from bovrin.shot.curve import NO_KEYS
from tools.cast.demo import everything

Floats = NDArray[np.float64]
Values = dict[str, float]

PIVOT = np.array([0.0, 0.0, -0.05])
FIRST_PAIR = ("left fore", "right hind")
SECOND_PAIR = ("right fore", "left hind")
LIDS = ("left lid/close", "right lid/close")

ROWS = (
    # frame, name, heading, first pair: heading and lift, second pair, hips up, neck tilt, head turn, head tilt, ears, tail
    (101, "stand", 0, (0, 0.0), (0, 0.0), 0.0, 4, 0, 4, 0, 0),
    (109, "hear", 0, (0, 0.0), (0, 0.0), 0.006, -7, 6, -4, 24, 10),
    (117, "look", 2, (0, 0.0), (0, 0.0), 0.0, -4, 46, 0, 30, -14),
    (123, "gather", -4, (0, 0.0), (0, 0.0), -0.026, 6, 30, 6, 6, -22),
    (127, "", 10, (17, 0.10), (0, 0.0), -0.008, 0, 40, 0, -10, 4),
    (131, "first pair", 22, (34, 0.0), (0, 0.0), -0.018, 4, 32, 3, 14, 18),
    (135, "", 33, (34, 0.0), (22, 0.09), -0.004, -2, 30, 0, -8, 2),
    (139, "second pair", 45, (34, 0.0), (53, 0.0), -0.018, 4, 24, 3, 14, -16),
    (143, "", 57, (58, 0.085), (53, 0.0), -0.002, -2, 18, 0, -8, 4),
    (147, "third", 68, (80, 0.0), (53, 0.0), -0.016, 2, 12, 3, 12, 16),
    (151, "", 77, (80, 0.0), (68, 0.07), 0.0, -3, 4, -2, -8, -4),
    (155, "about", 84, (80, 0.0), (80, 0.0), -0.020, 5, -6, 6, 16, -14),
    (162, "", 79, (80, 0.0), (80, 0.0), 0.004, -6, 2, -5, -6, 12),
    (172, "stand again", 80, (80, 0.0), (80, 0.0), 0.0, 2, 0, 2, 0, 0),
)


def _about(degrees: float, place: Floats) -> Floats:
    """A place on the ground turned about the pivot."""
    angle = np.radians(degrees)
    turn = np.array([[np.cos(angle), 0, np.sin(angle)], [0, 1, 0], [-np.sin(angle), 0, np.cos(angle)]])
    return PIVOT + turn @ (place - PIVOT)


def _pose(rig: Rig, row: tuple) -> Values:  # type: ignore[type-arg]
    _, _, heading, first, second, up, neck, turn, tilt, ears, tail = row
    rest = plan_of(rig).rest_world[:, :3, 3]
    hips = rest[rig.joint("hips")]
    moved = _about(heading, hips) - hips
    values: Values = {
        "whole figure/turn": 58.0,
        "hips/turn": heading,
        "hips/across": moved[0],
        "hips/up": up,
        "hips/forward": moved[2],
        "chest/turn": 0.3 * turn,
        "neck/tilt": neck,
        "neck/turn": 0.35 * turn,
        "upper neck/turn": 0.35 * turn,
        "head/turn": 0.5 * turn,
        "head/tilt": tilt,
        "tail/roll": tail,
        "tail tip/roll": 0.8 * tail,
        "left ear/roll": ears,
        "right ear/roll": -ears,
        "left ear/turn": -0.4 * ears,
        "right ear/turn": 0.4 * ears,
        "beard/tilt": 0.4 * ears,
    }
    for pair, (stance, lift) in ((FIRST_PAIR, first), (SECOND_PAIR, second)):
        for leg in pair:
            foot = rest[rig.joint(f"{leg} ankle")]
            moved = _about(stance, foot) - foot
            goal = f"{leg} foot goal"
            values |= {
                f"{goal}/across": moved[0],
                f"{goal}/up": lift,
                f"{goal}/forward": moved[2],
                f"{goal}/turn": stance,
            }
            values[f"{goal}/ball"] = 40.0 if lift > 0 else 0.0
    return values


def goat_turns() -> Shot:
    """The shot as a value."""
    shot = Shot("The goat turns", first=101, last=180, markers=(Marker(105, 110, "horn sounds"),))
    for name in ("goat", "landing"):
        shot = shot.with_figure(load_figure(f"cast:{name}", name, Path()))
    rig = shot.figure("goat").rig
    for row in ROWS:
        values = everything(shot, _pose(rig, row), "goat")
        shot = script.key_pose(script.set_values(shot, "goat", row[0], values), "goat", row[0])
    for frame, name in ((row[0], row[1]) for row in ROWS if row[1]):
        shot = name_pose(shot, "goat", frame, name)
    shot = script.splined(shot, "goat")
    for frame, closed in ((120, 0), (123, 118), (127, 0), (164, 0), (167, 118), (171, 0)):
        shot = script.set_values(shot, "goat", frame, dict.fromkeys(LIDS, closed))
    return _followed(shot)


LOOSE = {
    "tail": (2.5, 20.0, 1.5),
    "left ear": (1.5, 12.0, 2.0),
    "right ear": (1.5, 12.0, 2.0),
    "beard": (2.0, 14.0, 1.5),
}
"""What comes after by itself: how many frames it lags by, in how many it settles, and how often it passes over."""


def _followed(shot: Shot) -> Shot:
    """A second take in which nobody keys the tail, the ears and the beard: they come after by themselves."""
    first = shot.take.name
    shot = copied_take(shot, "followed")
    rig, curves = shot.figure("goat").rig, shot.curves("goat")
    own = [c for c in rig.controls if c.name.removesuffix(" tip") in LOOSE]
    loose = [i for c in own for i in rig.span(rig.control(c.name)) if not c.channels[0].technical.startswith("reach")]
    shot = shot.with_curves("goat", curves.replaced(dict.fromkeys(loose, NO_KEYS)))
    for name, (lags, settles, sways) in LOOSE.items():
        links = [c.name for c in own if c.name.removesuffix(" tip") == name]
        shot = script.follow(shot, "goat", links, "spring", lags_by=lags, settles_in=settles, sways=sways)
    return chosen_take(shot, first)
