"""A BVH motion as a figure of its own: joints, a guessed rig, bones to be seen, and curves keyed on every frame."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace
from itertools import chain, count
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.brought.guess import guess_build
from bovrin.figure.making.rig_growing import with_channels
from bovrin.figure.making.rig_making import make_rig
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.stick import stick_model
from bovrin.formats.bvh.source import AXES, PLACES, Bvh, BvhJoint, read_bvh, size_of
from bovrin.formats.files import stem_of
from bovrin.formats.found import Found
from bovrin.formats.units import is_doubtful, metres_in
from bovrin.motion.evaluate import channel_values
from bovrin.motion.rotations import euler_matrix, followed, going_on, looked_at, matrix_euler, order_for_steps
from bovrin.shot import (
    Channel,
    Control,
    ControlKind,
    Curve,
    CurveSet,
    Figure,
    Joint,
    Rig,
    Shot,
)
from bovrin.shot.curve import NO_KEYS, recorded_columns
from bovrin.shot.document import FIRST_FRAME

Floats = NDArray[np.float64]
LOOKED_AT, LOWEST = 60, 10.0
"""Frames on which it is looked where feet land, and the percentage of them on which they may be lower."""
SURE = 0.25
"""The share of a root's offset by which feet must be nearer to the ground without it."""
COLOUR = (0.36, 0.42, 0.52)
WHOLE = "whole"


def shot_from_bvh(path: Path, scale: float | None = None) -> Found:
    """A shot that holds the figure and the motion of a file, and what was left out. scale: metres in a unit of the file."""
    return shot_of(read_bvh(path), stem_of(path), str(path), scale)


def shot_of(bvh: Bvh, name: str, source: str, scale: float | None = None) -> Found:
    """A shot that holds a motion that was read."""
    metres = metres_in(size_of(bvh.joints)) if scale is None else scale
    joints = _joints(bvh.joints, metres)
    guess = guess_build(joints)
    orders = {i + 1: _order(bvh, joint) for i, joint in enumerate(bvh.joints) if any(c in AXES for c in joint.channels)}
    rig = _with_moves(make_rig(joints, guess, orders, reach=False), bvh.joints, orders)
    figure = Figure(name, rig, replace(stick_model(rig), metres=metres), source, COLOUR)
    curves = _curves(rig, bvh, metres, orders)
    twice = _counted_twice(rig, bvh, metres, curves)
    if twice:
        curves = _curves(rig, bvh, metres, orders, twice)
    left_out = bvh.left_out + [_said_once(bvh.joints[n], metres) for n in sorted(twice)]
    rate = 1.0 / bvh.frame_time
    whole = float(round(rate)) if abs(rate - round(rate)) < 0.01 else rate
    last = FIRST_FRAME + len(bvh.numbers) - 1
    shot = Shot(name, first=FIRST_FRAME, last=last, frame_rate=min(max(whole, 1.0), 240.0))
    doubtful = scale is None and is_doubtful(size_of(bvh.joints))
    return Found(shot.with_figure(figure, curves), left_out, doubtful=doubtful)


def _counted_twice(rig: Rig, bvh: Bvh, metres: float, curves: CurveSet) -> set[int]:
    """The roots whose offset their position holds already: without it the lowest that hangs on them is nearer to the ground."""
    roots = [n for n, joint in enumerate(bvh.joints) if joint.parent < 0 and joint.offset[1]]
    roots = [n for n in roots if _places(bvh, bvh.joints[n]) is not None]
    if not roots or not len(bvh.numbers):
        return set()
    frames = FIRST_FRAME + np.unique(np.linspace(0, len(bvh.numbers) - 1, LOOKED_AT).astype(int))
    heights = solve(rig, channel_values(curves, rig, frames))[:, 1:, 1, 3]
    above = np.array([_root_of(bvh.joints, n) for n in range(len(bvh.joints))])
    found = set()
    for n in roots:
        low, by = float(np.percentile(heights[:, above == n].min(1), LOWEST)), bvh.joints[n].offset[1] * metres
        if abs(low - by) < abs(low) - SURE * abs(by):
            found.add(n)
    return found


def _root_of(joints: list[BvhJoint], number: int) -> int:
    while joints[number].parent >= 0:
        number = joints[number].parent
    return number


def _said_once(joint: BvhJoint, metres: float) -> str:
    over = abs(joint.offset[1]) * metres * 100
    return f"The offset of '{joint.name}', which its position holds already: with both it would be {over:.0f} cm off the ground."


def _joints(joints: list[BvhJoint], metres: float) -> tuple[Joint, ...]:
    """The file's joints under one on the ground that carries the whole figure."""
    taken = {joint.name for joint in joints}
    root = next(n for n in chain([WHOLE], (f"{WHOLE} {i}" for i in count(2))) if n not in taken)
    found = [Joint(root, -1, (0.0, 0.0, 0.0))]
    for joint in joints:
        x, y, z = (value * metres for value in joint.offset)
        found.append(Joint(joint.name, joint.parent + 1, (x, y, z)))
    return tuple(found)


