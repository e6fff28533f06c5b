"""A lane: clips one after another. Those that overlap fade; in step their feet fall together, and time runs so that they do.

Matching and warping after L. Kovar and M. Gleicher, "Flexible automatic motion blending with registration curves", SCA 2003: the
matching places are the footfalls, a round runs evenly between them, and in a fade both clips are on the same share of a round,
which goes on at a pace between theirs. Where the figure stands is what its clips go, step by step, mixed as they are.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.mixing import mixed, strengthened
from bovrin.figure.ways import Stand, again, put, root_columns, stands
from bovrin.motion.evaluate import MANY, Compiled, channel_values, compile_curves, curve_values, evaluate
from bovrin.shot import Clip, CurveSet, Laid, Lane, Rig
from bovrin.shot.curve import NO_KEYS

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Ints = NDArray[np.intp]
SAME = 1e-9


class Layer(NamedTuple):
    """Values (F, C), weights (F,), how they go over what is below, the neutral pose (C,), and which channels (C,) move."""

    values: Floats
    weight: Floats
    how: str
    neutral: Floats
    mask: Bools


GRID = 8
"""Steps of a frame in which the way through a fade is gone."""


@cached_by_identity(128)
def clip_curves(clip: Clip, rig: Rig) -> tuple[CurveSet, Bools, Floats]:
    """A clip's curves in the order of a rig's channels, which of them it has (C,), and its neutral pose (C,)."""
    own = [clip.curves.get(name, NO_KEYS) for name in rig.channel_names]
    neutral = [clip.neutral.get(name, d) for name, d in zip(rig.channel_names, rig.defaults, strict=True)]
    return CurveSet(tuple(own)), np.array([len(curve) > 0 for curve in own]), np.array(neutral)


@cached_by_identity(128)
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


@dataclass(frozen=True, eq=False, repr=False)
class Piece:
    """A laid clip in its lane: `starts`, how far it has come, in its own frames, where it begins; until `fades` it fades in from
    the one before, which makes `before` rounds a frame if both are in step."""

    laid: Laid
    clip: Clip
    starts: float
    fades: float
    in_step: bool
    before: float

    @property
    def span(self) -> float:
        """Frames of a round."""
        return self.laid.last - self.laid.first

    @property
    def pace(self) -> float:
        """Rounds a frame."""
        return self.laid.speed / self.span

    def share(self, frames: Floats) -> Floats:
        """How far it has faded in (F,), 0 to 1."""
        width = self.fades - self.laid.at
        if width <= 0:
            return (frames >= self.laid.at).astype(float)
        x = np.clip((frames - self.laid.at) / width, 0.0, 1.0)
        return np.asarray(x * x * (3.0 - 2.0 * x))

    def progress(self, frames: Floats) -> Floats:
        """How far it has come (F,), in its own frames, from where its stretch begins."""
        at = np.clip(frames, self.laid.at, self.laid.end - self.laid.hold)
        if not self.in_step:
            return np.asarray(self.starts + (at - self.laid.at) * self.laid.speed)
        width = self.fades - self.laid.at
        x = np.clip((at - self.laid.at) / width, 0.0, 1.0)
        own = width * (x**3 - x**4 / 2)
        rounds = self.before * (x * width - own) + self.pace * (own + np.maximum(at - self.fades, 0.0))
        return np.asarray(self.starts + rounds * self.span)


@dataclass(frozen=True, eq=False, repr=False)
class Track:
    """The pieces of a lane, how far each has come in the fade out of it, and where the figure stands."""

    pieces: tuple[Piece, ...]
    anchors: tuple[Stand, ...]
    """Where each piece's way is told from: the stand at the end of its fade, and before that its own beginning taken back."""
    fades: tuple[tuple[Floats, Stand] | None, ...]


@cached_by_identity(64)
def track_of(lane: Lane, clips: tuple[Clip, ...], rig: Rig) -> Track:
    """A lane made ready. Clips that are not there are left out."""
    by_name = {clip.name: clip for clip in clips}
    pieces: list[Piece] = []
    for laid in lane.laid:
        clip = by_name.get(laid.clip)
        if clip is not None:
            pieces.append(_piece(laid, clip, pieces[-1] if pieces else None))
    roots = root_columns(rig)
    if roots is None:
        return Track(tuple(pieces), (), ())
    return _with_ways(tuple(pieces), rig, roots)


