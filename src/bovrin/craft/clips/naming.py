"""Clips under other names, and let go of."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from bovrin.errors import BadMotion
from bovrin.figure.reading.rates import clip_at_rate
from bovrin.shot import Clip, Laid, Lane, Shot, Take
from bovrin.shot.curve import COLUMN_TYPES


def renamed_clip(shot: Shot, name: str, words: str) -> Shot:
    """The shot in which a clip has another name, wherever it lies."""
    clip, new = shot.clip(name), words.strip()
    if new == name:
        return shot
    if not new or any(own.name == new for own in shot.clips):
        raise BadMotion(f"a clip cannot be called '{new}'.", advice="Give it a name that no other clip has.")
    clips = tuple(replace(own, name=new) if own is clip else own for own in shot.clips)
    made = replace(shot, clips=tuple(sorted(clips, key=lambda own: own.name)))
    return _in_all_takes(made, lambda one: replace(one, clip=new) if one.clip == name else one)


def removed_clip(shot: Shot, name: str) -> Shot:
    """The shot without a clip; it is taken off all lanes."""
    clip = shot.clip(name)
    made = _in_all_takes(shot, lambda one: None if one.clip == name else one)
    return replace(made, clips=tuple(own for own in shot.clips if own is not clip))


def brought_clips(shot: Shot, other: Shot) -> Shot:
    """The shot with the clips of another one as well, under free names and as fast as they are there; one that is here already as
    it is there comes no second time. BadMotion where the other has none."""
    if not other.clips:
        raise BadMotion(f"'{other.title}' holds no clips.", advice="Keep clips there first, then bring them.")
    made = shot
    for clip in (clip_at_rate(own, shot.frame_rate / other.frame_rate) for own in other.clips):
        if not any(_same(clip, own) for own in shot.clips):
            clips = (*made.clips, replace(clip, name=free_name(made, clip.name)))
            made = replace(made, clips=tuple(sorted(clips, key=lambda own: own.name)))
    return made


def _same(one: Clip, other: Clip) -> bool:
    """Whether two clips are one motion under one name."""
    told = [
        (c.name, c.length, c.loops, dict(c.neutral), dict(c.contacts), c.figure, set(c.curves)) for c in (one, other)
    ]
    return told[0] == told[1] and all(
        np.array_equal(getattr(curve, column), getattr(other.curves[name], column))
        for name, curve in one.curves.items()
        for column in COLUMN_TYPES
    )


def places_of(shot: Shot, name: str) -> int:
    """How often a clip is laid, in all takes."""
    takes = shot.all_takes
    return sum(
        one.clip == name for take in takes for own in take.acting.values() for lane in own.lanes for one in lane.laid
    )


def free_name(shot: Shot, wanted: str) -> str:
    """A name that no clip has yet."""
    taken = {clip.name for clip in shot.clips}
    if wanted not in taken:
        return wanted
    return next(f"{wanted} {n}" for n in range(2, len(taken) + 3) if f"{wanted} {n}" not in taken)


def _in_all_takes(shot: Shot, change: Callable[[Laid], Laid | None]) -> Shot:
    def of(take: Take) -> Take:
        for name, own in take.acting.items():
            lanes = (_changed(lane, change) for lane in own.lanes)
            take = take.acted(name, lanes=tuple(lane for lane in lanes if lane.laid)) if own.lanes else take
        return take

    return replace(shot, take=of(shot.take), takes=tuple(map(of, shot.takes)))


def _changed(lane: Lane, change: Callable[[Laid], Laid | None]) -> Lane:
    found = [new for one in lane.laid if (new := change(one)) is not None]
    return replace(lane, laid=tuple(found))
