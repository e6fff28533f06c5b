"""What proof-reading finds: kinds of notes with their thresholds, and notes."""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

from bovrin.frozen import frozen_equal
from bovrin.shot import LeftNote, Shot


class Fault(NamedTuple):
    """A kind of fault. limit: what is no more than this in `unit` is no note; remedy: what mends it, None if only shown."""

    name: str
    title: str
    measure: str
    unit: str
    limit: float
    remedy: str | None


KINDS = {
    kind.name: kind
    for kind in (
        Fault("slide", "planted foot slides", "farthest way of a foot while it is down", "cm", 0.5, "plant"),
        Fault("ground", "through the ground", "deepest point of a hand or foot", "cm", 0.5, "lift"),
        Fault("balance", "weight outside the feet", "centre of mass beyond the feet that are down", "cm", 4.0, None),
        Fault(
            "kink", "arc kinks", "turn of the path on one frame between frames that turn less", "degrees", 40.0, "mend"
        ),
        Fault("pop", "speed pops", "jump of a curve's slope, off a contact", "a frame", 3.0, "smooth"),
        Fault("flip", "turn goes the long way", "degrees turned beyond the short way", "degrees", 90.0, "short way"),
        Fault("locked", "limb too short for its goal", "distance from the goal", "cm", 0.5, "bend"),
        Fault("snap", "limb snaps straight", "change of the joint's pace on one frame", "degrees", 18.0, "bend"),
        Fault(
            "early",
            "moves before its first key",
            "change before the first pose of its own",
            "degrees or cm",
            2.0,
            "hold",
        ),
        Fault("overshoot", "drifts between equal poses", "farthest from both", "degrees or cm", 1.0, "flatten"),
        Fault("together", "parts stop together", "parts besides the legs", "parts", 3.0, "break up"),
        Fault("twins", "both sides do the same", "way of each", "cm", 8.0, "offset"),
        Fault("dead hold", "dead still", "frames on end", "frames", 10.0, "keep alive"),
        Fault("seam", "loop pops at its seam", "farthest joint from end to beginning", "cm", 1.0, "close"),
        Fault("tremble", "trembles unseen", "most that is still noise, not acting", "degrees or cm", 0.5, "thin out"),
        Fault("idle key", "key does nothing", "keys without which nothing changes", "keys", 0.0, "remove"),
    )
}
"""All kinds in the order in which they are listed."""

FAR = 1e6
"""A limit that nothing passes."""


@frozen_equal
class Note:
    """A fault of a part of a figure from one frame to another.

    remedy: what mends it, or None. at: what it was found on: names of joints, channels or controls.
    """

    kind: str
    figure: str
    part: str
    start: float
    end: float
    amount: float
    unit: str
    words: str
    remedy: str | None
    at: tuple[str, ...] = ()

    @property
    def left(self) -> LeftNote:
        """What is kept when the note is left as it is."""
        return LeftNote(self.kind, self.figure, self.part, self.start, self.end)


def limit_of(shot: Shot, kind: str) -> float:
    """The threshold of a kind: the shot's own, or the usual one."""
    return dict(shot.limits).get(kind, KINDS[kind].limit)


def is_left(shot: Shot, note: Note) -> bool:
    """Whether a note was silenced: one of its kind and part on some of its frames."""
    return any(left.hides(note.left) for left in shot.take.left)


def in_order(notes: Iterable[Note]) -> list[Note]:
    """Notes by kind, then frame."""
    order = {name: n for n, name in enumerate(KINDS)}
    return sorted(notes, key=lambda note: (order[note.kind], note.start, note.figure, note.part))
