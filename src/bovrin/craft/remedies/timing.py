"""Remedies in time: dead holds kept alive, one side after the other."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from bovrin.craft.between.moving_hold import moving_hold
from bovrin.craft.keying.retiming import retimed
from bovrin.craft.pose.modes import limb_channels, limb_named
from bovrin.errors import BadMotion
from bovrin.shot import Shot
from bovrin.shot.curve import SAME_FRAME

AMOUNTS = (0.03, 0.05, 0.08, 0.12, 0.2, 0.35)
"""Shares of the way that a dead hold goes on by, the least that keeps it alive."""
LATER = (1.0, 2.0)


def kept_alive(shot: Shot, figure: str, start: float, end: float, is_gone: Callable[[Shot], bool]) -> Shot:
    """A dead hold that goes on the way it came, or toward the next pose where none came before, by the least that will do."""
    made, refused = shot, None
    for toward in ("on", "next"):
        for amount in AMOUNTS:
            try:
                made = moving_hold(shot, figure, start, end, amount, toward)
            except BadMotion as error:
                refused = error
                break
            if is_gone(made):
                return made
    if made is shot and refused is not None:
        raise refused
    return made


def offset_side(shot: Shot, figure: str, limb: str, start: float, end: float, is_gone: Callable[[Shot], bool]) -> Shot:
    """One of two limbs that do the same comes to its pose a frame later than the other, or two."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    made = shot
    for by in LATER:
        changes = {}
        for i in limb_channels(rig, limb_named(rig, limb)):
            own = curves[i]
            chosen = (own.frames > start + SAME_FRAME) & (own.frames <= end + 0.5)
            frames = np.where(chosen, own.frames + by, own.frames)
            if chosen.any() and (len(frames) < 2 or np.diff(frames).min() > 0.25):
                changes[i] = retimed(own, frames)
        if not changes:
            break
        made = shot.with_curves(figure, curves.replaced(changes))
        if is_gone(made):
            return made
    if made is shot:
        raise BadMotion(
            f"no keys of {limb} from {start:g} to {end:g} have room to come later.", advice="Offset them by hand."
        )
    return made
