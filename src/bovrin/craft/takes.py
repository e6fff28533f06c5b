"""Takes: variants of the motion, kept side by side."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from bovrin.craft.keying.unkeyed import keep as keep_all
from bovrin.errors import BadMotion
from bovrin.shot import Shot, Take


def in_every_take(shot: Shot, change: Callable[[Shot], Shot]) -> Shot:
    """A shot in which a change of the cast or of time has been made in each of its takes."""
    changed = change(shot)
    if changed is shot or not shot.takes:
        return changed
    others = tuple(change(shot.showing(take)).take_aside for take in shot.takes)
    return replace(changed, takes=others)


def copied_take(shot: Shot, name: str) -> Shot:
    """A new take that begins as a copy of this one, and is worked on from now on."""
    kept = keep_all(shot)
    order = max(take.order for take in kept.all_takes) + 1
    take = replace(kept.take, name=_free(kept, name), order=order)
    return replace(kept, take=take, takes=(*kept.takes, kept.take_aside))


def frame_in_step(shot: Shot, take: Take, frame: float) -> float:
    """The frame of another take that is seen beside a frame of this one: as far from its own beginning; a loop goes round,
    and what ends holds its end."""
    first, last, loops = shot.span_of(take)
    at = frame - shot.first
    if loops and last > first:
        return float(first + at % (last - first))
    return float(min(max(first + at, first), last))


def chosen_take(shot: Shot, name: str) -> Shot:
    """Work on another take; changes that still wait in this one are kept."""
    return shot if name == shot.take.name else keep_all(shot).with_take(name)


def renamed_take(shot: Shot, name: str) -> Shot:
    """The take that is worked on under another name."""
    if name.strip() == shot.take.name:
        return shot
    return replace(shot, take=replace(shot.take, name=_free(shot, name)))


def without_take(shot: Shot, name: str) -> Shot:
    """A shot without one of its takes; the last one stays."""
    if not shot.takes:
        raise BadMotion("a shot needs one take at least.", advice="Make another take first.")
    if name == shot.take.name:
        shot = chosen_take(shot, next(take.name for take in shot.all_takes if take.name != name))
    left = tuple(take for take in shot.takes if take.name != name)
    return shot.with_take(name) if len(left) == len(shot.takes) else replace(shot, takes=left)


def next_name(shot: Shot) -> str:
    """A name for one take more: the letter after those there are, or a number."""
    taken = {take.name for take in shot.all_takes}
    letters = (chr(ord("A") + n) for n in range(26))
    return next((x for x in letters if x not in taken), f"take {len(taken) + 1}")


def _free(shot: Shot, name: str) -> str:
    words = name.strip()
    if not words:
        raise BadMotion("a take needs a name.")
    if any(take.name == words for take in shot.all_takes):
        raise BadMotion(f"there is a take '{words}' already.", advice="Use another name.")
    return words
