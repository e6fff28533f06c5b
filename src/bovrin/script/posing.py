"""Posing by script."""

from __future__ import annotations

from collections.abc import Iterable
from pathlib import Path

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.craft.curves import rotation as _rotation
from bovrin.craft.keying import edits as _edits
from bovrin.craft.keying import keys as _keys
from bovrin.craft.keying import mirror_keys as _mirror_keys
from bovrin.craft.pose import mirror as _mirror
from bovrin.craft.pose import modes as _modes
from bovrin.craft.pose import pose_copies as _poses
from bovrin.craft.pose.body import BodyDrag
from bovrin.craft.pose.joint_placing import place_values
from bovrin.errors import BadMotion
from bovrin.figure.staging import stance
from bovrin.formats.side import pose_book as _pose_book
from bovrin.script.basics import PathLike
from bovrin.shot import KeyRole, Pose, Shot


def _point(place: ArrayLike) -> NDArray[np.float64]:
    point = np.asarray(place, float)
    if point.shape != (3,) or not np.isfinite(point).all():
        raise BadMotion("a place is three finite numbers: x, y and z in metres.")
    return point


def _key_changes(shot: Shot, figure: str, frame: float, changes: dict[int, float]) -> Shot:
    style = _keys.local_style(shot, figure, frame, KeyRole.KEY_POSE)
    return _keys.set_channels(shot, figure, frame, changes, style)


def drag(
    shot: Shot,
    figure: str,
    frame: float,
    joint: str,
    to: ArrayLike,
    anchors: Iterable[str] = (),
    keep_turn: bool = False,
) -> Shot:
    """Pull a joint to a world place (3,), metres; the whole body follows, `anchors` (joints) hold. Keys what changes."""
    rig = shot.figure(figure).rig
    held = [rig.joint(a) for a in anchors]
    body = BodyDrag(stance(shot, figure, frame), rig.joint(joint), held, keep_turn=keep_turn)
    return _key_changes(shot, figure, frame, body.settle(_point(to)))


def place(
    shot: Shot,
    figure: str,
    frame: float,
    joint: str,
    to: ArrayLike,
    keep: Iterable[str] = (),
    stretch: bool = False,
) -> Shot:
    """Put one joint at a world place (3,), metres, as near as its bones allow; `keep`: joints that must not move."""
    rig = shot.figure(figure).rig
    held = [rig.joint(name) for name in keep]
    now = stance(shot, figure, frame)
    changes = place_values(now, rig.joint(joint), _point(to), held, stretch=stretch)
    return _key_changes(shot, figure, frame, changes)


def set_mode(
    shot: Shot, figure: str, limb: str, frame: float, mode: str, end: float | None = None, every: bool = False
) -> Shot:
    """Switch a limb to "reach" or "joints" at a frame without a jump; with `end`, match every frame of the range, with as few
    keys as that needs or with one on every frame."""
    rig = shot.figure(figure).rig
    number, wanted = _modes.limb_named(rig, limb), _modes.limb_mode(mode)
    return _modes.set_mode(shot, figure, number, frame, wanted, end, every=every)


def mirror(
    shot: Shot,
    figure: str,
    frames: float | Iterable[float],
    parts: Iterable[str] | None = None,
    how: str = "swap",
    plane: str = "figure",
    keep_place: bool = True,
) -> Shot:
    """Mirror the poses on some frames and key them: how "swap", "left to right" or "right to left"; plane "figure" or
    "world". Without keep_place the figure's place and facing are mirrored too."""
    at = [float(f) for f in (frames if isinstance(frames, Iterable) else [frames])]
    if not at:
        raise BadMotion("there is no frame to mirror.", advice="Give at least one frame.")
    return _mirror.mirror(shot, figure, at, parts, how, plane, keep_place=keep_place)


def mirror_range(
    shot: Shot,
    figure: str,
    start: float,
    end: float,
    parts: Iterable[str] | None = None,
    how: str = "swap",
    plane: str = "figure",
    keep_place: bool = True,
) -> Shot:
    """Mirror all keys from start to end, with their handles; `plane` and `keep_place` as in `mirror`."""
    return _mirror_keys.mirror_range(shot, figure, start, end, parts, how, plane, keep_place=keep_place)


def copy_pose(shot: Shot, figure: str, frame: float, parts: Iterable[str] | None = None) -> Pose:
    """The pose of a figure, or of some parts, at a frame."""
    return _poses.copy_pose(shot, figure, frame, parts)


def paste_pose(shot: Shot, figure: str, frame: float, pose: Pose, amount: float = 1.0, mirrored: bool = False) -> Shot:
    """Put a share of a pose on a frame, plain or mirrored, also on another figure with parts of the same names."""
    return _poses.paste_pose(shot, figure, frame, pose, amount, mirrored=mirrored)


def save_poses(poses: Iterable[Pose], path: PathLike) -> None:
    """Write poses as a pose book."""
    _pose_book.save_book(tuple(poses), Path(path))


def load_poses(path: PathLike) -> list[Pose]:
    """The poses of a pose book."""
    return list(_pose_book.load_book(Path(path)))


def set_rotation_order(shot: Shot, figure: str, control: str, order: str) -> Shot:
    """Write a control's rotations in another order, such as "XYZ"; the motion stays."""
    return _rotation.set_rotation_order(shot, figure, control, order)


def unroll(shot: Shot, figure: str, controls: Iterable[str]) -> Shot:
    """Take jumps between keys on neighbouring frames out of the rotation curves of some controls; turns that were meant stay."""
    rig = shot.figure(figure).rig
    return _rotation.unroll(shot, figure, [rig.control(name) for name in controls])


def fence(shot: Shot, figure: str, frame: float, controls: Iterable[str] | None = None) -> Shot:
    """Key a frame and the ones beside it as they are, so that a change of this frame spoils nothing else."""
    rig = shot.figure(figure).rig
    chosen = range(len(rig.controls)) if controls is None else [rig.control(name) for name in controls]
    return _edits.fence(shot, figure, frame, chosen)
