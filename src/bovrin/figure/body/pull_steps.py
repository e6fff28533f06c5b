"""Single steps of a pull: where a pose goes to first order, how it is improved, and how far it goes at a bounded pace."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.body import barriers
from bovrin.figure.body.energy import (
    HOLD,
    Slopes,
    State,
    forces_after,
    forces_at,
    pulling,
    reach_at,
    slopes_at,
    state_at,
)
from bovrin.figure.body.held import Body, seen_places

Floats = NDArray[np.float64]

LONGEST = 0.3
"""The most that a freedom changes in a round, radians or metres."""
SETTLED, EXACTLY = 1e-5, 1e-4
"""A step smaller than this, radians or metres, is the last; one of Newton's own too, after which its square is left."""
TRUST, NEAR = 0.35, 2e-3
"""A guess is met where what corrects it is smaller than this share of it, or than this, radians or metres."""
KEPT, NEARLY = 2e-5, 1e-4
"""Metres that an anchor may be off, and the pulled joint of a pose that crosses over."""
SAME_ENERGY = 1e-9


class Come(NamedTuple):
    """A pose that was come to, whether it is one of least energy (or a guess was met), how many slopes it took, the forces
    there (T, 3), and the slopes, if they are known."""

    state: State
    there: bool
    solves: int
    forces: Floats
    slopes: Slopes | None = None


def led(body: Body, now: State, slopes: Slopes, way: Floats) -> tuple[Floats, Floats]:
    """How the parameters (D,) change to first order when the pulled place goes a little way (3,), and the forces (T, 3) then."""
    push = pulling(now.off[0])[1] @ way
    step, _ = _newton(body, slopes.gradient - (slopes.reach[0] @ push)[body.live], slopes.hessian, 0.0)
    change = _bounded(body, now.z, step)
    return change, forces_after(now, slopes.reach, change, way)


def met(body: Body, targets: Floats, guess: State, change: Floats, forces: Floats) -> Come:
    """The pose that a guess was meant for, which a change (D,) led to; not there where it was a poor one."""
    now, before = guess, float(np.abs(change).max(initial=0.0))
    for solves in range(1, 4):
        slopes = slopes_at(body, now, forces)
        step, rises = _newton(body, slopes.gradient, slopes.hessian, 0.0)
        change = _bounded(body, now.z, step)
        size = float(np.abs(change).max(initial=0.0))
        trial = _tried(body, targets, now, change, slopes) if rises and size < max(TRUST * before, NEAR) else None
        if trial is None:
            return Come(now, False, solves, forces)
        forces = forces_after(now, slopes.reach, change)
        now, before = trial, size
        if size < NEAR:
            return Come(now, True, solves, forces)
    return Come(now, False, solves, forces)


def settled(body: Body, targets: Floats, now: State, rounds: int, forces: Floats) -> Come:
    """The pose of least energy near one, or the last that was come to in so many rounds; a step that costs more, and is damped,
    counts as one. forces (T, 3): what is known of them."""
    damping, slopes = 0.0, slopes_at(body, now, forces)
    for solves in range(1, rounds + 1):
        step, rises = _newton(body, slopes.gradient, slopes.hessian, damping)
        change = _bounded(body, now.z, step)
        trial = _tried(body, targets, now, change, slopes)
        if trial is None:
            damping = max(4.0 * damping, 1.0)
            continue
        forces, now = forces_after(now, slopes.reach, change), trial
        enough = EXACTLY if rises and damping == 0.0 else SETTLED
        damping = damping / 4.0 if damping > 0.1 else 0.0
        if np.abs(change).max(initial=0.0) < enough:
            return Come(now, True, solves, forces, slopes._replace(gradient=np.zeros_like(slopes.gradient)))
        if solves < rounds:
            slopes = slopes_at(body, now, forces)
    return Come(now, False, rounds, forces)


