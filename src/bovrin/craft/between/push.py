"""Push a pose past where it was meant to go, then settle."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from bovrin.craft.between.pose_blending import blended_poses
from bovrin.craft.keying.cards import card_at, with_card
from bovrin.craft.keying.keys import keyed, local_style, whole_poses_of
from bovrin.craft.keying.lag import key_of_pose, lags_at, pose_keys, values_of_pose
from bovrin.errors import BadMotion
from bovrin.shot import KeyRole, Shot

SAME_POSE = 1e-9
"""Metres, radians or shares below which two poses are one."""


def _way(shot: Shot, figure: str, frame: float) -> tuple[float, float]:
    """The pose at (or before) a frame, and the one it comes from."""
    found = whole_poses_of(shot.curves(figure))
    here = found.held_at(frame)
    before = None if here is None else found.before(here)
    if here is None or before is None:
        raise BadMotion(
            f"the pose of '{figure}' at frame {frame:g} comes from no other pose.",
            advice="Go to a pose that follows another one.",
        )
    return here, before


def pushed_by(shot: Shot, figure: str, frame: float) -> float:
    """By what share the pose on a frame was pushed past."""
    return card_at(shot, figure, frame).pushed


def push_past(shot: Shot, figure: str, frame: float, amount: float = 0.2) -> Shot:
    """Make the pose at (or before) a frame stronger: carried on by a share of its way from the pose before.

    It is remembered, so that `settle` knows the pose that was meant, and pushing again starts from that.
    """
    here, before = _way(shot, figure, frame)
    rig = shot.figure(figure).rig
    curves = shot.curves(figure)
    start, now = (values_of_pose(curves, rig, f) for f in (before, here))
    if np.abs(now - start).max() < SAME_POSE:
        raise BadMotion(
            f"the pose of '{figure}' on frame {here:g} repeats the one before it, so there is no way to carry it on.",
            advice=f"Push the pose that is held, on frame {before:g}.",
        )
    meant = _meant(shot, figure, here, start, now)
    values = blended_poses(rig, start, meant, np.full(len(rig.channels), 1.0 + amount))
    style = local_style(shot, figure, here, KeyRole.KEY_POSE)
    posed = {
        i: keyed(curves[i], key_of_pose(at, here), float(values[i]), style) for i, at in pose_keys(curves, here).items()
    }
    pushed = shot.with_curves(figure, curves.replaced(posed))
    return with_card(pushed, figure, replace(card_at(shot, figure, here), pushed=amount, blend=None))


def _meant(shot: Shot, figure: str, frame: float, start: np.ndarray, now: np.ndarray) -> np.ndarray:
    """The pose (C,) as it was before it was pushed."""
    amount = card_at(shot, figure, frame).pushed
    if not amount:
        return now
    rig = shot.figure(figure).rig
    return blended_poses(rig, start, now, np.full(len(rig.channels), 1.0 / (1.0 + amount)))


def settle(shot: Shot, figure: str, frame: float, favour: float = 0.3) -> Shot:
    """After a pose that was pushed past, a settling pose on a frame: on the way back to the pose that was meant.

    favour: 0 stays with the pushed pose, 1 settles on the meant one.
    """
    here, before = _way(shot, figure, frame - 1e-3)
    rig = shot.figure(figure).rig
    curves = shot.curves(figure)
    start, pushed = (values_of_pose(curves, rig, f) for f in (before, here))
    if not card_at(shot, figure, here).pushed:
        raise BadMotion(
            f"the pose of '{figure}' at frame {here:g} was not pushed past, so there is nothing to settle from.",
            advice="Push the pose past first.",
        )
    values = blended_poses(
        rig, pushed, _meant(shot, figure, here, start, pushed), np.full(len(rig.channels), float(favour))
    )
    style, lags = local_style(shot, figure, here, KeyRole.BREAKDOWN), lags_at(curves, here)
    changes = {
        i: keyed(c, frame + float(lags[i]), float(values[i]), style, claim_role=True)
        for i, c in enumerate(curves.curves)
    }
    return shot.with_curves(figure, curves.replaced(changes))
