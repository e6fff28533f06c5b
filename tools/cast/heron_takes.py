"""Writes the demo of flat figures: the heron peeks from behind a post, stalks along the edge, and takes the fish."""

from __future__ import annotations

from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares

from bovrin import script
from bovrin.craft.keying.cards import name_pose
from bovrin.craft.takes import copied_take, renamed_take
from bovrin.figure.flat.assembling import as_drawn
from bovrin.figure.solve.joints import solve
from bovrin.formats.figures.files import load_figure
from bovrin.shot import Figure, Marker, Shot
from tools.cast.demo import everything

Floats = NDArray[np.float64]
Values = dict[str, float]
H, F = "heron", "fish"
PLACE = (-1.16, -1.67)
"""Where the heron stands: across and forward on the landing, metres; the post is at -0.9."""
FISH = 0.97
"""How far before the heron's first place the fish lies, metres."""
NECK = ("neck", "neck bend 1", "neck bend 2", "neck bend 3", "head")
HIDDEN = (-58.0, 104.0, -98.0, 34.0, 24.0)
COILED = (-34.0, 74.0, -66.0, 0.0, 22.0)
LOW = (16.0, 34.0, -46.0, 6.0, -8.0)
UP = (-12.0, -6.0, 6.0, -4.0, -52.0)
STRUCK = (52.0, 34.0, 8.0, 4.0, 12.0)
ROWS = (
    # frame, name, body: forward, up, tilt; near foot: forward, up; far foot; neck; crest; reaches for the fish
    (101, "hides", (0.05, -0.10, -10), (0.0, 0.0), (0.0, 0.0), HIDDEN, -6, False),
    (109, "peeks", (0.09, -0.07, 6), (0.0, 0.0), (0.0, 0.0), (30, 26, -42, -4, -12), 10, False),
    (121, "steps", (0.12, -0.065, 2), (0.26, 0.0), (0.0, 0.0), LOW, 4, False),
    (133, "stalks", (0.30, -0.065, 4), (0.26, 0.0), (0.40, 0.0), LOW, 0, False),
    (143, "stalks on", (0.42, -0.06, 6), (0.56, 0.0), (0.40, 0.0), (10, 44, -54, 4, -2), -4, False),
    (153, "coils", (0.38, -0.09, -6), (0.56, 0.0), (0.40, 0.0), COILED, -16, False),
    (157, "strikes", (0.50, -0.10, 22), (0.56, 0.0), (0.40, 0.0), STRUCK, 24, True),
    (161, "has it", (0.49, -0.09, 20), (0.56, 0.0), (0.40, 0.0), STRUCK, 14, True),
    (171, "lifts", (0.44, -0.03, -4), (0.56, 0.0), (0.40, 0.0), UP, -12, False),
    (181, "stands proud", (0.45, -0.022, -2), (0.56, 0.0), (0.40, 0.0), (-6, 2, 0, -4, -18), 0, False),
)
STEPS = (
    ("near foot goal", 111, 116, 121, 0.13),
    ("far foot goal", 122, 128, 133, 0.13),
    ("near foot goal", 132, 138, 143, 0.085),
)
"""Feet that are lifted high, as a wader does: which, from when, highest when, down when, and how high, metres."""


def heron_takes() -> Shot:
    """The shot as a value: a blocked take, and a polished one."""
    shot = Shot("The heron takes the fish", first=101, last=190, markers=(Marker(157, 160, "strike", "note"),))
    for name in (H, F, "landing"):
        shot = shot.with_figure(load_figure(f"cast:{name}", name, Path()))
    for row in ROWS:
        shot = script.set_values(shot, H, row[0], everything(shot, _pose(shot.figure(H), row), H))
        shot = name_pose(script.key_pose(shot, H, row[0]), H, row[0], row[1])
    shot = _swapped(_fish(shot))
    shot = renamed_take(shot, "blocked")
    return _taken(script.use_take(_taken(_polished(copied_take(shot, "polished"))), "blocked"))


def _taken(shot: Shot) -> Shot:
    """The fish hangs in the beak from the strike on, in one take: where that is depends on how the heron moves there."""
    return script.attach(shot, F, "whole figure", (H, "beak"), 158)


def _pose(figure: Figure, row: tuple) -> Values:  # type: ignore[type-arg]
    _, _, (forward, up, tilt), near, far, neck, crest, reaches = row
    values: Values = {
        "whole figure/across": PLACE[0],
        "whole figure/forward": PLACE[1],
        "whole figure/turn": 90.0,
        "body/forward": forward,
        "body/up": up,
        "body/tilt": tilt,
        "near foot goal/forward": near[0],
        "near foot goal/up": near[1],
        "far foot goal/forward": far[0],
        "far foot goal/up": far[1],
        "crest/tilt": crest,
        **{f"{part}/tilt": angle for part, angle in zip(NECK, neck, strict=True)},
    }
    return _reaching(figure, values) if reaches else values


