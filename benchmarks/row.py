"""One line of the bench, and how a pair is measured."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass


@dataclass
class Row:
    """One line: our time over the baseline's."""

    name: str
    ratio: float
    aim: float
    ours_ms: float
    base_ms: float


def best_of(run: Callable[[], object], times: int) -> float:
    """The shortest of several runs, milliseconds; the first warms up."""
    run()
    best = float("inf")
    for _ in range(times):
        start = time.perf_counter()
        run()
        best = min(best, time.perf_counter() - start)
    return best * 1000


def compare(name: str, aim: float, ours: Callable[[], object], base: Callable[[], object], times: int = 15) -> Row:
    """Ours and the baseline turn by turn, so that a noisy spell of the machine meets both."""
    ours()
    base()
    pairs = [(best_of(ours, 1), best_of(base, 1)) for _ in range(times)]
    mine, theirs = min(p[0] for p in pairs), min(p[1] for p in pairs)
    return Row(name, round(mine / theirs, 4), aim, round(mine, 3), round(theirs, 3))
