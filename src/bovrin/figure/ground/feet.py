"""Feet as points: heel and ball of each, where they are and how they go over the ground."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import plan_of
from bovrin.frozen import frozen
from bovrin.shot import Limb, Rig

Floats = NDArray[np.float64]

Under = Callable[[Floats], Floats]
"""How high the ground is under points (..., 3): (...), metres."""

FLOOR = 0.02
"""Share of a leg's length within which a floor is the ground at 0."""
STEADY, LOWEST, FEW = 0.01, 10.0, 5
"""Share of a leg's length by which a steady foot rises or sinks on a frame, the percentage of such heights that is under the
floor, and frames that tell it: those on which a recording dips do not count."""
BEARS = 0.02
"""Share of a leg's length over the ground below which heel or ball bears, as a rule."""
PALM = 0.15
"""Share of an arm's length over the ground at which a hand's joint bears."""
FLAT = 1e-3
"""Metres within which heel and ball are as low as one another."""
GOES = 0.5
"""Legs' lengths that a body goes when it is it that travels, not the ground."""
STANDS = 0.05
"""Legs' lengths a second below which planted feet do not run back: the figure does not walk on the spot."""


@frozen
class Foothold:
    """A foot: its limb's number and name, its joints, and heel and ball on the ground in their axes, metres.

    heel hangs on the ankle's joint, ball on the toes'; `leg` is how long the leg is, `rest` where the ankle is at rest (3,).
    palm: how high over the ground a hand's joint is when the hand bears, metres; 0 of a foot.
    """

    limb: int
    name: str
    ankle: int
    toes: int
    heel: Floats
    ball: Floats
    leg: float
    rest: Floats
    palm: float = 0.0


@cached_by_identity
def handholds(rig: Rig) -> tuple[Foothold, ...]:
    """The ends of a rig's limbs that have no foot, as what can bear: a hand bears with one point, its joint."""
    world = plan_of(rig).rest_world
    return tuple(_handhold(n, limb, world) for n, limb in enumerate(rig.limbs) if limb.foot is None)


def _handhold(number: int, limb: Limb, world: Floats) -> Foothold:
    joints = world[[limb.upper, limb.middle, limb.end], :3, 3]
    arm = float(np.linalg.norm(np.diff(joints, axis=0), axis=1).sum())
    nowhere = np.zeros(3)
    return Foothold(number, limb.name, limb.end, limb.end, nowhere, nowhere, arm, joints[2], PALM * arm)


@cached_by_identity
def footholds(rig: Rig) -> tuple[Foothold, ...]:
    """The feet of a rig."""
    world = plan_of(rig).rest_world
    return tuple(_foothold(n, limb, world) for n, limb in enumerate(rig.limbs) if limb.foot is not None)


def _foothold(number: int, limb: Limb, world: Floats) -> Foothold:
    assert limb.foot is not None
    ankle, toes = world[limb.end], world[limb.foot.toes]
    heel = ankle[:3, 3] + limb.foot.heel
    ball = ankle[:3, 3] + limb.foot.ball
    ball[1] = min(heel[1], ball[1])
    joints = world[[limb.upper, limb.middle, limb.end], :3, 3]
    leg = float(np.linalg.norm(np.diff(joints, axis=0), axis=1).sum())
    inside = [turn[:3, :3].T @ (place - turn[:3, 3]) for turn, place in ((ankle, heel), (toes, ball))]
    return Foothold(number, limb.name, limb.end, limb.foot.toes, inside[0], inside[1], leg, ankle[:3, 3])


@frozen
class Footing:
    """Feet over frames (F,), in a row: points (N, F, 2, 3), heels and balls in the world; body (F, 3), the middle of where legs
    begin; under (N, F, 2), how high what they can stand on is under each point; metres."""

    feet: tuple[Foothold, ...]
    frames: Floats
    points: Floats
    body: Floats
    under: Floats

    @cached_property
    def steps(self) -> Floats:
        """How far each point goes over the ground from a frame to the next, metres a frame (N, F - 1, 2, 3)."""
        gaps = np.diff(self.frames)[:, None, None]
        return np.asarray(np.diff(self.points, axis=1) * [1.0, 0.0, 1.0] / gaps)

    @cached_property
    def level(self) -> float:
        """How high feet stand, metres: 0, or where they steadily are lowest when that is not about there."""
        feet = [n for n, foot in enumerate(self.feet) if not foot.palm]
        if self.under.any() or not feet or not self.points.size:
            return 0.0
        leg = min(self.feet[n].leg for n in feet)
        low = self.points[feet, ..., 1].min(2)
        still = np.abs(np.diff(low, axis=1)) < STEADY * leg
        steady = low[:, 1:][still]
        lowest = float(np.percentile(steady, LOWEST)) if len(steady) >= FEW else float(low.min())
        return 0.0 if abs(lowest) < FLOOR * leg else lowest

    @cached_property
    def heights(self) -> Floats:
        """How high each point is over the ground (N, F, 2), metres."""
        palms = np.array([foot.palm for foot in self.feet])[:, None, None]
        return np.asarray(self.points[..., 1] - self.under - self.level - palms)

    def treadmill(self, frame_rate: float) -> Floats:
        """How the ground runs under a figure (3,), metres a frame: as feet that bear do; 0 where they stand or it goes itself."""
        if len(self.frames) < 3 or not self.feet:
            return np.zeros(3)
        leg = float(np.mean([own.leg for own in self.feet]))
        if np.ptp(self.body[:, [0, 2]], axis=0).max() > GOES * leg:
            return np.zeros(3)
        bears = np.maximum(self.heights[:, :-1], self.heights[:, 1:]) < BEARS * leg
        steps = self.steps[bears]
        if not len(steps):
            return np.zeros(3)
        middle = np.asarray(np.median(steps, axis=0))
        return middle if float(np.linalg.norm(middle)) * frame_rate > STANDS * leg else np.zeros(3)


def footing_of(rig: Rig, frames: Floats, world: Floats, under: Under | None = None, *, hands: bool = False) -> Footing:
    """The feet of joints' matrices (F, J, 4, 4) at frames (F,), and the hands if wanted; under: how high the ground is under
    points, 0 where not said."""
    feet = footholds(rig) + (handholds(rig) if hands else ())
    points = np.empty((len(feet), len(frames), 2, 3))
    for n, foot in enumerate(feet):
        for k, (joint, inside) in enumerate(((foot.ankle, foot.heel), (foot.toes, foot.ball))):
            points[n, :, k] = world[:, joint, :3, :3] @ inside + world[:, joint, :3, 3]
    tops = [rig.limbs[foot.limb].upper for foot in footholds(rig)]
    body = world[:, tops][..., :3, 3].mean(1) if tops else world[:, 0, :3, 3]
    return Footing(feet, frames, points, body, np.zeros(points.shape[:3]) if under is None else under(points))


def bearing_steps(points: Floats, heights: Floats, ground: Floats) -> Floats:
    """How far what bears of a foot goes over the ground from a frame to the next (F - 1, 3); heights are left out.

    points : (F, 2, 3), heel and ball; heights : (F, 2); ground : (F - 1, 3), how far the ground itself goes. The lower of the two
    bears; when the foot lies flat, it is the one that goes less, since feet turn on the spot.
    """
    steps = (np.diff(points, axis=0) - ground[:, None]) * [1.0, 0.0, 1.0]
    high = np.maximum(heights[:-1], heights[1:])
    size = np.where(high <= high.min(1, keepdims=True) + FLAT, np.linalg.norm(steps, axis=2), np.inf)
    return np.asarray(steps[np.arange(len(steps)), size.argmin(1)])
