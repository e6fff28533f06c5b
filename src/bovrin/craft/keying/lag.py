"""Which keys belong to which pose. One rule for all tools: cards, retiming, holding, copying, breakdowns, charts, mirrors.

The poses of a figure are the frames that most of it shares. A key on such a frame belongs to that pose. A channel that has no
key there, or only an in-between, may come to the pose late: then the first of its keys after the pose, and before the next
one, belongs to it. It may also come early: then a key that is nobody's yet and stands before the pose belongs to it. A channel
that came so many frames late to the pose before is taken to come as late again, be the next pose nearer than that, and even if
other keys are put on poses in between. What
belongs to no pose (a part keyed by itself, in-betweens) stands for itself. So the lag of a part is not stored: it is the
distance of its keys from their poses, made by sliding, by hand or by any tool, and every tool keeps it.
"""

from __future__ import annotations

from collections.abc import Iterable
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.craft.keying.keys import Poses, posed_frames_of, whole_poses_of
from bovrin.motion.evaluate import compiled_set, evaluate
from bovrin.motion.grouping import each_once, least_on_each
from bovrin.shot import CurveSet, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]
Bools = NDArray[np.bool_]

Roles = NDArray[np.uint8]

NOBODY = -1
FARTHEST = 24.0
"""Frames by which a part comes late, or early, that are looked for."""


class Belonging(NamedTuple):
    """The poses of a figure and, for every channel, the pose that each of its keys belongs to, -1 for none."""

    poses: Poses
    owners: tuple[Ints, ...]


class AlikeKeys(NamedTuple):
    """Which channels have their keys alike, as most have: the kind of each (C,), and one channel of each kind."""

    kinds: Ints
    examples: tuple[int, ...]


@cached_by_identity
def _keying(curves: CurveSet) -> AlikeKeys:
    known: dict[tuple[bytes, bytes], int] = {}
    same: dict[tuple[int, int], int] = {}  # most share their columns, and need not be compared key by key
    for curve in curves.curves:
        if (id(curve.frames), id(curve.role)) not in same:
            key = curve.frames.tobytes(), curve.role.tobytes()
            same[id(curve.frames), id(curve.role)] = known.setdefault(key, len(known))
    kinds = np.array([same[id(curve.frames), id(curve.role)] for curve in curves.curves], np.intp)
    first: dict[int, int] = {}
    for n, kind in enumerate(kinds.tolist()):
        first.setdefault(kind, n)
    return AlikeKeys(kinds, tuple(first.values()))


@cached_by_identity
def belonging(curves: CurveSet) -> Belonging:
    """Which key belongs to which pose."""
    poses, (kinds, examples) = whole_poses_of(curves), _keying(curves)
    alike = [_owners(curves[i].frames, curves[i].role, poses) for i in examples]
    return Belonging(poses, tuple(alike[kind] for kind in kinds))


def _owners(frames: Floats, roles: Roles, poses: Poses) -> Ints:
    """The pose of each key (K,) of a channel, or NOBODY."""
    owner = np.full(len(frames), NOBODY)
    if not len(frames) or not len(poses):
        return owner
    posed = roles != KeyRole.IN_BETWEEN
    at = np.clip(np.searchsorted(poses.frames, frames - SAME_FRAME), 0, len(poses) - 1)
    on_pose = np.abs(poses.frames[at] - frames) <= SAME_FRAME
    in_time = (poses.roles[at] == roles)[posed].all() or on_pose.sum() == len(
        poses
    )  # where every pose has its key, none is late
    if not (in_time and on_pose[posed].all()):
        keys = np.flatnonzero(posed)
        owner[keys] = _in_turn(frames[keys], roles[keys], poses)
        touched_up = on_pose & (owner == NOBODY)
        owner[touched_up] = at[touched_up]
        return owner
    owner[on_pose] = at[on_pose]
    return owner


def _in_turn(frames: Floats, roles: Roles, poses: Poses) -> Ints:
    """The pose of each key (K,) of a channel that comes late to some; whose one is depends on whose the one before was."""
    owner = np.full(len(frames), NOBODY)
    free = np.ones(len(poses), bool)
    lag = habit = _habit(frames, roles, poses)
    for key, frame in enumerate(frames.tolist()):
        lates = dict.fromkeys((lag, habit, 0.0))
        same = [pose for late in lates if (pose := _pose_on(poses.frames, frame - late)) >= 0]
        same = [pose for pose in same if not _better(frames, roles, poses, pose, key, lates)]
        after = int(np.searchsorted(poses.frames, frame))
        near = [] if same else [p for p in (after - 1, after) if 0 <= p < len(poses)]
        near = [p for p in near if not any(_key_for(frames, poses, p, late) >= 0 for late in lates)]
        pose = next((p for p in (*same, *near) if free[p]), NOBODY)
        if pose != NOBODY:
            owner[key], free[pose], lag = pose, False, frame - float(poses.frames[pose])
            habit = lag if abs(lag) > SAME_FRAME else habit
    return owner


