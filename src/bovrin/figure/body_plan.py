"""What whole-body posing can know before a drag: which joints give way, about which axes, how stiffly and how far."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.plan import columns, cross, plan_of, unit
from bovrin.shot import Bend, ControlKind, Rig

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]


class BodyPlan(NamedTuple):
    """Arrays over a small tree: the n joints above the wanted ones, parents first. `joints` (n,): indices in the rig.

    Turning rows (m): `turning` their places in the tree, `axes` (m, 3, 3) whose columns are the axes they turn about
    (zero: none), `stiffness`, `low`, `high` (m, 3). Moving rows (k): `moving`, `move_stiffness` (k,).
    `above` (T, n): whether a joint carries the wanted joint t along when it turns; `carries` the same when it moves.
    """

    joints: Ints
    parents: Ints
    levels: tuple[tuple[Ints, Ints], ...]
    turning: Ints
    axes: Floats
    stiffness: Floats
    low: Floats
    high: Floats
    hinge: NDArray[np.bool_]
    moving: Ints
    move_stiffness: Floats
    wanted: Ints
    above: NDArray[np.bool_]
    carries: NDArray[np.bool_]


@cached_by_identity(16)
def bends_of(rig: Rig) -> dict[int, Bend]:
    """How each joint gives way: as the rig says, or guessed from its build when it says nothing."""
    if rig.bends:
        return {bend.joint: bend for bend in rig.bends}
    helpers = {follow.joint for follow in rig.follows}
    trunk = {j for limb in rig.limbs for j in ancestors(rig, limb.upper)[1:]}
    ends = {limb.end for limb in rig.limbs}
    found = {}
    moving = movers(rig)
    for index, control in enumerate(rig.controls):
        joint = control.joint
        below_end = any(j in ends for j in ancestors(rig, joint)[1:])
        if control.kind not in (ControlKind.JOINT, ControlKind.WHOLE) or joint in helpers or below_end:
            continue
        turns = max(columns(rig, index, "rotate")) >= 0 and control.kind is ControlKind.JOINT
        stiff = (3.0 if joint in trunk else 1.0) if turns else 0.0
        found[joint] = Bend(joint, (stiff, stiff, stiff), move=9.0 if joint in moving else 0.0)
    return found


def movers(rig: Rig) -> set[int]:
    """The joints that carry the body about: the topmost below the whole figure's that moves, or else the root."""
    own = {
        c.joint
        for i, c in enumerate(rig.controls)
        if c.kind is ControlKind.JOINT and min(columns(rig, i, "translate")) >= 0
    }
    carrying = {j for j in own if any(j in ancestors(rig, limb.upper) for limb in rig.limbs)}
    return carrying or {c.joint for c in rig.controls if c.kind is ControlKind.WHOLE}


def ancestors(rig: Rig, joint: int) -> list[int]:
    """A joint and all above it, nearest first."""
    found = []
    while joint >= 0:
        found.append(joint)
        joint = rig.joints[joint].parent
    return found


def body_plan(rig: Rig, wanted: tuple[int, ...]) -> BodyPlan:
    """The plan for some wanted joints (T,)."""
    return _body_plan(rig, wanted)


@cached_by_identity(64)
def _body_plan(rig: Rig, wanted: tuple[int, ...]) -> BodyPlan:
    lines = [ancestors(rig, joint) for joint in wanted]
    joints = sorted({joint for line in lines for joint in line})
    at = {joint: i for i, joint in enumerate(joints)}
    parents = np.array([at.get(rig.joints[j].parent, -1) for j in joints], np.intp)
    bends = [bends_of(rig)[j] for j in joints if j in bends_of(rig)]
    turning = [b for b in bends if max(b.stiffness) > 0 and any(b.joint in line[1:] for line in lines)]
    moving = [b for b in bends if b.move > 0]
    axes, hinge = _axes(rig, [b.joint for b in turning])
    stiffness = np.array([b.stiffness for b in turning], float).reshape(-1, 3)
    stiffness[hinge] = stiffness[hinge].min(1, keepdims=True)
    limits = np.array([_limits(b, axes[i, :, 0], hinge[i]) for i, b in enumerate(turning)], float).reshape(-1, 2, 3)
    return BodyPlan(
        joints=np.array(joints, np.intp),
        parents=parents,
        levels=_levels(parents),
        turning=np.array([at[b.joint] for b in turning], np.intp),
        axes=axes,
        stiffness=stiffness,
        low=limits[:, 0],
        high=limits[:, 1],
        hinge=hinge,
        moving=np.array([at[b.joint] for b in moving], np.intp),
        move_stiffness=np.array([b.move for b in moving], float),
        wanted=np.array([at[j] for j in wanted], np.intp),
        above=np.array([[j in line[1:] for j in joints] for line in lines], bool),
        carries=np.array([[j in line for j in joints] for line in lines], bool),
    )


def _levels(parents: Ints) -> tuple[tuple[Ints, Ints], ...]:
    depth: list[int] = []
    for parent in parents:
        depth.append(depth[parent] + 1 if parent >= 0 else 0)
    rows = [np.flatnonzero(np.array(depth) == level) for level in range(max(depth) + 1)]
    return tuple((row, parents[row]) for row in rows)


def _axes(rig: Rig, joints: list[int]) -> tuple[Floats, NDArray[np.bool_]]:
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


def _limits(bend: Bend, axis: Floats, hinge: np.bool_) -> Floats:
    """(2, 3): least and most along each axis; those of a hinge are the rig's along the axis nearest to it."""
    if not hinge:
        return np.array([bend.low, bend.high])
    main = int(np.abs(axis).argmax())
    ends = sorted(np.sign(axis[main]) * v for v in (bend.low[main], bend.high[main]))
    return np.array([[ends[0], 0.0, 0.0], [ends[1], 0.0, 0.0]])
