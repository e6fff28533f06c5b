"""Writes the demo project: the porter heaves a crate when the ferry's horn sounds. Blocked, with one breakdown."""

from __future__ import annotations

import math
from dataclasses import replace
from pathlib import Path

import numpy as np

from bovrin import script
from bovrin.craft.keying.cards import name_pose
from bovrin.craft.keying.key_sets import set_role
from bovrin.craft.takes import chosen_take, copied_take, renamed_take, without_take
from bovrin.formats.figures.files import load_figure
from bovrin.shot import KeyRole, Marker, Shot
from tools.cast.bouncing import with_bounce

HEADING = 72.0
Values = dict[str, float]


def both(name: str, values: Values) -> Values:
    """The same for left and right: across, turn and roll change sign."""
    flips = ("across", "turn", "roll")
    left = {f"left {name}/{channel}": value for channel, value in values.items()}
    right = {f"right {name}/{c}": -v if c in flips else v for c, v in values.items()}
    return {**left, **right}


def grip(curl: float) -> Values:
    """Fingers of both hands curled by degrees."""
    values: Values = {}
    for finger in ("index", "middle", "little"):
        values |= both(finger, {"curl": curl}) | both(f"{finger} tip", {"curl": curl * 0.9})
    return values | both("thumb", {"curl": curl * 0.4}) | both("thumb tip", {"curl": curl * 0.3})


def eyes(turn: float, tilt: float) -> Values:
    """Both eyes turned the same way."""
    return {f"{side} eye/{way}": by for side in ("left", "right") for way, by in (("turn", turn), ("tilt", tilt))}


STAND = {
    "whole figure/turn": HEADING,
    "hips/up": -0.012,
    "spine/tilt": 2,
    "chest/tilt": 1,
    "head/tilt": -2,
    **both("hand", {"across": -0.075, "up": -0.035, "forward": 0.02, "roll": -16}),
    **both("foot", {"turn": 8}),
    **both("lid", {"close": 24}),
    **grip(14),
}
NOTICE = {
    **STAND,
    "hips/across": 0.03,
    "hips/up": -0.02,
    "spine/turn": -8,
    "chest/turn": -14,
    "neck/turn": -16,
    "head/turn": -30,
    "head/roll": 5,
    **eyes(-20, -4),
    **both("lid", {"close": 2}),
    "left brow/up": 0.014,
    "right brow/up": 0.014,
    "mouth/open": 0.8,
    "mouth/wide": -0.5,
    "left hand/forward": 0.07,
    "left hand/up": 0.0,
    "right hand/forward": -0.03,
    "beard/open": 7,
}
SQUAT = {
    **STAND,
    "hips/up": -0.255,
    "hips/forward": -0.14,
    "hips/tilt": 32,
    "spine/tilt": 20,
    "chest/tilt": 14,
    "neck/tilt": -12,
    "head/tilt": -26,
    "mouth/wide": 0.25,
    "left brow/up": -0.004,
    "right brow/up": -0.004,
    **both("lid", {"close": 34}),
    **eyes(0, 14),
    **both("hand", {"across": -0.118, "up": -0.35, "forward": 0.42, "roll": -18, "tilt": -28}),
    **both("foot", {"across": 0.035, "turn": 14}),
    **both("knee", {"across": 0.12}),
    **grip(46),
}
HEAVE = {
    **SQUAT,
    "hips/up": -0.14,
    "hips/forward": -0.085,
    "hips/tilt": 36,
    "spine/tilt": 17,
    "chest/tilt": 6,
    "neck/tilt": -16,
    "head/tilt": -22,
    "beard/open": 9,
    "mouth/open": 0.4,
    "mouth/wide": 0.5,
    "mouth/teeth": 1.0,
    **both("lid", {"close": 64}),
    **eyes(0, 8),
    "left brow/up": -0.006,
    "right brow/up": -0.006,
    "left brow/roll": 12,
    "right brow/roll": -12,
    **both("hand", {"across": -0.118, "up": -0.275, "forward": 0.405, "roll": -18, "tilt": -34}),
}
RECOIL = {
    **HEAVE,
    "hips/up": -0.055,
    "hips/forward": 0.05,
    "hips/tilt": -9,
    "spine/tilt": -12,
    "chest/tilt": -10,
    "neck/tilt": 6,
    "head/tilt": 12,
    "bobble/tilt": -18,
    "mouth/open": 0.7,
    "mouth/teeth": 0.0,
    **both("lid", {"close": 8}),
    **eyes(0, 16),
    **both("hand", {"across": -0.118, "up": 0.26, "forward": 0.315, "roll": -18, "tilt": -62}),
    "right foot/forward": -0.16,
    "right foot/ball": 14,
}
CARRY = {
    **RECOIL,
    "hips/up": -0.055,
    "hips/forward": -0.01,
    "hips/tilt": -4,
    "spine/tilt": -8,
    "chest/tilt": -5,
    "neck/tilt": 2,
    "head/tilt": 4,
    "head/turn": -12,
    "bobble/tilt": 4,
    "beard/open": 0,
    "mouth/open": 0.0,
    "mouth/wide": 0.3,
    "mouth/smile": 0.9,
    **both("lid", {"close": 38}),
    **eyes(-10, 4),
    "left brow/up": 0.006,
    "right brow/up": 0.006,
    "left brow/roll": 0,
    "right brow/roll": 0,
    **both("hand", {"across": -0.118, "up": 0.15, "forward": 0.275, "roll": -18, "tilt": -58}),
    "right foot/ball": 0,
}
POSES = ((101, STAND), (109, NOTICE), (119, SQUAT), (127, HEAVE), (133, RECOIL), (143, CARRY))
NAMES = {101: "stand", 109: "notice", 114: "go down", 119: "squat", 127: "heave", 133: "recoil", 143: "carry"}
CRATE = (
    (101, 0.0, 0.0, 0.0),
    (119, 0.0, 0.0, 0.0),
    (127, 0.135, -0.075, -3.0),
    (133, 0.70, -0.175, -9.0),
    (143, 0.59, -0.205, -3.0),
)


