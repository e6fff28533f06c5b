"""The chosen figure's poses, as shown."""

from __future__ import annotations

import numpy as np

from bovrin.craft.keying.keys import Poses, whole_poses_of
from bovrin.craft.keying.lag import card_poses_of
from bovrin.desk.state.choosing.choice import Choice
from bovrin.shot import CurveSet, KeyRole

NOBODY = CurveSet(())


class ShownPoses:
    """Two ways to count them; each is kept as long as the curves stay."""

    def __init__(self, choice: Choice) -> None:
        self._choice = choice

    def _curves(self) -> CurveSet:
        return self._choice.curves or NOBODY

    @property
    def whole(self) -> Poses:
        """Those that most of the figure shares."""
        return whole_poses_of(self._curves())

    @property
    def cards(self) -> Poses:
        """Those that have a card."""
        return card_poses_of(self._curves())

    def beside(self, frame: float, *, after: bool, role: KeyRole | None = None) -> float | None:
        """The next card of a role (of any), or the one before, that is shown on another whole frame."""
        cards = self.cards
        frames = np.round(cards.frames if role is None else cards.frames[cards.roles == role])
        found = frames[frames > frame] if after else frames[frames < frame][::-1]
        return float(found[0]) if len(found) else None
