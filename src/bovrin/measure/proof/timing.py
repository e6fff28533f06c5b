"""Notes on timing: parts that stop together, dead holds, twins, what moves before its first key, loops' seams."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from bovrin.measure.planted import spans
from bovrin.measure.proof.notes import Note
from bovrin.measure.proof.reading import MOVES, Reading
from bovrin.motion.windows import least_around, most_around
from bovrin.shot import EndKind, Unit

Floats = NDArray[np.float64]

BEFORE, REST = 4, 3
"""Frames that a part moves for before it stops, and rests for after."""
TRAVELS, RESTS = 1.0, 0.05
"""Degrees or centimetres that a part goes in those, and may go in these."""
SHARE = 0.75
"""The share of the parts that stop around a frame which must stop on it to stop together."""
DEAD = 0.5e-3
"""Metres within which everything stays while a figure is dead still."""
ALIKE = 0.04
"""How much, as a share of its pace, one side may differ from the other and still do the same."""
GOES, STRAIGHT = 0.1, 0.6
"""Metres that a figure travels over a loop, and the share of its way that leads from where it began to where it ended."""
HELD_BY_BOTH = 0.003
"""Metres that the distance of two hands may change while they hold one thing."""


def together(read: Reading, limit: float) -> Iterator[Note]:
    """Frames on which nearly all parts that stop, besides the legs, stop at once."""
    stops = {p.name: _stops(read, n) for n, p in enumerate(read.rig.parts) if p.name not in read.legs}
    for frame in sorted({float(f) for own in stops.values() for f in own}):
        here = [name for name, own in stops.items() if (np.abs(own - frame) < 0.25).any()]
        near = [name for name, own in stops.items() if (np.abs(own - frame) <= BEFORE).any()]
        if len(here) > limit and len(here) >= SHARE * len(near):
            yield Note(
                "together",
                read.name,
                here[0],
                frame,
                frame,
                float(len(here)),
                "parts",
                f"{len(here)} parts stop together",
                "break up",
                tuple(here),
            )


def _stops(read: Reading, part: int) -> Floats:
    """Frames on which a part that moved comes to rest: on its keys where they are near."""
    channels = list(read.rig.part_channels(part))
    seen = read.seen[:, channels]
    if len(seen) <= BEFORE + REST or not channels:
        return np.empty(0)
    gone = most_around(seen, BEFORE, 0) - least_around(seen, BEFORE, 0)
    ahead = most_around(seen, 0, REST) - least_around(seen, 0, REST)
    rests = ahead.max(1) < RESTS
    rests[-REST:] = False
    first = rests & ~np.concatenate([[True], rests[:-1]]) & (gone.max(1) > TRAVELS) & read.eased
    keys = np.unique(np.concatenate([read.curves[i].frames for i in channels]))
    found = []
    for frame in read.frames[first]:
        after = keys[(keys >= frame - 0.5) & (keys <= frame + 2.5)]
        found.append(float(after[0]) if len(after) else float(frame))
    return np.array(found)


def dead_holds(read: Reading, limit: float) -> Iterator[Note]:
    """An eased figure of limbs that stands like a stone for more frames than the limit."""
    if not read.rig.limbs or not (read.moves & read.eased).any():
        return
    size = int(limit) + 1
    if len(read.frames) < size:
        return
    window = [size, 1, 1]
    start = np.array(window) // 2
    around = size // 2, (size - 1) // 2
    width = most_around(read.places, *around) - least_around(read.places, *around)
    still = width.max((1, 2)) < DEAD
    low, high = int(start[0]), len(still) - (size - 1 - int(start[0]))
    still[:low] = False
    still[high:] = False
    covered = np.zeros(len(still), bool)
    for row in np.flatnonzero(still):
        covered[row - low : row - low + size] = True
    for first, last in spans(covered & read.eased):
        frames = float(last - first + 1)
        if frames <= limit:
            continue
        yield Note(
            "dead hold",
            read.name,
            read.name,
            *read.span(np.arange(first, last + 1)),
            frames,
            "frames",
            f"still for {frames:.0f} frames",
            "keep alive",
        )


def twins(read: Reading, limit: float) -> Iterator[Note]:
    """Limbs of both sides, besides legs, that go the same way at the same pace on the same frames, and hold nothing."""
    limbs = {read.rig.controls[limb.goal].name: limb for limb in read.rig.limbs if limb.foot is None}
    for pair in read.rig.pairs:
        if pair[0] not in limbs or pair[1] not in limbs:
            continue
        both = [limbs[name] for name in pair]
        left, right = (limb.name for limb in both)
        paths = [read.places[:, limb.end] - read.places[:, limb.upper] for limb in both]
        paces = [np.concatenate([[0.0], np.linalg.norm(np.diff(p, axis=0), axis=1)]) for p in paths]
        ends = [read.places[:, limb.end] for limb in both]
        apart = np.linalg.norm(ends[0] - ends[1], axis=1)
        moving = (paces[0] > 1e-4) & (paces[1] > 1e-4) & read.eased
        for first, last in spans(moving):
            rows = slice(first, last + 1)
            most = max(pace[rows].max() for pace in paces)
            gone = min(pace[rows].sum() for pace in paces) * 100
            differ = np.abs(paces[0][rows] - paces[1][rows]).max()
            holds = np.ptp(apart[max(first - 1, 0) : last + 1]) < HELD_BY_BOTH
            if gone > limit and differ <= ALIKE * most and not holds:
                yield Note(
                    "twins",
                    read.name,
                    read.part_at(both[1].end),
                    float(read.frames[max(first - 1, 0)]),
                    float(read.frames[last]),
                    float(gone),
                    "cm",
                    f"{left} and {right} do the same",
                    "offset",
                    (left, right),
                )


def early(read: Reading, limit: float) -> Iterator[Note]:
    """Parts that drift away from what was filled in at the beginning, before the first pose that is their own."""
    poses = read.poses
    for number, part in enumerate(read.rig.parts):
        channels = [
            i for i in read.rig.part_channels(number) if len(read.curves[i]) and not read.rig.channels[i].unit.holds
        ]
        if not channels:
            continue
        keys = np.unique(np.concatenate([read.curves[i].frames for i in channels]))
        until = _own_first(keys, poses)
        runs = [
            i
            for i in channels
            if read.curves[i].before is EndKind.STRAIGHT and read.curves[i].frames[0] > read.frames[0]
        ]
        if until is None and runs:
            channels, until = runs, float(min(read.curves[i].frames[0] for i in runs))
        if until is None:
            continue
        rows = np.flatnonzero((read.frames <= until) & (read.frames >= (keys[0] if not runs else -np.inf)) & read.eased)
        if len(rows) < 2:
            continue
        gone = np.ptp(read.seen[rows][:, channels], axis=0)
        moved = [i for i, by in zip(channels, gone, strict=True) if by > MOVES]
        if gone.max() > limit:
            unit = "degrees" if read.rig.channels[channels[int(gone.argmax())]].unit is Unit.ANGLE else "cm"
            yield Note(
                "early",
                read.name,
                part.name,
                *read.span(rows),
                float(gone.max()),
                unit,
                f"{part.name} moves before its first key",
                "hold",
                tuple(read.rig.channel_names[i] for i in moved),
            )


def _own_first(keys: Floats, poses: Floats) -> float | None:
    """The last pose before a part's second key, when the part was keyed at the beginning and left out of two poses or more."""
    if len(keys) < 2 or len(poses) < 3 or keys[0] > poses[0] + BEFORE:
        return None
    between = poses[(poses > keys[0] + BEFORE - 1) & (poses < keys[1] - BEFORE + 1)]
    return float(between[-1]) if len(between) >= 2 else None


