"""A body taken hold of: where a drag begins, and how it stands at other values of its degrees of freedom."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.body.barriers import Barriers, barriers_at
from bovrin.figure.body.held_turns import limits_of
from bovrin.figure.body.plan import BodyPlan
from bovrin.figure.solve.plan import Plan, plan_of
from bovrin.motion.rotations import cross, matrix_quaternion, rotation_vector, vector_matrix
from bovrin.shot import Rig

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

FOLDED = 2.6
"""How far from straight a limb folds at most, radians."""
ROLL_MOST = 1.0
"""How far a held foot rolls on its ball, radians."""
SOFT = 0.02
"""Radians about its limit over which an ankle comes to be held."""


class Rolls(NamedTuple):
    """How held feet may roll (r): about `axis` (r, 3) through `pivot` (r, 3), the ankle at `arm` (r, 3) from it at first."""

    axis: Floats
    pivot: Floats
    arm: Floats


class Ankles(NamedTuple):
    """How held feet that roll are turned (r): shins (r,): places in the tree of what carries them; rest, start (r, 3, 3): the
    turn at rest in the shin's axes, and the one in the world at first; low, high (r, 3): limits of the turn from rest; bends
    (r, D): the freedoms that turn the shin."""

    shins: Ints
    rest: Floats
    start: Floats
    low: Floats
    high: Floats
    bends: NDArray[np.bool_]


class Body(NamedTuple):
    """A body about to be dragged. Degrees of freedom (D,): rotation vectors, then moves, then rolls; radians and metres.

    local (n, 4, 4): joints in their parents; base (m, 3, 3): turns at the zero of the parameters; start, stiff (D,):
    parameters at the beginning, and what a unit away from it costs, squared; barriers: their limits; live: the freedoms
    that exist; facing (Q, 3, 3): turns of the upright joints; pulled (Q,): whether the pulled joint hangs on them;
    riders (R,), rides (R, 3): all joints that go along, by the joint in the tree that carries them and their place in its
    axes.
    """

    plan: BodyPlan
    local: Floats
    base: Floats
    start: Floats
    barriers: Barriers
    stiff: Floats
    live: Ints
    rolls: Rolls
    ankles: Ankles
    facing: Floats
    pulled: NDArray[np.bool_]
    riders: Ints
    rides: Floats


def body_at(plan: BodyPlan, rig: Rig, world: Floats) -> Body:
    """Take hold of a body whose joints are at world (J, 4, 4), rigid."""
    rig_plan, parents = plan_of(rig), [joint.parent for joint in rig.joints]
    tree = world[plan.joints]
    local = tree.copy()
    held = plan.parents >= 0
    local[held] = np.linalg.inv(tree[plan.parents[held]]) @ tree[held]
    base, turned = _bases(plan, rig_plan, local)
    moves, feet = 3 * len(plan.moving), len(plan.feet.limbs)
    start = np.concatenate([turned.ravel(), np.zeros(moves + feet)])
    turning = plan.turning
    stiff = np.concatenate([turning.stiffness.ravel(), np.repeat(plan.move_stiffness, 3), np.zeros(feet)]) ** 2
    turns = (np.abs(turning.axes).sum(1) > 0) & (turning.stiffness > 0)
    exists = np.concatenate([turns.ravel(), np.ones(moves + feet, bool)])
    straight = 3 * np.flatnonzero(turning.hinge)
    low, high = _limits(plan, base, local, straight)
    riders, rides = _riders(plan, parents, world)
    return Body(
        plan=plan,
        local=local,
        base=base,
        start=start,
        barriers=barriers_at(start, low, high, straight, feet),
        stiff=stiff,
        live=np.flatnonzero(exists),
        rolls=_rolls(plan, rig_plan, tree),
        ankles=_ankles(plan, rig, tree, len(start)),
        facing=tree[plan.upright, :3, :3],
        pulled=plan.carries[0, plan.upright],
        riders=riders,
        rides=rides,
    )


def _bases(plan: BodyPlan, rig_plan: Plan, local: Floats) -> tuple[Floats, Floats]:
    """Turns (m, 3, 3) from which rotation vectors count, and the vectors (m, 3) along the joints' axes now.

    Limits count from rest; joints without limits count from now, so that half a turn is far away. What a joint is
    turned about axes that it has no channels for is left in the base.
    """
    turning = plan.turning
    turn = local[turning.place, :3, :3]
    rest = np.where(turning.endless[:, None, None], turn, rig_plan.rest_local[plan.joints[turning.place], :3, :3])
    away = np.swapaxes(rest, -1, -2) @ turn
    vector = np.einsum("mij,mi->mj", turning.axes, rotation_vector(away))
    hinged = np.zeros_like(vector)
    q = matrix_quaternion(away)
    angle = 2.0 * np.arctan2((q[..., :3] * turning.axes[..., 0]).sum(-1), q[..., 3])
    hinged[:, 0] = (angle + np.pi) % (2 * np.pi) - np.pi
    vector = np.where(turning.hinge[:, None], hinged, vector)
    full = np.abs(turning.axes).sum((1, 2)) > 2.5
    less = turn @ np.swapaxes(vector_matrix((turning.axes @ vector[..., None])[..., 0]), -1, -2)
    return np.where(full[:, None, None], rest, less), vector


def _limits(plan: BodyPlan, base: Floats, local: Floats, straight: Ints) -> tuple[Floats, Floats]:
    """The least and the most of every parameter (D,). A hinge goes no further than straight, and folds only so far."""
    moves, feet = np.full(3 * len(plan.moving), np.inf), len(plan.feet.limbs)
    low = np.concatenate([plan.turning.low.ravel(), -moves, np.full(feet, -np.inf)])
    high = np.concatenate([plan.turning.high.ravel(), moves, np.full(feet, ROLL_MOST)])
    at = _straight(plan, base, local)
    low[straight] = np.maximum(low[straight], at)
    high[straight] = np.minimum(high[straight], at + FOLDED)
    return low, high


def _straight(plan: BodyPlan, base: Floats, local: Floats) -> Floats:
    """The parameter of each hinge (h,) at which the bone above it and the one below it lie in one line."""
    turning = plan.turning
    hinge = turning.hinge
    axis = (base[hinge] @ turning.axes[hinge][..., :1])[..., 0]
    above = local[turning.place[hinge], :3, 3]
    below = (base[hinge] @ turning.lower[hinge][..., None])[..., 0]
    above = above - (above * axis).sum(-1, keepdims=True) * axis
    below = below - (below * axis).sum(-1, keepdims=True) * axis
    return np.asarray(np.arctan2((cross(below, above) * axis).sum(-1), (above * below).sum(-1)))


def _rolls(plan: BodyPlan, rig_plan: Plan, tree: Floats) -> Rolls:
    """Where held feet roll: about the ball, sideways as the foot stands."""
    ankles = plan.feet.ankles
    turn = tree[ankles, :3, :3] @ np.swapaxes(rig_plan.rest_world[plan.joints[ankles], :3, :3], -1, -2)
    ball = (turn @ plan.feet.balls[..., None])[..., 0]
    return Rolls(turn[..., 0], tree[ankles, :3, 3] + ball, -ball)


def _ankles(plan: BodyPlan, rig: Rig, tree: Floats, count: int) -> Ankles:
    places = plan.feet.ankles
    joints, shins = plan.joints[places].tolist(), plan.parents[places]
    rest, start = plan_of(rig).rest_local[joints, :3, :3], tree[places, :3, :3]
    first = rotation_vector(np.swapaxes(tree[shins, :3, :3] @ rest, -1, -2) @ start)
    bends = np.zeros((len(places), count), bool)
    turning = 3 * len(plan.turning.place)
    bends[:, :turning] = np.repeat(plan.above[plan.feet.wanted][:, plan.turning.place], 3, axis=1)
    low, high = limits_of(rig, joints, first)
    low, high = np.minimum(low + 0.5 * SOFT, first), np.maximum(high - 0.5 * SOFT, first)
    return Ankles(shins, rest, start, low, high, bends)


def _riders(plan: BodyPlan, parents: list[int], world: Floats) -> tuple[Ints, Floats]:
    """All joints on the tree: by which of its joints (R,) they are carried, and where in its axes (R, 3)."""
    at = {int(joint): place for place, joint in enumerate(plan.joints)}
    carrier: list[int] = []
    for joint, parent in enumerate(parents):
        carrier.append(at.get(joint, carrier[parent] if parent >= 0 else -1))
    over = np.array(carrier, np.intp)
    carried = np.flatnonzero(over >= 0)
    above = np.linalg.inv(world[plan.joints[over[carried]]])
    return over[carried], np.asarray((above @ world[carried])[:, :3, 3])


def posed(body: Body, z: Floats) -> tuple[Floats, Floats]:
    """Local matrices (n, 4, 4) at parameters (D,), and the rotation vectors (m, 3) of the turning joints."""
    plan = body.plan
    count = 3 * len(plan.turning.place)
    vector = (plan.turning.axes @ z[:count].reshape(-1, 3, 1))[..., 0]
    local = body.local.copy()
    local[plan.turning.place, :3, :3] = body.base @ vector_matrix(vector)
    if len(plan.moving):
        local[plan.moving, :3, 3] += z[count : count + 3 * len(plan.moving)].reshape(-1, 3)
    return local, vector


def descended(plan: BodyPlan, local: Floats) -> Floats:
    """World matrices (n, 4, 4) from local ones."""
    world = local.copy()
    for joints, parents in plan.levels[1:]:
        world[joints] = world[parents] @ local[joints]
    return world


def seen_places(body: Body, world: Floats) -> Floats:
    """Places (R, 3) of all joints that go along, those outside the tree too."""
    frames = world[body.riders]
    return np.asarray((frames[:, :3, :3] @ body.rides[..., None])[..., 0] + frames[:, :3, 3])
