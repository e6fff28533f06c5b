"""Pieces: the clips of a lane one after another, and how far each has come on a frame. Those that overlap fade; in step their
feet fall together, and time runs so that they do.

Matching and warping after L. Kovar and M. Gleicher, "Flexible automatic motion blending with registration curves", SCA 2003: the
matching places are the footfalls, and in a fade both clips are on the same share of a round, which goes on at a pace between
theirs.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.stages.in_step import matched, phases, slowed_to
from bovrin.frozen import frozen
from bovrin.shot import Clip, Laid, Lane

Floats = NDArray[np.float64]
SAME = 1e-9


class KeptStep(NamedTuple):
    """How two clips keep step. begins: the phase of the first, in rounds of feet, where the fade begins; paces: rounds a frame of
    each; rounds: how many are in each; later: how much later the second's footfalls are, as `in_step.Match` has it."""

    begins: float
    paces: tuple[float, float]
    rounds: tuple[int, int]
    later: Floats | None


@frozen
class LaidPiece:
    """A laid clip in its lane: `starts`, how far it has come, in its own frames, where it begins; until `fades` it fades in from
    the one before, by `step` if both are in step."""

    laid: Laid
    clip: Clip
    starts: float
    fades: float
    step: KeptStep | None = None

    @property
    def span(self) -> float:
        """Frames of a round."""
        return self.laid.last - self.laid.first

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
        if self.step is None:
            return np.asarray(self.starts + (at - self.laid.at) * self.laid.speed)
        return np.asarray(self.starts + self._in_step(at)[1] * self.span)

    def before(self, frames: Floats) -> Floats:
        """How many times through itself the clip before has come (F,) since this one began to fade in."""
        return self._in_step(frames)[0]

    def _in_step(self, frames: Floats) -> tuple[Floats, Floats]:
        """How many times through itself each of both clips has come (F,) since the fade began."""
        step = self.step
        assert step is not None
        width = self.fades - self.laid.at
        since = np.concatenate([[0.0], frames - self.laid.at])
        x = np.clip(since / width, 0.0, 1.0)
        own = width * (x**3 - x**4 / 2)
        common = step.paces[0] * (np.minimum(since, width) - own) + step.paces[1] * (
            own + np.maximum(since - width, 0.0)
        )
        first, second = phases(step.later, step.begins + common, x * x * (3.0 - 2.0 * x))
        return (first[1:] - first[0]) / step.rounds[0], (second[1:] - second[0]) / step.rounds[1]


def pieces_of(lane: Lane, clips: tuple[Clip, ...]) -> tuple[LaidPiece, ...]:
    """The pieces of a lane. Clips that are not there are left out."""
    by_name = {clip.name: clip for clip in clips}
    pieces: list[LaidPiece] = []
    for laid in lane.laid:
        clip = by_name.get(laid.clip)
        if clip is not None:
            pieces.append(_piece(laid, clip, pieces[-1] if pieces else None))
    return tuple(pieces)


def _piece(laid: Laid, clip: Clip, before: LaidPiece | None) -> LaidPiece:
    fades = laid.at if before is None else max(min(before.laid.end, laid.end), laid.at)
    if before is None or fades <= laid.at or not (laid.in_step and goes_round(laid, clip)):
        return LaidPiece(laid, clip, 0.0, fades)
    match = matched(before.clip, clip) if goes_round(before.laid, before.clip) else None
    if match is None:
        return LaidPiece(laid, clip, 0.0, fades)
    done = float(before.progress(np.array([laid.at]))[0])
    rounds, spans = match.rounds, (before.span, laid.last - laid.first)
    paces = (before.laid.speed * rounds[0] / spans[0], laid.speed * rounds[1] / spans[1])
    later = slowed_to(match, fades - laid.at, min(paces))
    begins = (before.laid.first + done - match.zero[0]) / spans[0] * rounds[0]
    _, phase = phases(later, np.array([begins]), np.zeros(1))
    starts = (match.zero[1] - laid.first + float(phase[0]) / rounds[1] * spans[1]) % spans[1]
    return LaidPiece(laid, clip, starts, fades, KeptStep(begins, paces, rounds, later))


def goes_round(laid: Laid, clip: Clip) -> bool:
    """Whether a laid clip is a whole loop, forwards."""
    return clip.loops and laid.first == 0.0 and abs(laid.last - clip.length) < 1e-6 and not laid.backwards


def progress_of(pieces: tuple[LaidPiece, ...], index: int, frames: Floats) -> Floats:
    """How far a piece has come; while the next fades in, in step, as far as that one's pace has it."""
    piece = pieces[index]
    own = piece.progress(frames)
    if index + 1 >= len(pieces) or pieces[index + 1].step is None:
        return own
    after = pieces[index + 1]
    fading = np.flatnonzero(frames > after.laid.at)
    if len(fading):
        start = float(piece.progress(np.array([after.laid.at]))[0])
        at = np.minimum(frames[fading], after.laid.end - after.laid.hold)
        own[fading] = start + after.before(at) * piece.span
    return own


def rounds_of(piece: LaidPiece, done: Floats) -> tuple[Floats, Floats]:
    """Which round a piece that has come so far is in (F,), and how far it is in that."""
    rounds = np.floor(done / piece.span)
    if piece.step is None:  # its very end is the end of the last round, not the beginning of one more
        at_end = np.abs(done - piece.span * piece.laid.repeats) < SAME
        rounds = np.where(at_end & (np.abs(done - rounds * piece.span) < SAME) & (rounds > 0), rounds - 1, rounds)
    return rounds, done - rounds * piece.span
