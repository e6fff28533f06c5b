"""Figures whose hips travel instead of the whole figure, as recorded and brought ones: mirrored where they are."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.making.setup import taken_for
from bovrin.figure.solve.plan import columns, plan_of
from bovrin.figure.solve.rest_space import carry_controls, rest_moves, rest_plan, rest_turns
from bovrin.motion.evaluate import channel_values
from bovrin.motion.rotations import about
from bovrin.shot import ControlKind, CurveSet, Rig, Shot

Floats = NDArray[np.float64]

FAR = 0.3
"""Share of a figure's size that its hips go from the middle of the whole figure when it is they that travel."""
UP = np.array([0.0, 1.0, 0.0])


def travelling_hips(shot: Shot, figure: str) -> int | None:
    """The control of the hips, if it is they that take a figure through the shot."""
    return _travelling(shot.curves(figure), shot.figure(figure).rig)


@cached_by_identity
def hips_control(rig: Rig) -> int | None:
    """The control that moves and turns the hips, or None."""
    hips = taken_for(rig).hips
    for control, what in enumerate(rig.controls):
        moves = what.joint == hips and what.kind is ControlKind.JOINT and max(columns(rig, control, "translate")) >= 0
        if moves:
            return control if min(columns(rig, control, "rotate")) >= 0 else None
    return None


@cached_by_identity
def _travelling(curves: CurveSet, rig: Rig) -> int | None:
    control = hips_control(rig)
    if control is None:
        return None
    frames = [curves[i].frames for i in columns(rig, control, "translate") if i >= 0 and len(curves[i])]
    if not frames:
        return None
    row = np.flatnonzero(rest_plan(rig).movers == control)
    moves = rest_moves(rig, channel_values(curves, rig, np.unique(np.concatenate(frames))), row)[:, 0]
    size = float(np.ptp(plan_of(rig).rest_world[:, :3, 3], axis=0).max())
    return control if float(np.hypot(moves[:, 0], moves[:, 2]).max()) > FAR * size else None


def travelling_controls(rig: Rig, hips: int) -> list[int]:
    """What stands in the figure's space and goes along with its hips: they and the limbs' goals."""
    return [hips, *(i for i, c in enumerate(rig.controls) if c.kind is ControlKind.GOAL)]


def keep_in_place(rig: Rig, hips: int, values: Floats, new: Floats) -> None:
    """Take mirrored poses `new` (F, C) of `values` (F, C) back to where the hips were, facing where they faced."""
    plan, rest = rest_plan(rig), plan_of(rig).rest_world[:, :3, 3]
    own = np.flatnonzero(plan.turners == hips), np.flatnonzero(plan.movers == hips)
    ahead = rest_turns(rig, values, own[0])[:, 0, :, 2]
    back = about(UP, 2.0 * np.arctan2(ahead[:, 0], ahead[:, 2]))
    stood = rest[rig.controls[hips].joint] + rest_moves(rig, values, own[1])[:, 0]
    mirrored = rest[rig.controls[hips].joint] + rest_moves(rig, new, own[1])[:, 0]
    shift = stood - (back @ mirrored[..., None])[..., 0]
    carry_controls(rig, travelling_controls(rig, hips), back, shift, new.copy(), new)
