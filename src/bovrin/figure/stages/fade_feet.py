"""Feet through a fade: where two clips are mixed, a foot that is down stays where it came down, and the hips give way for it.

The way it is moved comes and goes as in L. Kovar, J. Schreiner and M. Gleicher, "Footskate cleanup for motion capture editing",
SCA 2002; when a foot is down, the clips' contacts say.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.ground.feet import Footing, bearing_steps, footholds, footing_of
from bovrin.figure.making.setup import taken_for
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import columns, plan_of
from bovrin.figure.solve.rest_space import rest_plan
from bovrin.figure.stages.lane import Layer, lane_values
from bovrin.figure.stages.lane_ways import LaneTrack, track_of
from bovrin.figure.stages.pieces import LaidPiece, progress_of
from bovrin.motion.windows import mean_around, most_around
from bovrin.shot import Clip, ControlKind, Lane, Rig

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

RELEASE = 6
"""Frames over which a foot goes back to its own way after it has left."""
GIVES = 3
"""Frames to either side over which the hips give way, and the share of a leg's length by which they do at most."""
HEARD = 0.25
"""The share of a clip in a fade from which on it lifts a foot that the other has down."""
MOST = 0.2
SMALL = 1e-5
LONGEST = 1000
"""Frames after a fade that are looked at for a foot to lift again."""
TOGETHER = 400
"""Frames that fades which lie over one another are worked out on together, unless one alone asks for more."""


class Corrections(NamedTuple):
    """What is added to some channels (K,) on whole frames (W,): by (W, K)."""

    frames: Floats
    channels: list[int]
    by: Floats


def with_feet(layer: Layer, lane: Lane, clips: tuple[Clip, ...], rig: Rig, frames: Floats) -> Layer:
    """What a lane says, with the feet of its fades where they came down."""
    for found in fade_corrections(lane, clips, rig):
        rows = np.flatnonzero(frames > found.frames[0])  # a foot that never lifts again stays: the last holds
        if len(rows):
            for k, channel in enumerate(found.channels):
                layer.values[rows, channel] += np.interp(frames[rows], found.frames, found.by[:, k])
    return layer


@cached_by_identity
def fade_corrections(lane: Lane, clips: tuple[Clip, ...], rig: Rig) -> tuple[Corrections, ...]:
    """The corrections of every fade of a lane whose clips know when feet are down."""
    track = track_of(lane, clips, rig)
    fades = [(index, *_around(track, index)) for index in range(1, len(track.pieces)) if _has_feet(track, index)]
    found, stretch = [], None
    for place, (index, first, last) in enumerate(fades):
        if stretch is None or not stretch.frames[0] <= first <= last <= stretch.frames[-1]:
            stretch = _stretch(lane, clips, rig, *_together(fades[place:]))
        if stretch is not None:
            rows = slice(int(first - stretch.frames[0]), int(last - stretch.frames[0]) + 1)
            made = _of_fade(rig, track.pieces[index], stretch, rows)
            if made is not None:
                found.append(made)
    return tuple(found)


def _has_feet(track: LaneTrack, index: int) -> bool:
    """Whether a piece fades in, and both clips know when feet are down."""
    piece, before = track.pieces[index], track.pieces[index - 1]
    return bool(piece.fades > piece.laid.at and piece.clip.contacts and before.clip.contacts)


def _around(track: LaneTrack, index: int) -> tuple[float, float]:
    """The whole frames that are looked at for the fade into a piece."""
    piece, before = track.pieces[index], track.pieces[index - 1]
    around = max(piece.span / piece.laid.speed, before.span / before.laid.speed)
    return float(np.floor(piece.laid.at - around)), float(np.ceil(_until(track, index, around)))


def _together(fades: list[tuple[int, float, float]]) -> tuple[float, float]:
    """The frames of the first of some fades and of those after it that lie over them: what several ask for is worked out once."""
    _, first, last = fades[0]
    for _, begins, ends in fades[1:]:
        if begins < first or begins > last or max(last, ends) - first > TOGETHER:
            break
        last = max(last, ends)
    return first, last


class _Stretch(NamedTuple):
    """What a lane does on whole frames (F,), without the feet of its fades: matrices (F, J, 4, 4), and when each foot is down."""

    frames: Floats
    world: Floats
    down: list[Bools | None]


def _stretch(lane: Lane, clips: tuple[Clip, ...], rig: Rig, first: float, last: float) -> _Stretch | None:
    frames = np.arange(first, last + 1)
    layer = lane_values(lane, clips, rig, frames, lowest=True)
    if layer is None:
        return None
    world = solve(rig, np.where(layer.mask, layer.values, np.asarray(rig.defaults)))
    return _Stretch(frames, world, [down_on_lane(lane, clips, rig, foot.name, frames) for foot in footholds(rig)])


def _of_fade(rig: Rig, piece: LaidPiece, stretch: _Stretch, rows: slice) -> Corrections | None:
    frames, world = stretch.frames[rows], stretch.world[rows]
    feet = footing_of(rig, frames, world)
    moves = np.zeros((len(feet.feet), len(frames), 3))
    for n, down in enumerate(stretch.down):
        if down is not None:
            moves[n] = _held(feet, n, down[rows], piece.laid.at, piece.fades)
    if np.abs(moves).max(initial=0.0) < SMALL:
        return None
    return _as_channels(rig, frames, world, feet, moves)


def _until(track: LaneTrack, index: int, around: float) -> float:
    """The frame by which every foot has lifted again after a fade, or is at rest for good."""
    piece = track.pieces[index]
    if index + 1 < len(track.pieces):
        after = track.pieces[index + 1]
        return max(piece.fades + around, after.fades + after.span / after.laid.speed)
    return max(piece.fades + around, min(piece.laid.end, piece.fades + LONGEST))