def _better(frames: Floats, roles: Roles, poses: Poses, pose: int, key: int, lates: Iterable[float]) -> bool:
    """Whether another key of a channel is rather a pose's: one that is what the pose is, where this one is not, or one that comes
    as late as the channel does, where this one lies on the pose itself."""
    found = [_key_for(frames, poses, pose, late) for late in lates]
    others = [n for n in found if n >= 0 and n != key and roles[n] == poses.roles[pose]]
    return bool(others) and (roles[key] != poses.roles[pose] or found.index(others[0]) < found.index(key))


def _key_for(frames: Floats, poses: Poses, pose: int, late: float) -> int:
    """The key of a channel that comes so much later than a pose, or -1."""
    return _pose_on(frames, float(poses.frames[pose]) + late)


def _habit(frames: Floats, roles: Roles, poses: Poses) -> float:
    """How late a channel's keys (K,) mostly come to poses of their role; 0 where as many are in time."""
    first, end = (np.searchsorted(poses.frames, frames + side) for side in (-FARTHEST, FARTHEST))
    number = first[:, None] + np.arange(int((end - first).max(initial=0)))
    at = np.minimum(number, len(poses) - 1)
    near = (number < end[:, None]) & (roles[:, None] == poses.roles[at])
    lates, counts = np.unique(np.round((frames[:, None] - poses.frames[at])[near], 6), return_counts=True)
    if not len(lates):
        return 0.0
    in_time = int(counts[np.abs(lates) <= SAME_FRAME].sum())
    best = np.lexsort((lates < 0, np.abs(lates), -counts))[0]
    return float(lates[best]) if counts[best] > in_time else 0.0


def _pose_on(poses: Floats, frame: float) -> int:
    """Which pose lies on a frame, or -1."""
    at = int(np.searchsorted(poses, frame - SAME_FRAME))
    return at if at < len(poses) and poses[at] <= frame + SAME_FRAME else -1


@cached_by_identity
def poses_of(curves: CurveSet) -> Poses:
    """Frames on which a key pose or a breakdown lies, of any part. A pose is what the least of its own keys is, late ones too; a
    key of another pose that lies there counts only where nothing else does."""
    found, (whole, owners) = posed_frames_of(curves), belonging(curves)
    frames, roles = [np.empty(0)], [np.empty(0, np.uint8)]
    for i in _keying(curves).examples:
        posed = curves[i].role != KeyRole.IN_BETWEEN
        own = owners[i][posed]
        frames.append(np.where(own == NOBODY, curves[i].frames[posed], np.append(whole.frames, 0.0)[own]))
        roles.append(curves[i].role[posed])
    at, least = least_on_each(np.concatenate(frames), np.concatenate(roles))
    if not len(at):
        return found
    place = np.clip(np.searchsorted(at, found.frames - SAME_FRAME), 0, len(at) - 1)
    return Poses(found.frames, np.where(np.abs(at[place] - found.frames) <= SAME_FRAME, least[place], found.roles))


def poses(shot: Shot, figure: str) -> Poses:
    """The poses of a figure."""
    return poses_of(shot.curves(figure))


@cached_by_identity
def card_poses_of(curves: CurveSet) -> Poses:
    """The poses that get a card: those most of the figure shares, and keys of parts that belong to none of them."""
    found, (whole, owners) = poses_of(curves), belonging(curves)
    alike = [(curves[i], owners[i] == NOBODY) for i in _keying(curves).examples]
    alone = [curve.frames[own & (curve.role != KeyRole.IN_BETWEEN)] for curve, own in alike if own.any()]
    frames = each_once(np.concatenate([whole.frames, *alone]))
    kept = np.isin(found.frames, frames)
    return found if kept.all() else Poses(found.frames[kept], found.roles[kept])


def pose_keys(curves: CurveSet, frame: float) -> dict[int, Floats]:
    """The keys of the pose on a frame by channel index, those that come late or early too; where most of the figure shares
    no pose, just the keys there."""
    alike = _keys_of_kinds(curves, frame)
    return {i: alike[kind] for i, kind in enumerate(_keying(curves).kinds.tolist()) if len(alike[kind])}


