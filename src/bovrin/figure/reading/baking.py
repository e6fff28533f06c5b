"""Shots told by keys alone, for files and others that know nothing else: each clip becomes a take; lanes, what hangs on something
and what follows become keys."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.solve.ways import Stand, put, root_columns, stands
from bovrin.figure.stages.layers import layers_of
from bovrin.figure.staging import hangs_on, unlooked
from bovrin.progress import each
from bovrin.shot import Clip, Curve, CurveSet, Laid, Lane, Shot, Span, Take, acting_by
from bovrin.shot.curve import recorded_columns

Floats = NDArray[np.float64]

STILL = 1e-9
NOTHING_MORE = {"lanes": (), "instead": frozenset(), "attachments": (), "followers": ()}
"""What a figure does besides its keys that they tell afterwards."""


def baked(shot: Shot, *, travel: bool = True, clips: bool = True) -> Shot:
    """A shot whose takes hold no lanes, no attachments and no followers: what figures do by them is keyed on every whole frame of
    each take.

    clips: each clip is a take of its own besides, as long as it is. travel: whether whole figures go over the ground; else they
    stay where they begin.
    """
    takes = [*shot.all_takes, *(_take_of(shot, clip) for clip in shot.clips if clips)]
    if (
        travel
        and len(takes) == len(shot.all_takes)
        and not any(own.lanes or own.attachments or own.followers for take in takes for own in take.acting.values())
    ):
        return shot
    changed = {take.name: _without_lanes(shot.showing(take), travel=travel) for take in each(takes)}
    others = tuple(
        replace(changed[take.name], span=shot.span_of(take)) for take in takes if take.name != shot.take.name
    )
    return replace(shot, take=changed[shot.take.name], takes=others, clips=())


def alone(shot: Shot, name: str) -> Shot:
    """A shot that holds nothing but one clip of it. UnknownName where there is none of that name; BadMotion where nobody of the
    cast can do it."""
    clip = shot.clip(name)
    return replace(shot.showing(_take_of(shot, clip)), clips=(clip,), title=clip.name)


def _take_of(shot: Shot, clip: Clip) -> Take:
    """A take in which a figure does what a clip holds, once."""
    figure = clip.figure
    if figure not in shot.take.curves:
        known = [f.name for f in shot.cast if set(f.rig.channel_names) & set(clip.curves)]
        if not known:
            raise BadMotion(f"nobody of the cast can do the clip '{clip.name}'.")
        figure = known[0]
    last = max(float(np.floor(clip.length)) - (1.0 if clip.loops else 0.0), 1.0)
    taken = {take.name for take in shot.all_takes}
    words = clip.name if clip.name not in taken else f"{clip.name} (clip)"
    still = acting_by({one.name: one.no_motion() for one in shot.cast})
    lane = Lane((Laid(clip.name, shot.first, 0.0, clip.length),))
    order = max(take.order for take in shot.all_takes) + 1
    span = Span(shot.first, shot.first + last, clip.loops)
    return Take(words, still, order=order, span=span).acted(figure, lanes=(lane,))


def _without_lanes(own: Shot, *, travel: bool) -> Take:
    """The take of a shot that shows it alone, its lanes told by keys, and its travel taken out if wanted."""
    take = own.take
    for figure in own.cast:
        name = figure.name
        plain = layers_of(own, name) is None and not own.attachments(name) and not own.followers(name)
        if plain and (travel or not _goes(own, name)):
            continue
        take = take.acted(name, curves=_keys(own, name, travel=travel), **NOTHING_MORE)
    return take


def _goes(own: Shot, figure: str) -> bool:
    """Whether a whole figure is keyed to go anywhere."""
    roots = root_columns(own.figure(figure).rig)
    return roots is not None and any(len(own.curves(figure)[c]) > 1 for c in roots)


def _keys(own: Shot, figure: str, *, travel: bool) -> CurveSet:
    """A figure's channels keyed on every whole frame."""
    rig, curves = own.figure(figure).rig, own.curves(figure)
    frames = np.arange(np.ceil(own.first), np.floor(own.last) + 1)
    values = np.array(unlooked(hangs_on(own, figure), frames))
    roots = root_columns(rig)
    if not travel and roots is not None:
        start = stands(values[:1], roots)
        put(values, roots, Stand(np.repeat(start.place, len(frames)), np.repeat(start.turn, len(frames))))
    columns = recorded_columns(frames)
    moved = np.flatnonzero(
        (np.ptp(values, axis=0) > STILL)
        | (np.abs(values[0] - rig.defaults) > STILL)
        | [len(c) > 0 for c in curves.curves]
    )
    made = {
        int(c): Curve.from_columns({**columns, "values": np.ascontiguousarray(values[:, c])}) for c in moved.tolist()
    }
    return curves.replaced(made)
