"""Gaits: in which share of a round each foot comes down, and for how long it bears.

Four legs after M. Hildebrand, "Symmetrical gaits of horses", Science 150 (1965), and, for those whose sides differ, "Analysis of
asymmetrical gaits", Journal of Mammalogy 58 (1977); two legs after the usual tables of walking and running.
"""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

from bovrin.errors import BadMotion
from bovrin.figure.ground.feet import Foothold


class Gait(NamedTuple):
    """bears: the share of a round for which a foot is down. falls: when each comes down: of two legs left, right; of four left
    hind, right hind, left fore, right fore. lift: how high a foot is lifted, in leg lengths. heel, ball: how far a foot is turned
    up when it comes down on its heel, and rolls over its ball when it leaves, degrees."""

    bears: float
    falls: tuple[float, ...]
    lift: float
    heel: float
    ball: float


TWO_LEGS = {
    "walk": Gait(0.60, (0.0, 0.5), 0.12, 18.0, 32.0),
    "stroll": Gait(0.66, (0.0, 0.5), 0.09, 12.0, 24.0),
    "run": Gait(0.35, (0.0, 0.5), 0.42, 8.0, 40.0),
    "jump": Gait(0.45, (0.0, 0.0), 0.30, 0.0, 38.0),
}
FOUR_LEGS = {
    "walk": Gait(0.64, (0.0, 0.5, 0.25, 0.75), 0.14, 0.0, 18.0),
    "trot": Gait(0.46, (0.0, 0.5, 0.5, 0.0), 0.24, 0.0, 22.0),
    "pace": Gait(0.46, (0.0, 0.5, 0.0, 0.5), 0.22, 0.0, 22.0),
    "canter": Gait(0.38, (0.0, 0.3, 0.3, 0.6), 0.30, 0.0, 26.0),
    "gallop": Gait(0.28, (0.0, 0.12, 0.42, 0.54), 0.36, 0.0, 28.0),
    "bound": Gait(0.32, (0.0, 0.0, 0.5, 0.5), 0.36, 0.0, 28.0),
}


def gaits_for(feet: Sequence[Foothold]) -> dict[str, Gait]:
    """The gaits of a figure with these feet, by name."""
    return {2: TWO_LEGS, 4: FOUR_LEGS}.get(len(feet), {})


def gait_for(feet: Sequence[Foothold], name: str) -> Gait:
    """The gait of that name. BadMotion where a figure with these feet has none."""
    found = gaits_for(feet)
    if not found:
        raise BadMotion(
            f"a cycle is laid out for two or four feet; this figure has {len(feet) or 'none'}.",
            advice="Pose it by hand, and close the loop.",
        )
    if name not in found:
        raise BadMotion(f"there is no gait '{name}' on {len(feet)} legs.", advice=f"Gaits: {', '.join(found)}.")
    return found[name]


def in_table_order(feet: Sequence[Foothold]) -> list[Foothold]:
    """Feet as the tables have them: the hind ones first, of two the left one first."""
    by_depth = sorted(feet, key=lambda foot: float(foot.rest[2]))
    pairs = [by_depth[n : n + 2] for n in range(0, len(by_depth), 2)]
    return [foot for pair in pairs for foot in sorted(pair, key=lambda foot: -float(foot.rest[0]))]


def sides_alternate(gait: Gait) -> bool:
    """Whether the right side does what the left does, half a round later."""
    lefts, rights = gait.falls[::2], gait.falls[1::2]
    return all(abs((right - left) % 1.0 - 0.5) < 1e-9 for left, right in zip(lefts, rights, strict=True))
