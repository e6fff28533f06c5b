"""Who is in the shot: figures join it and leave it, in every take."""

from __future__ import annotations

from dataclasses import replace
from itertools import chain, count

from bovrin.craft.takes import in_every_take
from bovrin.shot import CurveSet, Figure, Shot


def free_name(shot: Shot, wanted: str) -> str:
    """A name that no figure of the shot has."""
    taken = {figure.name for figure in shot.cast}
    return next(n for n in chain([wanted], (f"{wanted} {i}" for i in count(2))) if n not in taken)


def joined(shot: Shot, figure: Figure, curves: CurveSet | None = None, last: float | None = None) -> Shot:
    """The shot with one figure more, under a name of its own; with a motion in the take that is worked on.

    last: the motion's last frame, up to which the range grows.
    """
    new = shot.with_figure(replace(figure, name=free_name(shot, figure.name)), curves)
    return new if last is None or last <= new.last else replace(new, last=last)


def left(shot: Shot, name: str) -> Shot:
    """The shot without a figure and its motion."""
    shot.figure(name)
    cast = tuple(figure for figure in shot.cast if figure.name != name)

    def gone(one: Shot) -> Shot:
        take = one.take
        kept = {n: curves for n, curves in take.curves.items() if n != name}
        cards = {n: found for n, found in take.cards.items() if n != name}
        traces = tuple(trace for trace in take.traces if trace.figure != name)
        return replace(one, cast=cast, take=replace(take, curves=kept, cards=cards, traces=traces))

    return in_every_take(replace(shot, unkeyed=()), gone)
