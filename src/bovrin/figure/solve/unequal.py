"""Limbs of unequal length, which spoil a cycle: the figure limps though its motion does not."""

from __future__ import annotations

import numpy as np

from bovrin.figure.solve.plan import plan_of
from bovrin.shot import Rig

NOTICED = 0.005
"""Share of a limb's length by which the other side must differ to be told."""


def unequal_limbs(rig: Rig) -> dict[tuple[str, str], float]:
    """Pairs of limbs (longer, shorter) by name whose lengths differ, and by how many metres.

    Limbs are a pair when the rig pairs their goals; a limb is as long as its two bones.
    """
    plan = plan_of(rig).limbs
    if plan is None:
        return {}
    lengths = plan.length_upper + plan.length_middle
    goals = {limb.goal: n for n, limb in enumerate(rig.limbs)}
    found = {}
    for one, limb in enumerate(rig.limbs):
        mate = rig.other_side(limb.goal)
        other = goals.get(mate) if mate is not None else None
        if other is not None and one < other:
            long, short = (one, other) if lengths[one] >= lengths[other] else (other, one)
            gap = float(lengths[long] - lengths[short])
            if gap > NOTICED * float(np.maximum(lengths[one], lengths[other])):
                found[rig.limbs[long].name, rig.limbs[short].name] = gap
    return found
