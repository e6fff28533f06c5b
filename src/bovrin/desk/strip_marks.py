"""Which marks stand on the lanes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.shot import CurveSet, Rig

Marks = list[tuple[NDArray[np.float64], NDArray[np.uint8]]]


@cached_by_identity(16)
def part_marks(curves: CurveSet, rig: Rig) -> Marks:
    """For each part the frames with keys and the strongest role there (key pose before breakdown before in-between)."""
    found: Marks = []
    for part in range(len(rig.parts)):
        kept = [curves[i] for i in rig.part_channels(part) if len(curves[i])]
        if not kept:
            found.append((np.empty(0), np.empty(0, np.uint8)))
            continue
        frames, which = np.unique(np.concatenate([c.frames for c in kept]), return_inverse=True)
        roles = np.full(len(frames), 255, np.uint8)
        np.minimum.at(roles, which, np.concatenate([c.role for c in kept]))
        found.append((frames, roles))
    return found
