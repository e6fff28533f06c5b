"""Poses mixed channel by channel: turns as turns, the short way; moves and amounts as numbers; switches as switches.

Turns are mixed in their controls' own axes: what is a share of the way between two turns, or one turn after another, is so in
whatever axes both are told.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.rest_space import rest_plan
from bovrin.motion.rotations import (
    blend,
    euler_quaternion,
    inverse,
    matrix_euler,
    multiply,
    nearest_euler,
    power,
    quaternion_matrix,
)
from bovrin.shot import ChannelRole, ControlKind, Rig

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]


SAME = 1e-14
"""Radians, and metres, by which a rounding may part two values."""


class MixPlan(NamedTuple):
    """rows: those of the rest plan that turn about two axes or three, but for the whole figure; turned: their channels; plain:
    all other channels that are numbers; switches: those that are on or off."""

    rows: Ints
    turned: Ints
    plain: Ints
    switches: Ints


@cached_by_identity
def mix_plan(rig: Rig) -> MixPlan:
    """How a rig's channels are mixed."""
    plan = rest_plan(rig)
    whole = {c for c, what in enumerate(rig.controls) if what.kind is ControlKind.WHOLE}
    rows = [n for n, c in enumerate(plan.turners) if c not in whole and (plan.turn_columns[n] >= 0).sum() > 1]
    turned = sorted({int(c) for n in rows for c in plan.turn_columns[n] if c >= 0})
    on_off = (ChannelRole.REACH, ChannelRole.ANCHOR)
    switches = [n for n, c in enumerate(rig.channels) if c.unit.holds or c.technical in on_off]
    plain = sorted(set(range(len(rig.channels))) - set(turned) - set(switches))
    return MixPlan(*(np.array(own, np.intp) for own in (rows, turned, plain, switches)))


def mixed(rig: Rig, under: Floats, over: Floats, weight: Floats) -> Floats:
    """Poses (F, C) between two: weight (F,) 0 is the first to the bit, 1 the second."""
    if (weight >= 1.0).all():
        return over
    result = np.where((weight >= 1.0)[:, None], over, under)
    rows = np.flatnonzero((weight > 0.0) & (weight < 1.0))
    if not len(rows):
        return result
    plan, a, b, w = mix_plan(rig), under[rows], over[rows], weight[rows]
    made = a.copy()
    made[:, plan.plain] += (b - a)[:, plan.plain] * w[:, None]
    made[:, plan.switches] = np.where((w >= 0.5)[:, None], b, a)[:, plan.switches]
    turning = _differing(rig, plan, a, b)
    if len(turning):
        one, two = (_turns(rig, own, turning) for own in (a, b))
        share = np.broadcast_to(w[:, None], one.shape[:-1])
        _write(rig, blend(one, two, share), turning, np.where((w < 0.5)[:, None], a, b), made)
    result[rows] = made
    return result


def strengthened(rig: Rig, values: Floats, neutral: Floats, strength: float) -> Floats:
    """Poses (F, C) whose way from a neutral pose (C,) is so many times as far."""
    if strength == 1.0:
        return values
    plan = mix_plan(rig)
    made = values.copy()
    made[:, plan.plain] = neutral[plan.plain] + strength * (values - neutral)[:, plan.plain]
    turning = _differing(rig, plan, values, neutral[None])
    if len(turning):
        rest, own = _turns(rig, neutral[None], turning), _turns(rig, values, turning)
        away = multiply(np.broadcast_to(inverse(rest), own.shape), own)
        farther = power(away, np.full(own.shape[:-1], strength))
        _write(rig, multiply(np.broadcast_to(rest, own.shape), farther), turning, values, made)
    return made


def added(rig: Rig, under: Floats, values: Floats, neutral: Floats, weight: Floats) -> Floats:
    """Poses (F, C) that go, besides what they do, the way that others are from a neutral pose (C,), by a weight (F,)."""
    plan = mix_plan(rig)
    made = under.copy()
    made[:, plan.plain] += (values - neutral)[:, plan.plain] * weight[:, None]
    turning = _differing(rig, plan, values, neutral[None])
    if len(turning):
        rest, own, below = (_turns(rig, poses, turning) for poses in (neutral[None], values, under))
        away = multiply(np.broadcast_to(inverse(rest), own.shape), own)
        share = np.broadcast_to(weight[:, None], own.shape[:-1])
        _write(rig, multiply(below, power(away, share)), turning, under, made)
    return made


def _differing(rig: Rig, plan: MixPlan, a: Floats, b: Floats) -> Ints:
    """Those of the turning rows that have other angles in some of the poses; an average of one angle may be off by a rounding."""
    cols = rest_plan(rig).turn_columns[plan.rows]
    apart = np.append((np.abs(a - b) > SAME).any(0), False)
    return np.asarray(plan.rows[apart[cols].any(1)])


@cached_by_identity
def _orders(rig: Rig) -> dict[str, Bools]:
    """Which rows of the rest plan turn in which order."""
    orders = rest_plan(rig).orders
    return {order: np.array([own == order for own in orders], bool) for order in dict.fromkeys(orders)}


def _turns(rig: Rig, values: Floats, rows: Ints) -> Floats:
    """Turns (F, r, 4) of some rows of the rest plan at values (F, C), each in its own axes."""
    angles = _angles(rig, values, rows)
    made = np.empty((*angles.shape[:-1], 4))
    for order, has in _orders(rig).items():
        some = np.flatnonzero(has[rows])
        if len(some):
            made[:, some] = euler_quaternion(angles[:, some], order)
    return made


def _angles(rig: Rig, values: Floats, rows: Ints) -> Floats:
    cols = rest_plan(rig).turn_columns[rows]
    return np.where(cols >= 0, values[:, cols], 0.0)


def _write(rig: Rig, turns: Floats, rows: Ints, near: Floats, result: Floats) -> None:
    """Write turns (F, r, 4) into `result` (F, C) as the angles nearest to `near` (F, C)."""
    here, cols = _angles(rig, near, rows), rest_plan(rig).turn_columns[rows]
    angles = np.empty_like(here)
    for order, has in _orders(rig).items():
        some = np.flatnonzero(has[rows])
        if len(some):
            found = matrix_euler(quaternion_matrix(turns[:, some]), order)
            angles[:, some] = nearest_euler(found, here[:, some], order)
    kept = cols >= 0
    result[:, cols[kept]] = angles[:, kept]