def _crate_values(up: float, nearer: float, tilt: float) -> Values:
    far = 0.56 + nearer
    heading = math.radians(HEADING)
    return {
        "whole crate/across": far * math.sin(heading),
        "whole crate/forward": far * math.cos(heading),
        "whole crate/up": up,
        "whole crate/turn": HEADING,
        "whole crate/tilt": tilt,
    }


def demo_shot() -> Shot:
    """The demo as a value."""
    shot = Shot(
        "Heave the crate",
        first=101,
        last=160,
        markers=(Marker(103, 107, "horn sounds"), Marker(127, 134, "crate leaves the ground")),
    )
    for name in ("porter", "crate", "buoy", "steps", "landing"):
        shot = shot.with_figure(load_figure(f"cast:{name}", name, Path()))
    for frame, pose in POSES:
        shot = script.key_pose(script.set_values(shot, "porter", frame, everything(shot, pose)), "porter", frame)
    for frame, up, nearer, tilt in CRATE:
        shot = script.set_values(shot, "crate", frame, _crate_values(up, nearer, tilt))
        shot = script.key_pose(shot, "crate", frame)
    shot = script.breakdown(shot, "porter", 114, 0.62, {"head": 0.3, "left arm": 0.5, "right arm": 0.45})
    for frame, words in NAMES.items():
        shot = name_pose(shot, "porter", frame, words)
    blocked = renamed_take(with_bounce(shot), "blocked")
    return chosen_take(_splined(blocked), "blocked")


def _splined(shot: Shot) -> Shot:
    """A second take of the same poses, eased from one to the next, with a blink while he turns his head."""
    shot = copied_take(shot, "splined")
    for figure in ("porter", "crate"):
        shot = script.splined(shot, figure)
    for frame, closed in ((103, 20), (105, 118), (108, 2), (115, 20), (117, 118), (120, 30)):
        shot = script.set_values(shot, "porter", frame, dict.fromkeys(("left lid/close", "right lid/close"), closed))
    return _polished(shot)