def _with_moves(rig: Rig, joints: list[BvhJoint], orders: dict[int, str]) -> Rig:
    """The rig with channels to move every joint that the file moves, and a control for every joint that it turns."""
    moved = {i + 1 for i, joint in enumerate(joints) if any(c in PLACES for c in joint.channels)}
    turned = {i + 1 for i, joint in enumerate(joints) if any(c in AXES for c in joint.channels)}
    return with_channels(rig, moved, turned, orders={j: orders.get(j, joints[j - 1].order) for j in moved | turned})


def _curves(
    rig: Rig, bvh: Bvh, metres: float, orders: dict[int, str], twice: Collection[int] = frozenset()
) -> CurveSet:
    """A key on every frame of every channel that changes, else one; all columns but values are shared. twice: the roots whose
    position holds their offset."""
    shared = recorded_columns(FIRST_FRAME + np.arange(len(bvh.numbers), dtype=float))
    single = recorded_columns(np.array([FIRST_FRAME]))
    at = {(c.joint, ch.technical): i for c, span in _spans(rig) for ch, i in span if c.kind is ControlKind.JOINT}
    rows: list[tuple[int | None, Floats]] = []
    for number, joint in enumerate(bvh.joints):
        places = _places(bvh, joint)
        if places is not None:
            moved = (places - np.multiply(joint.offset, 2.0 if number in twice else 1.0)) * metres
            rows += [(at.get((number + 1, f"translate {axis}")), moved[:, n]) for n, axis in enumerate("xyz")]
        order = orders.get(number + 1, joint.order)
        rows += [(at.get((number + 1, f"rotate {axis}")), turned) for axis, turned in _turns(bvh, joint, order)]
    found = {column: _curve(values, shared, single) for column, values in rows if column is not None}
    return CurveSet(tuple(found.get(i, NO_KEYS) for i in range(len(rig.channels))))


def _spans(rig: Rig) -> list[tuple[Control, list[tuple[Channel, int]]]]:
    """Each control with its channels and their indices."""
    return [(c, list(zip(c.channels, rig.span(i), strict=True))) for i, c in enumerate(rig.controls)]


def _turned(numbers: Floats, joint: BvhJoint) -> Floats:
    """A joint's angles (F, 3), radians, about x, y and z, in some of the file's rows (F, N)."""
    angles = np.zeros((len(numbers), 3))
    for n, channel in enumerate(joint.channels):
        if channel in AXES:
            angles[:, "XYZ".index(AXES[channel])] = numbers[:, joint.first + n]
    return np.radians(angles, out=angles)


def _order(bvh: Bvh, joint: BvhJoint) -> str:
    """The rotation order that a joint gets: the file's, unless its motion comes too near to where that one locks."""
    if sum(c in AXES for c in joint.channels) < 3:
        return joint.order
    at = looked_at(len(bvh.numbers))
    start, end = (euler_matrix(_turned(bvh.numbers[rows], joint), joint.order) for rows in (at, at + 1))
    return order_for_steps(start, end, joint.order)


def _turns(bvh: Bvh, joint: BvhJoint, order: str) -> list[tuple[str, Floats]]:
    """By axis a joint's angles (F,), radians, that go on from frame to frame: files begin anew after half a turn."""
    angles = _turned(bvh.numbers, joint)
    axes = [AXES[c] for c in joint.channels if c in AXES]
    if order != joint.order:
        angles = matrix_euler(euler_matrix(angles, joint.order), order)
    angles = followed(angles, order) if len(axes) == 3 else going_on(angles)
    return [(axis.lower(), angles[:, "XYZ".index(axis)]) for axis in axes]


def _places(bvh: Bvh, joint: BvhJoint) -> Floats | None:
    """Where a joint lies in its parent on each frame (F, 3), file units, or None where the file does not move it.

    A root lies at its offset and its position; other joints have a position in the place of their offset, as most
    programs write them, or one to be added to it: the nearer of both on the first frame.
    """
    if not any(c in PLACES for c in joint.channels):
        return None
    places = np.tile(np.array(joint.offset, float), (len(bvh.numbers), 1))
    given = np.zeros_like(places)
    for n, channel in enumerate(joint.channels):
        if channel in PLACES:
            given[:, PLACES[channel]] = bvh.numbers[:, joint.first + n]
    instead = joint.parent >= 0 and np.linalg.norm(given[0] - joint.offset) <= np.linalg.norm(given[0])
    return given if instead else places + given


def _curve(values: Floats, shared: dict[str, NDArray[np.generic]], single: dict[str, NDArray[np.generic]]) -> Curve:
    still = not len(values) or float(np.ptp(values)) == 0.0
    own = values[:1].copy() if still else np.ascontiguousarray(values)
    own.setflags(write=False)
    return Curve.from_columns({**(single if still else shared), "values": own})
