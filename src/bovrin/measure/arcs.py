"""Arcs: the paths of points of figures through the shot."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.figure.solve.joints import solve
from bovrin.figure.staging import HangsOn, Staged, hangs_on, staged
from bovrin.frozen import frozen
from bovrin.shot import Rig, Shot, Spot

Floats = NDArray[np.float64]


@frozen
class Arc:
    """Where a point is (F, 3), metres, on frames (F,)."""

    frames: Floats
    position: Floats

    @property
    def steps(self) -> Floats:
        """How far it goes to each frame from the one before (F-1,), metres."""
        return np.asarray(np.linalg.norm(np.diff(self.position, axis=0), axis=1))


def joint_of(rig: Rig, spot: Spot) -> int | None:
    """The joint that a point is named by; None where the rig has none of that name any more."""
    names = [joint.name for joint in rig.joints]
    return names.index(spot.joint) if spot.joint in names else None


def place_in(world: Floats, at: ArrayLike) -> Floats:
    """Points (..., 3) so far from joints, in their axes, whose matrices are (..., 4, 4)."""
    return np.asarray(world[..., :3, :3] @ np.asarray(at, float) + world[..., :3, 3])


def arc(shot: Shot, spot: Spot, frames: Floats, relative_to: tuple[str, int] | None = None) -> Arc:
    """The path of one point; relative to a figure's joint, in the axes of that."""
    own = staged(shot, spot.figure, frames)
    joint = joint_of(own.rig, spot)
    assert joint is not None
    places = place_in(own.world[:, joint], spot.at)
    if relative_to is not None:
        places = seen_from(staged(shot, relative_to[0], frames).world[:, relative_to[1]], places)
    return Arc(own.frames, places)


def seen_from(carriers: Floats, places: Floats) -> Floats:
    """Places (F, 3) in the axes of matrices (F, 4, 4)."""
    return np.asarray(np.linalg.solve(carriers[:, :3, :3], (places - carriers[:, :3, 3])[..., None])[..., 0])


class Walked:
    """What figures do over frames, asked again and again while they are edited: only frames that changed are solved anew."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[HangsOn, Staged]] = {}

    def over(self, shot: Shot, figure: str, frames: Floats) -> Staged:
        """What a figure does at frames (F,)."""
        key, (was, before) = hangs_on(shot, figure), self._kept.get(figure, (None, None))
        same = before is not None and before.rig is key[1] and np.array_equal(before.frames, frames)
        if same and before is not None and was == key:
            return before
        now = staged(shot, figure, frames)
        if same and before is not None:
            changed = np.flatnonzero((before.values != now.values).any(1))
            if not len(changed):
                self._kept[figure] = (key, before)
                return before
            if len(changed) < len(frames):
                world = before.world.copy()
                world[changed] = solve(now.rig, now.values[changed])
                now.solved(world)
        self._kept[figure] = (key, now)
        return now

    def arcs(
        self, shot: Shot, spots: Sequence[Spot], frames: Floats, relative_to: tuple[str, int] | None = None
    ) -> list[Arc | None]:
        """The paths of points, one solve for each figure; None for a point whose joint is gone."""
        carriers = None if relative_to is None else self.over(shot, relative_to[0], frames).world[:, relative_to[1]]
        found: list[Arc | None] = []
        for spot in spots:
            own = self.over(shot, spot.figure, frames)
            joint = joint_of(own.rig, spot)
            if joint is None:
                found.append(None)
                continue
            places = place_in(own.world[:, joint], spot.at)
            found.append(Arc(own.frames, places if carriers is None else seen_from(carriers, places)))
        return found
