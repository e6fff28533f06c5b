"""What a unit of a file is, when the file does not say."""

from __future__ import annotations

INCH, FOOT = 0.0254, 0.3048
UNITS = {"metre": 1.0, "decimetre": 0.1, "centimetre": 0.01, "millimetre": 0.001, "inch": INCH, "foot": FOOT}
"""Metres in the units that figures are made in."""
GROWN, SMALL = (1.3, 2.3), 0.9
"""Sizes, metres, that speak for inches: a grown person in inches, where centimetres would make a child."""
TINY = 0.03
"""A figure smaller than this many metres was scaled down on its way: its units are a hundred times as large."""
LIKELY = {1.0: (0.25, 4.0), 0.01: (0.6, 4.0), 0.001: (0.6, 4.0)}
"""Sizes, metres, of figures that need no second look, by the units they are made in."""


def metres_in(size: float) -> float:
    """Metres in one unit, by how many units large a figure is: metres, decimetres, centimetres, inches or millimetres."""
    if size <= 10.0:
        return 100.0 if 0.0 < size < TINY else 1.0
    if size * 0.01 < LIKELY[0.01][0] and size * 0.1 <= LIKELY[1.0][1]:
        return 0.1
    if size * 0.01 < SMALL and GROWN[0] <= size * INCH <= GROWN[1]:
        return INCH
    return 0.01 if size <= 1000.0 else 0.001


def is_doubtful(size: float) -> bool:
    """Whether a figure of so many units could well be another size than the guess makes it."""
    metres = metres_in(size)
    least, most = LIKELY.get(metres, (0.0, 0.0))
    return not least <= size * metres <= most


def unit_name(metres: float) -> str:
    """What a unit of so many metres is called: "centimetre", or "unit of 0.37 m" where it has no name."""
    return next((name for name, own in UNITS.items() if abs(own - metres) < 1e-6 * own), f"unit of {metres:g} m")
