"""Who is in the shot: figures join it and leave it, in every take."""

from __future__ import annotations

from dataclasses import replace
from itertools import chain, count

from bovrin.craft.drawings import without_pins
from bovrin.craft.takes import in_every_take
from bovrin.shot import CurveSet, Figure, Shot, Take


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


def all_joined(shot: Shot, brought: Shot) -> Shot:
    """The shot with the figures of a brought shot that is at the same rate, and with each of its takes.

    The first is their motion in the take that is worked on; for each other one there is a take more, in which the rest of the
    cast goes on as in that.
    """
    first, *others = brought.all_takes
    new, names = shot, dict[str, str]()
    for figure in brought.cast:
        own = first.curves[figure.name]
        moves = any(len(curve) for curve in own.curves)
        new = joined(new, figure, own, brought.span_of(first).last if moves else None)
        names[figure.name] = new.cast[-1].name
    taken, order = {take.name for take in new.all_takes}, max(take.order for take in new.all_takes)
    for number, take in enumerate(others, order + 1):
        words = next(n for n in chain([take.name], (f"{take.name} {i}" for i in count(2))) if n not in taken)
        taken.add(words)
        acting = {**new.take.acting, **{names[name]: own for name, own in take.acting.items()}}
        aside = Take(words, acting, order=number, span=brought.span_of(take))
        new = replace(new, takes=(*new.takes, aside))
    return new


def left(shot: Shot, name: str) -> Shot:
    """The shot without a figure and its motion; what hung on it stays where it was, keyed."""
    shot.figure(name)
    if any(own.attachments for take in shot.all_takes for own in take.acting.values()):
        from bovrin.craft.hanging.bake import let_go_of_figure  # noqa: PLC0415 - kept out of the window's start

        shot = let_go_of_figure(shot, name)
    cast = tuple(figure for figure in shot.cast if figure.name != name)

    def gone(one: Shot) -> Shot:
        return replace(one, cast=cast, take=one.take.without(name))

    spots = tuple(spot for spot in shot.spots if spot.figure != name)
    return in_every_take(without_pins(replace(shot, unkeyed=(), spots=spots), name), gone)
