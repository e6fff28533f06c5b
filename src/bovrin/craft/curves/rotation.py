"""Rotation orders, how near two axes are to lining up, and curves that jump by a turn."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.craft.takes import in_every_take
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import columns
from bovrin.motion.evaluate import curve_values
from bovrin.motion.rotations import euler_matrix, followed, matrix_euler, nearest_euler, rotation_vector
from bovrin.shot import Curve, CurveSet, HandleKind, KeyRole, Rig, Shot
from bovrin.shot.curve import NO_KEYS, SAME_FRAME

Floats = NDArray[np.float64]

ORDERS = ("XYZ", "XZY", "YXZ", "YZX", "ZXY", "ZYX")
NEAR = 1e-7
WARN = 0.8
"""Above this share two axes are so near each other that turns get hard to control (about 53 degrees)."""


def alignment(rig: Rig, control: int, values: Floats) -> float:
    """How far two rotation axes of a control line up at values (C,): 0 square to each other, 1 the same."""
    cols = columns(rig, control, "rotate")
    middle = cols["XYZ".index(rig.controls[control].order[1])]
    return abs(float(np.sin(values[middle]))) if min(cols) >= 0 else 0.0


def lined_up_axes(rig: Rig, control: int) -> tuple[str, str]:
    """The words of the two channels that line up: the first and the last of the order."""
    cols = columns(rig, control, "rotate")
    order = rig.controls[control].order
    first, last = (rig.channels[cols["XYZ".index(order[i])]].name for i in (0, 2))
    return first, last


def calmest_order(rig: Rig, control: int, values: Floats) -> str:
    """The order whose axes are farthest from lining up for the turn that a control has at values (C,)."""
    cols = columns(rig, control, "rotate")
    turn = euler_matrix(values[cols], rig.controls[control].order)
    middles = {order: abs(matrix_euler(turn, order)["XYZ".index(order[1])]) for order in ORDERS}
    return min(middles, key=lambda order: middles[order])


def set_rotation_order(shot: Shot, figure: str, control: str, order: str) -> Shot:
    """Write a control's rotations in another order. The motion stays: where keys alone would not do, frames are keyed."""
    rig = shot.figure(figure).rig
    index = rig.control(control)
    if order not in ORDERS:
        raise BadMotion(f"'{order}' is not a rotation order.", advice="Use: " + ", ".join(ORDERS) + ".")
    cols = columns(rig, index, "rotate")
    if min(cols) < 0:
        raise BadMotion(f"'{control}' does not turn about three axes, so it has no order to change.")
    old = rig.controls[index].order
    if order == old:
        return shot
    return in_every_take(shot, lambda one: _reordered_take(one, figure, index, cols, order))


def _reordered_take(shot: Shot, figure: str, index: int, cols: list[int], order: str) -> Shot:
    rig = shot.figure(figure).rig
    old = rig.controls[index].order
    curves = shot.curves(figure)
    own = [curves[c] for c in cols]
    new = _reordered(own, [rig.channels[c].default for c in cols], old, order, shot)
    return _with_order(shot, figure, index, order).with_curves(
        figure, curves.replaced(dict(zip(cols, new, strict=True)))
    )


def _with_order(shot: Shot, figure: str, control: int, order: str) -> Shot:
    cast = []
    for one in shot.cast:
        if one.name == figure:
            name = one.rig.controls[control].name
            orders = {**dict(one.orders), name: order}
            one = replace(one, rig=one.rig.with_orders({name: order}), orders=tuple(sorted(orders.items())))
        cast.append(one)
    return replace(shot, cast=tuple(cast))


def _reordered(own: list[Curve], defaults: list[float], old: str, new: str, shot: Shot) -> list[Curve]:
    frames = np.unique(np.concatenate([c.frames for c in own]))
    if not len(frames):
        return own
    every = np.unique(np.concatenate([frames, np.arange(np.floor(frames[0]), np.ceil(frames[-1]) + 1)]))
    while True:
        result = _rewritten(own, frames, defaults, old, new)
        off = _error(own, result, every, defaults, old, new) > NEAR
        more = np.union1d(frames, every[off])
        if len(more) == len(frames):
            return result
        frames = more


def _angles(curves: list[Curve], frames: Floats, defaults: list[float]) -> Floats:
    return np.stack([curve_values(c, frames, d) for c, d in zip(curves, defaults, strict=True)], -1)


