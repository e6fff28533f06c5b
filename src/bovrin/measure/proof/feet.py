"""Notes on what touches the ground: feet that slide, ends of limbs below it, weight outside the feet."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from bovrin.measure.planted import spans
from bovrin.measure.proof.notes import Note
from bovrin.measure.proof.reading import Reading

Floats = NDArray[np.float64]

SUNK, STANDS_LONG = 0.08, 0.25
"""Metres below 0 from which on it is the ground that lies there, if feet are down there for such a share of the frames."""
LIFTED = 0.006
"""Metres over where it stood by which a foot that moves has been lifted."""
STANDS, SHORTEST = 0.25, 6
"""Metres a second below which a figure stands, and the frames for which its weight may be outside."""
WAYS = 64
_ANGLES = np.linspace(0, 2 * np.pi, WAYS, endpoint=False)
AROUND = np.stack([np.cos(_ANGLES), np.sin(_ANGLES)], 1)
"""Directions on the ground: how far a place lies outside a convex outline is the farthest it lies beyond it in any of them."""
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
        points = sole(read, number)
        for first, last in stretches_down(read, number):
            if last - first < 1 or not read.eased[first : last + 1].all():
                continue
            steps = np.diff(points[first : last + 1], axis=0) * [1.0, 0.0, 1.0]
            size = np.linalg.norm(steps, axis=2)
            least = steps[np.arange(len(steps)), size.argmin(1)]
            gone = np.linalg.norm(np.cumsum(least, axis=0), axis=1)
            amount = float(gone.max()) * 100
            if amount > limit:
                moving = np.flatnonzero(size.min(1) > 1e-5)
                start, end = float(read.frames[first + moving[0]]), float(read.frames[first + moving[-1] + 1])
                yield Note(
                    "slide",
                    read.name,
                    read.part_at(limb.end),
                    start,
                    end,
                    amount,
                    "cm",
                    f"{limb.name} slides {amount:.1f} cm",
                    "plant",
                    (limb.name,),
                )


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


def ground_of(read: Reading) -> float:
    """How high the ground is, metres: at 0, or, for a figure that came with its middle there, where its feet stand."""
    stood = [sole(read, number)[..., 1].min(1)[down] for number, down in read.down.items()]
    level = np.concatenate(stood) if stood else np.empty(0)
    if len(level) < STANDS_LONG * len(read.frames):
        return 0.0
    middle = float(np.median(level))
    return middle if middle < -SUNK else 0.0


def grounds(read: Reading, limit: float) -> Iterator[Note]:
    """Hands and feet below the ground."""
    level = ground_of(read)
    for number, limb in enumerate(read.rig.limbs):
        points = read.solved.ends[number]
        low = points[..., 1].min(1) if points.shape[1] else read.places[:, limb.end, 1]
        for first, last in spans((low < level - limit / 100) & read.eased):
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
    for first, last in spans(outside * 100 > limit):
        if last - first + 1 < SHORTEST:
            continue
        amount = float(outside[first : last + 1].max()) * 100
        yield Note(
            "balance",
            read.name,
            read.name,
            *read.span(np.arange(first, last + 1)),
            amount,
            "cm",
            f"weight {amount:.0f} cm outside the feet",
            None,
        )
