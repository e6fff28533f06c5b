"""Ways over the ground as complex numbers: a place is forward + i across, and a turn about the vertical multiplies it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import columns
from bovrin.figure.solve.rest_space import rest_plan
from bovrin.shot import ControlKind, Rig

Floats = NDArray[np.float64]


class Stand(NamedTuple):
    """Where figures stand and how they face: place (F,) complex, forward + i across, metres; turn (F,), radians."""

    place: NDArray[np.complex128]
    turn: Floats

    def then(self, other: Stand) -> Stand:
        """The other one, told from here."""
        return Stand(self.place + np.exp(1j * self.turn) * other.place, self.turn + other.turn)

    def back(self) -> Stand:
        """From here to where it is told from."""
        return Stand(-np.exp(-1j * self.turn) * self.place, -self.turn)

    def at(self, rows: slice) -> Stand:
        """Some of them."""
        return Stand(self.place[rows], self.turn[rows])


NOWHERE = Stand(np.zeros(1, complex), np.zeros(1))


@cached_by_identity
def root_columns(rig: Rig) -> tuple[int, int, int] | None:
    """The channels that take the whole figure forward and across, and turn it; None where they are not along the world's axes."""
    plan = rest_plan(rig)
    for control, what in enumerate(rig.controls):
        if what.kind is not ControlKind.WHOLE:
            continue
        across, _, forward = columns(rig, control, "translate")
        turn = columns(rig, control, "rotate")[1]
        row = np.flatnonzero(plan.movers == control)
        if min(across, forward, turn) < 0 or not np.allclose(plan.move_axes[row], np.eye(3), atol=1e-9):
            return None
        return forward, across, turn
    return None


def stands(values: Floats, roots: tuple[int, int, int]) -> Stand:
    """Where poses (F, C) stand."""
    forward, across, turn = roots
    return Stand(values[:, forward] + 1j * values[:, across], values[:, turn].copy())


def put(values: Floats, roots: tuple[int, int, int], where: Stand) -> None:
    """Write where poses (F, C) stand."""
    forward, across, turn = roots
    values[:, forward], values[:, across], values[:, turn] = where.place.real, where.place.imag, where.turn


def again(round_: Stand, times: Floats) -> Stand:
    """A way (1,) gone so many whole times (F,)."""
    turn, place = float(round_.turn[0]), complex(round_.place[0])
    if abs(turn) < 1e-12:
        return Stand(np.asarray(times * place, complex), times * turn)
    gone = place * (np.exp(1j * times * turn) - 1) / (np.exp(1j * turn) - 1)
    return Stand(np.asarray(gone, complex), times * turn)
