"""Is a shot sound? What a careful assistant would point out before anyone works on it."""

from __future__ import annotations

import numpy as np

from bovrin.shot import Shot


def unsound(shot: Shot) -> list[str]:
    """Plain sentences about what is odd in a shot; empty when it is sound."""
    found = []
    if not shot.cast:
        found.append("The shot has no figures.")
    for figure in shot.cast:
        curves = shot.curves(figure.name)
        frames = np.concatenate([c.frames for c in curves.curves] or [np.empty(0)])
        if not len(frames) and figure.is_set:
            continue
        if not len(frames):
            found.append(f"'{figure.name}' has no keys.")
            continue
        outside = int(((frames < shot.first) | (frames > shot.last)).sum())
        if outside:
            found.append(f"'{figure.name}' has {outside} keys outside the range {shot.first:g} to {shot.last:g}.")
        if not figure.model.triangle_count:
            found.append(f"'{figure.name}' has no mesh, so it cannot be seen.")
    for marker in shot.markers:
        if marker.end < marker.start:
            found.append(f"The marker '{marker.words}' ends before it begins.")
    return found
