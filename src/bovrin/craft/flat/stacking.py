"""Which part lies before which: put to the front, to the back, before or behind another, from a frame on."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bovrin.craft.flat.parts import flat_controls, flat_part, held_from, order_column
from bovrin.errors import BadMotion
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Figure, Shot

ROOM = 1e-6
"""Ranks nearer than this leave no room between them: all are counted anew."""
HOWS = ("front", "back", "before <part>", "behind <part>")


def stacking(shot: Shot, figure: str, frame: float) -> list[str]:
    """The parts of a flat figure on a frame, the foremost first."""
    what = shot.figure(figure)
    return [what.rig.controls[c].name for c in reversed(_stacked(shot, what, frame))]


def _stacked(shot: Shot, figure: Figure, frame: float) -> list[int]:
    """The controls of parts, the rearmost first."""
    own = flat_controls(figure.rig)
    values = channel_values(shot.curves(figure.name), figure.rig, [frame])[0]
    return sorted(own, key=lambda c: float(values[order_column(figure.rig, c)]))


def stack(shot: Shot, figure: str, parts: str | Iterable[str], frame: float, how: str, *, branch: bool = False) -> Shot:
    """Parts put "front", "back", "before <part>" or "behind <part>" from a frame on, until their next keys. Several keep their
    order among themselves. branch: what hangs on them goes along."""
    what = shot.figure(figure)
    named = [parts] if isinstance(parts, str) else list(parts)
    moving = {flat_part(what, name) for name in named}
    if branch:
        moving |= _below(what, moving)
    order = _stacked(shot, what, frame)
    rest = [c for c in order if c not in moving]
    at = _place(what, rest, how)
    moved = [c for c in order if c in moving]
    wanted = [*rest[:at], *moved, *rest[at:]]
    if wanted == order:
        return shot
    return held_from(shot, figure, frame, _ranks(shot, what, frame, wanted, moving))


def _place(figure: Figure, rest: list[int], how: str) -> int:
    """Where in the remaining order, from the rear, something goes."""
    word, _, other = how.partition(" ")
    if how in ("front", "back"):
        return len(rest) if how == "front" else 0
    if word not in ("before", "behind") or not other:
        raise BadMotion(f"'{how}' is not a way to stack.", advice="Use: " + ", ".join(HOWS) + ".")
    mate = flat_part(figure, other)
    if mate not in rest:
        raise BadMotion(f"'{other}' cannot be before or behind itself.", advice="Name another part.")
    return rest.index(mate) + (word == "before")


def _ranks(shot: Shot, figure: Figure, frame: float, wanted: list[int], moving: set[int]) -> dict[int, float]:
    """The ranks that put parts into a wanted order: of those that move alone, where there is room between the others."""
    rig = figure.rig
    values = channel_values(shot.curves(figure.name), rig, [frame])[0]
    column = {c: order_column(rig, c) for c in wanted}
    places = [n for n, c in enumerate(wanted) if c in moving]
    low = float(values[column[wanted[places[0] - 1]]]) if places[0] > 0 else None
    high = float(values[column[wanted[places[-1] + 1]]]) if places[-1] + 1 < len(wanted) else None
    if low is None and high is None:
        low = 0.0
    if low is None:
        ranks = (high or 0.0) - np.arange(len(places), 0, -1)
    elif high is None:
        ranks = low + 1 + np.arange(len(places))
    else:
        ranks = low + (high - low) * np.arange(1, len(places) + 1) / (len(places) + 1)
        if (high - low) / (len(places) + 1) < ROOM:
            return {column[c]: float(n) for n, c in enumerate(wanted)}
    return {column[wanted[n]]: float(rank) for n, rank in zip(places, ranks, strict=True)}


def _below(figure: Figure, controls: set[int]) -> set[int]:
    """The parts that hang on some."""
    rig = figure.rig
    joints = {rig.controls[c].joint for c in controls}
    for index, joint in enumerate(rig.joints):
        if joint.parent in joints:
            joints.add(index)
    return {c for c in flat_controls(rig) if rig.controls[c].joint in joints}
