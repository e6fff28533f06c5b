"""How far a long work is, told to whoever waits for it; and the end of a work that nobody waits for any more.

A work says how far it is where it goes through things (`each`, `tell`), and asks whether to go on wherever time is spent
(`go_on`). Whoever waits hears it on the work's own thread; without anybody all of this costs next to nothing.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager
from contextvars import ContextVar
from typing import TypeVar

Thing = TypeVar("Thing")
Told = Callable[[float], bool]
"""Hears how far a work is, 0 to 1, and says whether it shall go on."""


class Stopped(Exception):
    """A work was told not to go on. What it was to change is as it was before."""


class _Ear:
    """Who hears, and the part of the work that is done now. Generators set it too, so it is one for all parts: one that is left
    behind by an error can be wrong about shares, never about who hears."""

    def __init__(self, told: Told) -> None:
        self.told = told
        self.part = (0.0, 1.0)

    def hears(self, share: float) -> None:
        low, high = self.part
        if not self.told(low + (high - low) * share):
            raise Stopped


_EAR: ContextVar[_Ear | None] = ContextVar("ear", default=None)


@contextmanager
def heard_by(told: Told) -> Iterator[None]:
    """What a work within says is heard; Stopped comes out of it when it shall not go on."""
    before = _EAR.set(_Ear(told))
    try:
        yield
    finally:
        _EAR.reset(before)


@contextmanager
def part(low: float, high: float) -> Iterator[None]:
    """What is done within is this part of the work around it: shares 0 to 1 of it are low to high of that."""
    ear = _EAR.get()
    if ear is None:
        yield
        return
    around = ear.part
    first, size = around[0], around[1] - around[0]
    ear.part = first + size * low, first + size * high
    try:
        yield
    finally:
        ear.part = around


def tell(share: float) -> None:
    """Say how far the work is, 0 to 1; Stopped if it shall not go on."""
    ear = _EAR.get()
    if ear is not None:
        ear.hears(share)


def go_on() -> None:
    """Stopped if the work shall not go on; where it is not known how far it is."""
    tell(0.0)


def each(things: Sequence[Thing]) -> Iterator[Thing]:
    """The things in turn, each an equal part of the work around."""
    for number, thing in enumerate(things):
        tell(number / len(things))
        with part(number / len(things), (number + 1) / len(things)):
            yield thing
