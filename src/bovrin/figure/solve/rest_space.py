"""Poses told apart from how a rig is built: every control's turn and move away from rest, in the figure's own axes.

Two controls that do the same to a figure have the same turn here, whatever the rest orientation of their joints and the
order of their rotations. Mirroring, and carrying a pose to another figure, are simple in this space.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import columns, plan_of
from bovrin.motion.rotations import euler_matrix, matrix_euler, matrix_quaternion, nearest_euler
from bovrin.shot import ControlKind, Rig
from bovrin.shot.rig import HANGS

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

MIRROR = np.diag([-1.0, 1.0, 1.0])
"""Across the figure's centre plane: its left is +x."""


class RestPlan(NamedTuple):
    """turners (n,), movers (m,): controls; their columns (., 3), -1 where there is none; their axes (., 3, 3) at rest."""

    turners: Ints
    turn_columns: Ints
    turn_axes: Floats
    orders: tuple[str, ...]
    movers: Ints
    move_columns: Ints
    move_axes: Floats
    others: dict[int, dict[str, int]]


@cached_by_identity
def rest_plan(rig: Rig) -> RestPlan:
    """The plan of a rig, made once."""
    world = plan_of(rig).rest_world[:, :3, :3]
    turners, movers = [], []
    others: dict[int, dict[str, int]] = {}
    for index, control in enumerate(rig.controls):
        inside = control.kind in (ControlKind.JOINT, ControlKind.WHOLE)
        parent = rig.joints[control.joint].parent
        turn, move = columns(rig, index, "rotate"), columns(rig, index, "translate")
        if max(turn) >= 0:
            turners.append((index, turn, world[control.joint] if inside else np.eye(3)))
        if max(move) >= 0:
            movers.append((index, move, world[parent] if inside and parent >= 0 else np.eye(3)))
        named = zip(rig.span(index), control.channels, strict=True)
        rest = ((c.technical, i) for i, c in named if i not in turn and i not in move)
        others[index] = {
            word: i for word, i in rest if not word.startswith(HANGS)
        }  # what carries it is no part of a pose
    return RestPlan(
        np.array([t[0] for t in turners], np.intp),
        np.array([t[1] for t in turners], np.intp).reshape(-1, 3),
        np.array([t[2] for t in turners], float).reshape(-1, 3, 3),
        tuple(rig.controls[t[0]].order for t in turners),
        np.array([m[0] for m in movers], np.intp),
        np.array([m[1] for m in movers], np.intp).reshape(-1, 3),
        np.array([m[2] for m in movers], float).reshape(-1, 3, 3),
        others,
    )


def _order_groups(orders: tuple[str, ...], rows: Ints) -> dict[str, Ints]:
    return {
        order: np.array([i for i, row in enumerate(rows) if orders[row] == order], np.intp) for order in set(orders)
    }


def rest_turns(rig: Rig, values: Floats, rows: Ints) -> Floats:
    """Turns (F, r, 3, 3) of some turning controls (rows of the plan) at values (F, C)."""
    plan = rest_plan(rig)
    angles = _picked(values, plan.turn_columns[rows])
    own = np.empty((*angles.shape, 3))
    for order, some in _order_groups(plan.orders, rows).items():
        if len(some):
            own[:, some] = euler_matrix(angles[:, some], order)
    axes = plan.turn_axes[rows]
    return np.asarray(axes @ own @ np.swapaxes(axes, -1, -2))


def rest_moves(rig: Rig, values: Floats, rows: Ints) -> Floats:
    """Moves (F, r, 3), metres, of some moving controls (rows of the plan) at values (F, C)."""
    plan = rest_plan(rig)
    return np.asarray((plan.move_axes[rows] @ _picked(values, plan.move_columns[rows])[..., None])[..., 0])


def _picked(values: Floats, cols: Ints) -> Floats:
    return np.where(cols >= 0, values[:, cols], 0.0)


