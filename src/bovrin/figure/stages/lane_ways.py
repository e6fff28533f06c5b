"""Where a figure stands through a lane: what its clips go, step by step, mixed as they are."""

from __future__ import annotations

from bisect import bisect_right
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.ways import Stand, again, root_columns
from bovrin.figure.stages.clip_values import clip_goes, clip_stands
from bovrin.figure.stages.pieces import LaidPiece, pieces_of, progress_of, rounds_of
from bovrin.frozen import frozen
from bovrin.shot import Clip, Lane, Rig

Floats = NDArray[np.float64]

GRID = 8
"""Steps of a frame in which the way through a fade is gone."""


@frozen
class LaneTrack:
    """The pieces of a lane, how far each has come in the fade out of it, and where the figure stands."""

    pieces: tuple[LaidPiece, ...]
    anchors: tuple[Stand, ...]
    """Where each piece's way is told from: the stand at the end of its fade, and before that its own beginning taken back."""
    fades: tuple[tuple[Floats, Stand] | None, ...]

    @cached_property
    def begins(self) -> list[float]:
        """The frames on which the pieces begin, in their order."""
        return [piece.laid.at for piece in self.pieces]


@cached_by_identity
def track_of(lane: Lane, clips: tuple[Clip, ...], rig: Rig) -> LaneTrack:
    """A lane made ready."""
    pieces, roots = pieces_of(lane, clips), root_columns(rig)
    return LaneTrack(pieces, (), ()) if roots is None else _with_ways(pieces, rig, roots)


def _gone(piece: LaidPiece, rig: Rig, roots: tuple[int, int, int], done: Floats) -> Stand:
    """How far a piece has gone over the ground from its beginning, as it faces there (F,)."""
    laid = piece.laid
    if not clip_goes(piece.clip, rig, roots):
        return Stand(np.zeros(len(done), complex), np.zeros(len(done)))
    rounds, rest = rounds_of(piece, done)
    edges = [laid.last, laid.first] if laid.backwards else [laid.first, laid.last]
    at = laid.last - rest if laid.backwards else laid.first + rest
    every = clip_stands(piece.clip, rig, roots, np.concatenate([edges, at]))
    first, last, here = every.at(slice(0, 1)), every.at(slice(1, 2)), every.at(slice(2, None))
    gone = again(first.back().then(last), rounds).then(first.back().then(here))
    return Stand(gone.place * laid.strength, gone.turn)


def _with_ways(pieces: tuple[LaidPiece, ...], rig: Rig, roots: tuple[int, int, int]) -> LaneTrack:
    """Where the figure stands through the lane: each piece goes on from where the fade into it ends."""
    anchors: list[Stand] = []
    fades: list[tuple[Floats, Stand] | None] = []
    for index, piece in enumerate(pieces):
        if index == 0 or not piece.laid.follows:
            edge = piece.laid.last if piece.laid.backwards else piece.laid.first
            start = clip_stands(piece.clip, rig, roots, np.array([edge]))
            gone = _gone(piece, rig, roots, np.array([piece.starts]))
            anchors.append(start.then(gone.back()) if piece.starts else start)
            fades.append(None)
            continue
        before = pieces[index - 1]
        here = anchors[-1].then(_gone(before, rig, roots, progress_of(pieces, index - 1, np.array([piece.laid.at]))))
        if piece.fades <= piece.laid.at:
            anchors.append(here.then(_gone(piece, rig, roots, np.array([piece.starts])).back()))
            fades.append(None)
            continue
        grid, way = _through_fade(pieces, index, rig, roots)
        stand = here.then(way)
        end = _gone(piece, rig, roots, progress_of(pieces, index, grid[-1:]))
        anchors.append(stand.at(slice(-1, None)).then(end.back()))
        fades.append((grid, stand))
    return LaneTrack(pieces, tuple(anchors), tuple(fades))


def _through_fade(
    pieces: tuple[LaidPiece, ...], index: int, rig: Rig, roots: tuple[int, int, int]
) -> tuple[Floats, Stand]:
    """The way through the fade into a piece (G,), step by step what both clips go, by their shares."""
    piece, before = pieces[index], pieces[index - 1]
    count = max(int(np.ceil((piece.fades - piece.laid.at) * GRID)), 1)
    grid = np.linspace(piece.laid.at, piece.fades, count + 1)
    steps = []
    for n, own in ((index - 1, before), (index, piece)):
        gone = _gone(own, rig, roots, progress_of(pieces, n, grid))
        steps.append(gone.at(slice(None, -1)).back().then(gone.at(slice(1, None))))
    share = piece.share((grid[1:] + grid[:-1]) / 2)
    turn = steps[0].turn * (1 - share) + steps[1].turn * share
    place = steps[0].place * (1 - share) + steps[1].place * share
    facing = np.concatenate([[0.0], np.cumsum(turn)])
    way = np.concatenate([[0.0], np.cumsum(np.exp(1j * facing[:-1]) * place)])
    return grid, Stand(way, facing)


def stand_on(track: LaneTrack, rig: Rig, frames: Floats, roots: tuple[int, int, int]) -> Stand:
    """Where a lane has the figure stand at frames (F,)."""
    if not len(frames):
        return _stand_of(track, 0, rig, frames, roots)
    low, high = float(frames.min()), float(frames.max())
    begun = max(bisect_right(track.begins, high), 1)
    faded = (n for n in reversed(range(1, begun)) if track.pieces[n].fades <= low)
    first = next(faded, 0)  # what came before it is not seen any more
    found = _stand_of(track, first, rig, frames, roots)
    for index in range(first + 1, begun):
        piece, fade = track.pieces[index], track.fades[index]
        rows = np.flatnonzero(frames >= piece.laid.at)
        if not len(rows):
            continue
        own = _stand_of(track, index, rig, frames[rows], roots)
        share = piece.share(frames[rows])
        if fade is not None:
            grid, way = fade
            inside = frames[rows] < piece.fades
            place = np.interp(frames[rows], grid, way.place.real) + 1j * np.interp(frames[rows], grid, way.place.imag)
            own = Stand(
                np.where(inside, place, own.place), np.where(inside, np.interp(frames[rows], grid, way.turn), own.turn)
            )
            share = np.ones(len(rows))
        found.place[rows] += share * (own.place - found.place[rows])
        found.turn[rows] += share * (own.turn - found.turn[rows])
    return found


def _stand_of(track: LaneTrack, index: int, rig: Rig, frames: Floats, roots: tuple[int, int, int]) -> Stand:
    done = progress_of(track.pieces, index, frames)
    way = track.anchors[index].then(_gone(track.pieces[index], rig, roots, done))
    return Stand(way.place.copy(), way.turn.copy())