def _tip(figure: Figure) -> tuple[int, Floats]:
    """The beak's joint, and where its tip is from it at rest, metres."""
    piece = next(p for p in figure.model.pieces if p.cut is not None and p.cut.control == "beak")
    places = piece.positions.astype(float)
    joint = figure.rig.joint("beak")
    spots = as_drawn(figure, places)
    tip = places[spots[:, 0].argmax()]
    base = np.array([0.0, 0.0, 0.0])
    at = joint
    while at >= 0:
        base = base + np.array(figure.rig.joints[at].translation)
        at = figure.rig.joints[at].parent
    away = tip - base
    return joint, np.array([0.0, -0.016, away[2] * 0.96])


def _reaching(figure: Figure, values: Values) -> Values:
    """The pose whose neck reaches so that the tip of the beak is at the fish."""
    rig = figure.rig
    joint, away = _tip(figure)
    goal = np.array([0.045, FISH - 0.02])
    prior = np.radians([values[f"{part}/tilt"] for part in NECK])
    columns = [rig.channel(f"{part}/tilt") for part in NECK]
    full = np.array(rig.defaults)
    for name, value in values.items():
        channel = rig.channel(name)
        full[channel] = np.radians(value) if rig.channels[channel].unit.value == "angle" else value
    full[[rig.channel(f"whole figure/{way}") for way in ("across", "forward", "turn")]] = 0.0

    def missed(angles: Floats) -> Floats:
        now = full.copy()
        now[columns] = angles
        world = solve(rig, now[None])[0, joint]
        tip = world[:3, :3] @ away + world[:3, 3]
        return np.concatenate([(tip[1:] - goal) * 40.0, (angles - prior) * 0.5])

    found = least_squares(missed, prior).x
    return values | {f"{part}/tilt": float(a) for part, a in zip(NECK, np.degrees(found), strict=True)}


def _fish(shot: Shot) -> Shot:
    """The fish lies on the planks and flaps."""
    place = {
        "whole figure/across": PLACE[0] + FISH,
        "whole figure/forward": PLACE[1] + 0.012,
        "whole figure/turn": 90.0,
    }
    shot = script.key_pose(script.set_values(shot, F, 101, everything(shot, place, F)), F, 101)
    for frame, angle in (
        (119, 0),
        (121, 26),
        (123, -18),
        (126, 0),
        (145, 0),
        (147, 22),
        (150, 0),
        (163, 0),
        (166, 24),
        (169, -20),
    ):
        shot = script.set_values(shot, F, frame, {"tail/tilt": angle})
    for frame, angle in ((173, 14), (177, 0)):
        shot = script.set_values(shot, F, frame, {"tail/tilt": angle})
    return shot


def _swapped(shot: Shot) -> Shot:
    """Blinks, the beak, one wing before and one behind."""
    shot = script.swap(shot, H, "eye", 101, "half", until=109)
    for frame in (114, 147, 184):
        shot = script.swap_run(shot, H, "eye", frame, ["half", "shut", "half"], 1)
    shot = script.swap(shot, H, "eye", 153, "half", until=157)
    shot = script.swap(shot, H, "beak", 155, "half", until=157)
    shot = script.swap(shot, H, "beak", 157, "wide", until=159)
    shot = script.swap(shot, H, "beak", 159, "half")
    for frame in (161, 171, 181):
        shot = script.swap(shot, H, "beak", frame, "half")
    for wing in ("near wing", "far wing"):
        shot = script.swap(shot, H, wing, 155, "half", until=157)
        shot = script.swap(shot, H, wing, 157, "spread")
        shot = script.swap(shot, H, wing, 161, "spread", until=165)
        shot = script.swap(shot, H, wing, 165, "half", until=168)
        shot = script.swap(shot, H, wing, 168, "folded")
    return shot


def _polished(shot: Shot) -> Shot:
    """Splined; feet are lifted high, the neck comes after the body, the crest after the head."""
    shot = script.splined(script.splined(shot, H), F)
    for foot, leaves, highest, lands, height in STEPS:
        before, after = (script.values(shot, H, f) for f in (_pose_before(leaves), lands))
        for frame, own in ((leaves, before), (lands, after)):
            shot = script.set_values(
                shot, H, frame, {n: own[n] for n in (f"{foot}/forward", f"{foot}/up", f"{foot}/tilt")}
            )
        way = {
            f"{foot}/up": height,
            f"{foot}/tilt": 30.0 if lands - leaves > 10 else 22.0,
            f"{foot}/forward": (before[f"{foot}/forward"] + after[f"{foot}/forward"]) / 2 - 0.03,
        }
        shot = script.set_values(shot, H, highest, way)
    return shot


def _pose_before(frame: float) -> float:
    return max(float(row[0]) for row in ROWS if row[0] <= frame)
