"""What of a flat figure is seen in a pose: one drawing of each part, and which part lies before which."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import special_column
from bovrin.shot import ChannelRole, Figure, Model, Rig

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


class FlatPlan(NamedTuple):
    """For each piece (P,): the channel that says which drawing is shown (-1: it has one alone), which of them it is, the channel
    that says how far in front its part is (-1: it stays where it is), and the number of its part's last drawing."""

    drawing: Ints
    number: Ints
    rank: Ints
    last: Ints


@cached_by_identity
def flat_plan(model: Model, rig: Rig) -> FlatPlan:
    """How channels of a rig choose and order a model's pieces."""
    rows = []
    names = {control.name: n for n, control in enumerate(rig.controls)}
    for piece in model.pieces:
        control = names.get(piece.cut.control, -1) if piece.cut else -1
        drawing = special_column(rig, control, ChannelRole.DRAWING) if control >= 0 else -1
        rank = special_column(rig, control, ChannelRole.ORDER) if control >= 0 else -1
        choices = rig.channels[drawing].choices if drawing >= 0 else ()
        name = piece.cut.drawing if piece.cut else ""
        rows.append((drawing, choices.index(name) if name in choices else 0, rank))
    drawings, numbers, ranks = (np.ascontiguousarray(c) for c in np.array(rows, np.intp).reshape(-1, 3).T)
    last = numbers.copy()
    for column in np.unique(drawings[drawings >= 0]):
        last[drawings == column] = numbers[drawings == column].max()
    return FlatPlan(drawings, numbers, ranks, last)


def shown_pieces(figure: Figure, values: Floats) -> Ints:
    """The pieces that are seen at channel values (C,), the rearmost first."""
    plan = flat_plan(figure.model, figure.rig)
    chosen = np.where(plan.drawing >= 0, np.rint(values[plan.drawing]), plan.number)
    seen = np.flatnonzero(np.clip(chosen, 0, plan.last) == plan.number)
    ranks = np.where(plan.rank >= 0, values[plan.rank], 0.0)[seen]
    return np.asarray(seen[np.argsort(ranks, kind="stable")])
