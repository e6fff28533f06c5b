"""Poses of one figure retimed together with the whole shot: the others of the cast, and the markers."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from bovrin.craft.keying.cards import taken_along
from bovrin.craft.keying.key_sets import Chosen, joined_keys, move_keys, wholly_chosen
from bovrin.craft.keying.keys import stretched_to_keys
from bovrin.craft.keying.lag import card_poses_of, later_keys, pose_keys
from bovrin.craft.keying.timing import drawings_later, keys_later, lengthen, markers_later, move_pose, pushed, room
from bovrin.shot import Marker, Shot
from bovrin.shot.curve import SAME_FRAME


def lengthen_for_all(shot: Shot, figure: str, frame: float, frames: float) -> Shot:
    """Hold a figure's pose longer (or shorter) by `frames` and take along what comes after it in the whole shot: keys of the
    whole cast, markers, and the range's end.

    Made shorter, it goes no further than the others' keys leave a frame between them.
    """
    held = card_poses_of(shot.curves(figure)).held_at(frame)
    by = float(frames)
    if held is not None and by < 0:
        for name, curves in shot.take.curves.items():
            for i, curve in enumerate(curves.curves) if name != figure else ():
                by = float(np.ceil(room(curve.frames, later_keys(curves, i, held), by)))
    longer = lengthen(shot, figure, frame, by)
    if held is None or longer is shot:
        return longer
    by = _first_after(longer, figure, held) - _first_after(shot, figure, held)
    return _others_later(longer, shot, figure, held, by)


def _first_after(shot: Shot, figure: str, frame: float) -> float:
    """The first pose after a frame."""
    after = card_poses_of(shot.curves(figure)).after(frame)
    return frame if after is None else after


def _others_later(longer: Shot, shot: Shot, figure: str, frame: float, by: float) -> Shot:
    """A shot whose one figure was retimed after a frame, with all else as much later."""
    for name in shot.take.curves:
        if name != figure:
            curves = shot.curves(name)
            longer = longer.with_curves(name, keys_later(curves, range(len(curves)), frame, by))
            longer = taken_along(longer, name, lambda f: pushed(f, frame, by))
    return stretched_to_keys(
        replace(
            longer,
            markers=markers_later(shot, frame, by),
            drawings=drawings_later(shot, frame, by),
            last=pushed(shot.last, frame, by),
        ),
        shot,
    )


def move_pose_for_all(shot: Shot, figure: str, frame: float, to: float) -> Shot:
    """Take a figure's pose to another frame, and along with it what lies on its frame in the whole shot."""
    moved = move_pose(shot, figure, frame, to)
    after = card_poses_of(moved.curves(figure)).frames
    gone = np.setdiff1d(after, card_poses_of(shot.curves(figure)).frames)
    return _others_along(moved, figure, [frame], float(gone[0]) - frame) if len(gone) == 1 else moved


def move_keys_for_all(shot: Shot, figure: str, chosen: Chosen, by: float) -> Shot:
    """Chosen keys of a figure later by frames, and along with its poses among them what lies on their frames elsewhere."""
    moved = move_keys(shot, figure, chosen, by)
    channel, frames = next(iter(chosen.items()))
    at = shot.curves(figure)[channel].index_at(float(frames[0]))
    if at is None or moved is shot:
        return moved
    gone = float(moved.curves(figure)[channel].frames[at]) - float(frames[0])
    return _others_along(moved, figure, wholly_chosen(shot.curves(figure), chosen).tolist(), gone)


def _others_along(moved: Shot, figure: str, frames: Iterable[float], by: float) -> Shot:
    """A shot in which what lies on some frames, but for one figure, has gone along by frames, as far as there is room."""
    frames = list(frames)
    for name, curves in moved.take.curves.items():
        if name != figure:
            moved = move_keys(moved, name, joined_keys(*(pose_keys(curves, f) for f in frames)), by)
    return replace(moved, markers=tuple(_along(marker, frames, by) for marker in moved.markers))


def _along(marker: Marker, frames: list[float], by: float) -> Marker:
    """A marker that begins on one of some frames goes along whole, one that ends there with its end."""
    starts, ends = (any(abs(edge - f) <= SAME_FRAME for f in frames) for edge in (marker.start, marker.end))
    start = marker.start + by if starts else marker.start
    end = marker.end + by if starts or ends else marker.end
    return replace(marker, start=start, end=max(start, end)) if starts or ends else marker
