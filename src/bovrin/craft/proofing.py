"""What an animator says of the proof: notes that are left as they are, and thresholds of the shot's own."""

from __future__ import annotations

import math
from dataclasses import replace

from bovrin.errors import BadMotion
from bovrin.measure.proof import KINDS, Note
from bovrin.shot import Shot


def leave(shot: Shot, note: Note) -> Shot:
    """The shot in which a note is left as it is: it is not listed any more."""
    if note.left in shot.take.left:
        return shot
    return replace(shot, take=replace(shot.take, left=(*shot.take.left, note.left)))


def listed_again(shot: Shot, note: Note) -> Shot:
    """The shot in which a note is listed again; also others of its kind and part that share its frames."""
    left = tuple(other for other in shot.take.left if not other.hides(note.left))
    return shot if len(left) == len(shot.take.left) else replace(shot, take=replace(shot.take, left=left))


def with_limit(shot: Shot, kind: str, limit: float | None) -> Shot:
    """The shot with a threshold of its own for a kind of note; None: the usual one."""
    if kind not in KINDS:
        raise BadMotion(f"the proof has no notes of the kind '{kind}'.", advice=f"Kinds: {', '.join(KINDS)}.")
    if limit is not None and not (math.isfinite(limit) and limit >= 0):
        raise BadMotion(f"a threshold of {limit:g} is not possible.", advice="Thresholds are 0 or more.")
    limits = {name: own for name, own in shot.limits if name != kind}
    if limit is not None and limit != KINDS[kind].limit:
        limits[kind] = float(limit)
    return replace(shot, limits=tuple(limits.items()))
