"""The curves of a foot that goes round: how far ahead it is, how high, and how it rolls over heel and ball."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.cycle.gaits import Gait
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, HandleKind, Key, KeyRole
from bovrin.shot.curve import EndKind

Floats = NDArray[np.float64]
Node = tuple[float, float, float]
"""A share of a round after the foot came down, a value there, and its slope a round."""

FLAT_BY, LIFTS_AT = 0.22, 0.55
"""Shares of the time a foot bears: when it lies flat after its heel came down, and when it begins to roll over its ball."""
HANGS, READY = 0.5, 0.45
"""Shares of the time a foot is in the air: by when it has swung back to flat, and from when it is turned up for the heel."""


def forward_nodes(gait: Gait, stride: float) -> list[Node]:
    """How far ahead a foot is of its place at rest: it stays on the ground, which runs back, and swings ahead again."""
    half = stride * gait.bears / 2
    return [(0.0, half, -stride), (gait.bears, -half, -stride)]


def height_nodes(gait: Gait, lift: float) -> list[Node]:
    """How high it is lifted."""
    return [(0.0, 0.0, 0.0), (gait.bears, 0.0, 0.0), ((1.0 + gait.bears) / 2, lift, 0.0)]


def heel_nodes(gait: Gait) -> list[Node]:
    """How far it is turned up about its heel, radians."""
    most, air = float(np.radians(gait.heel)), 1.0 - gait.bears
    flat = gait.bears * FLAT_BY
    return [(0.0, most, 0.0), (flat, 0.0, 0.0), (1.0 - air * READY, 0.0, 0.0)]


def ball_nodes(gait: Gait) -> list[Node]:
    """How far it has rolled over its ball, radians."""
    most, air = float(np.radians(gait.ball)), 1.0 - gait.bears
    rolls = gait.bears * (1.0 - LIFTS_AT)
    return [
        (0.0, 0.0, 0.0),
        (gait.bears * LIFTS_AT, 0.0, 0.0),
        (gait.bears, most, most / rolls),
        (gait.bears + air * HANGS, 0.0, 0.0),
    ]


def _frames(share: float, length: float) -> float:
    """A share of a round as whole frames; the end of each part lies a frame after its beginning at least."""
    rest = share % 1.0
    return (share - rest) * length + (max(round(rest * length), 1) if rest > 0 else 0)


def round_curve(nodes: list[Node], fall: float, first: float, length: float, poses: dict[float, KeyRole]) -> Curve:
    """A curve that goes round from `first` on, through nodes of a foot that comes down in that share of a round; it has keys on
    the poses too, by frame."""
    places = [(share + turn, value, slope) for turn in (-1, 0, 1, 2) for share, value, slope in nodes]
    keys = [
        Key(
            first + fall * length + _frames(share, length),
            value,
            HandleKind.BY_HAND,
            HandleKind.BY_HAND,
            slope / length,
            slope / length,
            role=KeyRole.IN_BETWEEN,
        )
        for share, value, slope in places
    ]
    curve = Curve.from_keys(keys)
    for frame, role in poses.items():
        at = curve.index_at(frame)
        curve = inserted(curve, frame, role=role)
        if at is not None:
            roles = curve.role.copy()
            roles[at] = role
            curve = curve.changed(role=roles)
    inside = (curve.frames >= first - 1e-6) & (curve.frames <= first + length + 1e-6)
    made = curve.taken(inside)
    smooth = np.isclose(made.in_slope, made.out_slope, rtol=0.0, atol=1e-9)
    return made.changed(joined=smooth).ending(EndKind.ROUND, EndKind.ROUND)