def turn_values(rig: Rig, turns: Floats, rows: Ints, near: Floats, result: Floats) -> None:
    """Write turns (F, r, 3, 3) into `result` (F, C) as the angles nearest to `near` (F, C)."""
    plan = rest_plan(rig)
    axes = plan.turn_axes[rows]
    own = np.swapaxes(axes, -1, -2) @ turns @ axes
    cols = plan.turn_columns[rows]
    here = _picked(near, cols)
    angles = np.empty_like(here)
    for order, some in _order_groups(plan.orders, rows).items():
        if len(some):
            angles[:, some] = nearest_euler(matrix_euler(own[:, some], order), here[:, some], order)
    single = np.flatnonzero((cols >= 0).sum(1) == 1)
    if len(single):
        axis = cols[single].argmax(1)
        angles[:, single, axis] = hinge_angles(own[:, single], axis, here[:, single])
    kept = cols >= 0
    result[:, cols[kept]] = angles[:, kept]


def hinge_angles(turns: Floats, axis: Ints, near: Floats) -> Floats:
    """How far turns (F, n, 3, 3) go about one of their axes (n,), radians, nearest to `near` (F, n, 3): (F, n)."""
    q = matrix_quaternion(turns)
    rows = np.arange(len(axis))
    angle = 2.0 * np.arctan2(q[:, rows, axis], q[..., 3])
    now = near[:, rows, axis]
    return np.asarray(angle + np.round((now - angle) / (2 * np.pi)) * 2 * np.pi)


def move_values(rig: Rig, moves: Floats, rows: Ints, result: Floats) -> None:
    """Write moves (F, r, 3) into `result` (F, C)."""
    plan = rest_plan(rig)
    own = (np.swapaxes(plan.move_axes[rows], -1, -2) @ moves[..., None])[..., 0]
    kept = plan.move_columns[rows] >= 0
    result[:, plan.move_columns[rows][kept]] = own[:, kept]


def carry_controls(
    rig: Rig, controls: Iterable[int], turn: Floats, shift: Floats, values: Floats, result: Floats
) -> None:
    """Write some controls of poses `values` (F, C) into `result` (F, C), turned (F, 3, 3) and shifted (F, 3) in the figure's
    space, in which they stand."""
    plan, rest = rest_plan(rig), plan_of(rig).rest_world[:, :3, 3]
    for control in controls:
        turner, mover = np.flatnonzero(plan.turners == control), np.flatnonzero(plan.movers == control)
        at = rest[rig.controls[control].joint]
        if len(mover):
            place = at + rest_moves(rig, values, mover)[:, 0]
            move_values(rig, ((turn @ place[..., None])[..., 0] + shift - at)[:, None], mover, result)
        if len(turner):
            turn_values(rig, turn[:, None] @ rest_turns(rig, values, turner), turner, values, result)


def own_channels(rig: Rig, control: int, word: str, values: Floats) -> Floats:
    """The channels of "translate" or "rotate" (F, 3) of a control; 0 for those it has not."""
    made = np.zeros((len(values), 3))
    for axis, c in enumerate(columns(rig, control, word)):
        if c >= 0:
            made[:, axis] = values[:, c]
    return made


def put_turn(rig: Rig, control: int, values: Floats, turn: Floats) -> None:
    """Write into values (F, C) a turn (F, 3, 3) of a control in its own axes, nearest to how it is written there; about one axis,
    as far as that goes."""
    cols, order = columns(rig, control, "rotate"), rig.controls[control].order
    axes = [axis for axis, c in enumerate(cols) if c >= 0]
    if not axes:
        return
    near = own_channels(rig, control, "rotate", values)
    if len(axes) == 1:
        values[:, cols[axes[0]]] = hinge_angles(turn[:, None], np.array(axes), near[:, None])[:, 0]
        return
    angles = nearest_euler(matrix_euler(turn, order), near, order)
    for axis in axes:
        values[:, cols[axis]] = angles[:, axis]
