"""A recorded stretch on the strip: a film, with pictures at even distances instead of one for its first pose."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.desk.state.card_pictures import WIDTH
from bovrin.desk.strip.layout import CardPlace
from bovrin.shot import CurveSet

STEP = WIDTH + 8.0
"""Pixels from picture to picture."""
RECORDED = 0.66
"""Share of a stretch's frames that carry a key when it was recorded."""


@cached_by_identity(16)
def _densest(curves: CurveSet) -> NDArray[np.float64]:
    """The frames of the channel with the most keys."""
    return max((curve.frames for curve in curves.curves), key=len, default=np.empty(0))


def film_places(curves: CurveSet, card: CardPlace, per_frame: float) -> list[tuple[float, float]]:
    """Where a card has pictures besides its first, in pixels from its left, and of which frames; none unless it was recorded."""
    room = card.rect.width()
    if room < 2 * STEP or card.held < 8:
        return []
    frames = _densest(curves)
    inside = np.searchsorted(frames, card.frame + card.held) - np.searchsorted(frames, card.frame, side="right")
    if inside < RECORDED * (card.held - 1):
        return []
    lefts = np.arange(STEP, room - STEP / 2, STEP)
    return [(float(left), float(round(card.frame + (left + WIDTH / 2) / per_frame))) for left in lefts]
