"""What whole-body posing can know before a drag: which joints give way, about which axes, how stiffly and how far."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.body.bends import ancestors, bends_of, upright_joints
from bovrin.figure.solve.plan import columns, plan_of, unit
from bovrin.motion.rotations import cross
from bovrin.shot import Bend, ControlKind, Rig

Floats = NDArray[np.float64]
Flags = NDArray[np.bool_]
Ints = NDArray[np.intp]

ENDLESS = 3.1
"""A joint that turns this far either way, radians, about all its axes has no limits."""


class Turning(NamedTuple):
    """The joints that turn (m): `place` in the tree, `axes` (m, 3, 3) whose columns they turn about (zero: none).

    stiffness, low, high (m, 3); hinge (m,): turns about its first axis only; lower (m, 3): of a hinge, the bone below it in
    its own axes; endless (m,): has no limits.
    """

    place: Ints
    axes: Floats
    stiffness: Floats
    low: Floats
    high: Floats
    hinge: Flags
    lower: Floats
    endless: Flags


class Feet(NamedTuple):
    """Held feet that may roll (r): which limb, which of the wanted joints, the ankle's place in the tree, and the ball
    from the ankle at rest, world axes (r, 3)."""

    limbs: tuple[int, ...]
    wanted: Ints
    ankles: Ints
    balls: Floats


class BodyPlan(NamedTuple):
    """Arrays over a small tree: the n joints above the wanted ones, parents first. `joints` (n,): indices in the rig.

    There are D degrees of freedom: three of each turning joint, three of each moving one, one of each foot that may roll.
    `above` (T, n): whether a joint carries the wanted joint t along when it turns; `carries` the same when it moves.
    `upright` (Q,): places of joints that keep their attitude; `leaning` (Q, D): the freedoms that turn them.
    `outer` (D, D): whether the first freedom turns the joint of the second along; `same`: whether both turn one joint.
    """

    joints: Ints
    parents: Ints
    levels: tuple[tuple[Ints, Ints], ...]
    turning: Turning
    moving: Ints
    move_stiffness: Floats
    feet: Feet
    wanted: Ints
    above: Flags
    carries: Flags
    upright: Ints
    leaning: Flags
    outer: Flags
    same: Flags


def body_plan(rig: Rig, wanted: tuple[int, ...], rolling: tuple[int, ...] = ()) -> BodyPlan:
    """The plan for some wanted joints (T,), the first of which is pulled. rolling: limbs whose feet may roll."""
    return _body_plan(rig, wanted, rolling)


@cached_by_identity
def _body_plan(rig: Rig, wanted: tuple[int, ...], rolling: tuple[int, ...]) -> BodyPlan:
    lines = [ancestors(rig, joint) for joint in wanted]
    upright = upright_joints(rig)
    leaning = [ancestors(rig, joint) for joint in upright]
    joints = sorted({joint for line in lines + leaning for joint in line})
    at = {joint: i for i, joint in enumerate(joints)}
    parents = np.array([at.get(rig.joints[j].parent, -1) for j in joints], np.intp)
    bends = [bends_of(rig)[j] for j in joints if j in bends_of(rig)]
    carrying = {j for line in lines for j in line[1:]} | {j for line in leaning for j in line}
    turning = [b for b in bends if max(b.stiffness) > 0 and b.joint in carrying]
    moving = [b for b in bends if b.move > 0]
    freedoms = np.array([b.joint for b in turning for _ in range(3)], int)
    count = len(freedoms) + 3 * len(moving) + len(rolling)
    outer, same = _kinship(rig, freedoms, [b.joint for b in moving], count)
    return BodyPlan(
        joints=np.array(joints, np.intp),
        parents=parents,
        levels=_levels(parents),
        turning=_turning(rig, turning, at),
        moving=np.array([at[b.joint] for b in moving], np.intp),
        move_stiffness=np.array([b.move for b in moving], float),
        feet=_feet(rig, wanted, rolling, at),
        wanted=np.array([at[j] for j in wanted], np.intp),
        above=np.array([[j in line[1:] for j in joints] for line in lines], bool),
        carries=np.array([[j in line for j in joints] for line in lines], bool),
        upright=np.array([at[j] for j in upright], np.intp),
        leaning=_padded(np.array([np.isin(freedoms, line) for line in leaning], bool), len(upright), count),
        outer=outer,
        same=same,
    )


def _padded(flags: Flags, rows: int, columns: int) -> Flags:
    """Flags widened to (rows, columns) with False."""
    result = np.zeros((rows, columns), bool)
    if flags.size:
        result[: len(flags), : flags.shape[1]] = flags
    return result


def _kinship(rig: Rig, turns: NDArray[np.int_], moves: list[int], count: int) -> tuple[Flags, Flags]:
    """`outer` and `same` of a plan (count, count). turns: the joint of each turning freedom; moves: moving joints."""
    lines = {int(j): ancestors(rig, int(j))[1:] for j in {*turns.tolist(), *moves}}
    all_ = [*turns.tolist(), *(j for j in moves for _ in range(3))]
    outer = np.array([np.isin(turns, lines[j]) for j in all_], bool).reshape(len(all_), len(turns)).T
    same = turns[:, None] == turns[None]
    return _padded(outer, count, count), _padded(same, count, count)


def _turning(rig: Rig, bends: list[Bend], at: dict[int, int]) -> Turning:
    joints = [b.joint for b in bends]
    axes, hinge = _axes(rig, joints)
    stiffness = np.array([b.stiffness for b in bends], float).reshape(-1, 3)
    stiffness[hinge] = stiffness[hinge].min(1, keepdims=True)
    limits = np.array([_limits(b, axes[i, :, 0], hinge[i]) for i, b in enumerate(bends)], float).reshape(-1, 2, 3)
    endless = [min(b.high) >= ENDLESS and max(b.low) <= -ENDLESS for b in bends]
    return Turning(
        place=np.array([at[j] for j in joints], np.intp),
        axes=axes,
        stiffness=stiffness,
        low=limits[:, 0],
        high=limits[:, 1],
        hinge=hinge,
        lower=_lower_bones(rig, joints),
        endless=np.array(endless, bool) & ~hinge,
    )


def _feet(rig: Rig, wanted: tuple[int, ...], rolling: tuple[int, ...], at: dict[int, int]) -> Feet:
    limbs = [rig.limbs[n] for n in rolling]
    return Feet(
        limbs=rolling,
        wanted=np.array([wanted.index(limb.end) for limb in limbs], np.intp),
        ankles=np.array([at[limb.end] for limb in limbs], np.intp),
        balls=np.array([limb.foot.ball for limb in limbs if limb.foot is not None], float).reshape(-1, 3),
    )


def _levels(parents: Ints) -> tuple[tuple[Ints, Ints], ...]:
    depth: list[int] = []
    for parent in parents:
        depth.append(depth[parent] + 1 if parent >= 0 else 0)
    rows = [np.flatnonzero(np.array(depth) == level) for level in range(max(depth) + 1)]
    return tuple((row, parents[row]) for row in rows)


def _axes(rig: Rig, joints: list[int]) -> tuple[Floats, Flags]:
    """The axes each joint turns about, as columns (m, 3, 3), and which of the joints are hinges.

    The middle joint of a limb is a hinge about the normal of the plane the limb bends in; others turn about the axes
    that their controls have channels for.
    """
    axes = np.tile(np.eye(3), (len(joints), 1, 1))
    hinge = np.zeros(len(joints), bool)
    middles = {limb.middle: i for i, limb in enumerate(rig.limbs)}
    turned = {c.joint: columns(rig, i, "rotate") for i, c in enumerate(rig.controls) if c.kind is ControlKind.JOINT}
    for row, joint in enumerate(joints):
        if joint in middles:
            axes[row] = 0.0
            axes[row, :, 0] = _bend_normal(rig, middles[joint])
            hinge[row] = True
        elif joint in turned:
            axes[row, :, [i for i, c in enumerate(turned[joint]) if c < 0]] = 0.0
    return axes, hinge


def _bend_normal(rig: Rig, index: int) -> Floats:
    """The axis, in the middle joint's own, that bends a limb toward its pole when turned the positive way."""
    limb = rig.limbs[index]
    world = plan_of(rig).rest_world
    along = world[limb.end, :3, 3] - world[limb.upper, :3, 3]
    aside = np.asarray(limb.pole_rest) - world[limb.upper, :3, 3]
    normal = unit(cross(unit(along), aside))
    return np.asarray(world[limb.middle, :3, :3].T @ -normal)


def _lower_bones(rig: Rig, joints: list[int]) -> Floats:
    """The bone below each joint that is a limb's middle, in the joint's own axes (m, 3); zeros for others."""
    world = plan_of(rig).rest_world
    ends = {limb.middle: limb.end for limb in rig.limbs}
    bones = np.zeros((len(joints), 3))
    for row, joint in enumerate(joints):
        if joint in ends:
            bones[row] = world[joint, :3, :3].T @ (world[ends[joint], :3, 3] - world[joint, :3, 3])
    return bones


def _limits(bend: Bend, axis: Floats, hinge: np.bool_) -> Floats:
    """(2, 3): least and most along each axis; those of a hinge are the rig's along the axis nearest to it."""
    if not hinge:
        return np.array([bend.low, bend.high])
    main = int(np.abs(axis).argmax())
    ends = sorted(np.sign(axis[main]) * v for v in (bend.low[main], bend.high[main]))
    return np.array([[ends[0], 0.0, 0.0], [ends[1], 0.0, 0.0]])
