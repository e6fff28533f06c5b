"""What goes on within some frames of each frame: the most, the least, the mean, a soft mean. Along the first axis.

Windows reach over `before` frames before a frame and `after` frames after it; beyond the ends lies what `edge` says, as
`numpy.pad` has it: the last value ("edge"), or what comes before it, mirrored ("symmetric").
"""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

TRUNCATED = 4.0
"""Widths at which the bell of a soft mean is cut off."""


def most_around(values: Floats, before: int, after: int, edge: str = "symmetric") -> Floats:
    """The largest value (F, ...) in the window of each frame, of values (F, ...)."""
    return _extreme(_padded(values, before, after, edge), before + 1 + after, np.maximum)


def least_around(values: Floats, before: int, after: int, edge: str = "symmetric") -> Floats:
    """The smallest value (F, ...) in the window of each frame, of values (F, ...)."""
    return _extreme(_padded(values, before, after, edge), before + 1 + after, np.minimum)


def mean_around(values: Floats, reach: int, edge: str = "symmetric") -> Floats:
    """The mean (F, ...) over `reach` frames to either side."""
    return _weighed(values, np.full(2 * reach + 1, 1.0 / (2 * reach + 1)), edge)


def soft_mean_around(values: Floats, width: float, edge: str = "edge") -> Floats:
    """The mean (F, ...) under a bell whose standard deviation is `width` frames."""
    reach = int(TRUNCATED * width + 0.5)
    bell = np.exp(-0.5 * (np.arange(-reach, reach + 1) / width) ** 2)
    return _weighed(values, bell / bell.sum(), edge)


def _padded(values: Floats, before: int, after: int, edge: str) -> Floats:
    if not len(values):
        return np.zeros((before + after, *values.shape[1:]))
    return np.pad(values, [(before, after)] + [(0, 0)] * (values.ndim - 1), mode=edge)  # type: ignore[call-overload, no-any-return]


def _extreme(padded: Floats, size: int, pick: Callable[[Floats, Floats], Floats]) -> Floats:
    """Windows of one frame, two, four and so on, of which the last two lie over each other where they must."""
    found, width = padded, 1
    while width < size:
        step = min(width, size - width)
        found = pick(found[:-step], found[step:])
        width += step
    return found


def _weighed(values: Floats, weights: Floats, edge: str) -> Floats:
    if not len(values):
        return values
    reach = len(weights) // 2
    windows = np.lib.stride_tricks.sliding_window_view(_padded(values, reach, reach, edge), len(weights), axis=0)
    return np.asarray(windows @ weights)
