"""What a rig's solver can know before any motion: index arrays and rest matrices."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.motion.rotations import cross, quaternion_matrix
from bovrin.shot import ChannelRole, ControlKind, Rig

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

_AXES = {"x": 0, "y": 1, "z": 2}
Axes = tuple[int, int, int]


class Turns(NamedTuple):
    """Joints whose rotation channels share an order. columns (n, 3): channel index of x, y, z."""

    order: str
    joints: Ints
    columns: Ints


class Level(NamedTuple):
    """Joints of one depth, and their parents."""

    joints: Ints
    parents: Ints


class LimbPlan(NamedTuple):
    """Index and rest arrays over the limbs (L, ...). Columns index channels; rest places are in the figure's rest space."""

    upper: Ints
    middle: Ints
    end: Ints
    parent: Ints
    goal_move: Ints
    goal_turn: Ints
    goal_orders: tuple[str, ...]
    switch: Ints
    pole_move: Ints
    pole_rest: Floats
    anchors: tuple[tuple[int, ...], ...]
    length_upper: Floats
    length_middle: Floats
    room: Floats
    from_basis_upper: Floats
    from_basis_middle: Floats
    feet: Ints
    foot_columns: Ints
    heel: Floats
    ball: Floats
    toes: Ints
    twists: Ints
    lengths: Ints
    bone_upper: Floats
    bone_middle: Floats
    mates: tuple[tuple[Ints, Ints], ...]
    inside: tuple[tuple[Ints, Ints], ...]


class Shape(NamedTuple):
    """A joint whose control stretches or sizes all that hangs on it: channel indices (-1: none), joints from itself down.

    sizes: the channels that size along the joint's own axes, x, y, z; flips: those that turn it over along an axis; skews: those
    that lean its y axis along another.
    """

    joint: int
    stretch: int
    size: int
    sizes: Axes
    flips: Axes
    skews: Axes
    below: Ints

    @property
    def at_rest(self) -> dict[int, float]:
        """Its channels, and what they are when nothing is out of shape."""
        even, none = (self.stretch, self.size, *self.sizes), (*self.flips, *self.skews)
        return {c: 1.0 for c in even if c >= 0} | {c: 0.0 for c in none if c >= 0}


class Plan(NamedTuple):
    """Everything the solver needs besides channel values."""

    rest_local: Floats
    rest_world: Floats
    rest_inverse: Floats
    turns: tuple[Turns, ...]
    move_joints: Ints
    move_columns: Ints
    body_levels: tuple[Level, ...]
    limb_levels: tuple[Level, ...]
    limbs: LimbPlan | None
    helpers: Ints
    helper_leaders: Ints
    leader_rest_inverse: Floats
    helper_parents: Ints
    helper_share: Floats
    helper_mask: Floats
    shapes: tuple[Shape, ...]
    root_back: Floats | None

    @property
    def at_rest(self) -> dict[int, float]:
        """The channels that carry branches out of shape, and what they are when nothing is."""
        return {c: rest for shape in self.shapes for c, rest in shape.at_rest.items()}

    def in_shape(self, values: Floats, joint: int = -1) -> bool:
        """Whether poses (..., C) carry nothing out of shape: no branch, or that of one joint."""
        cols = {c: r for s in self.shapes if joint in (-1, s.joint) for c, r in s.at_rest.items()}
        return not cols or bool((values[..., list(cols)] == list(cols.values())).all())


def rest_matrices(rig: Rig) -> tuple[Floats, Floats]:
    """Local and world rest matrices, each (J, 4, 4), metres."""
    count = len(rig.joints)
    local = np.tile(np.eye(4), (count, 1, 1))
    local[:, :3, 3] = [joint.translation for joint in rig.joints]
    local[:, :3, :3] = quaternion_matrix(np.array([joint.rotation for joint in rig.joints], float))
    world = local.copy()
    for index, joint in enumerate(rig.joints):
        if joint.parent >= 0:
            world[index] = world[joint.parent] @ local[index]
    return local, world


def columns(rig: Rig, control: int, technical: str) -> list[int]:
    """The channel indices of "translate", "rotate", "size", "flip" or "skew" x, y, z of a control; -1 where it has none."""
    found = [-1, -1, -1]
    for index, channel in zip(rig.span(control), rig.controls[control].channels, strict=True):
        word, _, axis = channel.technical.partition(" ")
        if word == technical and axis in _AXES:
            found[_AXES[axis]] = index
    return found


def special_column(rig: Rig, control: int, technical: str) -> int:
    """The channel index of a control's channel by its technical name, or -1."""
    for index, channel in zip(rig.span(control), rig.controls[control].channels, strict=True):
        if channel.technical == technical:
            return index
    return -1


