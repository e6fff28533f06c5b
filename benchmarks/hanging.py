"""What hangs on something against the same figures without it."""

from __future__ import annotations

import numpy as np

from benchmarks.row import Row, compare
from bovrin import script as bv
from bovrin.caching import RESULTS
from bovrin.craft.hanging.attach import attach
from bovrin.figure.staging import staged
from bovrin.shot import Shot

GOALS = (
    "left hand",
    "right hand",
    "left foot",
    "right foot",
    "gaze",
    "left elbow",
    "right elbow",
    "left knee",
    "right knee",
)
TWELVE = (*GOALS, "beard", "bobble", "head")


def rows() -> list[Row]:
    """A figure with twelve attachments over 240 frames, and three figures that hang on one another, a frame."""
    shot = bv.splined(bv.demo(), "porter")
    frames = np.linspace(shot.first, shot.last, 240)
    hung = shot
    for control in TWELVE:
        hung = attach(hung, "porter", control, bv.GROUND if control == "gaze" else ("crate", "crate"), 101)
    apart = _chain(shot, hang=False)
    together = _chain(shot, hang=True)
    return [
        compare(
            "12 attachments over 240 frames, over the same without",
            1.5,
            lambda: staged(hung, "porter", frames).world,
            lambda: staged(shot, "porter", frames).world,
        ),
        compare(
            "one frame of three figures that hang on one another, over apart", 1.3, _frames(together), _frames(apart)
        ),
    ]


def _chain(shot: Shot, *, hang: bool) -> Shot:
    made = bv.add_figure(bv.add_figure(shot, "cast:porter"), "cast:goat")
    if not hang:
        return made
    names = [figure.name for figure in made.cast]
    goat, second = names[-1], names[-2]
    made = attach(made, goat, made.figure(goat).rig.controls[0].name, ("porter", "chest"), 101)
    return attach(made, second, "left hand", (goat, "head"), 101)


def _frames(shot: Shot):  # type: ignore[no-untyped-def]
    """A frame that nobody has asked for yet, at each call."""
    names, at = ["porter", *(figure.name for figure in shot.cast[-2:])], [0]

    def run() -> None:
        at[0] += 1
        for name in names:
            _ = staged(shot, name, 102.0 + at[0] * 0.01).world

    assert RESULTS is not None
    return run
