"""Putting a control onto a joint once, without hanging it there."""

from __future__ import annotations

import numpy as np

from bovrin.craft.hanging.attach import onto_joint
from bovrin.craft.hanging.influence import Carrier
from bovrin.craft.keying.edits import Scope, edited
from bovrin.craft.keying.keys import KeyStyle, local_style
from bovrin.errors import BadMotion
from bovrin.figure.stages.hanging import put_at
from bovrin.figure.staging import hangs_on, staged, unlooked
from bovrin.shot import KeyRole, Shot

WAYS = ("place", "turn", "both")


def snap_to(
    shot: Shot, figure: str, control: str, to: Carrier, frame: float, what: str = "both", style: KeyStyle | None = None
) -> Shot:
    """A control put onto a joint, or GROUND, on a frame: its place, its turn, or both. One key, no attachment."""
    if what not in WAYS:
        raise BadMotion(f"'{what}' is no way to put something onto a joint.", advice='Say "place", "turn" or "both".')
    rig = shot.figure(figure).rig
    index = rig.control(control)
    place, turn = onto_joint(shot, figure, index, to, frame)
    own = staged(shot, figure, frame)
    before = unlooked(hangs_on(shot, figure), own.frames)
    values = before.copy()
    put_at(
        rig, index, values, own.world, place[None] if what != "turn" else None, turn[None] if what != "place" else None
    )
    changed = {int(c): float(values[0, c]) for c in np.flatnonzero(values[0] != before[0])}
    return edited(
        shot, figure, frame, changed, Scope.TOUCHED, style or local_style(shot, figure, frame, KeyRole.KEY_POSE)
    )