def _piece(laid: Laid, clip: Clip, before: Piece | None) -> Piece:
    fades = laid.at if before is None else max(min(before.laid.end, laid.end), laid.at)
    if before is None or fades <= laid.at or not (laid.in_step and goes_round(laid, clip)):
        return Piece(laid, clip, 0.0, fades, False, 0.0)
    if not goes_round(before.laid, before.clip):
        return Piece(laid, clip, 0.0, fades, False, 0.0)
    falls = _common_falls(before.clip, clip)
    if falls is None:
        return Piece(laid, clip, 0.0, fades, False, 0.0)
    done = float(before.progress(np.array([laid.at]))[0])
    phase = (before.laid.first + done - falls[0]) / before.span
    span = laid.last - laid.first
    starts = (falls[1] - laid.first + phase * span) % span
    return Piece(laid, clip, starts, fades, True, before.pace)


def goes_round(laid: Laid, clip: Clip) -> bool:
    """Whether a laid clip is a whole loop, forwards."""
    return clip.loops and laid.first == 0.0 and abs(laid.last - clip.length) < 1e-6 and not laid.backwards


def _common_falls(one: Clip, other: Clip) -> tuple[float, float] | None:
    """When the same foot comes down in two clips, in their own frames."""
    for limb, spans in one.contacts.items():
        if spans and other.contacts.get(limb):
            return spans[0][0], other.contacts[limb][0][0]
    return None


def _progress(track: tuple[Piece, ...], index: int, frames: Floats) -> Floats:
    """How far a piece has come; while the next fades in, in step, as far as that one's pace has it."""
    piece = track[index]
    own = piece.progress(frames)
    if index + 1 >= len(track) or not track[index + 1].in_step:
        return own
    after = track[index + 1]
    start = float(piece.progress(np.array([after.laid.at]))[0])
    rounds = (after.progress(frames) - after.starts) / after.span
    return np.where(frames > after.laid.at, start + rounds * piece.span, own)


def _raw(piece: Piece, rig: Rig, done: Floats) -> Floats:
    """Values (F, C) of a piece that has come so far (F,)."""
    laid = piece.laid
    rounds, rest = _rounds(piece, done)
    values = _clip_values(piece.clip, rig, laid.last - rest if laid.backwards else laid.first + rest)
    if goes_round(laid, piece.clip) and rounds.any():
        ends = _clip_values(piece.clip, rig, np.array([laid.first, laid.last]))
        gains = np.flatnonzero(ends[1] != ends[0])
        values[:, gains] += rounds[:, None] * (ends[1] - ends[0])[gains]
    return values


def _gone(piece: Piece, rig: Rig, roots: tuple[int, int, int], done: Floats) -> Stand:
    """How far a piece has gone over the ground from its beginning, as it faces there (F,)."""
    laid = piece.laid
    way = root_curves(piece.clip, rig, roots)
    rounds, rest = _rounds(piece, done)
    edges = [laid.last, laid.first] if laid.backwards else [laid.first, laid.last]
    at = laid.last - rest if laid.backwards else laid.first + rest
    found = evaluate(way, np.concatenate([edges, at]))
    every = Stand(found[:, 0] + 1j * found[:, 1], found[:, 2])
    first, last, here = every.at(slice(0, 1)), every.at(slice(1, 2)), every.at(slice(2, None))
    gone = again(first.back().then(last), rounds).then(first.back().then(here))
    return Stand(gone.place * laid.strength, gone.turn)


def _clip_values(clip: Clip, rig: Rig, frames: Floats) -> Floats:
    """A clip's channels at its own frames (F, C); what stands still in it is not worked out again and again."""
    curves, _, _ = clip_curves(clip, rig)
    if sum(map(len, curves.curves)) >= MANY:
        return channel_values(curves, rig, frames)
    still, moving, compiled = _moving(clip, rig)
    values = np.tile(still, (len(frames), 1))
    if compiled is not None:
        values[:, moving] = evaluate(compiled, frames)
    return values


