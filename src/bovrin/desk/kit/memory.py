"""What the system's allocator keeps for itself of what Python has let go of: without this a good deal, and ever more of it."""

from __future__ import annotations

import ctypes


def give_back() -> None:
    """Give back to the system what was let go of, where the C library can (malloc.h); takes some 50 ms, so it is for moments in
    which nobody's hand waits."""
    trim = getattr(ctypes.CDLL(None), "malloc_trim", None)
    if trim is not None:
        trim(0)
