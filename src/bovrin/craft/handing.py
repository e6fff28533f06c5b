"""What of a shot is handed on: some figures, a range, a take."""

from __future__ import annotations

import re
from collections.abc import Iterable
from dataclasses import replace
from pathlib import Path

from bovrin.craft.company import left
from bovrin.errors import BadMotion
from bovrin.shot import Shot, Span
from bovrin.shot.checks import check_range


def handed(
    shot: Shot,
    figures: Iterable[str] | None = None,
    start: float | None = None,
    end: float | None = None,
    take: str | None = None,
) -> Shot:
    """A shot of some figures alone, from one frame to another, and of one take alone; what is not said is as it was. What hangs
    on a figure that is left out moves as it did.

    UnknownName where there is no such figure or take; BadMotion where the range ends before it begins, or nobody is left.
    """
    if take is not None:
        shot = replace(shot.with_take(take), takes=())
    if figures is not None:
        wanted = [shot.figure(name).name for name in figures]
        if not wanted:
            raise BadMotion("no figure is chosen to be handed on.", advice="Name one of the cast.")
        for figure in shot.cast:
            if figure.name not in wanted:
                shot = left(shot, figure.name)
    return shot if start is None and end is None else _cut(shot, start, end)


def _cut(shot: Shot, start: float | None, end: float | None) -> Shot:
    """Every take of a shot from one frame to another."""

    def cut(span: Span) -> Span:
        first, last = span.first if start is None else float(start), span.last if end is None else float(end)
        check_range("what is handed on", first, last)
        return Span(first, last, span.loops and (first, last) == (span.first, span.last))

    own = cut(shot.span_of(replace(shot.take, span=None)))
    takes = tuple(replace(one, span=cut(shot.span_of(one))) for one in shot.takes)
    return replace(shot, takes=takes, **own._asdict())


def by_take(shot: Shot, path: Path) -> list[tuple[str, Path]]:
    """Each take of a shot, and the file it is written to beside `path`: "walk A.glb", "walk B.glb"."""
    found: dict[Path, str] = {}
    for take in shot.all_takes:
        word = re.sub(r'[/\\:*?"<>|\x00-\x1f]+', "-", take.name).strip(" .") or "take"
        names = (f"{path.stem} {word}{path.suffix}", *(f"{path.stem} {word} {n}{path.suffix}" for n in range(2, 1000)))
        found[next(one for name in names if (one := path.with_name(name)) not in found)] = take.name
    return [(take, one) for one, take in found.items()]
