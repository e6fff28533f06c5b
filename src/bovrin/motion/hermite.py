"""The cubic between two keys from their values and slopes: Hermite's basis, the one place that has it."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


class Basis(NamedTuple):
    """By how much the value and slope at the start, and those at the end, count; slopes are per whole segment."""

    start: Floats
    start_slope: Floats
    end: Floats
    end_slope: Floats


def hermite_basis(t: Floats) -> Basis:
    """The basis at shares (...) of a segment, 0 to 1 (Farin, Curves and Surfaces for CAGD, 4th ed., section 7.5)."""
    rest = 1 - t
    return Basis((1 + 2 * t) * rest**2, t * rest**2, t * t * (3 - 2 * t), t * t * (t - 1))


def hermite(t: Floats, start: Floats, start_slope: Floats, end: Floats, end_slope: Floats) -> Floats:
    """Values (...) of cubics at shares t; slopes are per whole segment."""
    basis = hermite_basis(t)
    return np.asarray(
        basis.start * start + basis.start_slope * start_slope + basis.end * end + basis.end_slope * end_slope
    )


def hermite_slope(t: Floats, start: Floats, start_slope: Floats, end: Floats, end_slope: Floats) -> Floats:
    """Slopes (...) per whole segment of cubics at shares t; the derivative of `hermite`."""
    rise = 6 * t * (1 - t)
    return np.asarray(rise * (end - start) + (1 - t) * (1 - 3 * t) * start_slope + t * (3 * t - 2) * end_slope)
