"""What a shot must not be: two things of a name, and ranges that cannot be worked with."""

from __future__ import annotations

import math

from bovrin.errors import BadMotion


def check_names(what: str, names: list[str]) -> None:
    """BadMotion when two things of a kind share a name."""
    if len(set(names)) != len(names):
        raise BadMotion(f"two {what} of the shot share a name.")


LONGEST, FARTHEST = 200_000, 10_000_000
"""Frames that a range may have, and the last frame that it may end on."""


def check_range(what: str, first: float, last: float) -> None:
    """BadMotion when a range cannot be worked with."""
    if not (math.isfinite(first) and math.isfinite(last)):
        raise BadMotion(f"the range of {what} is not finite.")
    if last < first:
        raise BadMotion(f"{what} ends ({last:g}) before it begins ({first:g}).", advice="Give a later last frame.")
    if last - first > LONGEST or max(abs(first), abs(last)) > FARTHEST:
        raise BadMotion(
            f"{what} goes from frame {first:g} to {last:g}.",
            advice=f"A range may have {LONGEST:,} frames, up to frame {FARTHEST:,}.",
        )
    if math.ceil(first) > math.floor(last):
        raise BadMotion(f"{what} has no whole frame ({first:g} to {last:g}).", advice="Give a later last frame.")
