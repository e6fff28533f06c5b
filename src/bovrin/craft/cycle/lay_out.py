"""A cycle, or a run of poses, laid out from poses taken from reference, as far apart as the reference has them."""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np

from bovrin.craft.cycle.rounds import close_loop
from bovrin.craft.keying.keys import EASED, KeyStyle
from bovrin.craft.pose.pose_copies import paste_pose
from bovrin.errors import BadMotion
from bovrin.shot import KeyRole, Pose, Shot
from bovrin.shot.curve import SAME_FRAME


def reference_frames(poses: Sequence[Pose]) -> list[float]:
    """The frames of the reference that poses were taken from, in their order. BadMotion names a pose without one."""
    for pose in poses:
        if pose.reference is None:
            raise BadMotion(
                f"the pose '{pose.name}' does not know its frame of the reference.",
                advice="Give it one in the pose book.",
            )
    return [float(pose.reference) for pose in poses if pose.reference is not None]


def spread_out(frames: Sequence[float], start: float, length: float | None = None) -> list[float]:
    """Frames that begin on `start`, as far apart as they are, or over so many frames from the first to the last; whole ones, each
    a frame after the one before at least."""
    own = np.asarray(frames, float)
    if len(own) and np.ptp(own) > 0 and length is not None:
        own = own[0] + (own - own[0]) * (length / np.ptp(own))
    found: list[float] = []
    for frame in np.round(own - own[0] + start).tolist() if len(own) else []:
        found.append(max(frame, found[-1] + 1.0) if found else frame)
    return found


def lay_out(shot: Shot, figure: str, poses: Sequence[Pose], frames: Sequence[float], *, loop: bool = True) -> Shot:
    """The shot with poses on frames, splined. loop: the first pose comes again on the last of the frames, which are one more than
    the poses then, or are as many, and the last of the poses closes the loop."""
    if len(poses) < 2:
        raise BadMotion("two poses at least make a motion.", advice="Choose more cards in the pose book.")
    at = [float(frame) for frame in frames]
    if len(at) not in ({len(poses), len(poses) + 1} if loop else {len(poses)}):
        raise BadMotion(f"there are {len(poses)} poses but {len(at)} frames.", advice="Give each pose its frame.")
    if any(b - a <= SAME_FRAME for a, b in pairwise(at)):
        raise BadMotion("the frames of the poses are not in their order.", advice="Give each pose a later frame.")
    made, style = shot, KeyStyle(EASED, KeyRole.KEY_POSE)
    every = [*poses, poses[0]] if len(at) > len(poses) else list(poses)
    for pose, frame in zip(every, at, strict=True):
        made = paste_pose(made, figure, frame, pose, style=style)
    return close_loop(made, figure, at[0], at[-1]) if loop else made
