"""What moves by rule against the same figures without it."""

from __future__ import annotations

import numpy as np

from benchmarks.row import Row, compare
from bovrin import script as bv
from bovrin.figure.making.rig_making import MOVE, TURN
from bovrin.figure.solve.joints import solve
from bovrin.figure.staging import hangs_on, staged, unfollowed
from bovrin.shot import Control, ControlKind, Figure, Joint, Model, Part, Rig, Shot, Take, acting_by

LINKS = 30
TWENTY = 20


def rows() -> list[Row]:
    """A chain of thirty links by a spring over 240 frames, worked out anew, over one solve of them; a frame with 20 followers."""
    rope = roped()
    frames = np.arange(101.0, 341.0)
    values = unfollowed(hangs_on(rope, "rope"), frames)
    rig, kept = rope.figure("rope").rig, [0.0]

    def sprung() -> None:
        kept[0] += 1e-6
        told = bv.set_follower(rope, "rope", "late", settles_in=18 + kept[0])
        _ = staged(told, "rope", frames).world

    shot = bv.splined(bv.demo(), "porter")
    followed = shot
    names = [
        c.name for c in shot.figure("porter").rig.controls if any(h.technical.startswith("rotate") for h in c.channels)
    ]
    for n in range(TWENTY):
        followed = bv.follow(followed, "porter", [names[n % len(names)]], ("swing", "noise")[n % 2])
    return [
        compare("spring on a chain of 30 over 240 frames, over one solve", 3.0, sprung, lambda: solve(rig, values)),
        compare("20 followers, one frame, over the same without", 1.2, _frames(followed), _frames(shot)),
    ]


def roped() -> Shot:
    """A rope of thirty links whose end is led about, with a spring."""
    joints = (Joint("rope", -1, (0.0, 3.0, 0.0)), *(Joint(f"link {n}", n, (0.0, -0.1, 0.0)) for n in range(LINKS)))
    whole = Control("whole figure", ControlKind.WHOLE, 0, (*MOVE, *TURN))
    controls = (whole, *(Control(f"link {n}", ControlKind.JOINT, n + 1, TURN) for n in range(LINKS)))
    rig = Rig(joints, controls, (Part("rope", tuple(range(LINKS + 1))),))
    figure = Figure("rope", rig, Model(()), "rope.glb", (0.5, 0.4, 0.3))
    shot = Shot("a rope", (figure,), Take("A", acting_by({"rope": figure.no_motion()})), last=340.0)
    for frame, across in ((101, 0.0), (125, 0.5), (150, -0.4), (340, 0.0)):
        shot = bv.set_values(shot, "rope", frame, {"whole figure/across": across, "link 0/tilt": across * 60})
    shot = bv.splined(shot, "rope")
    return bv.follow(shot, "rope", [f"link {n}" for n in range(LINKS)], "spring", "late")


def _frames(shot: Shot):  # type: ignore[no-untyped-def]
    """A frame that nobody has asked for yet, at each call."""
    at = [0]

    def run() -> None:
        at[0] += 1
        _ = staged(shot, "porter", 102.0 + at[0] * 0.01).world

    return run
