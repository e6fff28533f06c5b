"""How many frames each pose holds and each move takes."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bovrin.figure.staging import staged
from bovrin.frozen import frozen_equal
from bovrin.shot import Rig, Shot
from bovrin.shot.curve import SAME_FRAME

STILL = 1e-5
"""Metres or radians on one frame below which a part stands still."""


@frozen_equal
class Stretch:
    """Frames on end in which a part holds or moves: the first of them and how many."""

    start: float
    frames: int
    moving: bool


def holds_and_moves(shot: Shot, figure: str, parts: Iterable[str] | None = None) -> list[Stretch]:
    """The range of a shot as holds and moves of some parts, or of the whole figure.

    A frame moves when it differs from the one before; in a stepped span every new drawing is a move of one frame, and
    drawings that follow each other on ones, twos, threes or fours are one move.
    """
    rig = shot.figure(figure).rig
    frames = np.arange(shot.first, shot.last + SAME_FRAME)
    values = staged(shot, figure, frames).values[:, _channels(rig, parts)]
    if len(frames) < 2 or not values.shape[1]:
        return [Stretch(float(frames[0]), len(frames), moving=False)]
    moves = np.abs(np.diff(values, axis=0)).max(1) > STILL
    moves = _drawings_joined(moves)
    edges = np.flatnonzero(np.diff(moves)) + 1
    starts = np.concatenate([[0], edges])
    ends = np.concatenate([edges, [len(moves)]])
    found = [Stretch(float(frames[a + 1]), int(b - a), bool(moves[a])) for a, b in zip(starts, ends, strict=True)]
    first = found[0]
    if first.moving:
        return [Stretch(float(frames[0]), 1, moving=False), *found]
    return [Stretch(float(frames[0]), first.frames + 1, moving=False), *found[1:]]


def _channels(rig: Rig, parts: Iterable[str] | None) -> list[int]:
    chosen = range(len(rig.parts)) if parts is None else [rig.part(name) for name in parts]
    return [i for part in chosen for i in rig.part_channels(part)]


def _drawings_joined(moves: np.ndarray, most: int = 4) -> np.ndarray:
    """Moves with the still frames filled in between drawings that lie at most so many frames apart, three or more on end."""
    at = np.flatnonzero(moves)
    joined = moves.copy()
    close = np.diff(at) <= most
    for k in np.flatnonzero(close):
        run = (k > 0 and close[k - 1]) or (k + 1 < len(close) and close[k + 1])
        if run:
            joined[at[k] : at[k + 1]] = True
    return joined


def share_held(stretches: Iterable[Stretch]) -> float:
    """The share of all frames that are held, 0..1."""
    rows = list(stretches)
    total = sum(s.frames for s in rows)
    return sum(s.frames for s in rows if not s.moving) / total if total else 0.0