@cached_by_identity(128)
def _moving(clip: Clip, rig: Rig) -> tuple[Floats, Ints, Compiled | None]:
    """What a clip's channels rest at (C,), which of them move, and those ready to be worked out."""
    curves, _, _ = clip_curves(clip, rig)
    still = np.array([c.values[0] if len(c) else d for c, d in zip(curves.curves, rig.defaults, strict=True)])
    moving = [
        i for i, c in enumerate(curves.curves) if len(c) and (np.ptp(c.values) or c.in_slope.any() or c.out_slope.any())
    ]
    compiled = compile_curves([curves[i] for i in moving], [rig.defaults[i] for i in moving]) if moving else None
    return still, np.array(moving, np.intp), compiled


@cached_by_identity(128)
def root_curves(clip: Clip, rig: Rig, roots: tuple[int, int, int]) -> Compiled:
    """The curves that take the whole figure forward, across, and turn it."""
    curves, _, _ = clip_curves(clip, rig)
    return compile_curves([curves[c] for c in roots], [rig.defaults[c] for c in roots])


def _rounds(piece: Piece, done: Floats) -> tuple[Floats, Floats]:
    """Which round a piece that has come so far is in (F,), and how far it is in that."""
    rounds = np.floor(done / piece.span)
    if not piece.in_step:  # its very end is the end of the last round, not the beginning of one more
        at_end = np.abs(done - piece.span * piece.laid.repeats) < SAME
        rounds = np.where(at_end & (np.abs(done - rounds * piece.span) < SAME) & (rounds > 0), rounds - 1, rounds)
    return rounds, done - rounds * piece.span


def _with_ways(pieces: tuple[Piece, ...], rig: Rig, roots: tuple[int, int, int]) -> Track:
    """Where the figure stands through the lane: each piece goes on from where the fade into it ends."""
    anchors: list[Stand] = []
    fades: list[tuple[Floats, Stand] | None] = []
    for index, piece in enumerate(pieces):
        if index == 0 or not piece.laid.follows:
            curves, _, _ = clip_curves(piece.clip, rig)
            edge = piece.laid.last if piece.laid.backwards else piece.laid.first
            start = stands(channel_values(curves, rig, np.array([edge])), roots)
            gone = _gone(piece, rig, roots, np.array([piece.starts]))
            anchors.append(start.then(gone.back()) if piece.starts else start)
            fades.append(None)
            continue
        before = pieces[index - 1]
        here = anchors[-1].then(_gone(before, rig, roots, _progress(pieces, index - 1, np.array([piece.laid.at]))))
        if piece.fades <= piece.laid.at:
            anchors.append(here.then(_gone(piece, rig, roots, np.array([piece.starts])).back()))
            fades.append(None)
            continue
        grid, way = _through_fade(pieces, index, rig, roots)
        stand = here.then(way)
        end = _gone(piece, rig, roots, _progress(pieces, index, grid[-1:]))
        anchors.append(stand.at(slice(-1, None)).then(end.back()))
        fades.append((grid, stand))
    return Track(pieces, tuple(anchors), tuple(fades))


def _through_fade(pieces: tuple[Piece, ...], index: int, rig: Rig, roots: tuple[int, int, int]) -> tuple[Floats, Stand]:
    """The way through the fade into a piece (G,), step by step what both clips go, by their shares."""
    piece, before = pieces[index], pieces[index - 1]
    count = max(int(np.ceil((piece.fades - piece.laid.at) * GRID)), 1)
    grid = np.linspace(piece.laid.at, piece.fades, count + 1)
    steps = []
    for n, own in ((index - 1, before), (index, piece)):
        gone = _gone(own, rig, roots, _progress(pieces, n, grid))
        steps.append(gone.at(slice(None, -1)).back().then(gone.at(slice(1, None))))
    share = piece.share((grid[1:] + grid[:-1]) / 2)
    turn = steps[0].turn * (1 - share) + steps[1].turn * share
    place = steps[0].place * (1 - share) + steps[1].place * share
    facing = np.concatenate([[0.0], np.cumsum(turn)])
    way = np.concatenate([[0.0], np.cumsum(np.exp(1j * facing[:-1]) * place)])
    return grid, Stand(way, facing)


