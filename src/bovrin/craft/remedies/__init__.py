"""Remedies for what the proof finds."""

from __future__ import annotations

from collections.abc import Callable

from bovrin.craft.arcs.cleaner_arcs import mend_kinks
from bovrin.craft.between.overlap import broken_up
from bovrin.craft.cycle.rounds import close_loop
from bovrin.craft.remedies import bent, ends, keys, timing
from bovrin.errors import BadMotion
from bovrin.measure.proof import LOOKS, Note, Reading, limit_of
from bovrin.shot import Shot, Spot

Mend = Callable[[Shot, Note], Shot]

AROUND = 6.0
"""Frames around a kink that are looked at to mend it."""

__all__ = ["remedied"]


def remedied(shot: Shot, note: Note) -> Shot:
    """The shot with a note's remedy; BadMotion when it has none, or its figure has changed so that it no longer fits."""
    if note.remedy is None or note.kind not in _MENDS:
        raise BadMotion(f"there is no remedy for '{note.words}'.", advice="Mend it by hand, or leave it.")
    return _MENDS[note.kind](shot, note)


def _channels(shot: Shot, note: Note) -> list[int]:
    rig = shot.figure(note.figure).rig
    return [rig.channel(name) for name in note.at]


def _smoothed(shot: Shot, note: Note) -> Shot:
    return keys.smoothed(shot, note.figure, _channels(shot, note), note.start, note.end)


def _kink(shot: Shot, note: Note) -> Shot:
    if note.remedy == "smooth":
        return _smoothed(shot, note)
    low, high = max(note.start - AROUND, shot.first), min(note.end + AROUND, shot.last)
    return mend_kinks(shot, Spot(note.figure, note.at[0]), low, high)[0]


def _idle(shot: Shot, note: Note) -> Shot:
    rig = shot.figure(note.figure).rig
    channels = _channels(shot, note) if note.at else list(range(len(rig.channels)))
    return keys.without_idle(shot, note.figure, channels, note.start, note.end)


def _is_gone(note: Note) -> Callable[[Shot], bool]:
    """Whether a shot has no note of that kind any more in the note's frames."""

    def gone(shot: Shot) -> bool:
        found = LOOKS[note.kind](Reading(shot, note.figure), limit_of(shot, note.kind))
        return not any(other.start <= note.end and note.start <= other.end for other in found)

    return gone


_MENDS: dict[str, Mend] = {
    "slide": lambda shot, n: ends.planted_foot(shot, n.figure, n.at[0], n.start, n.end),
    "ground": lambda shot, n: ends.lifted(shot, n.figure, n.at[0], n.start, n.end),
    "kink": _kink,
    "pop": _smoothed,
    "flip": lambda shot, n: keys.turned_short(
        shot, n.figure, shot.figure(n.figure).rig.control(n.at[0]), n.start, n.end
    ),
    "locked": lambda shot, n: bent.bent(shot, n.figure, n.at[0], n.start, n.end),
    "snap": lambda shot, n: bent.bent(shot, n.figure, n.at[0], n.start, n.end),
    "early": lambda shot, n: keys.held_before(shot, n.figure, _channels(shot, n), n.end),
    "overshoot": lambda shot, n: keys.flattened(shot, n.figure, _channels(shot, n), n.start, n.end),
    "together": lambda shot, n: broken_up(shot, n.figure, n.start),
    "twins": lambda shot, n: timing.offset_side(shot, n.figure, n.at[1], n.start, n.end, _is_gone(n)),
    "dead hold": lambda shot, n: timing.kept_alive(shot, n.figure, n.start, n.end, _is_gone(n)),
    "seam": lambda shot, n: close_loop(shot, n.figure, n.start, n.end),
    "tremble": lambda shot, n: keys.calmed(shot, n.figure, _channels(shot, n), n.start, n.end),
    "idle key": _idle,
}
