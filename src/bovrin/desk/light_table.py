"""The light table: poses or frames before and after the current one, as pencil outlines under the figure."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keys import Poses
from bovrin.picture.renderer import Ghost, Item
from bovrin.picture.shot_picture import world_at
from bovrin.picture.theme import Theme, rgb
from bovrin.shot import CurveSet, Figure

Floats = NDArray[np.float64]

STRONGEST, FAINTEST = 0.95, 0.22
MOST = 6


@dataclass(frozen=True)
class LightTable:
    """What lies on the table. `lined_up`: every drawing is laid so that the chosen part covers itself."""

    on: bool = False
    frames: bool = False
    before: int = 2
    after: int = 2
    lined_up: bool = False

    def frames_shown(self, frame: float, poses: Poses, first: float, last: float) -> list[tuple[float, bool, float]]:
        """Frame, whether it is before, and strength, of each drawing; the farthest first."""
        if self.frames:
            before = [f for f in np.arange(frame - self.before, frame) if f >= first]
            after = [f for f in np.arange(frame + 1, frame + 1 + self.after) if f <= last]
        else:
            before = (
                [float(f) for f in poses.frames[poses.frames < frame - 1e-6]][-self.before :] if self.before else []
            )
            after = [float(f) for f in poses.frames[poses.frames > frame + 1e-6]][: self.after]
        found = [(float(f), True, _strength(len(before) - n)) for n, f in enumerate(before)]
        found += [(float(f), False, _strength(n + 1)) for n, f in enumerate(after)]
        return sorted(found, key=lambda row: row[2])


def _strength(steps: int) -> float:
    """The opacity of a drawing so many steps away."""
    return max(STRONGEST - (steps - 1) * 0.16, FAINTEST)


def ghosts(
    table: LightTable,
    figure: Figure,
    curves: CurveSet,
    shown: list[tuple[float, bool, float]],
    frame: float,
    theme: Theme,
    joint: int,
) -> list[Ghost]:
    """The drawings on the table for one figure; lined up, each lies so that a joint is where it is on this frame."""
    here = world_at(curves, figure.rig, frame)[joint, :3, 3]
    found = []
    for at, before, strength in shown:
        world = world_at(curves, figure.rig, at)
        if table.lined_up:
            world = world.copy()
            world[:, :3, 3] += here - world[joint, :3, 3]
        found.append(Ghost(Item(figure, world), rgb(theme.before if before else theme.after), strength))
    return found
