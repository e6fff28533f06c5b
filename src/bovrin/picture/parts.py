"""Part of a figure: its mesh with only what moves with some of its parts."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bovrin.caching import cached_by_identity
from bovrin.shot import Figure


@cached_by_identity
def only_parts(figure: Figure, parts: frozenset[int]) -> Figure:
    """A figure whose mesh is only what moves with some parts; joints and rig stay."""
    keep = np.array([_part_of_joint(figure, j) in parts for j in range(len(figure.rig.joints))])
    pieces = []
    for piece in figure.model.pieces:
        kept = piece.triangles[keep[figure.model.strongest(piece)[piece.triangles]].all(1)]
        if len(kept):
            pieces.append(replace(piece, triangles=kept.copy()))
    return replace(figure, model=replace(figure.model, pieces=tuple(pieces)))


def _part_of_joint(figure: Figure, joint: int) -> int:
    """The part that a joint's skin counts as: of the nearest control at or above it, helpers as what they follow."""
    rig = figure.rig
    leaders = {follow.joint: follow.leader for follow in rig.follows}
    at = leaders.get(joint, joint)
    while at >= 0:
        for index, control in enumerate(rig.controls):
            if control.joint == at and rig.part_of(index) >= 0:
                return rig.part_of(index)
        at = rig.joints[at].parent
    return -1