def paced(body: Body, targets: Floats, now: State, found: State, most: float) -> Come:
    """The pose on the way from one to another at which no joint has gone further than `most`, metres."""
    before = seen_places(body, now.world)
    gone = _farthest(before, seen_places(body, found.world))
    if gone <= most:
        return Come(found, True, 0, forces_at(found))
    share, solves = 0.95 * most / gone, 0
    pulled = body.plan.wanted[0]
    begin, end = now.world[pulled, :3, 3], found.world[pulled, :3, 3]
    for _ in range(8):
        between = np.concatenate([[begin + share * (end - begin)], targets[1:]])
        part = restored(body, between, now.z + share * (found.z - now.z))
        solves += part.solves
        gone = _farthest(before, seen_places(body, part.state.world))
        if gone <= most:
            break
        share *= max(0.2, 0.8 * most / gone)
    return Come(part.state, False, solves, forces_at(part.state))


def restored(body: Body, targets: Floats, z: Floats) -> Come:
    """The pose near z (D,) at which the anchors are in place, and the pulled joint nearly so."""
    state = state_at(body, targets, z)
    for solves in range(5):
        if np.abs(state.off[1:]).max(initial=0.0) < KEPT and np.abs(state.off[0]).max() < NEARLY:
            return Come(state, True, solves, forces_at(state))
        state = state_at(body, targets, state.z + _back_on(body, reach_at(body, state), state, first=0))
    return Come(state, False, 5, forces_at(state))


def gone_between(body: Body, now: State, found: State) -> float:
    """The most that any joint goes from one pose to another, metres."""
    return _farthest(seen_places(body, now.world), seen_places(body, found.world))


def _farthest(before: Floats, after: Floats) -> float:
    return float(np.linalg.norm(after - before, axis=-1).max())


def _tried(body: Body, targets: Floats, now: State, change: Floats, slopes: Slopes) -> State | None:
    """The state after a change (D,) that costs no more, its anchors corrected if need be; None if there is none."""
    most = now.energy + SAME_ENERGY * (1.0 + abs(now.energy))
    trial = state_at(body, targets, now.z + change)
    if trial.energy > most:
        trial = state_at(body, targets, trial.z + _back_on(body, slopes.reach, trial))
    return trial if trial.energy <= most else None


def _bounded(body: Body, z: Floats, step: Floats) -> Floats:
    """A step of the live freedoms as one of all (D,), shortened so that it stays within limits."""
    change = np.zeros_like(z)
    change[body.live] = step * min(1.0, LONGEST / max(float(np.abs(step).max(initial=0.0)), 1e-12))
    return change * barriers.share_inside(body.barriers, z, change)


def _newton(body: Body, gradient: Floats, hessian: Floats, damping: float) -> tuple[Floats, bool]:
    """The step (d,) to the least of a paraboloid, and whether it rises every way; one that falls is taken as if it rose there
    as steeply."""
    from scipy.linalg import lapack  # noqa: PLC0415 - kept out of the window's start

    metric = np.maximum(body.stiff[body.live], 1.0)
    _, step, falls = lapack.dposv(hessian + damping * np.diag(metric), -gradient, lower=1)
    if not falls:
        return np.asarray(step), True
    size = np.sqrt(metric)
    curving, ways = np.linalg.eigh(hessian / np.outer(size, size))
    along = (gradient / size) @ ways / np.maximum(np.abs(curving) + damping, 1.0)
    return np.asarray(-(ways @ along) / size), False


def _back_on(body: Body, reach: Floats, state: State, first: int = 1) -> Floats:
    """A small change (D,) that brings the anchors back, as the wanted joints move with the freedoms: reach (T, D, 3).

    first: 0 to bring the pulled joint back too, as far as the anchors let it.
    """
    change = np.zeros_like(state.z)
    held = reach[first:].transpose(0, 2, 1).reshape(-1, reach.shape[1])[:, body.live]
    give = 1.0 / (1.0 + body.stiff + barriers.slopes(body.barriers, state.z)[1])[body.live]
    square = (held * give) @ held.T
    slack = np.full(len(held), HOLD)
    slack[: 3 * (1 - first)] = NEARLY
    square[np.diag_indices_from(square)] += slack
    change[body.live] = -give * (held.T @ np.linalg.solve(square, state.off[first:].ravel()))
    return change * barriers.share_inside(body.barriers, state.z, change)
