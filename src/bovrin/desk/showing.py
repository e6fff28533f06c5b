"""What of the cast is shown, locked, or shown alone. It belongs to the window, not to the shot."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field, replace

import numpy as np

from bovrin.caching import cached_by_identity
from bovrin.shot import Figure

Place = tuple[str, str]
"""A figure's name and a part's."""


@dataclass
class Showing:
    """Hidden figures by name; hidden and locked parts by figure and part; locked channels by figure and "control/channel";
    parts shown alone; traces shown, by figure and name."""

    hidden: set[str] = field(default_factory=set)
    hidden_parts: set[Place] = field(default_factory=set)
    locked: set[Place] = field(default_factory=set)
    locked_channels: set[Place] = field(default_factory=set)
    traces: set[Place] = field(default_factory=set)
    alone: tuple[str, frozenset[str]] | None = None
    joints: bool = False

    def seen_parts(self, figure: Figure) -> frozenset[int] | None:
        """The parts of a figure that are seen; None: all."""
        names = [part.name for part in figure.rig.parts]
        if self.alone is not None and self.alone[0] == figure.name:
            return frozenset(i for i, name in enumerate(names) if name in self.alone[1])
        gone = {i for i, name in enumerate(names) if (figure.name, name) in self.hidden_parts}
        return frozenset(range(len(names))) - gone if gone else None

    def shows(self, figure: Figure) -> bool:
        """Whether anything of a figure is seen."""
        return figure.name not in self.hidden and (self.alone is None or self.alone[0] == figure.name)

    def locked_control(self, figure: Figure, controls: Iterable[int]) -> int | None:
        """The first of some controls that is locked, or None."""
        for control in controls:
            part = figure.rig.part_of(control)
            if part >= 0 and (figure.name, figure.rig.parts[part].name) in self.locked:
                return control
        return None


@cached_by_identity(32)
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
