"""Which drawing of a part is shown: swapped from a frame on, or run through one after another."""

from __future__ import annotations

from collections.abc import Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.flat.parts import HELD, drawing_column, flat_part, held_from
from bovrin.craft.keying.keys import keyed
from bovrin.errors import BadMotion, UnknownName
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Curve, Figure, KeyRole, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]


class Shown(NamedTuple):
    """A drawing that is shown from a frame up to another."""

    start: float
    end: float
    drawing: int
    role: int


def drawings_of(figure: Figure, part: str) -> list[str]:
    """The names of a part's drawings, the one at rest first."""
    control = flat_part(figure, part)
    column = drawing_column(figure.rig, control)
    if column >= 0:
        return list(figure.rig.channels[column].choices)
    name = figure.rig.controls[control].name
    return [piece.cut.drawing for piece in figure.model.pieces if piece.cut and piece.cut.control == name][:1]


def drawing_at(shot: Shot, figure: str, part: str, frame: float) -> str:
    """The drawing of a part that is shown on a frame."""
    what = shot.figure(figure)
    names, column = drawings_of(what, part), drawing_column(what.rig, flat_part(what, part))
    if column < 0:
        return names[0] if names else ""
    number = round(float(channel_values(shot.curves(figure), what.rig, [frame])[0, column]))
    return names[min(max(number, 0), len(names) - 1)]


def swap(shot: Shot, figure: str, part: str, frame: float, drawing: str, until: float | None = None) -> Shot:
    """Another drawing of a part from a frame on, until its next key; `until`: up to that frame, and then what was there."""
    column, number = _number(shot.figure(figure), part, drawing)
    if until is not None and until <= frame:
        raise BadMotion("the drawing would be shown for no time.", advice="Let it end after it begins.")
    return held_from(shot, figure, frame, {column: float(number)}, until)


def swap_run(shot: Shot, figure: str, part: str, frame: float, drawings: Sequence[str], every: float = 1) -> Shot:
    """Drawings of a part one after another, each for so many frames, and then again what was there. Swaps in between go; poses
    keep their keys and show what the run shows."""
    if not drawings:
        return shot
    if not every > 0:
        raise BadMotion("a drawing of a run is shown for no time.", advice="Use one frame or more.")
    what = shot.figure(figure)
    numbers = [_number(what, part, name) for name in drawings]
    column = numbers[0][0]
    end = frame + every * len(drawings)
    made = held_from(shot, figure, frame, {column: float(numbers[0][1])}, end)
    curves = made.curves(figure)
    starts = np.asarray(frame + every * np.arange(len(drawings)), float)
    curve = _cleared(curves[column], starts, [n for _, n in numbers], end)
    for start, (_, number) in zip(starts, numbers, strict=True):
        curve = keyed(curve, float(start), float(number), HELD)
    return made.with_curves(figure, curves.replaced({column: curve}))


def _cleared(curve: Curve, starts: Floats, numbers: Sequence[int], end: float) -> Curve:
    """A curve without swaps inside a run; its keys of poses there show what the run does."""
    inside = (curve.frames > starts[0] + SAME_FRAME) & (curve.frames < end - SAME_FRAME)
    swaps = inside & (curve.role == KeyRole.IN_BETWEEN)
    at = np.clip(np.searchsorted(starts, curve.frames + SAME_FRAME) - 1, 0, len(numbers) - 1)
    values = np.where(inside, np.asarray(numbers, float)[at], curve.values)
    return curve.changed(values=values).taken(~swaps)


def _number(figure: Figure, part: str, drawing: str) -> tuple[int, int]:
    names = drawings_of(figure, part)
    column = drawing_column(figure.rig, flat_part(figure, part))
    if drawing not in names or column < 0:
        known = ", ".join(names)
        raise UnknownName(f"the part '{part}' has no other drawing '{drawing}'.", advice=f"Its drawings: {known}.")
    return column, names.index(drawing)


def shown_in(shot: Shot, figure: str, part: str) -> list[Shown]:
    """What a part shows over the shot's range, one drawing after another. Equal ones that follow one another are one, but each
    pose begins anew."""
    what = shot.figure(figure)
    column = drawing_column(what.rig, flat_part(what, part))
    if column < 0:
        return []
    curve = shot.curves(figure)[column]
    inside = curve.frames[(curve.frames > shot.first) & (curve.frames <= shot.last)]
    starts = np.concatenate([[shot.first], inside])
    values = channel_values(shot.curves(figure), what.rig, starts)[:, column]
    most = len(what.rig.channels[column].choices) - 1
    numbers = np.clip(np.rint(values), 0, most).astype(int)
    roles = np.array([curve.role[at] if (at := curve.index_at(s)) is not None else 0 for s in starts.tolist()])
    first = np.concatenate([[True], (numbers[1:] != numbers[:-1]) | (roles[1:] != KeyRole.IN_BETWEEN)])
    starts, numbers, roles = starts[first], numbers[first], roles[first]
    ends = [*starts[1:].tolist(), shot.last + 1]
    return [Shown(float(s), float(e), int(n), int(r)) for s, e, n, r in zip(starts, ends, numbers, roles, strict=True)]
