"""Where an edit of what moves by rule lands: in keys that the rule leads to what was wanted."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.plan import columns
from bovrin.figure.solve.rest_space import own_channels, put_turn
from bovrin.figure.staging import hangs_on, unfollowed, unlooked
from bovrin.motion.rotations import euler_matrix
from bovrin.shot import Rig, Shot

Floats = NDArray[np.float64]


def ruled_out(shot: Shot, figure: str, frame: float, values: Mapping[int, float]) -> Mapping[int, float]:
    """What channels (index: value, as they are to be seen on a frame) must be before followers do what they do there."""
    rig, what, at = shot.figure(figure).rig, hangs_on(shot, figure), np.array([float(frame)])
    own, seen = unfollowed(what, at), unlooked(what, at)
    wanted, found = seen.copy(), dict(values)
    wanted[0, list(values)] = list(values.values())
    for control in dict.fromkeys(rig.control(name) for one in shot.followers(figure) for name in one.controls):
        found |= {c: v for c, v in _moved_back(rig, control, own, seen, wanted).items() if c in values}
        turned = _turned_back(rig, control, own, seen, wanted)
        found |= turned if set(turned) & set(values) else {}  # one angle alone would be another turn
    return found


def _moved_back(rig: Rig, control: int, own: Floats, seen: Floats, wanted: Floats) -> dict[int, float]:
    cols = [c for c in columns(rig, control, "translate") if c >= 0]
    return {c: float(wanted[0, c] - seen[0, c] + own[0, c]) for c in cols}


def _turned_back(rig: Rig, control: int, own: Floats, seen: Floats, wanted: Floats) -> dict[int, float]:
    cols = [c for c in columns(rig, control, "rotate") if c >= 0]
    if not cols or (wanted[0, cols] == seen[0, cols]).all():
        return {c: float(own[0, c]) for c in cols}
    order = rig.controls[control].order
    turns = [euler_matrix(own_channels(rig, control, "rotate", v), order) for v in (own, seen, wanted)]
    made = own.copy()
    put_turn(rig, control, made, turns[2] @ np.swapaxes(turns[1], -1, -2) @ turns[0])
    return {c: float(made[0, c]) for c in cols}
