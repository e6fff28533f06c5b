"""Poses keyed, held and removed, with what comes late to them."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bovrin.craft.keying.exact_keys import keyed_exactly_late
from bovrin.craft.keying.keys import KeyStyle, keyed, local_style, pose_channels
from bovrin.craft.keying.lag import (
    NOBODY,
    belonging,
    key_of_pose,
    lags_at,
    lags_there,
    pose_keys,
    poses,
    values_of_pose,
)
from bovrin.shot import Curve, KeyRole, Shot
from bovrin.shot.curve import SAME_FRAME


def key_pose(
    shot: Shot,
    figure: str,
    frame: float,
    parts: Iterable[str] | None = None,
    style: KeyStyle | None = None,
    channels: Iterable[int] | None = None,
) -> Shot:
    """Key what is there, for the whole figure, some parts or channels; a breakdown on that frame becomes a key pose.

    What comes late to a pose that is there already keeps coming late, and what comes late to both poses around comes as late
    to a new one.
    """
    rig = shot.figure(figure).rig
    how = style or local_style(shot, figure, frame, KeyRole.KEY_POSE)
    curves = shot.curves(figure)
    wanted = pose_channels(rig, parts) if channels is None else list(channels)
    there = pose_keys(curves, frame)
    missing, lags = [i for i in wanted if i not in there], lags_there(curves, frame)
    changes = keyed_exactly_late(curves, rig, missing, frame, lags, how.out_kind, how.role)
    changes |= {i: _claimed(curves[i], key_of_pose(there[i], frame), how.role) for i in wanted if i in there}
    return shot.with_curves(figure, curves.replaced(changes))


def _claimed(curve: Curve, frame: float, role: KeyRole) -> Curve:
    """The curve with its key on a frame in a role; itself when it has that already, so that undo steps share it."""
    at = curve.index_at(frame)
    assert at is not None
    if curve.role[at] == role:
        return curve
    roles = curve.role.copy()
    roles[at] = role
    return curve.changed(role=roles)


def hold(shot: Shot, figure: str, frame: float, channels: Iterable[int] | None = None) -> Shot:
    """Repeat the pose before at this frame, so that it stays until then: of the whole figure or of some channels.

    What came late to the pose leaves it as late.
    """
    held = poses(shot, figure).before(frame)
    if held is None:
        return shot
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    pose = _pose_of(shot, figure, held)
    then, lags = values_of_pose(curves, rig, pose), lags_at(curves, pose)
    style = local_style(shot, figure, pose, KeyRole.KEY_POSE)
    wanted = pose_channels(rig, None) if channels is None else channels
    there = {i: key_of_pose(own, frame) for i, own in pose_keys(curves, frame).items()}
    until = {i: there[i] if i in there else _until(curves[i], frame, float(lags[i])) for i in wanted}
    changes = {i: keyed(curves[i], at, float(then[i]), style) for i, at in until.items()}
    return shot.with_curves(figure, curves.replaced(changes))


def _pose_of(shot: Shot, figure: str, frame: float) -> float:
    """The pose that the keys on a frame belong to."""
    curves = shot.curves(figure)
    found = belonging(curves)
    for curve, own in zip(curves.curves, found.owners, strict=True):
        at = curve.index_at(frame)
        if at is not None and own[at] != NOBODY:
            return float(found.poses.frames[own[at]])
    return frame


def _until(curve: Curve, frame: float, lag: float) -> float:
    """How long a channel stays in a pose that is held until a frame: as much longer as it came late, if there is room."""
    later = curve.frames[curve.frames > frame + SAME_FRAME]
    if not lag or (len(later) and later[0] <= frame + lag + SAME_FRAME):
        return frame
    return frame + lag


def delete_keys(shot: Shot, figure: str, frame: float, channels: Iterable[int] | None = None) -> Shot:
    """Remove the pose on a frame with all that belongs to it, or the keys there; of the whole figure or of some channels."""
    curves = shot.curves(figure)
    chosen = None if channels is None else set(channels)
    there = {i: f for i, f in pose_keys(curves, frame).items() if chosen is None or i in chosen}
    changes = {i: curves[i].taken(~np.isin(curves[i].frames, frames)) for i, frames in there.items()}
    return shot.with_curves(figure, curves.replaced(changes))
