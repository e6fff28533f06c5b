"""What a unit of a file is, when the file does not say."""

from __future__ import annotations

INCH = 0.0254
GROWN, SMALL = (1.3, 2.3), 0.9
"""Sizes, metres, that speak for inches: a grown person in inches, where centimetres would make a child."""
TINY = 0.03
"""A figure smaller than this many metres was scaled down on its way: its units are a hundred times as large."""


def metres_in(size: float) -> float:
    """Metres in one unit, by how many units large a figure is: metres, centimetres, inches or millimetres."""
    if size <= 10.0:
        return 100.0 if 0.0 < size < TINY else 1.0
    if size * 0.01 < SMALL and GROWN[0] <= size * INCH <= GROWN[1]:
        return INCH
    return 0.01 if size <= 1000.0 else 0.001
