"""A throw: between take-off and landing the centre of mass flies on a parabola, whatever the pose does about it."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.fitted_spans import TOLERANCES, fitted
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import columns
from bovrin.measure.balance import centre_of
from bovrin.motion.evaluate import channel_values
from bovrin.shot import ControlKind, Figure, Shot, Unit
from bovrin.shot.checks import check_range
from bovrin.shot.curve import GRID, SAME_FRAME

Floats = NDArray[np.float64]

GRAVITY = 9.81
NEAR = 4e-5
"""Metres by which the keys may be off the parabola."""
SHORTEST = 2.0


def throw(
    shot: Shot, figure: str, start: float, end: float, gravity: float = GRAVITY, height: float | None = None
) -> Shot:
    """The shot in which a figure's centre of mass flies from where it is on `start` to where it is on `end`, pulled down by
    `gravity` (metres a second squared), or as high over the higher end as `height` (metres). The whole figure is keyed; both
    ends, what lies outside, and the pose's own motion stay.

    BadMotion where the flight is shorter than two frames, falls upward, or the whole figure cannot be keyed.
    """
    check_range("the flight", start, end)
    if end - start < SHORTEST:
        raise BadMotion(f"a flight from {start:g} to {end:g} is too short.", advice="Give it two frames or more.")
    if not (np.isfinite(gravity) and gravity > 0):
        raise BadMotion(
            f"with a gravity of {gravity:g} nothing comes down.", advice="Say more than 0; 9.81 is the earth's."
        )
    if height is not None and not (np.isfinite(height) and height > 0):
        raise BadMotion(f"a flight {height:g} m high is none.", advice="Say a height over 0.")
    who = shot.figure(figure)
    start, end = (round(frame * GRID) / GRID for frame in (start, end))  # where keys can lie
    control, cols = _whole(who)
    if any(one.control == who.rig.controls[control].name for one in shot.attachments(figure)):
        raise BadMotion(
            f"{figure} hangs on something.", advice="Let go of it first: what hangs does not fly by itself."
        )
    frames = np.union1d(np.arange(np.ceil(start), np.floor(end) + 1), [start, end])
    fine = np.concatenate(
        [frames, *(frames[:-1] + np.diff(frames) * part for part in (0.25, 0.5, 0.75)), *_keys(shot, who)]
    )
    within = (fine > start + SAME_FRAME) & (fine < end - SAME_FRAME)
    fine = np.unique(np.round(np.concatenate([fine[within], [start, end]]) * GRID) / GRID)
    centre = centre_of(shot, figure, fine)
    share = (fine - start) / (end - start)
    seconds = (end - start) / shot.frame_rate
    flight = centre[0] + (centre[-1] - centre[0]) * share[:, None]
    rise = gravity * seconds**2 / 2 if height is None else _rise(float(centre[-1, 1] - centre[0, 1]), height)
    flight[:, 1] += rise * share * (1.0 - share)
    curves = shot.curves(figure)
    target = channel_values(curves, who.rig, fine)
    target[:, cols] += flight - centre
    return shot.with_curves(figure, fitted(curves, who.rig, fine, target, cols, NEAR / TOLERANCES[Unit.LENGTH]))


def _keys(shot: Shot, who: Figure) -> list[Floats]:
    """The frames of a figure's keys: what happens there may be sudden."""
    return [curve.frames for curve in shot.curves(who.name).curves]


def _whole(who: Figure) -> tuple[int, list[int]]:
    """The control of the whole figure, and its columns across, up and forward in the world."""
    for control, what in enumerate(who.rig.controls):
        cols = columns(who.rig, control, "translate")
        if what.kind is ControlKind.WHOLE and min(cols) >= 0 and who.rig.joints[what.joint].parent < 0:
            return control, cols
    raise BadMotion(f"{who.name} cannot be moved as a whole.", advice="Give its root channels to move, in its set-up.")


def _rise(climb: float, height: float) -> float:
    """How far (metres, four times that over the straight way's middle) a flight bows that ends `climb` higher, for its top to lie
    `height` over the higher end: the top of climb s + a s (1 - s) is (climb + a)² / 4 a."""
    top = max(climb, 0.0) + height
    b = 2.0 * climb - 4.0 * top
    return float((-b + np.sqrt(max(b * b - 4.0 * climb * climb, 0.0))) / 2.0)
