"""Retiming by poses. Curves keep their shape: handles scale with the time they lie in."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keys import changed_curves, part_channels, poses, stretched_to_keys
from bovrin.errors import BadMotion
from bovrin.shot import Curve, Shot

Floats = NDArray[np.float64]


def retimed(curve: Curve, frames: Floats) -> Curve:
    """A curve whose keys lie on other frames (N,), still in order; slopes and lengths scale with their segments."""
    if len(curve) < 2:
        return curve.changed(frames=frames)
    old, new = np.diff(curve.frames), np.diff(frames)
    columns = {}
    for side, outer in (("in", 0), ("out", len(curve))):
        was, now = np.insert(old, outer and len(old), 0.0), np.insert(new, outer and len(new), 0.0)
        reference = getattr(curve, f"{side}_span")
        reference = np.where(reference > 0, reference, was)
        columns[f"{side}_span"] = np.where((reference == now) | (now == 0), 0.0, reference)
    return curve.changed(frames=frames, **columns)


def shifted_after(frame: float, by: float) -> Callable[[Curve], Curve]:
    """A change that moves all keys after a frame."""

    def change(curve: Curve) -> Curve:
        later = curve.frames > frame + 1e-6
        return retimed(curve, np.where(later, curve.frames + by, curve.frames)) if later.any() else curve

    return change


def lengthen(shot: Shot, figure: str, frame: float, frames: float, parts: Iterable[str] | None = None) -> Shot:
    """Hold the pose at (or before) a frame longer by `frames` (shorter when negative); all later keys move along.

    At least one frame stays between two poses. The shot's range grows when keys pass its end.
    """
    found = poses(shot, figure)
    held = found.held_at(frame)
    if held is None:
        raise BadMotion(f"there is no pose at or before frame {frame:g}.", advice="Make a key pose first.")
    following = found.after(held)
    if following is None:
        return shot
    by = max(float(frames), held + 1 - following)
    rig = shot.figure(figure).rig
    return stretched_to_keys(changed_curves(shot, figure, part_channels(rig, parts), shifted_after(held, by)))


def move_pose(shot: Shot, figure: str, frame: float, to: float) -> Shot:
    """Take the pose on a frame to another one, no further than one frame from its neighbours."""
    found = poses(shot, figure)
    before, after = found.before(frame), found.after(frame)
    low = -np.inf if before is None else before + 1
    high = np.inf if after is None else after - 1
    target = float(np.clip(to, low, high)) if low <= high else frame
    if target == frame:
        return shot

    def change(curve: Curve) -> Curve:
        at = curve.index_at(frame)
        if at is None:
            return curve
        lower = curve.frames[at - 1] + 1e-3 if at > 0 else -np.inf
        upper = curve.frames[at + 1] - 1e-3 if at + 1 < len(curve) else np.inf
        frames = curve.frames.copy()
        frames[at] = min(max(target, lower), upper)
        return retimed(curve, frames)

    rig = shot.figure(figure).rig
    return stretched_to_keys(changed_curves(shot, figure, range(len(rig.channels)), change))
