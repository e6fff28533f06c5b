"""Poses mixed channel by channel: turns as turns, the short way; moves and amounts as numbers; switches as switches."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.rest_space import rest_plan, rest_turns, turn_values
from bovrin.motion.rotations import blend, inverse, matrix_quaternion, multiply, power, quaternion_matrix
from bovrin.shot import ChannelRole, ControlKind, Rig, Unit

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


class MixPlan(NamedTuple):
    """rows: those of the rest plan that turn about two axes or three, but for the whole figure; turned: their channels; plain:
    all other channels that are numbers; switches: those that are on or off."""

    rows: Ints
    turned: Ints
    plain: Ints
    switches: Ints


@cached_by_identity(32)
def mix_plan(rig: Rig) -> MixPlan:
    """How a rig's channels are mixed."""
    plan = rest_plan(rig)
    whole = {c for c, what in enumerate(rig.controls) if what.kind is ControlKind.WHOLE}
    rows = [n for n, c in enumerate(plan.turners) if c not in whole and (plan.turn_columns[n] >= 0).sum() > 1]
    turned = sorted({int(c) for n in rows for c in plan.turn_columns[n] if c >= 0})
    on_off = (ChannelRole.REACH, ChannelRole.ANCHOR)
    switches = [n for n, c in enumerate(rig.channels) if c.unit is Unit.SWITCH or c.technical in on_off]
    plain = sorted(set(range(len(rig.channels))) - set(turned) - set(switches))
    return MixPlan(*(np.array(own, np.intp) for own in (rows, turned, plain, switches)))


def mixed(rig: Rig, under: Floats, over: Floats, weight: Floats) -> Floats:
    """Poses (F, C) between two: weight (F,) 0 is the first to the bit, 1 the second."""
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
        one, two = (matrix_quaternion(rest_turns(rig, own, turning)) for own in (a, b))
        share = np.broadcast_to(w[:, None], one.shape[:-1])
        turn_values(rig, quaternion_matrix(blend(one, two, share)), turning, np.where((w < 0.5)[:, None], a, b), made)
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
        rest = matrix_quaternion(rest_turns(rig, neutral[None], turning))
        own = matrix_quaternion(rest_turns(rig, values, turning))
        away = _short(multiply(np.broadcast_to(inverse(rest), own.shape), own))
        farther = power(away, np.full(own.shape[:-1], strength))
        turn_values(rig, quaternion_matrix(multiply(np.broadcast_to(rest, own.shape), farther)), turning, values, made)
    return made


def added(rig: Rig, under: Floats, values: Floats, neutral: Floats, weight: Floats) -> Floats:
    """Poses (F, C) that go, besides what they do, the way that others are from a neutral pose (C,), by a weight (F,)."""
    plan = mix_plan(rig)
    made = under.copy()
    made[:, plan.plain] += (values - neutral)[:, plan.plain] * weight[:, None]
    turning = _differing(rig, plan, values, neutral[None])
    if len(turning):
        rest = matrix_quaternion(rest_turns(rig, neutral[None], turning))
        own, below = (matrix_quaternion(rest_turns(rig, v, turning)) for v in (values, under))
        away = _short(multiply(np.broadcast_to(inverse(rest), own.shape), own))
        share = np.broadcast_to(weight[:, None], own.shape[:-1])
        turn_values(rig, quaternion_matrix(multiply(below, power(away, share))), turning, under, made)
    return made


def _differing(rig: Rig, plan: MixPlan, a: Floats, b: Floats) -> Ints:
    """Those of the turning rows that have other angles in some of the poses."""
    cols = rest_plan(rig).turn_columns[plan.rows]
    apart = np.append((a != b).any(0), False)
    return np.asarray(plan.rows[apart[cols].any(1)])


def _short(q: Floats) -> Floats:
    """Turns (..., 4) told the short way round."""
    return np.where(q[..., 3:] < 0, -q, q)