def progress_of(track: Track, index: int, frames: Floats) -> Floats:
    """How far a piece of a lane has come (F,), in its own frames, from where its stretch begins."""
    return _progress(track.pieces, index, frames)


def lane_values(lane: Lane, clips: tuple[Clip, ...], rig: Rig, frames: Floats, *, lowest: bool) -> Layer | None:
    """What a lane says at frames (F,), to be put over what is below it. The lowest lane holds its first pose before it begins,
    and every lane the last pose of a clip until the next."""
    track = track_of(lane, clips, rig)
    if not track.pieces:
        return None
    values = np.tile(np.asarray(rig.defaults, float), (len(frames), 1))
    mask, neutral = np.zeros(len(rig.channels), bool), np.asarray(rig.defaults, float)
    weight = _weight(track.pieces[0], frames, lowest=lowest)
    for index, piece in enumerate(track.pieces):
        share = piece.share(frames) if index else np.ones(len(frames))
        rows = np.flatnonzero(_seen(track, index, share, frames))
        if not len(rows):
            continue
        own, own_mask, own_neutral = _piece_values(track, index, rig, frames[rows])
        before = values[rows]
        before[:, own_mask & ~mask] = own[
            :, own_mask & ~mask
        ]  # what was not moved before it, it moves from its beginning
        own[:, ~own_mask] = before[:, ~own_mask]
        values[rows] = mixed(rig, before, own, share[rows])
        if index:
            weight = weight * (1 - share) + share * _weight(piece, frames, lowest=lowest)
        mask, neutral = mask | own_mask, np.where(own_mask, own_neutral, neutral)
    roots = root_columns(rig)
    if roots is not None and mask[list(roots)].any():
        put(values, roots, stand_on(track, rig, frames, roots))
    return Layer(values, weight, track.pieces[0].laid.how, neutral, mask)


def _seen(track: Track, index: int, share: Floats, frames: Floats) -> Bools:
    """On which frames (F,) something of a piece is seen: it has begun, and the next has not taken its place."""
    begun = share > 0
    if index + 1 >= len(track.pieces):
        return np.asarray(begun)
    return np.asarray(begun & (track.pieces[index + 1].share(frames) < 1.0))


def _piece_values(track: Track, index: int, rig: Rig, frames: Floats) -> tuple[Floats, Bools, Floats]:
    piece = track.pieces[index]
    _, has, neutral = clip_curves(piece.clip, rig)
    values = _raw(piece, rig, _progress(track.pieces, index, frames))
    return strengthened(rig, values, neutral, piece.laid.strength), has & ~muted_channels(piece.laid, rig), neutral


def _weight(piece: Piece, frames: Floats, *, lowest: bool) -> Floats:
    """How much of a piece is seen (F,)."""
    laid = piece.laid
    own = np.ones(len(frames))
    if len(laid.weight):
        own = np.clip(curve_values(laid.weight, frames - laid.at, 1.0), 0.0, 1.0)
    if lowest and laid.how == "over":
        return np.asarray(own)
    return np.asarray(own * ((frames >= laid.at - SAME) & (frames <= laid.end + SAME)))


def stand_on(track: Track, rig: Rig, frames: Floats, roots: tuple[int, int, int]) -> Stand:
    """Where a lane has the figure stand at frames (F,)."""
    found = _stand_of(track, 0, rig, frames, roots)
    for index in range(1, len(track.pieces)):
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


def _stand_of(track: Track, index: int, rig: Rig, frames: Floats, roots: tuple[int, int, int]) -> Stand:
    done = _progress(track.pieces, index, frames)
    way = track.anchors[index].then(_gone(track.pieces[index], rig, roots, done))
    return Stand(way.place.copy(), way.turn.copy())