@cached_by_identity
def plan_of(rig: Rig) -> Plan:
    """The plan of a rig, made once."""
    local, world = rest_matrices(rig)
    moves = _joint_columns(rig, "translate")
    helpers = np.array([f.joint for f in rig.follows], np.intp)
    leaders = np.array([f.leader for f in rig.follows], np.intp)
    limb_joints = _below(rig, {limb.upper for limb in rig.limbs})
    skipped = {f.joint for f in rig.follows}
    return Plan(
        rest_local=local,
        rest_world=world,
        rest_inverse=np.asarray(np.linalg.inv(world), float),
        turns=_turns(rig),
        move_joints=np.array([j for j, _ in moves], np.intp),
        move_columns=np.array([c for _, c in moves], np.intp).reshape(-1, 3),
        body_levels=_levels(rig, set(range(len(rig.joints))) - limb_joints - skipped),
        limb_levels=_levels(rig, limb_joints - skipped),
        limbs=_limb_plan(rig, world) if rig.limbs else None,
        helpers=helpers,
        helper_leaders=leaders,
        leader_rest_inverse=np.swapaxes(local[leaders, :3, :3], -1, -2).copy(),
        helper_parents=np.array([rig.joints[f.joint].parent for f in rig.follows], np.intp),
        helper_share=np.array([f.share for f in rig.follows], float),
        helper_mask=np.array([[not f.twist, 1, not f.twist, 1] for f in rig.follows], float).reshape(-1, 1, 4),
        shapes=_shapes(rig),
        root_back=None if np.array_equal(world[0], np.eye(4)) else np.linalg.inv(world[0]),
    )


def _joint_columns(rig: Rig, technical: str) -> list[tuple[int, list[int]]]:
    found = []
    for index, control in enumerate(rig.controls):
        if control.kind in (ControlKind.WHOLE, ControlKind.JOINT):
            cols = columns(rig, index, technical)
            if any(c >= 0 for c in cols):
                found.append((control.joint, cols))
    return found


def _turns(rig: Rig) -> tuple[Turns, ...]:
    groups: dict[str, list[tuple[int, list[int]]]] = {}
    for index, control in enumerate(rig.controls):
        if control.kind in (ControlKind.WHOLE, ControlKind.JOINT):
            cols = columns(rig, index, "rotate")
            if any(c >= 0 for c in cols):
                groups.setdefault(control.order, []).append((control.joint, cols))
    return tuple(
        Turns(order, np.array([j for j, _ in rows], np.intp), np.array([c for _, c in rows], np.intp))
        for order, rows in groups.items()
    )


def _shapes(rig: Rig) -> tuple[Shape, ...]:
    found = []
    for index, control in enumerate(rig.controls):
        stretch, size = special_column(rig, index, ChannelRole.STRETCH), special_column(rig, index, ChannelRole.SIZE)
        sizes, flips, skews = (_axes(rig, index, r) for r in (ChannelRole.SIZE, ChannelRole.FLIP, ChannelRole.SKEW))
        own = max(stretch, size, *sizes, *flips, *skews)
        if control.kind in (ControlKind.WHOLE, ControlKind.JOINT) and own >= 0:
            below = np.array(sorted(_below(rig, {control.joint})), np.intp)
            found.append(Shape(control.joint, stretch, size, sizes, flips, skews, below))
    return tuple(sorted(found, key=lambda shape: -shape.joint))


def _axes(rig: Rig, control: int, technical: str) -> Axes:
    x, y, z = columns(rig, control, technical)
    return x, y, z


def _below(rig: Rig, tops: set[int]) -> set[int]:
    found: set[int] = set()
    for index, joint in enumerate(rig.joints):
        if index in tops or joint.parent in found:
            found.add(index)
    return found


def _levels(rig: Rig, wanted: set[int]) -> tuple[Level, ...]:
    depth: dict[int, int] = {}
    for index, joint in enumerate(rig.joints):
        if index in wanted:
            depth[index] = depth.get(joint.parent, -1) + 1
    result = []
    for level in range(max(depth.values(), default=-1) + 1):
        joints = [i for i, d in depth.items() if d == level]
        result.append(Level(np.array(joints, np.intp), np.array([rig.joints[i].parent for i in joints], np.intp)))
    return tuple(result)


