"""A smooth course through points that goes past none of them: piecewise cubics with the slopes of Fritsch and Butland."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.handles import monotone_slope
from bovrin.motion.hermite import hermite

Floats = NDArray[np.float64]


def monotone(places: Floats, values: Floats, at: Floats) -> Floats:
    """Values (...) at places (...) of a course through values (N,) at rising places (N,), N > 1; level at both ends."""
    span = np.diff(places)
    secant = np.diff(values) / span
    slope = np.zeros(len(places))
    slope[1:-1] = monotone_slope(secant[:-1], secant[1:], span[:-1], span[1:])
    i = np.clip(np.searchsorted(places, at, side="right") - 1, 0, len(span) - 1)
    return hermite((at - places[i]) / span[i], values[i], slope[i] * span[i], values[i + 1], slope[i + 1] * span[i])
