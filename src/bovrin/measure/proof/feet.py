"""Notes on what touches the ground: feet that slide, ends of limbs below it, weight outside the feet."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.measure.planted import spans
from bovrin.measure.proof.dense import off_course
from bovrin.measure.proof.notes import Note
from bovrin.measure.proof.reading import Reading

Floats = NDArray[np.float64]

SUNK, STANDS_LONG = 0.08, 0.25
"""Metres below 0 from which on it is the ground that lies there, if feet are down there for such a share of the frames."""
LIFTED = 0.006
"""Metres over where it stood by which a foot that moves has been lifted."""
STANDS, SHORTEST = 0.25, 6
"""Metres a second below which a figure stands, and the frames for which its weight may be outside."""
LASTS = 0.5
"""Seconds that the weight of a recorded figure is outside its feet at least: people balance."""
WAYS = 64
_ANGLES = np.linspace(0, 2 * np.pi, WAYS, endpoint=False)
AROUND = np.stack([np.cos(_ANGLES), np.sin(_ANGLES)], 1)
"""Directions on the ground: how far a place lies outside a convex outline is the farthest it lies beyond it in any of them."""
OUTSTANDS = 4.0
"""How many times the usual slide of a recording's foot has a note of its own; so of its weight."""
SPREAD = 6.0
"""How many times the usual distance of standing feet from the ground is seen as under it."""
LOW = 0.04
"""Metres over its lowest point within which a foot bears weight."""


def slides(read: Reading, limit: float) -> Iterator[Note]:
    """Feet that are down and travel: the way of that of heel and ball which moves least, farthest from where it came down. On the
    spot it is the ground that goes."""
    if read.on_spot:
        return
    for number, limb in enumerate(read.rig.limbs):
        if number not in read.down or limb.foot is None:
            continue
        points = steady_sole(read, number)
        every = [_slide(read, points, *rows) for rows in stretches_down(read, number)]
        found = [one for one in every if one is not None and one.amount > limit]
        for start, end, amount, times in _summed(read, found):
            words = f"{limb.name} slides {amount:.1f} cm" + (f", {times}×" if times > 1 else "")
            part = read.part_at(limb.end)
            yield Note("slide", read.name, part, start, end, amount, "cm", words, "plant", (limb.name,))


class _Fault(NamedTuple):
    """What is so many centimetres off from one frame to another; or is so several times."""

    start: float
    end: float
    amount: float
    times: int = 1


def _slide(read: Reading, points: Floats, first: int, last: int) -> _Fault | None:
    """How far a foot, of which points (F, 2, 3) keep their place, goes while it is down from one row to another, if it does."""
    if last - first < 1 or not read.eased[first : last + 1].all():
        return None
    steps = np.diff(points[first : last + 1], axis=0) * [1.0, 0.0, 1.0]
    size = np.linalg.norm(steps, axis=2)
    least = steps[np.arange(len(steps)), size.argmin(1)]
    amount = float(np.linalg.norm(np.cumsum(least, axis=0), axis=1).max()) * 100
    moving = np.flatnonzero(size.min(1) > 1e-5)
    if not len(moving):
        return None
    return _Fault(float(read.frames[first + moving[0]]), float(read.frames[first + moving[-1] + 1]), amount)


def _summed(read: Reading, found: list[_Fault]) -> list[_Fault]:
    """Faults of one kind; those of a recording that are as it is everywhere, as one."""
    recorded = [one for one in found if read.recorded[round(one.start - read.frames[0])]]
    if len(recorded) < 2:
        return found
    usual = OUTSTANDS * float(np.median([one.amount for one in recorded]))
    alike = [one for one in recorded if one.amount <= usual]
    rest = [one for one in found if one not in alike]
    most = max(one.amount for one in alike)
    return [*rest, _Fault(alike[0].start, alike[-1].end, most, len(alike))]


def sole(read: Reading, number: int) -> Floats:
    """Points under a foot that keep their place as it rolls (F, 2, 3): those that lie lowest at its front and its back, or the
    toes and the ankle where there is no mesh."""
    points = read.solved.ends[number]
    joints = _ends(read, number)
    if points.shape[1] < 2:
        return joints
    rest = int(np.argmin(points[..., 1].max(1)))
    flat = points[rest]
    low = flat[:, 1] <= flat[:, 1].min() + LOW
    ahead = joints[rest, 1] - joints[rest, 0]
    along = np.where(low, flat @ (ahead * [1.0, 0.0, 1.0]), np.nan)
    if np.isnan(along).all() or np.linalg.norm(ahead) < 1e-6:
        return joints
    return points[:, [int(np.nanargmin(along)), int(np.nanargmax(along))]]


