"""Clips: stretches of motion kept under a name, and how they are laid on the lanes of a figure."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import field, replace
from types import MappingProxyType

from bovrin.errors import BadMotion
from bovrin.frozen import frozen
from bovrin.shot.checks import FARTHEST
from bovrin.shot.curve import NO_KEYS, Curve
from bovrin.shot.cycle import Contacts, contacts_of

HOWS = ("over", "added")
"""How a clip goes over what lies below it: instead of it, or added to it."""


@frozen
class Clip:
    """A stretch of motion: curves by "control/channel", their frames counted from its beginning, 0 to `length`.

    loops: its end is its beginning. neutral: the pose that it is stronger or weaker about, by channel. contacts: when limbs are
    down in it. figure: whose motion it was.
    """

    name: str
    curves: Mapping[str, Curve]
    length: float
    loops: bool = False
    neutral: Mapping[str, float] = field(default_factory=dict)
    contacts: Contacts = field(default_factory=dict)
    figure: str = ""

    def __post_init__(self) -> None:
        if not self.length > 0:
            raise BadMotion(f"the clip '{self.name}' has no length.", advice="Give it two frames or more.")
        object.__setattr__(self, "curves", MappingProxyType(dict(self.curves)))
        object.__setattr__(self, "neutral", MappingProxyType(dict(self.neutral)))
        object.__setattr__(self, "contacts", contacts_of(self.contacts))


@frozen
class Laid:
    """A clip on a lane, by its name. at: the frame it begins on. first, last: the stretch of it that is used, in its own frames;
    it comes `repeats` times, at a `speed`, then holds for `hold` frames. strength: 1 as it is, 0 its neutral pose.

    weight: how much of it is seen, on frames counted from `at`; without keys all of it. mute: controls, channels or parts that it
    does not move. follows: it begins where, and facing as, the clip before it on the lane has got; in_step: with its feet.
    """

    clip: str
    at: float
    first: float
    last: float
    repeats: float = 1.0
    speed: float = 1.0
    strength: float = 1.0
    weight: Curve = NO_KEYS
    hold: float = 0.0
    mute: tuple[str, ...] = ()
    how: str = "over"
    backwards: bool = False
    follows: bool = True
    in_step: bool = True

    def __post_init__(self) -> None:
        if not all(math.isfinite(x) for x in (self.at, self.first, self.last, self.strength)):
            raise BadMotion(
                f"the clip '{self.clip}' cannot be laid at {self.at:g}, {self.strength:g} times as strong.",
                advice="Give finite numbers.",
            )
        if not (self.last > self.first and self.repeats > 0 and self.speed > 0 and self.hold >= 0):
            raise BadMotion(
                f"the clip '{self.clip}' cannot be laid from {self.first:g} to {self.last:g}, {self.repeats:g} times.",
                advice="Give it a later end, and numbers over 0.",
            )
        if not (abs(self.at) <= FARTHEST and self.length <= FARTHEST):
            raise BadMotion(
                f"the clip '{self.clip}' would lie from {self.at:g} to {self.end:g}.",
                advice=f"Lay it within {FARTHEST:,} frames.",
            )
        if self.how not in HOWS:
            raise BadMotion(f"a clip goes '{self.how}'.", advice="Use: " + ", ".join(HOWS) + ".")

    @property
    def length(self) -> float:
        """Frames that it takes."""
        return (self.last - self.first) * self.repeats / self.speed + self.hold

    @property
    def end(self) -> float:
        """The frame on which it ends."""
        return self.at + self.length

    def moved(self, where: Callable[[float], float]) -> Laid:
        """The clip taken along in time."""
        return replace(self, at=where(self.at))


@frozen
class Lane:
    """A lane of a figure: clips one after another, those that overlap fade into each other."""

    laid: tuple[Laid, ...] = ()
    muted: bool = False

    def __post_init__(self) -> None:
        object.__setattr__(self, "laid", tuple(sorted(self.laid, key=lambda one: one.at)))

    def moved(self, where: Callable[[float], float]) -> Lane:
        """The lane taken along in time."""
        return replace(self, laid=tuple(one.moved(where) for one in self.laid))
