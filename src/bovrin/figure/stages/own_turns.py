"""A control's own channels for moving and turning, read and written whichever of them it has."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.plan import columns
from bovrin.figure.solve.rest_space import hinge_angles
from bovrin.motion.rotations import matrix_euler, nearest_euler
from bovrin.shot import Rig

Floats = NDArray[np.float64]


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