def down_on_lane(lane: Lane, clips: tuple[Clip, ...], rig: Rig, foot: str, frames: Floats) -> Bools | None:
    """On which frames (F,) a foot is down, as the clips of a lane have it; None where they do not say."""
    track = track_of(lane, clips, rig)
    if not track.pieces or any(foot not in piece.clip.contacts for piece in track.pieces):
        return None
    found = _down_in(track, 0, foot, frames)
    for index in range(1, len(track.pieces)):
        share, own = track.pieces[index].share(frames), _down_in(track, index, foot, frames)
        found = np.where(share < HEARD, found, np.where(share > 1.0 - HEARD, own, found & own))
    return found


def _down_in(track: LaneTrack, index: int, foot: str, frames: Floats) -> Bools:
    piece: LaidPiece = track.pieces[index]
    at = piece.laid.first + progress_of(track.pieces, index, frames)
    length = piece.clip.length
    found = np.zeros(len(frames), bool)
    for start, end in piece.clip.contacts.get(foot, ()):
        inside = (at - start) % length <= end - start + 1e-6 if piece.clip.loops else (at >= start) & (at <= end)
        found |= inside
    return found


def _held(feet: Footing, number: int, down: Bools, start: float, end: float) -> Floats:
    """How far a foot is moved (F, 3) so that it stays where it came down, in the contacts that a fade touches."""
    frames = feet.frames
    edges = np.flatnonzero(np.diff(np.concatenate([[False], down, [False]]).astype(int)))
    spans = list(zip(edges[::2].tolist(), (edges[1::2] - 1).tolist(), strict=True))
    by = np.zeros((len(frames), 3))
    still = np.zeros((len(frames) - 1, 3))
    for n, (first, last) in enumerate(spans):
        if last <= first or frames[last] <= start or frames[first] >= end:
            continue
        rows = np.arange(first, last + 1)
        steps = bearing_steps(feet.points[number, rows], feet.heights[number, rows], still[first:last])
        by[rows[1:]] -= np.cumsum(steps, axis=0)
        by[rows, 1] -= feet.heights[number, rows].min(1)
        until = spans[n + 1][0] if n + 1 < len(spans) else len(frames)
        count = min(RELEASE, max((until - last) // 2, 1), len(frames) - 1 - last)
        t = np.arange(1, count + 1) / (count + 1)
        by[last + 1 : last + 1 + count] += by[last] * (1 - t * t * (3 - 2 * t))[:, None]
        rise = min(RELEASE, first)
        if rise and abs(by[first, 1]) > SMALL:  # it comes down where the ground is
            t = 1 - np.arange(1, rise + 1) / (rise + 1)
            by[first - rise : first, 1] += (by[first, 1] * t * t * (3 - 2 * t))[::-1]
    return by


def _as_channels(rig: Rig, frames: Floats, world: Floats, feet: Footing, moves: Floats) -> Corrections:
    """Moves of feet (N, F, 3) in the world as what is added to goals' channels, and what the hips give way."""
    back = plan_of(rig).root_back
    root = world[:, 0] if back is None else world[:, 0] @ back
    into = np.linalg.inv(root[:, :3, :3])
    channels: list[int] = []
    rows: list[Floats] = []
    drop = np.zeros(len(frames))
    for n, foot in enumerate(feet.feet):
        if np.abs(moves[n]).max() < SMALL:
            continue
        own = (into @ moves[n][..., None])[..., 0]
        for axis, channel in enumerate(columns(rig, rig.limbs[foot.limb].goal, "translate")):
            if channel >= 0:
                channels.append(channel)
                rows.append(own[:, axis])
        drop = np.maximum(drop, _needed(rig, foot.limb, foot.ankle, world, moves[n]))
    if drop.max(initial=0.0) > SMALL:
        smooth = mean_around(most_around(drop, GIVES, GIVES, "edge"), GIVES, "edge")
        for channel, sign in _hips_up(rig):
            channels.append(channel)
            rows.append(-sign * smooth)
    return Corrections(frames, channels, np.stack(rows, -1) if rows else np.zeros((len(frames), 0)))


def _needed(rig: Rig, limb: int, ankle: int, world: Floats, move: Floats) -> Floats:
    """Metres by which the hips must be lower (F,) for a leg to reach where its foot is moved to."""
    plan = plan_of(rig).limbs
    assert plan is not None
    full = float(plan.length_upper[limb] + plan.length_middle[limb] - plan.room[limb])
    away = world[:, ankle, :3, 3] + move - world[:, rig.limbs[limb].upper, :3, 3]
    room = np.sqrt(np.maximum(full**2 - (away[:, [0, 2]] ** 2).sum(1), 0.0))
    moved = np.abs(move).max(1) > SMALL
    return np.where(moved, np.clip(-room - away[:, 1], 0.0, MOST * full), 0.0)


def _hips_up(rig: Rig) -> list[tuple[int, float]]:
    """The channels that lift the hips, and how much of each is up."""
    hips, plan = taken_for(rig).hips, rest_plan(rig)
    for control, what in enumerate(rig.controls):
        row = np.flatnonzero(plan.movers == control)
        if what.joint == hips and what.kind is ControlKind.JOINT and len(row):
            up = plan.move_axes[row[0]][1]
            cols = columns(rig, control, "translate")
            return [(c, float(up[axis])) for axis, c in enumerate(cols) if c >= 0 and abs(up[axis]) > 1e-9]
    return []
