"""The chosen controls moved by their handle on the stage, and nothing else."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.pose import posing
from bovrin.craft.pose.body import anchored
from bovrin.craft.pose.joint_placing import Placing
from bovrin.desk.stage.drags.posing import Grip, Pointer, StageDrag, slide_drag
from bovrin.desk.stage.scene import Scene
from bovrin.figure.stages.stance import Stance
from bovrin.shot import Rig

Floats = NDArray[np.float64]

BEHIND = 0.005
"""Metres from which on it is said that what is moved stays behind the pointer."""


def place_drag(grip: Grip, scene: Scene, place: Floats, axis: Floats | None = None) -> StageDrag:
    """Move the chosen controls, whose handle is at a place (3,), nothing else."""
    mover = PlaceMover(grip, along=axis is not None)
    return slide_drag(grip, "Move", scene, place, mover, axis, more=mover.words)


class PlaceMover:
    """Moves the chosen controls, nothing else: limb joints by their bones (Shift stretches them), others by themselves.

    along: they move along an axis, which pulls drawn parts off their joints, as Alt does.
    """

    def __init__(self, grip: Grip, *, along: bool = False) -> None:
        self._start, self._along = grip.stance, along
        self._controls = grip.controls
        self._joints = {c: posing.limb_joint(grip.rig, c) for c in grip.controls}
        self._chosen = {j for j in self._joints.values() if j is not None}
        self._held = set(anchored(grip.stance)) - self._chosen
        self._placings: dict[tuple[int, bool], Placing] = {}
        self._last: tuple[Stance, Floats] | None = None

    def __call__(self, by: Floats, pointer: Pointer) -> dict[int, float]:
        changes: dict[int, float] = {}
        now, rig = self._start, self._start.rig
        for control in self._controls:
            joint = self._joints[control]
            if joint is None:
                new = posing.moved_or_swung(now, control, by, loose=pointer.alt or self._along)
            elif _carried(rig, joint, self._chosen):
                continue
            else:
                stands = any(limb.end == joint and limb.foot is not None for limb in rig.limbs)
                placing = self._placing(now, control, joint, keep_turn=pointer.alt != stands)
                new = placing.to(self._start.seen(joint) + by, stretch=pointer.shift)
            changes |= new
            now = now.with_values(new)
        self._last = now, by
        return changes

    def _placing(self, now: Stance, control: int, joint: int, *, keep_turn: bool) -> Placing:
        key = control, keep_turn
        if key not in self._placings:
            self._placings[key] = Placing(now, joint, self._held, carry=self._chosen, keep_turn=keep_turn)
        return self._placings[key]

    def words(self) -> str:
        """How far what was chosen last stays behind where it was led, if it does, and why."""
        if self._last is None:
            return ""
        (now, by), control = self._last, self._controls[-1]
        joint = self._joints[control]
        if joint is None and not posing.swings(now.rig, control):
            return ""
        seen = (lambda s: posing.aim_place(s, control)) if joint is None else (lambda s: s.seen(joint))
        behind = float(np.linalg.norm(seen(now) - seen(self._start) - by))
        if behind < BEHIND:
            return ""
        why = "it only turns about its joint" if joint is None else "its bones reach no farther"
        return f" · {behind * 100:.1f} cm behind the pointer: {why}. Pull the figure to take more of it along"


def _carried(rig: Rig, joint: int, chosen: set[int]) -> bool:
    """Whether a limb's end comes along with its middle joint, both being chosen."""
    return any(joint == limb.end and limb.middle in chosen for limb in rig.limbs)
