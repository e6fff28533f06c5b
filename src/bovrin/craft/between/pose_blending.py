"""Poses between two others, by a share for each channel."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.craft.pose.modes import limb_channels
from bovrin.figure.solve.fit import LimbMode, fitted, modes_of
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import columns, special_column
from bovrin.figure.stages.stance import unstretched
from bovrin.motion.rotations import euler_matrix, matrix_euler, nearest_euler, rotation_vector, vector_matrix
from bovrin.motion.turning import turn_vectors
from bovrin.shot import ChannelRole, Rig, Unit

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

FAVOURED = 0.5
"""The share of the way from which on the later pose is the favoured one."""


@cached_by_identity
def turning_columns(rig: Rig) -> dict[str, NDArray[np.intp]]:
    """Controls that turn about three axes: channel indices (n, 3) of x, y, z by rotation order."""
    found: dict[str, list[list[int]]] = {}
    for index, control in enumerate(rig.controls):
        cols = columns(rig, index, "rotate")
        if min(cols) >= 0:
            found.setdefault(control.order, []).append(cols)
    return {order: np.array(cols, np.intp) for order, cols in found.items()}


def blended_poses(rig: Rig, a: Floats, b: Floats, share: Floats, *, short_way: bool = False) -> Floats:
    """Channel values (..., C) between two poses (C,), by a share for each channel (..., C).

    A turn goes the way that the curves between both poses make, however far; `short_way`: where the poses were never
    connected. A limb that is in reach in one pose and in joints in the other is blended in the mode it has there.
    """
    first, last = modes_of(rig, a), modes_of(rig, b)
    result = _blended(rig, a, in_modes(rig, b, first), share, short_way=short_way)
    if first == last:
        return result
    arriving = _blended(rig, in_modes(rig, a, last), b, share, short_way=short_way)
    for limb, (one, other) in enumerate(zip(first, last, strict=True)):
        switch = special_column(rig, rig.limbs[limb].goal, ChannelRole.REACH)
        if one != other and switch >= 0:
            there = share[..., switch] >= 1.0
            own = [*limb_channels(rig, limb), switch]
            result[..., own] = np.where(there[..., None], arriving[..., own], result[..., own])
            result[..., switch] = np.where(there, b[switch], a[switch])
    return result


def in_modes(rig: Rig, pose: Floats, modes: Sequence[LimbMode]) -> Floats:
    """A pose (C,) that looks the same with its limbs in some modes; itself when they are."""
    own = modes_of(rig, pose)
    if own == list(modes):
        return pose
    plain = unstretched(rig, pose)
    asked = [mode if mode != now else LimbMode.LEAVE for mode, now in zip(modes, own, strict=True)]
    fit = fitted(rig, solve(rig, plain[None]), plain[None], asked)[0]
    result = pose.copy()
    for limb, mode in enumerate(asked):
        switch = special_column(rig, rig.limbs[limb].goal, ChannelRole.REACH)
        if mode is not LimbMode.LEAVE and switch >= 0:
            cols = limb_channels(rig, limb, mode)
            result[cols] = fit[cols]
            result[switch] = 1.0 if mode is LimbMode.REACH else 0.0
    return result


@cached_by_identity
def _held(rig: Rig) -> tuple[Ints, Floats]:
    """The channels that hold, and from which share on each is the later pose's: switches when all the way there, what is seen of
    a flat part where that pose is favoured."""
    held = [i for i, channel in enumerate(rig.channels) if channel.unit.holds]
    seen = [
        rig.channels[i].unit is not Unit.SWITCH or rig.channels[i].technical.startswith(ChannelRole.FLIP) for i in held
    ]
    return np.array(held, np.intp), np.where(seen, FAVOURED, 1.0)


def _blended(rig: Rig, a: Floats, b: Floats, share: Floats, *, short_way: bool) -> Floats:
    result = a + (b - a) * share
    for order, cols in turning_columns(rig).items():
        own = share[..., cols].mean(-1)[..., None]
        start, end = a[cols], b[cols]
        first = euler_matrix(start, order)
        if short_way:
            way = rotation_vector(np.swapaxes(first, -1, -2) @ euler_matrix(end, order))
            near = np.where(own >= 0.5, end, start)
        else:
            way, near = turn_vectors(start, end, order), start + (end - start) * own
        turned = first @ vector_matrix(own * way)
        result[..., cols] = nearest_euler(matrix_euler(turned, order), near, order)
    held, from_where = _held(rig)
    result[..., held] = np.where(share[..., held] >= from_where, b[held], a[held])
    return np.asarray(result)
