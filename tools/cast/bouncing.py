"""The buoy's way down the landing's steps: contacts, true throws between them, squash and stretch along the path."""

from __future__ import annotations

import math

import numpy as np

from bovrin import script
from bovrin.craft.between.bounce import throws
from bovrin.shot import Shot
from tools.cast.buoy import DEPTH, RISE, STEPS

PLACE = (-2.45, -1.0)
"""Where the steps stand: across and forward, metres."""
CONTACTS = (109.0, 118.0, 126.0, 134.0, 141.0, 146.0, 149.0)
LEVELS = tuple(RISE * n for n in (STEPS, STEPS - 1, STEPS - 2, 0, 0, 0, 0))
ALONG = (0.12, 1.5 * DEPTH, 2.5 * DEPTH, 3.7 * DEPTH, 4.7 * DEPTH, 5.3 * DEPTH, 5.6 * DEPTH)
SQUASHED = (0.9, 0.74, 0.74, 0.7, 0.8, 0.88, 0.95)
STRETCHED = 1.1


def with_bounce(shot: Shot) -> Shot:
    """A shot in which the steps stand and the buoy comes down them."""
    across, forward = PLACE
    shot = script.set_values(shot, "steps", shot.first, {"whole steps/across": across, "whole steps/forward": forward})
    for frame in (shot.first, CONTACTS[0] - 2):
        shot = script.set_values(shot, "buoy", frame, _pose(ALONG[0] - 0.06, 1.0, LEVELS[0]))
    for n, frame in enumerate(CONTACTS):
        shot = script.set_values(shot, "buoy", frame, _pose(ALONG[n], SQUASHED[n], LEVELS[n]))
    shot = script.splined(shot, "buoy")
    shot = _stretched(shot)
    shot = script.bounce(shot, "buoy", "whole buoy/up", CONTACTS, None, LEVELS)
    return script.set_handles(shot, "buoy", "whole buoy/across", CONTACTS, "linear")


def _pose(along: float, stretch: float, level: float) -> dict[str, float]:
    return {
        "whole buoy/across": PLACE[0] + along,
        "whole buoy/forward": PLACE[1],
        "whole buoy/up": level,
        "whole buoy/roll": 0.0,
        "whole buoy/stretch": stretch,
    }


def _stretched(shot: Shot) -> Shot:
    """Long along the path just before and just after each contact, round on the way."""
    at, low = np.array(CONTACTS), np.array(LEVELS)
    speed, loss = throws(at, low, None, shot.frame_rate)
    for n, way in enumerate(np.diff(ALONG) / np.diff(at)):
        span = float(at[n + 1] - at[n])
        strength = min(span / 8, 1.0)
        for after, before in ((1.0, False), (span - 1, True)):
            rising = float(speed[n] - loss[n] * after)
            lean = math.degrees(math.atan2(float(way), abs(rising))) * (1.0 if before else -1.0)
            values = {"whole buoy/stretch": 1 + (STRETCHED - 1) * strength, "whole buoy/roll": lean * strength}
            shot = script.set_values(shot, "buoy", float(at[n]) + after, values)
        if span > 4:
            middle = float(at[n]) + round(span / 2)
            shot = script.set_values(shot, "buoy", middle, {"whole buoy/stretch": 1.0, "whole buoy/roll": 0.0})
    return shot
