"""Points whose arcs are kept with the shot."""

from __future__ import annotations

from dataclasses import replace

from bovrin.errors import BadMotion
from bovrin.shot import PENCILS, Shot, Spot

MOST = 12


def keep_spot(shot: Shot, spot: Spot) -> Shot:
    """Keep a point, in a pencil that no other has while there is one; the same point only once."""
    shot.figure(spot.figure).rig.joint(spot.joint)
    if any(other[:3] == spot[:3] for other in shot.spots):
        return shot
    if len(shot.spots) >= MOST:
        raise BadMotion(f"{MOST} arcs are kept already.", advice="Forget one of them first.")
    used = [other.pencil for other in shot.spots]
    pencil = min(PENCILS, key=used.count)
    return replace(shot, spots=(*shot.spots, spot._replace(pencil=pencil)))


def forget_spots(shot: Shot, spots: tuple[Spot, ...]) -> Shot:
    """Let go of some points."""
    return replace(shot, spots=tuple(spot for spot in shot.spots if spot not in spots))