def _without_travel(places: Floats) -> Floats:
    """Places (F, J, 3) beside where the figure is on the ground, if it travels: mostly one way, and farther than it sways."""
    middle = places.mean(1) * [1.0, 0.0, 1.0]
    gone = float(np.linalg.norm(middle[-1] - middle[0]))
    path = float(np.linalg.norm(np.diff(middle, axis=0), axis=1).sum())
    if gone < GOES or gone < STRAIGHT * path:
        return places
    return np.asarray(places - middle[:, None])


def seams(read: Reading, limit: float) -> Iterator[Note]:
    """A loop whose end does not lead to its beginning: the farthest way of a joint beyond the frames beside. What a figure that
    travels goes on the ground is no part of it."""
    if not read.shot.loops or len(read.frames) < 4:
        return
    places = _without_travel(read.places)
    jump = np.linalg.norm(places[0] - places[-1], axis=1)
    beside = np.maximum(
        *(np.linalg.norm(np.diff(places[rows], axis=0), axis=2).max(0) for rows in (slice(0, 3), slice(-3, None)))
    )
    over = (jump - 1.5 * beside) * 100
    joint = int(over.argmax())
    if over[joint] > limit:
        yield Note(
            "seam",
            read.name,
            read.part_at(joint),
            *read.span(np.arange(len(places))),
            float(jump[joint]) * 100,
            "cm",
            f"the loop pops by {jump[joint] * 100:.1f} cm at its seam",
            "close",
        )
