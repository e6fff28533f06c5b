"""Following a pull: from pose to pose along the way the pointer takes, never in a jump, and no longer at a time than a picture
lasts.

Continuation (E. L. Allgower and K. Georg, "Numerical Continuation Methods", 1990): the pulled place goes in stages; each begins
with a first-order guess of where the pose goes, which Newton's method then settles with exact curvature. How long a stage is
hangs on how well the last guess was met (chapter 6 there): where the pose hardly bends, a stage goes as far as the pointer; where
the guess was poor it is tried again at half the length, down to stages short enough that the energy's own way is followed (where
it is not convex, with the absolute values of its curvatures: Y. Dauphin et al., "Identifying and attacking the saddle point
problem", NIPS 2014; damped after D. W. Marquardt, SIAM J. Appl. Math. 11, 1963, where a step costs more; with a second-order
correction of the anchors; J. Nocedal and S. J. Wright, "Numerical Optimization", 2006, section 18.3). Where the way itself ends
(a limb that can only snap over), the pose crosses to the next one at a bounded pace. A pose that has crossed is led back to
the one that follows from the start when the pointer comes back, so that the way back leads home.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.body.energy import Slopes, aimed, forces_at, slopes_at, state_at
from bovrin.figure.body.held import Body, posed
from bovrin.figure.body.pull_steps import NEAR, Come, gone_between, led, met, paced, restored, settled

Floats = NDArray[np.float64]

SLICE = 11
"""Slopes that are worked out at a time, about; what is left goes on in the next slice."""
SHORT, LONG, MOST_STAGES = 0.01, 0.3, 200
"""The shortest and the longest stage, metres, as long as the way takes no more than so many."""
ROUNDS, AT_GOAL, LAST_ROUNDS = 12, 4, 48
"""How often a pose is improved in one of the shortest stages, at a time where the pointer is, and there altogether."""
AT_ONCE, USUAL, PACE, CROSSING = 0.004, 3.0, 12.0, 0.1
"""Metres that any joint may go at least; for a metre of the pointer's way where a pose follows from the one before, beyond which
it has perhaps crossed over; for a metre at most; and in a slice where the pose crosses over, so that it is seen to go there."""
HOME = 0.3
"""Metres from where the drag began within which a pose that has crossed over is led back when the pointer comes back."""
KEPT, MOST_LEAD = 2e-5, 1e-3
"""Metres that the pulled joint may be off, and ahead of the pointer that it is pulled to at most, to make up for what holds it
back (the multipliers of M. R. Hestenes, J. Optimization Theory 4, 1969)."""
HELD = 1e-4
"""Metres that an anchor may be off on the way."""
SAME_POSE = 1e-3
"""How far a freedom may be from where the drag began, radians or metres, where the pointer is there again."""
FARTHEST = 1e4
"""Metres from where the drag began beyond which a pull goes no farther."""


class Pull:
    """A body whose first wanted joint is pulled about while the others hold; targets (T, 3): where they all are.

    `solves` counts the slopes that were worked out so far.
    """

    def __init__(self, body: Body, targets: Floats) -> None:
        self.body, self.solves = body, 0
        self._targets = targets.copy()
        self._begin = self._place = self._goal = targets[0].copy()
        self._lead = np.zeros(3)
        self._now = state_at(body, self._targets, body.start)
        self._forces = forces_at(self._now)
        self._slopes: Slopes | None = None
        self._stage, self._rounds, self._may = LONG, 0, 0.0
        self._at_rest, self._crossed = True, False
        self._straight: Pull | None = None

    @property
    def z(self) -> Floats:
        """The parameters (D,) now."""
        return self._now.z

    @property
    def rolls(self) -> Floats:
        """How far each foot that may roll has rolled on its ball (r,), radians."""
        return self.z[len(self.z) - len(self.body.plan.feet.limbs) :]

    def carried(self, joints: NDArray[np.intp]) -> Floats:
        """How what carries some of the tree's joints (k,), by their places in it, is turned in the world (k, 3, 3)."""
        parents = self.body.plan.parents[joints]
        return np.where((parents >= 0)[:, None, None], self._now.world[parents, :3, :3], np.eye(3))

    @property
    def at_rest(self) -> bool:
        """Whether the pose is where the pull leads; otherwise it is to go on."""
        return self._at_rest

    @property
    def meets(self) -> bool:
        """Whether the pulled joint is where it is pulled to."""
        off = self._goal - self._now.world[self.body.plan.wanted[0], :3, 3]
        return self._at_rest and float(np.linalg.norm(off)) < MOST_LEAD

    def to(self, place: Floats, most: int = SLICE) -> Floats:
        """Local matrices (n, 4, 4) of the body's tree once its joint is pulled on to a place (3,), metres, or toward one
        that lies farther away than anything is pulled, as far as it gets with so many slopes. At the same place it goes on."""
        way = place - self._begin
        place = self._begin + way * min(1.0, FARTHEST / max(float(np.linalg.norm(way)), 1e-12))
        length = float(np.linalg.norm(place - self._goal))
        if length > 0.0:
            self._comes_home(place)
            self._aim_at(place)
        self._go_on(most, min(AT_ONCE + PACE * length, CROSSING) if length > 0.0 else CROSSING)
        return posed(self.body, self.z)[0]

    def _aim_at(self, place: Floats) -> None:
        self._goal, self._at_rest, self._rounds = place, False, 0
        self._stage = max(self._stage, float(np.linalg.norm(place - self._place)) / MOST_STAGES)

    def _unseen_to(self, place: Floats, most: int) -> None:
        """On to a place in a slice, as quickly as it goes."""
        if not np.array_equal(place, self._goal):
            self._aim_at(place)
        self._go_on(most, np.inf)

    def _go_on(self, most: int, may: float) -> None:
        end, self._may = self.solves + most, may
        while not self._at_rest and self.solves < end and self._may > 0.0:
            if self._straight is not None:
                self._lead_home(self._straight, end - self.solves)
            elif np.array_equal(self._place, self._goal):
                self._settle()
            else:
                self._follow()
        self._hold()

    def _hold(self) -> None:
        """What is held is in its place at the end of a slice, wherever the pose is on its way."""
        if np.abs(self._now.off[1:]).max(initial=0.0) > HELD:
            here = self._now.world[self.body.plan.wanted[0], :3, 3]
            found = restored(self.body, np.concatenate([here[None], self._targets[1:]]), self.z)
            self.solves += found.solves
            self._now, self._slopes = aimed(self.body, found.state, self._targets[0]), None

    def _follow(self) -> None:
        """The next stage of the way to the goal."""
        left = self._goal - self._place
        far = float(np.linalg.norm(left))
        length = min(self._stage, far)
        place = self._goal if length == far else self._place + left * (length / far)
        now, slopes = self._now, self._slopes_now()
        change, forces = led(self.body, now, slopes, place - self._place)
        self._targets[0] = place + self._lead
        guess = state_at(self.body, self._targets, now.z + change)
        found = Come(guess, True, 0, forces)
        if np.abs(change).max(initial=0.0) > NEAR or length < far:
            found = met(self.body, self._targets, guess, change, forces)
        self.solves += found.solves
        gone = gone_between(self.body, now, found.state) if found.there else np.inf
        if gone <= AT_ONCE + (USUAL if length > SHORT else PACE) * length:
            self._note_crossing(gone, length)
            self._place, self._now, self._slopes, self._forces = place, found.state, None, found.forces
            if found.solves < 2 and length == self._stage:
                self._stage = max(min(2.0 * max(length, SHORT), LONG), self._stage)
        elif length > SHORT:
            self._stage = max(0.4 * length, SHORT)
        else:
            self._place = place
            self._cross(settled(self.body, self._targets, guess, ROUNDS, forces), length)

    def _settle(self) -> None:
        """Improve the pose where the pointer is."""
        if not self._rounds:
            self._meet()
        self._targets[0] = self._goal + self._lead
        now = aimed(self.body, self._now, self._targets[0])
        if self._cross(settled(self.body, self._targets, now, AT_GOAL, self._forces)):
            self._at_rest = self._meet()
            if self._at_rest and self._is_astray():
                self._at_rest, self._straight = False, self._from_the_start()
        elif self._rounds > LAST_ROUNDS:
            self._at_rest = self._crossed = True

    def _cross(self, found: Come, length: float | None = None) -> bool:
        """Go toward a pose that a stage of a length led to, metres, no joint further than it may; whether that is one of least
        energy and is reached."""
        most = self._may if length is None else min(AT_ONCE + PACE * length, self._may)
        part = paced(self.body, self._targets, self._now, found.state, most)
        self.solves += found.solves + part.solves
        self._rounds += found.solves
        there = found.there and part.there
        self._note_crossing(gone_between(self.body, self._now, part.state), length or 0.0)
        self._now, self._slopes = part.state, found.slopes if there else None
        self._forces = found.forces if part.there else part.forces
        if not part.there:
            self._may, self._crossed = 0.0, True
        return there

    def _note_crossing(self, gone: float, length: float) -> None:
        """Count what joints went, metres, that does not follow from a stage's length."""
        if gone > AT_ONCE + USUAL * length:
            self._may, self._crossed = self._may - gone, True

    def _meet(self) -> bool:
        """Pull to a place a little ahead, to make up for what the body's stiffness holds it back; whether it does so already."""
        lead = self._goal - self._now.world[self.body.plan.wanted[0], :3, 3] + self._lead
        lead *= min(1.0, MOST_LEAD / max(float(np.linalg.norm(lead)), 1e-12))
        if np.abs(lead - self._lead).max() < KEPT:
            return True
        self._lead = lead
        return False

    def _slopes_now(self) -> Slopes:
        if self._slopes is None:
            self._slopes = slopes_at(self.body, self._now, self._forces)
            self.solves += 1
        return self._slopes

    def _comes_home(self, place: Floats) -> None:
        """Begin or end to be led back, before the pull goes on to a place."""
        far, before = (float(np.linalg.norm(p - self._begin)) for p in (place, self._goal))
        if far > HOME:
            self._straight = None
        elif self._crossed and self._straight is None and far < before:
            self._straight = self._from_the_start()

    def _is_astray(self) -> bool:
        """Whether the pull is where it began, and the pose is not."""
        back = bool(np.abs(self._goal - self._begin).max() < KEPT)
        return back and bool(np.abs(self.z - self.body.start).max(initial=0.0) > SAME_POSE)

    def _from_the_start(self) -> Pull:
        return Pull(self.body, np.concatenate([self._begin[None], self._targets[1:]]))

    def _lead_home(self, straight: Pull, most: int) -> None:
        """Toward the pose that follows from the start when the pull goes straight to where it is now."""
        if straight._crossed and not np.array_equal(straight._goal, self._goal):
            straight = self._straight = self._from_the_start()
        before = straight.solves
        straight._unseen_to(self._goal, most)
        self.solves += straight.solves - before
        if not straight.at_rest:
            self._may = 0.0
            return
        self._targets[0] = self._goal + straight._lead
        there = self._cross(Come(straight._now, True, 0, straight._forces, straight._slopes))
        self._rounds += 1
        if there or self._rounds > LAST_ROUNDS:  # a pose that cannot be led there is put there
            self._now, self._forces, self._slopes = straight._now, straight._forces, straight._slopes
            self._place, self._lead, self._at_rest = self._goal, straight._lead, True
            self._crossed, self._straight = straight._crossed, None
