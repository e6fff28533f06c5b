"""What curves do before their first key and after their last: straight on, again, again from where they got, and back."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.handles import Keys
from bovrin.shot import Curve, EndKind

Floats = NDArray[np.float64]


FAR = 1e12
"""Frames that nobody reaches."""


class RunningOn(NamedTuple):
    """For C curves: the frames and values of their first and last keys and the slopes there (C,), and what they do.

    Curves that hold have ends that no frame reaches.
    """

    first: Floats
    last: Floats
    rise: Floats
    slope_before: Floats
    slope_after: Floats
    before: NDArray[np.uint8]
    after: NDArray[np.uint8]

    def reached(self, frames: Floats) -> bool:
        """Whether any of some frames lies outside a curve that does not hold there."""
        if not frames.size:
            return False
        low, high = frames.min(), frames.max()
        early = (low < self.first) & (self.before != EndKind.HOLD)
        return bool(early.any() or ((high > self.last) & (self.after != EndKind.HOLD)).any())

    def folded(self, frames: Floats) -> tuple[Floats, Floats]:
        """For frames (F,) the frame within its keys on which each curve is the same, and what to add: (C, F) both."""
        wanted = np.broadcast_to(frames, (len(self.first), len(frames)))
        first, last = self.first[:, None], self.last[:, None]
        early, late = wanted < first, wanted > last
        kind = np.where(early, self.before[:, None], np.where(late, self.after[:, None], EndKind.HOLD))
        period = np.maximum(last - first, 1e-9)
        rounds = np.floor((wanted - first) / period)
        rest = wanted - first - rounds * period
        turned = (kind == EndKind.BACK_AND_FORTH) & (rounds % 2 != 0)
        again = first + np.where(turned, period - rest, rest)
        again = np.clip(again, first, last)
        straight = kind == EndKind.STRAIGHT
        own = np.where(kind == EndKind.HOLD, wanted, np.where(straight, np.clip(wanted, first, last), again))
        slope = np.where(early, self.slope_before[:, None], self.slope_after[:, None])
        offset = np.where(straight, slope * (wanted - np.clip(wanted, first, last)), 0.0)
        gains = (kind == EndKind.REPEAT_WITH_OFFSET) | (kind == EndKind.ROUND)
        return own, np.where(gains, rounds * self.rise[:, None], offset)


def running_on(curves: Sequence[Curve], keys: Keys) -> RunningOn | None:
    """What C curves do outside their keys (laid end to end); None when all of them hold."""
    special = [n for n, curve in enumerate(curves) if curve.runs_on]
    if not special:
        return None
    count = len(curves)
    found = RunningOn(
        *(np.full(count, edge) for edge in (-FAR, FAR)),
        *(np.zeros(count) for _ in range(3)),
        *(np.zeros(count, np.uint8) for _ in range(2)),
    )
    for n in special:
        a, b = int(keys.offset[n]), int(keys.offset[n + 1]) - 1
        found.first[n], found.last[n] = keys.frames[a], keys.frames[b]
        found.rise[n] = keys.values[b] - keys.values[a]
        found.slope_before[n] = 0.0 if keys.stepped[a] else keys.out_slope[a]
        found.slope_after[n] = 0.0 if keys.stepped[b - 1] else keys.in_slope[b]
        found.before[n], found.after[n] = curves[n].before, curves[n].after
    return found
