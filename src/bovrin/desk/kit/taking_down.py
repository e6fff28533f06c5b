"""The end of a window, whichever way it goes: closed, let go of by Python, or left open when the program ends.

Python clears objects that hang on each other in any order, and Qt calls back into them while they go. So whoever holds a window's
world ends it first, while all of it still stands, and then takes it down at once.
"""

from __future__ import annotations

import atexit
import weakref
from typing import Protocol

from PyQt6 import sip


class TakenDown(Protocol):
    """Something of Qt that must end before it goes."""

    def let_go(self) -> None:
        """Nothing goes on, and nobody hears of anything, after this. Twice is once."""


_OPEN: weakref.WeakSet[TakenDown] = weakref.WeakSet()


def ends_whole(one: TakenDown) -> None:
    """Take it down when the program ends and it is still there."""
    _OPEN.add(one)


def take_down(one: TakenDown) -> None:
    """End something and take it down, children and all, while they stand."""
    if not sip.isdeleted(one):  # type: ignore[arg-type]
        one.let_go()
        sip.delete(one)  # type: ignore[arg-type]


@atexit.register
def _take_all_down() -> None:
    for one in list(_OPEN):
        take_down(one)
