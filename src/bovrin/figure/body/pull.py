"""Following a pull: from pose to pose along the way the pointer takes, never in a jump.

Continuation (E. L. Allgower and K. Georg, "Numerical Continuation Methods", 1990): the pulled place goes in short stages;
each begins with a first-order guess of where the pose goes, which Newton's method then settles with exact curvature
(where the energy is not convex, with the absolute values of its curvatures: Y. Dauphin et al., "Identifying and attacking the
saddle point problem", NIPS 2014; damped after D. W. Marquardt, SIAM J. Appl. Math. 11, 1963, where a step costs more; with a
second-order correction of the anchors; J. Nocedal and S. J. Wright, "Numerical Optimization", 2006, section 18.3). Where the way
itself ends (a limb that can only snap over), the pose crosses to the next one at a bounded pace. A pose that has
crossed is led back to the one that follows from the start when the pointer comes back, so that the way back leads home.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.body import barriers
from bovrin.figure.body.energy import HOLD, Slopes, State, pulling, slopes_at, state_at
from bovrin.figure.body.held import Body, posed, seen_places

Floats = NDArray[np.float64]

STAGE = 0.01
"""Metres that the pulled place goes at a time, as long as it takes no more than so many stages."""
MOST_STAGES = 600
ROUNDS, LAST_ROUNDS = 12, 36
"""How often a pose is improved in a stage, and in the last one."""
LONGEST = 0.3
"""The most that a freedom changes in a round, radians or metres."""
SETTLED = 1e-5
"""A step smaller than this, radians or metres, is the last."""
PACE, AT_ONCE = 13.0, 0.004
"""Metres that any joint may go for a metre of the pointer's way, and at least."""
HOME = 0.3
"""Metres from where the drag began within which a pose that has crossed over is led back when the pointer comes back."""
KEPT, NEARLY = 2e-5, 1e-4
"""Metres that an anchor may be off, and the pulled joint of a pose that crosses over."""
MOST_LEAD = 1e-3
"""Metres ahead of the pointer that the joint is pulled to at most, to make up for what holds it back."""
SAME_ENERGY = 1e-9
FARTHEST = 1e4
"""Metres from where the drag began beyond which a pull goes no farther."""


class Pull:
    """A body whose first wanted joint is pulled about while the others hold; targets (T, 3): where they all are."""

    def __init__(self, body: Body, targets: Floats) -> None:
        self.body, self.z = body, body.start
        self._targets = targets.copy()
        self._begin = self._place = targets[0].copy()
        self._lead = np.zeros(3)
        self._crossed = False

    def to(self, place: Floats) -> Floats:
        """Local matrices (n, 4, 4) of the body's tree once its joint is pulled on to a place (3,), metres, or toward one
        that lies farther away than anything is pulled."""
        way = place - self._begin
        place = self._begin + way * min(1.0, FARTHEST / max(float(np.linalg.norm(way)), 1e-12))
        length = float(np.linalg.norm(place - self._place))
        far, before = (float(np.linalg.norm(p - self._begin)) for p in (place, self._place))
        self._follow(place)
        if self._crossed and far < min(HOME, before):
            self._lead_home(place, AT_ONCE + PACE * length)
        return posed(self.body, self.z)[0]

    @property
    def rolls(self) -> Floats:
        """How far each foot that may roll has rolled on its ball (r,), radians."""
        return self.z[len(self.z) - len(self.body.plan.feet.limbs) :]

    def _follow(self, place: Floats) -> None:
        begin, self._place = self._place, place
        stages = min(max(int(np.ceil(np.linalg.norm(place - begin) / STAGE)), 1), MOST_STAGES)
        way = (place - begin) / stages
        most = AT_ONCE + PACE * float(np.linalg.norm(way))
        for stage in range(1, stages + 1):
            now = state_at(self.body, self._targets, self.z)
            guess = _led(self.body, now, way)
            self._targets[0] = begin + stage * way + self._lead
            last = stage == stages
            found, settled = _settled(self.body, self._targets, guess, LAST_ROUNDS if last else ROUNDS)
            if last and settled:
                found = self._met(found)
            self.z, whole = self._paced(now, found, most)
            self._crossed |= not (settled and whole)

    def _met(self, z: Floats) -> Floats:
        """Parameters at which the pulled joint is where the pointer is: what the body's stiffness holds it back is made up
        for by pulling to a place a little ahead (the multipliers of M. R. Hestenes, J. Optimization Theory 4, 1969)."""
        for _ in range(3):
            now = state_at(self.body, self._targets, z)
            lead = self._place - now.world[self.body.plan.wanted[0], :3, 3] + self._lead
            lead *= min(1.0, MOST_LEAD / max(float(np.linalg.norm(lead)), 1e-12))
            change = lead - self._lead
            if np.abs(change).max() < KEPT:
                break
            self._lead = lead
            self._targets[0] = self._place + lead
            z, settled = _settled(self.body, self._targets, _led(self.body, now, change), ROUNDS)
            if not settled:
                break
        return z

    def _paced(self, now: State, z: Floats, most: float) -> tuple[Floats, bool]:
        """Parameters on the way to z at which no joint has gone further than `most`, metres, and whether that is all."""
        before = seen_places(self.body, now.world)
        found = state_at(self.body, self._targets, z)
        gone = _farthest(before, seen_places(self.body, found.world))
        if gone <= most:
            return z, True
        share = 0.95 * most / gone
        pulled = self.body.plan.wanted[0]
        begin, end = now.world[pulled, :3, 3], found.world[pulled, :3, 3]
        for _ in range(8):
            targets = np.concatenate([[begin + share * (end - begin)], self._targets[1:]])
            part = _restored(self.body, targets, now.z + share * (z - now.z))
            gone = _farthest(before, seen_places(self.body, state_at(self.body, self._targets, part).world))
            if gone <= most:
                break
            share *= max(0.2, 0.8 * most / gone)
        return part, False

    def _lead_home(self, place: Floats, most: float) -> None:
        """Toward the pose that follows from the start when the pull goes straight to where it is now."""
        direct = Pull(self.body, np.concatenate([self._begin[None], self._targets[1:]]))
        direct._follow(place)
        self.z, there = self._paced(state_at(self.body, self._targets, self.z), direct.z, most)
        self._crossed = not there


