"""A recorded motion told by key poses: curves between them as near to the recording as their slopes bring them."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.spline_fit import best_slopes
from bovrin.craft.keying.keys import merged
from bovrin.craft.recorded.key_pose_search import KeyPoses
from bovrin.craft.takes import copied_take
from bovrin.errors import BadMotion
from bovrin.figure.staging import staged
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Curve, HandleKind, Key, KeyRole, Shot
from bovrin.shot.curve import SAME_FRAME, columns_like

Floats = NDArray[np.float64]
MOVES = 1e-9
"""Metres, radians or shares below which a channel is still."""


def told_by(shot: Shot, figure: str, poses: Iterable[float]) -> Shot:
    """A figure's motion from the first to the last of some frames, told by key poses on them.

    The slopes are those that bring the curves nearest to the motion that is there on every whole frame, least squares (after
    P. J. Schneider, "An algorithm for automatically fitting digitized curves", Graphics Gems, 1990). What lies outside stays.
    """
    at = np.unique(np.asarray(list(poses), float))
    if len(at) < 2:
        raise BadMotion("a motion is told by two poses at least.", advice="Choose more poses.")
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    frames = np.union1d(np.arange(np.ceil(at[0]), np.floor(at[-1]) + 1), at)
    values = channel_values(curves, rig, frames)
    keyed = np.isin(frames, at)
    slopes = best_slopes(frames, values, keyed)
    changes = {}
    for i, curve in enumerate(curves.curves):
        if len(curve) < 2 or rig.channels[i].unit.holds or np.ptp(values[:, i]) < MOVES:
            continue
        changes[i] = _with_poses(curve, at, values[keyed, i], slopes[:, i])
    return shot.with_curves(figure, curves.replaced(changes))


def keep_key_poses(shot: Shot, figure: str, poses: Iterable[float], name: str) -> Shot:
    """A new take, worked on from now on, in which a figure's motion is told by key poses; the recording stays in the old one."""
    return told_by(copied_take(shot, name), figure, poses)


def fewest(shot: Shot, figure: str, found: KeyPoses, error: float) -> Floats:
    """The fewest of the poses that were found that tell a motion to so many metres at the worst joint."""
    low, high = found.least, found.most
    while low < high:
        count = (low + high) // 2
        poses = found.of(count)
        if untold(shot, figure, told_by(shot, figure, poses), found.frames)[0] <= error:
            high = count
        else:
            low = count + 1
    return found.of(high)


def untold(shot: Shot, figure: str, told: Shot, frames: Floats) -> tuple[float, str]:
    """How far the worst joint is from where a motion has it when it is told otherwise, metres, and that joint."""
    off = [staged(one, figure, frames).world[..., :3, 3] for one in (shot, told)]
    worst = np.linalg.norm(off[0] - off[1], axis=-1).max(0)
    return float(worst.max()), shot.figure(figure).rig.joints[int(worst.argmax())].name


def _with_poses(curve: Curve, at: Floats, values: Floats, slopes: Floats) -> Curve:
    """A curve with these keys in the place of all it has over their span."""
    own = curve.settled()
    outside = own.taken((own.frames < at[0] - SAME_FRAME) | (own.frames > at[-1] + SAME_FRAME))
    blank = Key(0.0, 0.0, HandleKind.BY_HAND, HandleKind.BY_HAND, role=KeyRole.KEY_POSE)
    columns = {**columns_like(blank, at), "values": values, "in_slope": slopes, "out_slope": slopes.copy()}
    made = Curve.from_columns(columns)
    return merged(outside, made).like(curve) if len(outside) else made.like(curve)
