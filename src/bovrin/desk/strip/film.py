"""A recorded stretch on the strip: a film, with pictures at even distances instead of one for its first pose."""

from __future__ import annotations

import numpy as np

from bovrin.desk.state.looking.card_pictures import WIDTH
from bovrin.desk.strip.layout import CardPlace

STEP = WIDTH + 8.0
"""Pixels from picture to picture."""


def film_places(card: CardPlace, per_frame: float) -> list[tuple[float, float]]:
    """Where a film has pictures besides its first, in pixels from its left, and of which frames; none if it is no film.

    Where a frame has room for a picture there is one for each.
    """
    room = card.rect.width()
    if not card.film or room < 2 * STEP:
        return []
    if per_frame >= STEP:
        return [(n * per_frame, card.frame + n) for n in range(1, int(card.held))]
    lefts = np.arange(STEP, room - STEP / 2, STEP)
    return [(float(left), float(round(card.frame + (left + WIDTH / 2) / per_frame))) for left in lefts]
