"""What a reader of a file of another maker gives; the figures of one file together."""

from __future__ import annotations

from dataclasses import replace
from itertools import chain, count
from typing import NamedTuple

from bovrin.shot import Figure, Shot, Span, Take, acting_by


class Found(NamedTuple):
    """A shot that holds what a file does, at the file's own rate, what was left out, and whether Bovrin wrote that rate.

    doubtful: whether the figure could well be of another size, because the file does not say its unit.
    """

    shot: Shot
    left_out: list[str]
    own_rate: bool = False
    doubtful: bool = False


def together(title: str, shots: list[Shot]) -> Shot:
    """One shot of several that hold a figure each; takes of one name are one take, as long as the longest of them."""
    cast: list[Figure] = []
    for shot in shots:
        wanted, taken = shot.cast[0].name, {figure.name for figure in cast}
        free = next(n for n in chain([wanted], (f"{wanted} {i}" for i in count(2))) if n not in taken)
        cast.append(replace(shot.cast[0], name=free))
    moved = [(figure.name, shot) for figure, shot in zip(cast, shots, strict=True) if _moves(shot)]
    moved = moved or [(cast[0].name, shots[0])]
    takes: dict[str, Take] = {}
    for name, shot in moved:
        for take in shot.all_takes:
            span, known = shot.span_of(take), takes.get(take.name)
            longest = span if known is None or known.span is None or known.span.last < span.last else known.span
            acting = {**(known.acting if known else {}), name: take.of(shot.cast[0].name)}
            takes[take.name] = Take(take.name, acting, order=known.order if known else take.order, span=longest)
    still = acting_by({figure.name: figure.no_motion() for figure in cast})
    whole = [replace(take, acting={**still, **take.acting}) for take in takes.values()]
    first, *others = sorted(whole, key=lambda take: (take.order, take.name))
    span = first.span or Span(shots[0].first, shots[0].last)
    rate = moved[0][1].frame_rate
    return Shot(title, tuple(cast), replace(first, span=None), frame_rate=rate, takes=tuple(others), **span._asdict())


def _moves(shot: Shot) -> bool:
    return any(len(curve) > 0 for take in shot.all_takes for own in take.curves.values() for curve in own.curves)
