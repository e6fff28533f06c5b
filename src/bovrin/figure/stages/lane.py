"""A lane: clips one after another, and what they say of every channel. Those that overlap fade."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.ways import put, root_columns
from bovrin.figure.stages.clip_values import clip_curves, clip_values
from bovrin.figure.stages.lane_ways import LaneTrack, stand_on, track_of
from bovrin.figure.stages.mixing import mixed, strengthened
from bovrin.figure.stages.pieces import SAME, LaidPiece, goes_round, progress_of, rounds_of
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Clip, Laid, Lane, Rig

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]


class Layer(NamedTuple):
    """Values (F, C), weights (F,), how they go over what is below, the neutral pose (C,), and which channels (C,) move."""

    values: Floats
    weight: Floats
    how: str
    neutral: Floats
    mask: Bools


@cached_by_identity
def muted_channels(laid: Laid, rig: Rig) -> Bools:
    """The channels (C,) that a laid clip does not move."""
    names = set(laid.mute)
    found = np.zeros(len(rig.channels), bool)
    for index, control in enumerate(rig.controls):
        part = rig.part_of(index)
        if control.name in names or (part >= 0 and rig.parts[part].name in names):
            found[list(rig.span(index))] = True
    for name in names:
        if "/" in name and name in rig.channel_names:
            found[rig.channel(name)] = True
    return found


def lane_values(lane: Lane, clips: tuple[Clip, ...], rig: Rig, frames: Floats, *, lowest: bool) -> Layer | None:
    """What a lane says at frames (F,), to be put over what is below it. The lowest lane holds its first pose before it begins,
    and every lane the last pose of a clip until the next."""
    track = track_of(lane, clips, rig)
    if not track.pieces:
        return None
    values = np.tile(np.asarray(rig.defaults, float), (len(frames), 1))
    mask, neutral = np.zeros(len(rig.channels), bool), np.asarray(rig.defaults, float)
    weight = _weight(track.pieces[0], frames, lowest=lowest)
    over = _over(track.pieces, rig, frames)
    shares = [track.pieces[index].share(frames) if index else np.ones(len(frames)) for index in over]
    masks = [_mask(track.pieces[index], rig) for index in over]
    for place, index in enumerate(over):
        piece, share, own_mask = track.pieces[index], shares[place], masks[place]
        rows = np.flatnonzero(_seen(place, shares, masks))
        if not len(rows):
            continue
        own, own_neutral = _piece_values(track, index, rig, frames[rows])
        before = values[rows]
        own = np.where(own_mask, own, before)
        if mask.any():  # what was not moved before it, it moves from its beginning
            own = mixed(rig, np.where(own_mask & ~mask, own, before), own, share[rows])
        values[rows] = own
        if index:
            weight = weight * (1 - share) + share * _weight(piece, frames, lowest=lowest)
        mask, neutral = mask | own_mask, np.where(own_mask, own_neutral, neutral)
    roots = root_columns(rig)
    if roots is not None and mask[list(roots)].any():
        put(values, roots, stand_on(track, rig, frames, roots))
    return Layer(values, weight, track.pieces[0].laid.how, neutral, mask)


def _over(pieces: tuple[LaidPiece, ...], rig: Rig, frames: Floats) -> list[int]:
    """The pieces that something may be seen of on some frames (F,): those that have begun, but for those in whose place, before
    all of the frames, a later one has come that moves as much."""
    if not len(frames):
        return []
    low, high = float(frames.min()), float(frames.max())
    found, whole = list[int](), dict[bytes, Bools]()
    for index in reversed(range(len(pieces))):
        piece = pieces[index]
        if index and piece.laid.at > high:
            continue
        mask = _mask(piece, rig)
        if any(not (mask & ~other).any() for other in whole.values()):
            continue
        found.append(index)
        if index and piece.fades <= low:
            whole.setdefault(mask.tobytes(), mask)
    return found[::-1]


def _seen(index: int, shares: list[Floats], masks: list[Bools]) -> Bools:
    """On which frames (F,) something of a piece is seen: it has begun, and no later one has taken the place of all it moves."""
    seen = shares[index] > 0
    for later in range(index + 1, len(shares)):
        if not (masks[index] & ~masks[later]).any():
            seen = seen & (shares[later] < 1.0)
    return np.asarray(seen)


def _mask(piece: LaidPiece, rig: Rig) -> Bools:
    """Which channels (C,) a piece moves."""
    moved = clip_curves(piece.clip, rig)[1]
    return np.asarray(moved & ~muted_channels(piece.laid, rig)) if piece.laid.mute else moved


def _piece_values(track: LaneTrack, index: int, rig: Rig, frames: Floats) -> tuple[Floats, Floats]:
    """Values of a piece (F, C), and its neutral pose (C,)."""
    piece = track.pieces[index]
    _, _, neutral = clip_curves(piece.clip, rig)
    values = _raw(piece, rig, progress_of(track.pieces, index, frames))
    return strengthened(rig, values, neutral, piece.laid.strength), neutral


def _weight(piece: LaidPiece, frames: Floats, *, lowest: bool) -> Floats:
    """How much of a piece is seen (F,)."""
    laid = piece.laid
    own = np.ones(len(frames))
    if len(laid.weight):
        own = np.clip(curve_values(laid.weight, frames - laid.at, 1.0), 0.0, 1.0)
    if lowest and laid.how == "over":
        return np.asarray(own)
    return np.asarray(own * ((frames >= laid.at - SAME) & (frames <= laid.end + SAME)))


def _raw(piece: LaidPiece, rig: Rig, done: Floats) -> Floats:
    """Values (F, C) of a piece that has come so far (F,)."""
    laid = piece.laid
    rounds, rest = rounds_of(piece, done)
    values = clip_values(piece.clip, rig, laid.last - rest if laid.backwards else laid.first + rest)
    if goes_round(laid, piece.clip) and rounds.any():
        gain = _gain(piece.clip, rig)
        gains = np.flatnonzero(gain)
        values[:, gains] += rounds[:, None] * gain[gains]
    return values


@cached_by_identity
def _gain(clip: Clip, rig: Rig) -> Floats:
    """How much farther the channels (C,) of a loop are at its end."""
    first, last = clip_values(clip, rig, np.array([0.0, clip.length]))
    return np.asarray(last - first)