def _limb_plan(rig: Rig, world: Floats) -> LimbPlan:
    limbs = rig.limbs
    upper, middle, end = (np.array([getattr(limb, n) for limb in limbs], np.intp) for n in ("upper", "middle", "end"))
    place = world[:, :3, 3]
    pole = np.array([limb.pole_rest for limb in limbs], float)
    feet = np.array([i for i, limb in enumerate(limbs) if limb.foot is not None], np.intp)
    shapes = [limb.foot for limb in limbs if limb.foot is not None]
    return LimbPlan(
        upper=upper,
        middle=middle,
        end=end,
        parent=np.array([rig.joints[j].parent for j in upper], np.intp),
        goal_move=np.array([columns(rig, limb.goal, "translate") for limb in limbs], np.intp),
        goal_turn=np.array([columns(rig, limb.goal, "rotate") for limb in limbs], np.intp),
        goal_orders=tuple(rig.controls[limb.goal].order for limb in limbs),
        switch=np.array([special_column(rig, limb.goal, ChannelRole.REACH) for limb in limbs], np.intp),
        pole_move=np.array([columns(rig, limb.pole, "translate") for limb in limbs], np.intp),
        pole_rest=pole,
        anchors=tuple(limb.pole_anchors for limb in limbs),
        length_upper=np.linalg.norm(place[middle] - place[upper], axis=-1),
        length_middle=np.linalg.norm(place[end] - place[middle], axis=-1),
        room=_soft_room(place[upper], place[middle], place[end]),
        from_basis_upper=np.swapaxes(_bone_basis(place[upper], place[middle], place[end], pole, first=True), -1, -2)
        @ world[upper, :3, :3],
        from_basis_middle=np.swapaxes(_bone_basis(place[upper], place[middle], place[end], pole, first=False), -1, -2)
        @ world[middle, :3, :3],
        feet=feet,
        foot_columns=np.array(
            [[special_column(rig, limbs[i].goal, r) for r in (ChannelRole.HEEL, ChannelRole.BALL)] for i in feet],
            np.intp,
        ).reshape(-1, 2),
        heel=np.array([foot.heel for foot in shapes], float).reshape(-1, 3),
        ball=np.array([foot.ball for foot in shapes], float).reshape(-1, 3),
        toes=np.array([foot.toes for foot in shapes], np.intp),
        twists=_pole_columns(rig, "twist"),
        lengths=_pole_columns(rig, "length"),
        bone_upper=_bone_in(world, upper, middle),
        bone_middle=_bone_in(world, middle, end),
        mates=tuple((_mates(rig, limb.upper, limb.middle), _mates(rig, limb.middle, limb.end)) for limb in limbs),
        inside=tuple((_inside(rig, limb.upper, limb.middle), _inside(rig, limb.middle, limb.end)) for limb in limbs),
    )


def _pole_columns(rig: Rig, what: str) -> Ints:
    rows = [[special_column(rig, limb.pole, f"{bone} {what}") for bone in ("upper", "lower")] for limb in rig.limbs]
    return np.array(rows, np.intp)


def _bone_in(world: Floats, start: Ints, stop: Ints) -> Floats:
    """Unit directions (L, 3) from joints to joints at rest, in the first ones' own axes."""
    along = unit(world[stop, :3, 3] - world[start, :3, 3])
    return np.asarray((np.swapaxes(world[start, :3, :3], -1, -2) @ along[..., None])[..., 0])


def _inside(rig: Rig, start: int, stop: int) -> Ints:
    """The joints between two of a limb's, from the first down."""
    found, at = [], rig.joints[stop].parent
    while at not in (start, -1):
        found.append(at)
        at = rig.joints[at].parent
    return np.array(found[::-1], np.intp)


def _mates(rig: Rig, start: int, stop: int) -> Ints:
    """What moves when a bone gets longer: its end, what lies inside it, and helpers on the same spot of the same parent."""
    what = rig.joints[stop]
    same = [f.joint for f in rig.follows if rig.joints[f.joint].parent == what.parent]
    near = [j for j in same if np.allclose(rig.joints[j].translation, what.translation, atol=1e-9)]
    return np.array([stop, *_inside(rig, start, stop), *near], np.intp)


SOFT = 0.015
"""Share of a limb's length over which it eases into being straight, so that it never snaps."""


def _soft_room(upper: Floats, middle: Floats, end: Floats) -> Floats:
    """Metres over which each limb eases into being straight (L,); never so many that the rest pose is out of reach."""
    full = np.linalg.norm(middle - upper, axis=-1) + np.linalg.norm(end - middle, axis=-1)
    spare = full - np.linalg.norm(end - upper, axis=-1)
    return np.asarray(np.clip(spare, 1e-3 * full, SOFT * full))


def _bone_basis(upper: Floats, middle: Floats, end: Floats, pole: Floats, *, first: bool) -> Floats:
    """(L, 3, 3): columns bone, across the bend plane's normal, normal; at rest, for the upper or the middle bone."""
    along = unit(end - upper)
    aside = pole - upper
    aside = unit(aside - (aside * along).sum(-1, keepdims=True) * along)
    bone = unit(middle - upper) if first else unit(end - middle)
    return basis_from(bone, cross(along, aside))


def basis_from(bone: Floats, normal: Floats) -> Floats:
    """Right-handed frames (..., 3, 3) whose first column is `bone` (unit) and whose third is near `normal`."""
    third = unit(normal - (normal * bone).sum(-1, keepdims=True) * bone)
    result = np.empty((*bone.shape, 3))
    result[..., 0], result[..., 1], result[..., 2] = bone, cross(third, bone), third
    return result


def unit(v: Floats) -> Floats:
    """Vectors (..., 3) scaled to length one; zero stays zero."""
    size = np.sqrt((v * v).sum(-1, keepdims=True))
    return np.asarray(v / np.where(size > 1e-12, size, 1.0))
