"""Barriers that rise to infinity where a joint meets its limit, a limb becomes straight or a held foot has rolled.

The clamped logarithm of M. Li et al., "Incremental potential contact", ACM Trans. Graphics 39, 2020: smooth to second order and
zero beyond its room. A barrier's room ends where the joint is when the drag begins, or nearer to the limit, so that the first
pose itself costs nothing and strives nowhere.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

MARGIN = 0.03
"""Radians between where a joint is when the drag begins and its limit, at least: what is past a limit may stay there."""
LIMIT_ROOM, LIMIT_COST = 0.15, 0.05
STRAIGHT_ROOM, STRAIGHT_COST = 0.3, 0.05
"""Radians before a limit, or before a limb is straight, at which the barrier begins, and how high it is."""
ROLL_EASE, ROLL_COST = 0.002, 5.0
"""A held foot rolls on its ball when the torque about it nears the cost; till then it yields about the ease, radians."""


TINY = 1e-200
"""What is as good as no step, radians or metres."""
LEAST = 1e-12
"""The least share of a room that is told from none."""


class Barriers(NamedTuple):
    """Limits below and above (2, D), the room before each (2, D), how high each is (2, D), and how many of the last
    freedoms are rolls, which only go one way."""

    limit: Floats
    room: Floats
    cost: Floats
    rolls: int


def barriers_at(start: Floats, low: Floats, high: Floats, straight: NDArray[np.intp], rolls: int) -> Barriers:
    """Barriers for freedoms that begin at start (D,). straight: those whose low limit is a straight limb."""
    limit = np.stack([np.minimum(low, start - MARGIN), np.maximum(high, start + MARGIN)])
    room, cost = np.full_like(limit, LIMIT_ROOM), np.full_like(limit, LIMIT_COST)
    room[0, straight], cost[0, straight] = STRAIGHT_ROOM, STRAIGHT_COST
    return Barriers(limit, np.minimum(room, np.abs(limit - start)), cost, rolls)


def energy(barriers: Barriers, z: Floats) -> float:
    """What all barriers cost at z (D,)."""
    near, share = _near(barriers, z)
    total = -float((barriers.cost[near] * (1.0 - share) ** 2 * np.log(share)).sum())
    rolled = z[len(z) - barriers.rolls :]
    return total + ROLL_COST * float((rolled - ROLL_EASE * np.log1p(rolled / ROLL_EASE)).sum())


def slopes(barriers: Barriers, z: Floats) -> tuple[Floats, Floats]:
    """First and second derivative (D,) of the cost at z (D,)."""
    near, share = _near(barriers, z)
    room, less, log = barriers.room[near], 1.0 - share, np.log(share)
    slope, bend = np.zeros((2, len(z))), np.zeros((2, len(z)))
    slope[near] = barriers.cost[near] / room * (2.0 * less * log - less * less / share)
    bend[near] = barriers.cost[near] / room**2 * (-2.0 * log + 4.0 * less / share + (less / share) ** 2)
    total, curving = slope[0] - slope[1], bend[0] + bend[1]
    first = len(z) - barriers.rolls
    gone = z[first:] + ROLL_EASE
    total[first:] += ROLL_COST * (1.0 - ROLL_EASE / gone)
    curving[first:] += ROLL_COST * ROLL_EASE / gone**2
    return total, curving


def share_inside(barriers: Barriers, z: Floats, step: Floats, most: float = 0.9) -> float:
    """The share of a step (D,) from z (D,) that takes no freedom further than `most` of the way to a limit."""
    first = len(z) - barriers.rolls
    gap = np.stack([z - barriers.limit[0], barriers.limit[1] - z])
    gap[0, first:] = z[first:] + ROLL_EASE
    toward = np.stack([-step, step])
    going = toward > TINY
    return float(min(1.0, (most * gap[going] / toward[going]).min(initial=1.0)))


def _near(barriers: Barriers, z: Floats) -> tuple[NDArray[np.bool_], Floats]:
    """Which barriers are felt (2, D), and the shares of their rooms that are left."""
    gap = np.stack([z - barriers.limit[0], barriers.limit[1] - z])
    near = gap < barriers.room
    return near, np.maximum(gap[near] / barriers.room[near], LEAST)
