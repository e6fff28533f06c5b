"""Clips of a motion that another figure has, as a file brings it: carried to the figure that shall have them."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bovrin.craft.clips.keeping import clip_of, with_clip
from bovrin.craft.clips.naming import free_name
from bovrin.craft.cycle.spot import to_the_root
from bovrin.craft.recorded.carry import carried
from bovrin.errors import BadMotion
from bovrin.figure.staging import staged
from bovrin.shot import Figure, Shot, Take

AGAIN = 0.02
"""Metres, in a figure of its size, by which joints may be elsewhere at the end of what goes round."""


def motions_as_clips(shot: Shot, figure: str, brought: Shot, words: str) -> Shot:
    """The shot with every motion of a brought shot, at the same rate, as a clip of one of its figures.

    A motion whose end is its beginning goes round. words: what a single motion is called; of several each has its take's name.
    BadMotion where nothing moves, or the figures have too little in common.
    """
    wearer = shot.figure(figure)
    moving = [(take, source) for take in brought.all_takes for source in brought.cast if _moves(take, source)]
    if not moving:
        raise BadMotion(f"nothing moves in '{words}'.", advice="Bring a file with an animation.")
    made = shot
    for take, source in moving:
        name = words if len(moving) == 1 else take.name
        work, own = _worn(brought, take, source, wearer)
        loops = _comes_back(work, own) or brought.span_of(take).loops
        clip = clip_of(work, own, free_name(made, name), work.first, work.last, loop=loops)
        made = with_clip(made, replace(clip, figure=figure))
    return made


def _moves(take: Take, figure: Figure) -> bool:
    return any(len(curve) > 1 for curve in take.curves[figure.name].curves)


def _worn(brought: Shot, take: Take, source: Figure, wearer: Figure) -> tuple[Shot, str]:
    """A shot in which the wearer moves as the source does in a take, and how the wearer is called there."""
    first, last, loops = brought.span_of(take)
    work = Shot(take.name, first=first, last=last, loops=loops, frame_rate=brought.frame_rate)
    work, name = work.with_figure(source, take.curves[source.name]), source.name
    if source.rig.channel_names != wearer.rig.channel_names:
        name = next(words for words in (wearer.name, f"{wearer.name} 2") if words != source.name)
        work = carried(work.with_figure(replace(wearer, name=name)), source.name, name)
    return to_the_root(work, name, ("forward", "across")), name  # what goes round, goes on from where it has got


def _comes_back(shot: Shot, figure: str) -> bool:
    """Whether a figure's last pose is its first, wherever it has got."""
    places = staged(shot, figure, [shot.first, shot.last]).places
    away = places - places[:, :1]
    size = float(np.ptp(places[0], axis=0).max())
    return bool(len(away[0]) > 1 and np.linalg.norm(away[1] - away[0], axis=1).max() < AGAIN * size)