def steady_sole(read: Reading, number: int) -> Floats:
    """The same without the frames of a recording that lie off by themselves, which are a fault of their own."""
    points = sole(read, number)
    if not read.recorded.any():
        return points
    points = np.array(points)
    for row in off_course(read.places[:, read.rig.limbs[number].end]):
        if read.recorded[row]:
            points[row] = (points[row - 1] + points[row + 1]) / 2
    return points


def _ends(read: Reading, number: int) -> Floats:
    """The ankle and the toes of a foot (F, 2, 3)."""
    limb = read.rig.limbs[number]
    assert limb.foot is not None
    return np.asarray(read.places[:, [limb.end, limb.foot.toes]])


def stretches_down(read: Reading, number: int) -> list[tuple[int, int]]:
    """The first and last rows of stretches in which a foot is down; those it was not lifted between are one."""
    low = sole(read, number)[..., 1].min(1)
    found: list[tuple[int, int]] = []
    for first, last in spans(read.down[number]):
        start = first
        if found and low[found[-1][1] : first + 1].max() < min(low[found[-1][1]], low[first]) + LIFTED:
            start = found.pop()[0]
        found.append((start, last))
    return found


def _stood(read: Reading) -> Floats:
    """How high the soles of feet are that are down, metres."""
    stood = [sole(read, number)[..., 1].min(1)[down] for number, down in read.down.items()]
    return np.concatenate(stood) if stood else np.empty(0)


def ground_of(read: Reading) -> float:
    """How high the ground is, metres: at 0, or where the feet stand of a recording, or of a figure that came with its middle
    there."""
    level = _stood(read)
    if len(level) < STANDS_LONG * len(read.frames):
        return 0.0
    middle = float(np.median(level))
    return middle if middle < -SUNK or (read.recorded.any() and middle < SUNK) else 0.0


def _deep(read: Reading, most: float) -> float:
    """How deep a foot may be in the ground, metres: in a recording as deep as standing feet are measured."""
    level = _stood(read) if read.recorded.any() else np.empty(0)
    return max(most, SPREAD * float(np.median(np.abs(level - np.median(level))))) if len(level) else most


def grounds(read: Reading, limit: float) -> Iterator[Note]:
    """Hands and feet below the ground."""
    level, most = ground_of(read), _deep(read, limit / 100)
    for number, limb in enumerate(read.rig.limbs):
        points = read.solved.ends[number]
        low = points[..., 1].min(1) if points.shape[1] else read.places[:, limb.end, 1]
        under = spans((low < level - most) & read.eased)
        if len(under) > 1 and read.recorded.any():  # one note for a fault, however many steps
            under = [(under[0][0], under[-1][1])]
        for first, last in under:
            amount = (level - float(low[first : last + 1].min())) * 100
            yield Note(
                "ground",
                read.name,
                read.part_at(limb.end),
                *read.span(np.arange(first, last + 1)),
                amount,
                "cm",
                f"{limb.name} is {amount:.1f} cm under the ground",
                "lift",
                (limb.name,),
            )


def balances(read: Reading, limit: float) -> Iterator[Note]:
    """A figure that stands with its weight beside its feet. One that strides in a cycle does not stand."""
    centre = read.solved.centre
    if read.shot.cycle(read.name) is not None and read.told_down:
        return
    if not read.down or len(centre) < 2 or np.isnan(centre).any():
        return
    speed = np.linalg.norm(np.gradient(centre[:, [0, 2]], axis=0), axis=1) * read.shot.frame_rate
    standing = (speed < STANDS) & read.eased & np.any(list(read.down.values()), axis=0)
    reach = np.full((len(centre), WAYS), -np.inf)
    for number, down in read.down.items():
        points = read.solved.ends[number]
        points = points if points.shape[1] > 2 else _ends(read, number)
        low = (points[..., 1] < points[..., 1].min(1)[:, None] + LOW) & down[:, None]
        along = np.where(low[..., None], points[..., [0, 2]] @ AROUND.T, -np.inf)
        reach = np.maximum(reach, along.max(1))
    outside = np.where(standing, (centre[:, [0, 2]] @ AROUND.T - reach).max(1), 0.0)
    found = []
    for first, last in spans(outside * 100 > limit):
        if last - first + 1 >= (read.shot.frame_rate * LASTS if read.recorded[first] else SHORTEST):
            amount = float(outside[first : last + 1].max()) * 100
            found.append(_Fault(*read.span(np.arange(first, last + 1)), amount))
    for start, end, amount, times in _summed(read, found):
        words = f"weight {amount:.0f} cm outside the feet" + (f", {times}×" if times > 1 else "")
        yield Note("balance", read.name, read.name, start, end, amount, "cm", words, None)
