"""What a follower adds, as a graph would show it."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.figure.solve.plan import columns
from bovrin.figure.solve.rest_space import own_channels
from bovrin.figure.stages.following import links_of
from bovrin.figure.staging import hangs_on, unlooked
from bovrin.motion.rotations import euler_matrix, rotation_vector
from bovrin.shot import Rig, Shot

Floats = NDArray[np.float64]


def added(shot: Shot, figure: str, name: str, frames: ArrayLike) -> Floats:
    """By how much a follower turns (radians) or, a bob, moves (metres) its last link at frames (F,), to one side or the other of
    the way on which it goes farthest: (F,)."""
    at = np.atleast_1d(np.asarray(frames, float))
    one = next(own for own in shot.followers(figure) if own.name == name)
    rig = shot.figure(figure).rig
    others = tuple(replace(own, on=False) if own is one else own for own in shot.followers(figure))
    without = replace(shot, take=shot.take.acted(figure, followers=others))
    control = links_of(rig, one.controls).controls[-1]
    before, after = (unlooked(hangs_on(own, figure), at) for own in (without, shot))
    way = _moved(rig, control, before, after) if one.kind == "bob" else _turned(rig, control, before, after)
    main = np.linalg.svd(way, full_matrices=False)[2][0] if way.any() else np.zeros(3)
    return np.asarray(way @ main)


def _moved(rig: Rig, control: int, before: Floats, after: Floats) -> Floats:
    cols = [c for c in columns(rig, control, "translate") if c >= 0]
    made = np.zeros((len(before), 3))
    made[:, : len(cols)] = after[:, cols] - before[:, cols]
    return made


def _turned(rig: Rig, control: int, before: Floats, after: Floats) -> Floats:
    order = rig.controls[control].order
    a, b = (euler_matrix(own_channels(rig, control, "rotate", values), order) for values in (before, after))
    return rotation_vector(np.swapaxes(a, -1, -2) @ b)