def _keys_of_kinds(curves: CurveSet, frame: float) -> list[Floats]:
    """The keys of the pose on a frame for each kind of keying."""
    (poses, owners), examples = belonging(curves), _keying(curves).examples
    number = np.flatnonzero(np.abs(poses.frames - frame) <= SAME_FRAME)
    if len(number):
        return [curves[i].frames[owners[i] == number[0]] for i in examples]
    return [own[np.abs(own - frame) <= SAME_FRAME] for own in (curves[i].frames for i in examples)]


def key_of_pose(frames: Floats, pose: float) -> float:
    """The key of a pose among a channel's keys that belong to it (N,): a late one, if an in-between lies on the pose too."""
    return float(frames[np.abs(frames - pose).argmax()])


def lags_at(curves: CurveSet, frame: float) -> Floats:
    """How many frames late each channel comes to the pose on a frame (C,); 0 where it comes with it, or has no key of it."""
    alike = [key_of_pose(own, frame) - frame if len(own) else 0.0 for own in _keys_of_kinds(curves, frame)]
    lags = np.array(alike)[_keying(curves).kinds] if alike else np.zeros(0)
    lags[np.abs(lags) <= SAME_FRAME] = 0.0
    return lags


def lags_on(curves: CurveSet, frames: Floats) -> Floats:
    """The same on each of some frames (F, C): where no pose lies there is nothing to be late for."""
    lags, poses = np.zeros((len(frames), len(curves))), belonging(curves).poses.frames
    with_pose = (np.abs(frames[:, None] - poses) <= SAME_FRAME).any(1)
    for row in np.flatnonzero(with_pose).tolist():
        lags[row] = lags_at(curves, float(frames[row]))
    return lags


def lags_there(curves: CurveSet, frame: float) -> Floats:
    """How late each channel comes (C,) to the pose on a frame, or to one that would be put there between two others."""
    poses = belonging(curves).poses
    if len(poses) and (np.abs(poses.frames - frame) <= SAME_FRAME).any():
        return lags_at(curves, frame)
    before, after = poses.before(frame), poses.after(frame)
    if before is None or after is None:
        return np.zeros(len(curves))
    return lags_between(curves, before, after, frame)


def later_keys(curves: CurveSet, channel: int, frame: float) -> Bools:
    """Which keys of a channel (N,) come after a frame: those of later poses, and loose ones after all that belongs before."""
    poses, owners = belonging(curves)
    frames, own = curves[channel].frames, owners[channel]
    of_pose = np.where(own == NOBODY, frames, poses.frames[own]) if len(poses) else frames
    mine = frames[(own != NOBODY) & (of_pose <= frame + SAME_FRAME)]
    over = max(frame, float(mine.max(initial=frame)))
    return np.where(own == NOBODY, frames > over + SAME_FRAME, of_pose > frame + SAME_FRAME)


def all_later_keys(curves: CurveSet, frame: float) -> list[Bools]:
    """`later_keys` of every channel; channels that are keyed alike share one array."""
    kinds, examples = _keying(curves)
    alike = [later_keys(curves, i, frame) for i in examples]
    return [alike[kind] for kind in kinds.tolist()]


def one_of_each_keying(curves: CurveSet, channels: Iterable[int]) -> list[int]:
    """Of some channels one for each way of being keyed."""
    kinds = _keying(curves).kinds
    return list({kinds[i]: i for i in channels}.values())


def lags_between(curves: CurveSet, before: float, after: float, frame: float) -> Floats:
    """How late each channel comes (C,) to what is put between two poses: as late as to them, in whole frames where they
    differ, and never beyond its own keys of both."""
    first, last = lags_at(curves, before), lags_at(curves, after)
    share = (frame - before) / (after - before)
    lags = np.where(first == last, first, np.round(first + (last - first) * share))
    room = before + first + 1.0, np.maximum(after + last - 1.0, before + first + 1.0)
    return np.where((first == 0.0) & (last == 0.0), 0.0, np.clip(frame + lags, *room) - frame)


def values_with_lags(curves: CurveSet, rig: Rig, frames: Floats, lags: Floats) -> Floats:
    """Channel values (F, C) on frames (F,) as each channel has them that much later (F, C) or (C,)."""
    wanted = np.broadcast_to(frames[:, None] + lags, (len(frames), len(curves)))
    if not np.any(lags):
        return evaluate(compiled_set(curves, rig), frames)
    every, place = np.unique(wanted, return_inverse=True)
    return np.asarray(evaluate(compiled_set(curves, rig), every)[place.reshape(wanted.shape), np.arange(len(curves))])


def values_of_pose(curves: CurveSet, rig: Rig, frame: float) -> Floats:
    """The pose on a frame (C,), each channel as it is when it has come to it."""
    return np.asarray(values_with_lags(curves, rig, np.array([frame]), lags_at(curves, frame))[0])