def _farthest(before: Floats, after: Floats) -> float:
    return float(np.linalg.norm(after - before, axis=-1).max())


def _led(body: Body, now: State, way: Floats) -> Floats:
    """Where the pose goes, to first order, when the pulled place goes a little way (3,)."""
    slopes = slopes_at(body, now)
    push = pulling(now.off[0])[1] @ way
    step = _newton(body, -(slopes.reach[0] @ push)[body.live], slopes.hessian, 0.0)
    return now.z + _bounded(body, now.z, step)


def _settled(body: Body, targets: Floats, z: Floats, rounds: int) -> tuple[Floats, bool]:
    """The pose of least energy near z, and whether it was reached."""
    now, slopes, damping = state_at(body, targets, z), None, 0.0
    for _ in range(rounds):
        slopes = slopes or slopes_at(body, now)
        step = _newton(body, slopes.gradient, slopes.hessian, damping)
        change = _bounded(body, now.z, step)
        trial = _tried(body, targets, now, change, slopes)
        if trial is None:
            damping = max(4.0 * damping, 1.0)
            continue
        now, slopes = trial, None
        damping = damping / 4.0 if damping > 0.1 else 0.0
        if np.abs(change).max() < SETTLED:
            return now.z, True
    return now.z, False


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


def _newton(body: Body, gradient: Floats, hessian: Floats, damping: float) -> Floats:
    """The step (d,) to the least of a paraboloid; of one that falls anywhere, as if it rose there as steeply."""
    from scipy.linalg import lapack  # noqa: PLC0415 - kept out of the window's start

    metric = np.maximum(body.stiff[body.live], 1.0)
    _, step, falls = lapack.dposv(hessian + damping * np.diag(metric), -gradient, lower=1)
    if not falls:
        return np.asarray(step)
    size = np.sqrt(metric)
    curving, ways = np.linalg.eigh(hessian / np.outer(size, size))
    return np.asarray(-(ways @ ((gradient / size) @ ways / np.maximum(np.abs(curving) + damping, 1.0))) / size)


def _restored(body: Body, targets: Floats, z: Floats) -> Floats:
    """Parameters near z at which the anchors are in place, and the pulled joint nearly so."""
    for _ in range(5):
        state = state_at(body, targets, z)
        if np.abs(state.off[1:]).max(initial=0.0) < KEPT and np.abs(state.off[0]).max() < NEARLY:
            break
        z = z + _back_on(body, slopes_at(body, state).reach, state, first=0)
    return z


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
