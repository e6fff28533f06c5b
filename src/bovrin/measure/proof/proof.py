"""The proof of a shot: every kind of note, of every figure."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from bovrin.figure.staging import hangs_on
from bovrin.measure.proof.curves import flips, idle_keys, overshoots, pops
from bovrin.measure.proof.dense import trembles
from bovrin.measure.proof.feet import balances, grounds, slides
from bovrin.measure.proof.limbs import kinks, locked, snaps
from bovrin.measure.proof.notes import Note, in_order, is_left, limit_of
from bovrin.measure.proof.reading import Going, Reading
from bovrin.measure.proof.timing import dead_holds, early, seams, together, twins
from bovrin.progress import tell
from bovrin.shot import Shot

Look = Callable[[Reading, float], Iterator[Note]]

LOOKS: dict[str, Look] = {
    "slide": slides,
    "ground": grounds,
    "balance": balances,
    "kink": kinks,
    "pop": pops,
    "flip": flips,
    "locked": locked,
    "snap": snaps,
    "early": early,
    "overshoot": overshoots,
    "together": together,
    "twins": twins,
    "dead hold": dead_holds,
    "seam": seams,
    "tremble": trembles,
    "idle key": idle_keys,
}


class Reader:
    """Reads a shot again and again: of a figure that did not change nothing is worked out anew, of another only what changed."""

    def __init__(self) -> None:
        self._kept: dict[str, tuple[tuple[object, ...], Reading, list[Note]]] = {}

    def notes(self, shot: Shot, figure: str | None = None, going: Going = lambda _share: True) -> list[Note]:
        """All notes, also those that are left, of one figure or all; none when `going` said to stop."""
        names = [figure] if figure is not None else [one.name for one in shot.cast if not one.is_set]
        found: list[Note] = []
        for n, name in enumerate(names):
            found += self._of(shot, name, lambda share, n=n: going((n + share) / len(names)))  # type: ignore[misc]
        return in_order(found)

    def _of(self, shot: Shot, figure: str, going: Going) -> list[Note]:
        one = shot.figure(figure)
        keys = (
            hangs_on(shot, figure),
            one.model,
            shot.cycle(figure),
            dict(shot.contacts(figure)),
            shot.on_set and [hangs_on(shot, other.name) for other in shot.cast],
            shot.first,
            shot.last,
            shot.frame_rate,
            shot.loops,
            shot.limits,
        )
        kept = self._kept.get(figure)
        if kept is not None and all(a is b or a == b for a, b in zip(kept[0], keys, strict=True)):
            return kept[2]
        read = Reading(shot, figure, kept[1] if kept is not None else None)
        notes: list[Note] = []
        for n, (kind, look) in enumerate(LOOKS.items()):
            if not going(n / len(LOOKS)):
                return []
            notes += look(read, limit_of(shot, kind))
        self._kept[figure] = (keys, read, notes)
        return notes


def _told(share: float) -> bool:
    tell(share)
    return True


def proof(shot: Shot, figure: str | None = None, *, with_left: bool = False) -> list[Note]:
    """The notes on a shot's worked on take, of one figure or of all that act; those that were left only when asked for."""
    shot.figure(figure) if figure is not None else None
    return [note for note in Reader().notes(shot, figure, _told) if with_left or not is_left(shot, note)]