GRIPS, LIFTED = 119.0, 133.0
FALLS = {"whole buoy/across": -1.5, "whole buoy/forward": -0.25, "whole buoy/up": 0.0}


def carried() -> Shot:
    """A demo of its own: the splined take, in which both hands hang on the crate from where they grip it, the crate hangs on the
    chest from where it is lifted, and the buoy falls by itself."""
    shot = without_take(chosen_take(demo_shot(), "splined"), "blocked")
    shot = replace(renamed_take(shot, "carried"), title="Carry the crate")
    for hand in ("left hand", "right hand"):
        shot = script.attach(shot, "porter", hand, ("crate", "crate"), GRIPS)
    shot = script.attach(shot, "crate", "whole crate", ("porter", "chest"), LIFTED)
    shot = shot.with_curves("buoy", shot.figure("buoy").no_motion())
    shot = script.set_values(shot, "buoy", 117.0, FALLS)
    return script.drop(shot, "buoy", 117, 0.9, 0.62, speed=0.7, heading=20, friction=0.25, squash=0.28)


STEPS = (
    ("right foot", 110, 112, 114, 0.035),
    ("left foot", 114, 116, 118, 0.035),
    ("right foot", 128, 130, 132, 0.05),
)
"""Feet that are lifted rather than slid: which, from when, highest when, down when, and how high, metres."""


def _polished(shot: Shot) -> Shot:
    """Feet step, the head comes late and the bobble trails, parts settle one after another, and the last pose stays alive."""
    for frame, turn in ((104, 0), (106, -26)):  # the eyes go first
        shot = script.set_values(shot, "porter", frame, eyes(turn, -4))
    for step in STEPS:
        shot = _stepped_aside(shot, *step)
    shot = _as_in_betweens(shot)
    shot = script.overlap(shot, "porter", ["head", "bobble"], 0.0, 0.5, 0.6, 0.5, start=109, end=143)
    shot = script.slide(shot, "porter", 1.0, ["head"], 127, 133)
    shot = script.break_up(shot, "porter", 143)
    shot = script.moving_hold(shot, "porter", 145, shot.last, 0.08)
    for note in script.proof(shot, "porter"):
        shot = script.remedy(shot, note) if note.kind == "idle key" else shot
    return shot


def _stepped_aside(shot: Shot, foot: str, leaves: float, highest: float, lands: float, height: float) -> Shot:
    """A foot that stands until it leaves, and has arrived when it lands."""
    frames = max(pose for pose, _ in POSES if pose < leaves), min(pose for pose, _ in POSES if pose >= lands)
    before, after = (script.values(shot, "porter", float(frame)) for frame in frames)
    own = [name for name in before if name.startswith(f"{foot}/") and not name.endswith(("/reach", "/anchor"))]
    shot = script.set_values(shot, "porter", leaves, {name: before[name] for name in own})
    shot = script.set_values(shot, "porter", lands, {name: after[name] for name in own})
    return script.set_values(
        shot, "porter", highest, {f"{foot}/up": max(before[f"{foot}/up"], after[f"{foot}/up"]) + height}
    )


def _as_in_betweens(shot: Shot) -> Shot:
    """Keys on frames that are no pose's are in-betweens."""
    curves = shot.curves("porter")
    off = {i: c.frames[~np.isin(c.frames, list(NAMES))] for i, c in enumerate(curves.curves)}
    return set_role(shot, "porter", {i: frames for i, frames in off.items() if len(frames)}, KeyRole.IN_BETWEEN)


def everything(shot: Shot, pose: Values, figure: str = "porter") -> Values:
    """A pose with every channel that it leaves out at its default, so that nothing leaks in from the pose before."""
    rig = shot.figure(figure).rig
    return {**{n: c.default for n, c in zip(rig.channel_names, rig.channels, strict=True)}, **pose}
