"""What the system's allocator keeps for itself of what Python has let go of: without this a good deal, and ever more of it."""

from __future__ import annotations

import ctypes

ARENAS_AT_MOST, ARENAS = -8, 2
"""The parameter of `mallopt` (malloc.h), and from how many regions works beside the window take their memory."""
OWN_PAGES_FROM, LARGE = -3, 512 * 1024
"""The same, and from how many bytes on something gets pages of its own, which go back to the system with it: pictures do."""


def keep_together() -> None:
    """Works beside the window share their memory, and what is large leaves none behind. Where the C library can."""
    tune = getattr(ctypes.CDLL(None), "mallopt", None)
    if tune is not None:
        tune(ARENAS_AT_MOST, ARENAS)
        tune(OWN_PAGES_FROM, LARGE)


def give_back() -> None:
    """Give back to the system what was let go of; takes some 50 ms, so it is for moments in which nobody's hand waits."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is not None:
        trim(0)
