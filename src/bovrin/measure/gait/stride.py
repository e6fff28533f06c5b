"""Stride: how far a round takes a figure, how fast, how wide its feet stand and for how long they bear."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.figure.ground.feet import Footing, footholds
from bovrin.figure.solve.unequal import unequal_limbs
from bovrin.figure.staging import staged
from bovrin.frozen import frozen_equal
from bovrin.measure.gait.contacts import contacts, cycle_contacts
from bovrin.measure.gait.footing import footing
from bovrin.shot import Cycle, Shot, Stretch

Floats = NDArray[np.float64]


@frozen_equal
class Stride:
    """What a figure's going measures. length: metres from where a foot comes down to where it comes down again; step: from a foot
    to the other's, on the average; speed: metres a second; cadence: steps a minute; width: metres between the left and the right
    feet's lines; support: the share of the time that a foot is down; period: frames from a footfall to the same foot's next.

    way (3,): the direction of going, a unit vector in the world. unequal: legs that differ: the longer, the shorter, metres.
    """

    length: float
    step: float
    speed: float
    cadence: float
    width: float
    support: float
    period: float
    way: tuple[float, float, float]
    unequal: tuple[tuple[str, str, float], ...] = ()


def stride(shot: Shot, figure: str) -> Stride:
    """The stride of a figure's cycle, or of its going over the shot. BadMotion where no foot comes down twice."""
    cycle = shot.cycle(figure)
    every = contacts(shot, figure) if cycle is None else cycle_contacts(shot, figure, cycle)
    feet_of = {foot.name for foot in footholds(shot.figure(figure).rig)}
    down = {name: spans for name, spans in every.items() if name in feet_of}
    if not down:
        raise BadMotion(f"'{figure}' has no feet.", advice="A stride is measured on legs that reach.")
    period = _period(down) if cycle is None else cycle.length
    first, last = (shot.first, shot.last) if cycle is None else (cycle.first, cycle.last)
    if not any(down.values()):
        raise BadMotion(f"no foot of '{figure}' is down from frame {first:g} to {last:g}.", advice="Set its contacts.")
    if period is None:
        raise BadMotion(f"no foot of '{figure}' comes down twice from frame {first:g} to {last:g}.")
    frames = np.arange(np.ceil(first), np.floor(last) + 1)
    feet = footing(shot, figure, frames)
    velocity = _velocity(shot, figure, feet, cycle)
    steps = sum(max(len(spans), 1) for spans in down.values()) if cycle is not None else len(down)
    speed = float(np.linalg.norm(velocity))
    way = velocity / speed if speed > 1e-9 else np.array([0.0, 0.0, 1.0])
    held = sum(min(b - a, period) for spans in down.values() for a, b in spans)
    rounds = len(down) if cycle is not None else max(sum(len(spans) for spans in down.values()), 1)
    return Stride(
        length=speed * period,
        step=speed * period / max(steps, 1),
        speed=speed * shot.frame_rate,
        cadence=steps * shot.frame_rate * 60.0 / period,
        width=_width(feet, down, way, velocity),
        support=min(held / (rounds * period), 1.0),
        period=period,
        way=(float(way[0]), float(way[1]), float(way[2])),
        unequal=_unequal(shot, figure, down),
    )


def _unequal(shot: Shot, figure: str, feet: Iterable[str]) -> tuple[tuple[str, str, float], ...]:
    found = unequal_limbs(shot.figure(figure).rig)
    return tuple((long, short, gap) for (long, short), gap in found.items() if long in feet)


def _period(down: dict[str, list[Stretch]]) -> float | None:
    """Frames from a footfall to the same foot's next, in the middle; contacts that the range cuts off are left out."""
    gaps = [gap for spans in down.values() for gap in np.diff([a for a, _ in spans[1:]] or [0.0]).tolist()]
    if not gaps:
        gaps = [gap for spans in down.values() for gap in np.diff([a for a, _ in spans]).tolist()]
    return float(np.median(gaps)) if gaps else None


def _velocity(shot: Shot, figure: str, feet: Footing, cycle: Cycle | None) -> Floats:
    """How the figure goes over the ground (3,), metres a frame."""
    gone = body_way(shot, figure, float(feet.frames[0]), float(feet.frames[-1]))
    span = max(float(feet.frames[-1] - feet.frames[0]), 1e-9)
    if cycle is not None:
        gone, span = body_way(shot, figure, cycle.first, cycle.last), cycle.length
    return np.asarray((gone / span - feet.treadmill(shot.frame_rate)) * [1.0, 0.0, 1.0])


def body_way(shot: Shot, figure: str, start: float, end: float) -> Floats:
    """How far what the legs hang on goes from a frame to another (3,), metres."""
    from_, to = (_bodies(shot, figure, frame) for frame in (start, end))
    return np.asarray(to - from_)


def _bodies(shot: Shot, figure: str, frame: float) -> Floats:
    rig = shot.figure(figure).rig
    joints = [limb.upper for limb in rig.limbs if limb.foot is not None]
    return np.asarray(staged(shot, figure, frame).places[0, joints].mean(0))


def _width(feet: Footing, down: dict[str, list[Stretch]], way: Floats, velocity: Floats) -> float:
    """Metres across the way between the left and the right feet where they bear."""
    aside = np.array([way[2], 0.0, -way[0]])
    lines: list[list[float]] = [[], []]
    middle = feet.points.mean(2)
    ground = velocity * (feet.frames - feet.frames[0])[:, None]
    for n, foot in enumerate(feet.feet):
        rows = [np.flatnonzero((feet.frames >= a) & (feet.frames <= b)) for a, b in down.get(foot.name, [])]
        own = [float(((middle[n, r] - ground[r]) @ aside).mean()) for r in rows if len(r)]
        if own:
            lines[0 if foot.rest[0] > 0 else 1].append(float(np.mean(own)))
    return abs(float(np.mean(lines[0]) - np.mean(lines[1]))) if all(lines) else 0.0
