"""The chosen figure's poses, as shown."""

from __future__ import annotations

from bovrin.craft.keying.keys import Poses, poses_of, whole_poses_of
from bovrin.craft.keying.lag import card_poses_of
from bovrin.desk.state.choice import Choice
from bovrin.shot import CurveSet

NOBODY = CurveSet(())


class ShownPoses:
    """Three ways to count them; each is kept as long as the curves stay."""

    def __init__(self, choice: Choice) -> None:
        self._choice = choice

    def _curves(self) -> CurveSet:
        return self._choice.curves or NOBODY

    @property
    def every(self) -> Poses:
        """Every frame that a key pose or a breakdown lies on, of any part."""
        return poses_of(self._curves())

    @property
    def whole(self) -> Poses:
        """Those that most of the figure shares."""
        return whole_poses_of(self._curves())

    @property
    def cards(self) -> Poses:
        """Those that have a card."""
        return card_poses_of(self._curves())
