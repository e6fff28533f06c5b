"""Retiming by poses."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.cards import moved_cards, taken_along
from bovrin.craft.keying.keys import part_channels, stretched_to_keys
from bovrin.craft.keying.lag import all_later_keys, card_poses_of, later_keys, one_of_each_keying, pose_keys
from bovrin.craft.keying.retiming import all_retimed, retimed, shifted
from bovrin.errors import BadMotion
from bovrin.shot import Curve, CurveSet, Drawing, Marker, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]


def _shifted_from(curve: Curve, first: int, by: float) -> Curve:
    """A curve whose keys from one on lie later; only the segment that grows has another length."""
    frames = curve.frames.copy()
    frames[first:] += by
    if first == 0:
        return curve.changed(frames=frames)
    was, now = curve.frames[first] - curve.frames[first - 1], frames[first] - frames[first - 1]
    columns = {"frames": frames}
    for name, at in (("out_span", first - 1), ("in_span", first)):
        column = getattr(curve, name).copy()
        reference = column[at] or was
        column[at] = 0.0 if reference == now else reference
        columns[name] = column
    return curve.changed(**columns)


def lengthen(shot: Shot, figure: str, frame: float, frames: float, parts: Iterable[str] | None = None) -> Shot:
    """Hold the pose at (or before) a frame longer by `frames` (shorter when negative); all later keys move along.

    At least one frame stays between two poses. The shot's range grows when keys pass its end. A part that comes late to
    poses keeps its distance to each.
    """
    curves = shot.curves(figure)
    found = card_poses_of(curves)
    held = found.held_at(frame)
    if held is None:
        raise BadMotion(f"there is no pose at or before frame {frame:g}.", advice="Make a key pose first.")
    channels = part_channels(shot.figure(figure).rig, parts)
    after_it = all_later_keys(curves, held)
    later = {i: after_it[i] for i in channels if after_it[i].any()}
    if not later:
        return shot
    following = found.after(held)
    by = float(frames)
    if by < 0:
        by = max(room(curves[i].frames, later[i], by) for i in one_of_each_keying(curves, later))
        by = min(0.0, by if following is None else max(by, held + 1 - following))
    if not by:
        return shot
    changes = all_retimed(curves, shifted(curves, later, by))
    longer = stretched_to_keys(shot.with_curves(figure, curves.replaced(changes)), shot)
    return longer if parts is not None else taken_along(longer, figure, lambda f: pushed(f, held, by))


def move_pose(shot: Shot, figure: str, frame: float, to: float) -> Shot:
    """Take the pose on a frame, with what comes late to it, to another one; no nearer than a frame to the keys that stay."""
    curves = shot.curves(figure)
    found = card_poses_of(curves)
    before, after = found.before(frame), found.after(frame)
    low, high = -np.inf if before is None else before + 1, np.inf if after is None else after - 1
    by = float(np.clip(to, low, high)) - frame if low <= high else 0.0
    masks = {i: np.isin(curves[i].frames, own) for i, own in pose_keys(curves, frame).items()}
    for i, mask in masks.items():
        by = room(curves[i].frames, mask, by)
    if not by:
        return shot
    changes = all_retimed(curves, shifted(curves, masks, by))
    moved = stretched_to_keys(shot.with_curves(figure, curves.replaced(changes)), shot)
    return moved_cards(moved, figure, lambda f: f + by if abs(f - frame) < SAME_FRAME else f)


def slide(
    shot: Shot, figure: str, frames: float, parts: Iterable[str], start: float | None = None, end: float | None = None
) -> Shot:
    """Move the keys of some parts (from start to end) by frames, so that those parts come later or sooner.

    They go no further than a frame from keys that stay, all by the same amount.
    """
    rig = shot.figure(figure).rig
    channels = part_channels(rig, list(parts))
    curves = shot.curves(figure)
    low, high = -np.inf if start is None else start - SAME_FRAME, np.inf if end is None else end + SAME_FRAME
    by = float(frames)
    inside = {i: (curves[i].frames >= low) & (curves[i].frames <= high) for i in channels}
    for i, chosen in inside.items():
        by = room(curves[i].frames, chosen, by)
    if by == 0:
        return shot

    def moved(curve: Curve, chosen: NDArray[np.bool_]) -> Curve:
        return retimed(curve, np.where(chosen, curve.frames + by, curve.frames)) if chosen.any() else curve

    return stretched_to_keys(
        shot.with_curves(figure, curves.replaced({i: moved(curves[i], c) for i, c in inside.items()})), shot
    )


def room(frames: Floats, chosen: NDArray[np.bool_], by: float, nearest: float = 1.0) -> float:
    """How far chosen keys can go toward `by` without coming nearer than `nearest` frames to keys that stay."""
    free = np.maximum(np.diff(frames) - nearest, 0.0)
    later = free[chosen[:-1] & ~chosen[1:]] if by > 0 else free[~chosen[:-1] & chosen[1:]]
    most = float(later.min()) if len(later) else np.inf
    return min(by, most) if by > 0 else max(by, -most)


def insert_frames(
    shot: Shot, frame: float, count: int, figure: str | None = None, parts: Iterable[str] | None = None
) -> Shot:
    """Put empty frames after a frame: every later key of every figure, markers and the range's end move along.

    With a figure only its keys move, or only those of its parts.
    """
    if count < 1:
        raise BadMotion("there must be at least one frame to insert.")
    if figure is not None:
        return _part_later(shot, figure, parts, frame, float(count))
    return _all_later(shot, frame, float(count))


def remove_frames(
    shot: Shot, frame: float, count: int, figure: str | None = None, parts: Iterable[str] | None = None
) -> Shot:
    """Take out the frames after a frame, for all, a figure or some of its parts; BadMotion when one holds a key."""
    if count < 1:
        raise BadMotion("there must be at least one frame to remove.")
    for name, curves in shot.take.curves.items():
        if figure is not None and name != figure:
            continue
        for index in part_channels(shot.figure(name).rig, None if figure is None else parts):
            own = curves[index].frames
            if len(own):
                _check_empty(name, own, later_keys(curves, index, frame), frame, count)
    if figure is not None:
        return _part_later(shot, figure, parts, frame, -float(count))
    if shot.last - count < shot.first:
        raise BadMotion("the shot would have no frame left.")
    return _all_later(shot, frame, -float(count))


def _check_empty(figure: str, frames: Floats, moves: NDArray[np.bool_], frame: float, count: int) -> None:
    """BadMotion when keys (N,) that move would meet what stays."""
    stays = frames[~moves & (frames > frame + SAME_FRAME)]
    first = max(frame + count + SAME_FRAME, float(stays.max(initial=-np.inf)) + count + 1.0 - SAME_FRAME)
    inside = frames[moves & (frames <= first)]
    if len(inside):
        raise BadMotion(
            f"'{figure}' has keys on frame {inside[0]:g}, so the {count} frames after {frame:g} are not empty.",
            advice="Move or remove those keys first.",
        )


def _part_later(shot: Shot, figure: str, parts: Iterable[str] | None, frame: float, by: float) -> Shot:
    rig = shot.figure(figure).rig
    curves = shot.curves(figure)
    moved = shot.with_curves(figure, keys_later(curves, part_channels(rig, parts), frame, by))
    moved = moved if parts is not None else taken_along(moved, figure, lambda f: pushed(f, frame, by))
    return stretched_to_keys(moved, shot)


def keys_later(curves: CurveSet, channels: Iterable[int], frame: float, by: float) -> CurveSet:
    """Curves whose keys of what comes after a frame lie later; those of late parts stay with their poses."""
    masks = {i: later_keys(curves, i, frame) for i in channels if len(curves[i])}
    return curves.replaced({i: _shifted_from(curves[i], int(m.argmax()), by) for i, m in masks.items() if m.any()})


def shifted_shot(shot: Shot, by: float) -> Shot:
    """Everything of a shot later by frames: keys, cards, markers and ranges."""
    moved = _all_later(shot, -np.inf, by)
    return replace(moved, first=shot.first + by)


def _all_later(shot: Shot, frame: float, by: float) -> Shot:
    take = shot.take.mapped(
        lambda curves: keys_later(curves, range(len(curves)), frame, by), lambda f: pushed(f, frame, by)
    )
    moved = replace(
        shot,
        take=take,
        markers=markers_later(shot, frame, by),
        drawings=drawings_later(shot, frame, by),
        last=pushed(shot.last, frame, by),
    )
    if shot.second is not None:
        start, end = (pushed(edge, frame, by) for edge in shot.second)
        moved = replace(moved, second=(start, max(start, end)))
    return moved


def markers_later(shot: Shot, frame: float, by: float) -> tuple[Marker, ...]:
    return tuple(
        replace(m, start=pushed(m.start, frame, by), end=max(pushed(m.end, frame, by), pushed(m.start, frame, by)))
        for m in shot.markers
    )


def drawings_later(shot: Shot, frame: float, by: float) -> tuple[Drawing, ...]:
    """Drawings after a frame later; of some that are taken out onto one frame the last stays."""
    found = {d.frame: d for d in (drawing.moved(lambda f: pushed(f, frame, by)) for drawing in shot.drawings)}
    return tuple(found[at] for at in sorted(found))


def pushed(at: float, frame: float, by: float) -> float:
    return max(at + by, frame) if at > frame + SAME_FRAME else at
