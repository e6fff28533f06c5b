"""Another drawing of the same parts as a key pose: places, turns, sizes, leans and sides solved from the shapes themselves."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.flat.parts import drawing_column, flat_controls, order_column
from bovrin.craft.keying.keys import local_style, set_channels
from bovrin.errors import BadFigure
from bovrin.figure.flat.assembling import facing_now
from bovrin.figure.flat.layers import Facing
from bovrin.figure.solve.plan import columns, rest_matrices, special_column
from bovrin.shot import ChannelRole, Figure, KeyRole, Shot

Floats = NDArray[np.float64]
APART = 0.02
"""How far, as a share of its size, the points of a shape may lie from where one move brings them: beyond it is another
shape."""
FLAT = 1e-6


class Posed(NamedTuple):
    """A shot with a pose more, and what was not taken over, in words."""

    shot: Shot
    told: list[str]


class DrawnPose(NamedTuple):
    """How a part lies in another drawing: which of its drawings is shown, and what brings that from rest there (2, 3), in the
    drawing's units; None where its shape is another."""

    part: str
    drawing: str
    way: Floats | None


def way_between(rest: Floats, there: Floats) -> Floats | None:
    """The affine way (2, 3) that brings points (N, 2) to others best (least squares); None where no single one does."""
    if rest.shape != there.shape or len(rest) < 3:
        return None
    base = np.column_stack([rest, np.ones(len(rest))])
    if np.linalg.matrix_rank(base, tol=FLAT * max(float(np.abs(base).max()), 1.0)) < 3:
        return None
    way = np.asarray(np.linalg.lstsq(base, there, rcond=None)[0].T, float)
    apart = np.linalg.norm(base @ way.T - there, axis=1).max()
    return way if apart <= APART * max(float(np.ptp(there, axis=0).max()), 1e-9) else None


def with_pose(shot: Shot, name: str, poses: Sequence[DrawnPose], frame: float) -> Posed:
    """A shot with a key pose on a frame in which the parts of a flat figure lie as in another drawing of them, the rearmost
    first. Limbs are posed joint by joint there."""
    figure = shot.figure(name)
    if figure.model.drawn is None:
        raise BadFigure(f"'{name}' was not brought from a drawing.", advice="Bring it anew.")
    own = {figure.rig.joints[figure.rig.controls[c].joint].name: c for c in flat_controls(figure.rig)}
    known = [pose for pose in poses if pose.part in own]
    told = [f"The part '{p.part}' of the other drawing is not in the figure." for p in poses if p.part not in own]
    told += [f"'{n}' is not in the other drawing; it stays." for n in own if n not in {p.part for p in poses}]
    told += [f"The shape of '{p.part}' is another; it stays where it was." for p in known if p.way is None]
    values = _places(figure, {p.part: p.way for p in known if p.way is not None}, own)
    values |= _looks(figure, known, own)
    style = local_style(shot, name, frame, KeyRole.KEY_POSE)
    return Posed(set_channels(shot, name, frame, values, style), told)


def _looks(figure: Figure, poses: Sequence[DrawnPose], own: Mapping[str, int]) -> dict[int, float]:
    """Which drawing each part shows, and the order of those that are there."""
    rig, values = figure.rig, dict[int, float]()
    for pose in poses:
        column = drawing_column(rig, own[pose.part])
        if column >= 0 and pose.drawing in rig.channels[column].choices:
            values[column] = float(rig.channels[column].choices.index(pose.drawing))
    order = [order_column(rig, own[pose.part]) for pose in poses]
    ranks = sorted(rig.channels[c].default for c in order)
    return values | dict(zip(order, ranks, strict=True))


def _places(figure: Figure, ways: Mapping[str, Floats], own: Mapping[str, int]) -> dict[int, float]:
    """The channels of parts that lie where ways from rest bring them."""
    rig = figure.rig
    facing = facing_now(figure)
    along = 0 if facing is Facing.FRONT else 2
    world = rest_matrices(rig)[1][:, :3, 3][:, [along, 1]]
    controls = {rig.controls[c].joint: c for c in own.values()}
    placed: list[Floats] = []
    values: dict[int, float] = {}
    for joint, what in enumerate(rig.joints):
        above = placed[what.parent] if what.parent >= 0 else np.eye(3)
        offset = world[joint] - (world[what.parent] if what.parent >= 0 else 0.0)
        way = ways.get(what.name) if joint in controls else None
        if way is None:
            placed.append(above @ _moved(offset))
            continue
        here = _in_plane(figure, facing, way) @ _moved(world[joint])
        placed.append(here)
        local = np.asarray(np.linalg.solve(above, here), float)
        values |= _told(figure, controls[joint], local, offset, facing)
    for n, control in enumerate(rig.controls):  # the points of parts that bend lie straight
        part, bends, _ = control.name.partition(" bend ")
        values |= {c: rig.channels[c].default for c in rig.span(n)} if bends and part in ways else {}
    for limb in rig.limbs:
        if {rig.joints[j].name for j in (limb.upper, limb.middle, limb.end)} & ways.keys():
            switch = special_column(rig, limb.goal, ChannelRole.REACH)
            values |= {switch: 0.0} if switch >= 0 else {}
    return values


def _moved(by: Floats) -> Floats:
    made = np.eye(3)
    made[:2, 2] = by
    return made


def _in_plane(figure: Figure, facing: Facing, way: Floats) -> Floats:
    """A way of the drawing as one of the plane's own axes, level and up, metres (3, 3)."""
    drawn = figure.model.drawn
    assert drawn is not None
    sign = -1.0 if facing is Facing.LEFT else 1.0
    metres = figure.model.metres
    out = np.array(
        [[sign * metres, 0, -sign * metres * drawn.middle], [0, -metres, metres * drawn.ground], [0, 0, 1.0]]
    )
    return np.asarray(out @ np.vstack([way, [0.0, 0.0, 1.0]]) @ np.linalg.inv(out))


def _told(figure: Figure, control: int, local: Floats, rest: Floats, facing: Facing) -> dict[int, float]:
    """A part's channels that make a local way (3, 3): move, turn, lean, sizes, side (M = R K S, by QR)."""
    rig = figure.rig
    linear = local[:2, :2].copy()
    flipped = np.linalg.det(linear) < 0
    if flipped:
        linear[:, 0] *= -1.0
    turn, shape = np.linalg.qr(linear)
    signs = np.where(np.diag(shape) < 0, -1.0, 1.0)
    turn, shape = turn * signs, shape * signs[:, None]
    angle = math.atan2(turn[1, 0], turn[0, 0])
    move = local[:2, 2] - rest
    axis = 0 if facing is Facing.FRONT else 2
    moves, sizes = columns(rig, control, "translate"), columns(rig, control, ChannelRole.SIZE)
    turned = next(c for c in columns(rig, control, "rotate") if c >= 0)
    lean = math.atan2(float(shape[0, 1]), float(shape[1, 1]))
    return {
        moves[axis]: float(move[0]),
        moves[1]: float(move[1]),
        turned: angle if facing is Facing.FRONT else -angle,
        sizes[axis]: float(shape[0, 0]),
        sizes[1]: float(shape[1, 1]),
        max(columns(rig, control, ChannelRole.SKEW)): lean,
        max(columns(rig, control, ChannelRole.FLIP)): 1.0 if flipped else 0.0,
    }