def _error(own: list[Curve], new: list[Curve], frames: Floats, defaults: list[float], a: str, b: str) -> Floats:
    """How far the rotation has changed on frames (F,), radians."""
    before = euler_matrix(_angles(own, frames, defaults), a)
    after = euler_matrix(_angles(new, frames, defaults), b)
    return np.asarray(np.linalg.norm(rotation_vector(np.swapaxes(before, -1, -2) @ after), axis=-1))


def _rewritten(own: list[Curve], frames: Floats, defaults: list[float], old: str, new: str) -> list[Curve]:
    """Curves in the new order with keys on frames (F,); keys keep the kinds and roles they have."""
    angles = followed(matrix_euler(euler_matrix(_angles(own, frames, defaults), old), new), new)
    result = []
    for axis, curve in enumerate(own):
        made = NO_KEYS
        for row, frame in enumerate(frames):
            at = next((i for c in (curve, *own) if (i := c.index_at(float(frame))) is not None), None)
            source = next((c for c in (curve, *own) if c.index_at(float(frame)) is not None), None)
            kind = HandleKind(int(source.out_kind[at])) if source is not None and at is not None else HandleKind.LINEAR
            role = KeyRole(int(source.role[at])) if source is not None and at is not None else KeyRole.IN_BETWEEN
            kind = HandleKind.NO_OVERSHOOT if kind is HandleKind.BY_HAND else kind
            made = keyed(made, float(frame), float(angles[row, axis]), KeyStyle(kind, role))
        result.append(made)
    return result


NEIGHBOURS = 1.0 + SAME_FRAME
"""Frames between two keys up to which they are neighbours, of recorded or sampled motion."""


def unroll(shot: Shot, figure: str, controls: Iterable[int]) -> Shot:
    """Take jumps out of rotation curves: of keys on neighbouring frames each is written nearest to the one before.

    A turn between keys that lie further apart was meant and stays as it is.
    """
    rig = shot.figure(figure).rig
    curves: CurveSet = shot.curves(figure)
    changes: dict[int, Curve] = {}
    for index in controls:
        cols = columns(rig, index, "rotate")
        own = [curves[c] for c in cols if c >= 0]
        together = len(own) == 3 and all(np.array_equal(own[0].frames, c.frames) for c in own[1:])
        new = _unrolled_together(own, rig.controls[index].order) if together else [_unrolled(c) for c in own]
        changes |= dict(zip((c for c in cols if c >= 0), new, strict=True))
    return shot.with_curves(figure, curves.replaced(changes))


def jumps(before: Shot, after: Shot, figure: str) -> int:
    """In how many places a figure's rotation curves were unrolled."""
    pairs = zip(before.curves(figure).curves, after.curves(figure).curves, strict=True)
    rows = [np.abs(np.diff(b.values - a.values)) > np.pi for a, b in pairs if a is not b]
    return int(sum(row.sum() for row in rows))


def _unrolled(curve: Curve) -> Curve:
    steps = np.diff(curve.values)
    turns = np.where(np.diff(curve.frames) <= NEIGHBOURS, np.round(steps / (2 * np.pi)), 0.0)
    if not turns.any():
        return curve
    return curve.changed(values=curve.values - 2 * np.pi * np.concatenate([[0.0], np.cumsum(turns)]))


def _unrolled_together(own: list[Curve], order: str) -> list[Curve]:
    """Three curves with the same keys: a jump may also be to the other way of writing the same rotation."""
    made = [_unrolled(c) for c in own]
    near = np.diff(own[0].frames) <= NEIGHBOURS
    left = np.abs(np.diff(np.stack([c.values for c in made], -1), axis=0)).sum(-1)
    if not (near & (left > np.pi)).any():
        return made
    values = np.stack([c.values for c in own], -1)
    new = values.copy()
    for row in range(1, len(new)):  # each key is written nearest to the one before, so this cannot be done at once
        turns = 2 * np.pi * np.round((new[row - 1] - values[row - 1]) / (2 * np.pi))
        new[row] = nearest_euler(values[row], new[row - 1], order) if near[row - 1] else values[row] + turns
    return [c.changed(values=new[:, n]) for n, c in enumerate(own)]
