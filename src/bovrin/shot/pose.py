"""Poses as values, told apart from how a rig is built."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace

from bovrin.frozen import frozen
from bovrin.shot.rig import Quaternion, Vector


@frozen
class Pose:
    """What some controls do, told in the figure's own axes, so that it fits any figure whose controls have those names.

    turns: unit quaternions xyzw away from rest; moves: metres away from rest; amounts: all other channels by technical
    name. `reference`: the frame of the reference the pose was taken from.
    """

    name: str
    figure: str
    turns: Mapping[str, Quaternion]
    moves: Mapping[str, Vector]
    amounts: Mapping[str, Mapping[str, float]]
    note: str = ""
    reference: float | None = None

    @property
    def controls(self) -> set[str]:
        """The names of all controls in the pose."""
        return {*self.turns, *self.moves, *self.amounts}

    def named(self, name: str) -> Pose:
        """The same pose under another name."""
        return replace(self, name=name)
