"""Who is in the shot: figures join it and leave it, in every take."""

from __future__ import annotations

from dataclasses import replace
from itertools import chain, count

import numpy as np

from bovrin.craft.takes import in_every_take
from bovrin.shot import Curve, CurveSet, Figure, Shot


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


def at_rate(brought: Shot, shot: Shot) -> Shot:
    """A brought motion as it is in a shot: as fast, though frames are shorter or longer there, from that shot's first frame."""
    ratio = shot.frame_rate / brought.frame_rate
    if ratio == 1.0 and brought.first == shot.first:
        return brought
    kept: dict[int, np.ndarray] = {}

    def moved(curve: Curve) -> Curve:
        own = curve.settled()
        if id(own.frames) not in kept:  # curves that share their frames go on sharing them
            frames = shot.first + (own.frames - brought.first) * ratio
            frames.setflags(write=False)
            kept[id(own.frames)] = frames
        columns = {"frames": kept[id(own.frames)]}
        if ratio != 1.0:
            columns |= {name: getattr(own, name) / ratio for name in ("in_slope", "out_slope")}
            columns |= {name: getattr(own, name) * ratio for name in ("in_length", "out_length")}
        return own.changed(**columns) if len(own) else curve

    last = shot.first + (brought.last - brought.first) * ratio
    take = brought.take.mapped(
        lambda curves: curves.mapped(moved), lambda frame: shot.first + (frame - brought.first) * ratio
    )
    return Shot(
        brought.title,
        brought.cast,
        take,
        first=shot.first,
        last=float(np.ceil(last - 1e-6)),
        frame_rate=shot.frame_rate,
    )


def left(shot: Shot, name: str) -> Shot:
    """The shot without a figure and its motion."""
    shot.figure(name)
    cast = tuple(figure for figure in shot.cast if figure.name != name)

    def gone(one: Shot) -> Shot:
        return replace(one, cast=cast, take=one.take.without(name))

    return in_every_take(replace(shot, unkeyed=()), gone)
