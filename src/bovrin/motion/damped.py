"""The damped oscillator, told by what is seen of it, and stepped exactly.

What hangs on a spring turns away from where it would be by a rotation vector y, in axes that go along, so that
y'' = -w² y - 2 d y' - (turning faster) - 2 d (1 - c) (turning), where w is how stiff it is, d how damped, and c how far the
damping goes along with what carries it. With z = y' + turning nothing need be differentiated twice:
y' = z - turning - left behind, z' = -w² y - 2 d z + 2 d (c turning + left behind). The steps are exact for what is even within
one (any textbook of control, "step-invariant discretisation"), and therefore stable whatever their length.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

RESTS = 0.02
"""What is left of a sway when it counts as settled."""
CRITICAL = 5.834
"""How many damping times it takes to settle without a sway: where (1 + x) e^-x is RESTS."""
SOONEST = 1e-3
"""Seconds: the shortest settling."""


class Spring(NamedTuple):
    """Springs (...): decay, per second; sway, radians a second, 0: none; along: how far the damping goes along, 0 to 1."""

    decay: Floats
    sway: Floats
    along: Floats

    @property
    def stiffness(self) -> Floats:
        """w², per second squared."""
        return np.asarray(self.decay**2 + self.sway**2)


def spring(lags: Floats, settles: Floats, sways: Floats) -> Spring:
    """Springs (...) that lag by so many seconds behind what turns evenly, settle in so many, and pass over so often until then.
    What lags much cannot settle soon: settling takes as long as the lag needs."""
    lags, settles, sways = (np.asarray(one, float) for one in (lags, settles, sways))
    times = _times_to_rest(sways)
    least = lags * (times**2 + (np.pi * sways) ** 2) / (2.0 * times)
    settles = np.maximum(np.maximum(settles, least), SOONEST)
    decay, sway = times / settles, np.pi * sways / settles
    along = 1.0 - lags * (decay**2 + sway**2) / (2.0 * decay)
    return Spring(decay, sway, np.clip(along, 0.0, 1.0))


def _times_to_rest(sways: Floats) -> Floats:
    """How many damping times pass until RESTS is left of so many sways."""
    over = np.maximum(np.pi * sways, 1e-9)
    times = np.full(np.shape(sways), 4.0)
    for _ in range(6):
        times = np.minimum(-np.log(RESTS) + 0.5 * np.log1p((times / over) ** 2), CRITICAL)
    return times


def steps(own: Spring, seconds: Floats) -> tuple[Floats, Floats]:
    """What becomes of (y, z) in so many seconds (...): E (y, z) + K u, both matrices (..., 2, 2), where u is even
    and enters y' and z'."""
    decay, stiff = own.decay, own.stiffness
    left = np.exp(-decay * seconds)
    cos, sin = left * np.cos(own.sway * seconds), left * seconds * np.sinc(own.sway * seconds / np.pi)
    free = np.stack([cos + decay * sin, sin, -stiff * sin, cos - decay * sin], -1)
    free = free.reshape(*free.shape[:-1], 2, 2)
    gone = free - np.eye(2)
    back = np.stack([-2.0 * decay / stiff, -1.0 / stiff, np.ones_like(stiff), np.zeros_like(stiff)], -1)
    return free, gone @ back.reshape(free.shape)


def pushed(own: Spring, turned: Floats, left_behind: Floats) -> Floats:
    """What enters y' and z' (N, 2, 3) while what carries it turns by `turned` (N, 3) a second and leaves it behind by
    `left_behind` (N, 3) a second."""
    twice, along = 2.0 * own.decay[..., None], own.along[..., None]
    return np.stack([-(turned + left_behind), twice * (along * turned + left_behind)], -2)


class Passage:
    """How states go from step to step by matrices `free` (N, 2, 2), however they are driven.

    In blocks, all of them a step at a time, so that there are no more than about twice the root of N steps in Python.
    """

    def __init__(self, free: Floats) -> None:
        self.count = len(free)
        size = max(int(np.ceil(np.sqrt(self.count))), 1)
        blocks = -(-self.count // size)
        filled = np.concatenate([free, np.broadcast_to(np.eye(2), (blocks * size - self.count, 2, 2))])
        self._free = np.ascontiguousarray(np.swapaxes(filled.reshape(blocks, size, 2, 2), 0, 1))
        self._passed = self._free.copy()
        for before, own in zip(self._passed[:-1], self._passed[1:], strict=True):
            own[:] = own @ before

    def states(self, driven: Floats, *, loops: bool) -> Floats:
        """The states (N + 1, 2, D) of s' = free s + driven (N, 2, D), from rest on; loops: of the steady round, whose end is its
        beginning."""
        size, blocks = self._free.shape[:2]
        own = np.zeros((blocks * size, *driven.shape[1:]))
        own[: self.count] = driven
        own = np.ascontiguousarray(np.swapaxes(own.reshape(blocks, size, *driven.shape[1:]), 0, 1))
        for step in range(1, size):
            own[step] += self._free[step] @ own[step - 1]
        starts = _block_starts(own[-1], self._passed[-1], loops)
        own += self._passed @ starts
        states = np.swapaxes(own, 0, 1).reshape(-1, *driven.shape[1:])
        return np.concatenate([starts[:1], states[: self.count]])


def _block_starts(ends: Floats, passed: Floats, loops: bool) -> Floats:
    """The state (B, 2, D) at the beginning of each block."""
    start = np.zeros_like(ends[0])
    if loops:
        whole, round_ = start, np.eye(2)
        for end, matrix in zip(ends, passed, strict=True):
            whole, round_ = matrix @ whole + end, matrix @ round_
        start = np.linalg.solve(np.eye(2) - round_, whole)
    starts = [start]
    for end, matrix in zip(ends[:-1], passed[:-1], strict=True):
        starts.append(matrix @ starts[-1] + end)
    return np.stack(starts)
