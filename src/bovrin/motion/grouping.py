"""Sorted arrays without repeats. NumPy's own `unique` loads masked arrays when it is first called, 40 ms of a start."""

from __future__ import annotations

from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Numbers = NDArray[np.intp]
Entry = TypeVar("Entry", bound=np.generic)


def each_once(values: Floats) -> Floats:
    """The values of some (N,), rising, each once (n,)."""
    rising = np.sort(values)
    return rising[_begins(rising[:, None])]


def least_on_each(frames: Floats, values: NDArray[np.uint8]) -> tuple[Floats, NDArray[np.uint8]]:
    """Frames of some (N,), rising, each once (n,), and the least of the values (N,) on each."""
    order = np.lexsort((values, frames))
    begins = _begins(frames[order][:, None])
    return frames[order][begins], values[order][begins]


def rows_once(rows: NDArray[Entry]) -> tuple[NDArray[Entry], Numbers]:
    """The rows of some (N, k), rising, each once (n, k), and for each row which of them it is (N,)."""
    order = np.lexsort(rows.T[::-1])
    begins = _begins(rows[order])
    which = np.empty(len(rows), np.intp)
    which[order] = np.cumsum(begins) - 1
    return rows[order][begins], which


def _begins(rising: NDArray[np.generic]) -> NDArray[np.bool_]:
    """Where rows (N, k) in order are other than the one before (N,)."""
    begins = np.ones(len(rising), bool)
    begins[1:] = (rising[1:] != rising[:-1]).any(1)
    return begins
