"""Cycles: a stretch of a figure's motion that goes round, and the stretches in which its feet are down."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType

from bovrin.frozen import frozen_equal

Stretch = tuple[float, float]
"""From which frame to which."""


@frozen_equal
class Cycle:
    """A loop: its pose on `last` is that on `first` again. mirrored: its second half is its first half mirrored, and stays so
    whichever is edited. gait: what its footfalls were laid out as, "" where nobody said."""

    first: float
    last: float
    gait: str = ""
    mirrored: bool = False

    @property
    def length(self) -> float:
        """Frames from a pose to the same pose."""
        return self.last - self.first

    @property
    def middle(self) -> float:
        """Where the second half begins."""
        return (self.first + self.last) / 2

    def folded(self, frame: float) -> float:
        """The frame of the loop on which the figure is as on any frame: `first` up to before `last`."""
        return self.first + (frame - self.first) % self.length

    def moved(self, where: Callable[[float], float]) -> Cycle:
        """The cycle taken along: `where` says on which frame something lies now."""
        first, last = where(self.first), where(self.last)
        return replace(self, first=first, last=last) if last > first else self


Contacts = Mapping[str, tuple[Stretch, ...]]
"""By the name of a limb, the stretches in which its end is down as the animator set them; those of other limbs are found."""


def contacts_of(rows: Mapping[str, tuple[Stretch, ...]]) -> Contacts:
    """Contacts that nobody changes, each limb's in order of time."""
    return MappingProxyType({limb: tuple(sorted(spans)) for limb, spans in rows.items()})
