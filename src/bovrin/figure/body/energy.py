"""What a pose of the body costs while a joint is pulled: one smooth energy with exact first and second derivatives.

Six terms over the degrees of freedom z: the pull, which grows with the square of the distance at first and then with
the distance itself, so that its force is bounded ("pseudo-Huber"; P. Charbonnier et al., "Deterministic edge-preserving
regularization in computed imaging", IEEE Trans. Image Processing 6, 1997); anchors as stiff springs; stiffness toward the
pose that the drag began with; attitudes in the world that torso and head keep; ankles of held feet within their limits, so that
heels rise before they bend too far; and barriers at limits. The first pose costs
nothing and strives nowhere, so that the way back leads to it.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.body import barriers
from bovrin.figure.body.held import SOFT, Body, descended, posed
from bovrin.figure.body.plan import BodyPlan
from bovrin.motion.rotation_slopes import Coefficients, bent_axes, coefficients, right_jacobian
from bovrin.motion.rotations import cross, rotation_vector, vector_matrix

Floats = NDArray[np.float64]

PULL, HOLD = 5e-6, 1e-8
"""How far the pulled joint and an anchor give way to a unit of force, metres (force: what a radian or metre costs)."""
FORCE = 1000.0
"""The most that a pull amounts to."""
ATTITUDE, LEANING = 200.0, 2.0
"""What a radian of attitude costs a joint of torso or head that is not pulled, and one that the pulled joint hangs on."""
ANKLE = 2e5
"""What a radian past its limit costs an ankle of a foot that is held, squared; it sets in over `held.SOFT`."""
ONE = np.eye(3)
REACH = FORCE * PULL
"""Metres at which a pull stops growing with the square."""


class State(NamedTuple):
    """The body at z (D,): tree in the world (n, 4, 4), rotation vectors (m, 3), how far the wanted joints are off (T, 3),
    turns of the rolling feet since the beginning (r, 3, 3) and their arms (r, 3), how attitudes are off (Q, 3), turns of
    ankles from rest and how far they are past their limits (r, 3), the energy, and what of it is not the pull's."""

    z: Floats
    world: Floats
    vector: Floats
    off: Floats
    rolled: Floats
    arm: Floats
    away: Floats
    ankle: Floats
    past: Floats
    energy: float
    rest: float


class Slopes(NamedTuple):
    """Slope (d,) and curvature (d, d) of the energy over the live freedoms, and how the wanted joints move with all
    freedoms, less how their goals do (T, D, 3)."""

    gradient: Floats
    hessian: Floats
    reach: Floats


def state_at(body: Body, targets: Floats, z: Floats) -> State:
    """The body at z (D,) while its wanted joints are asked to be at targets (T, 3)."""
    plan = body.plan
    local, vector = posed(body, z)
    world = descended(plan, local)
    rolled = vector_matrix(body.rolls.axis * z[len(z) - len(plan.feet.limbs) :, None])
    goals, arm = _goals(body, targets, rolled)
    off = world[plan.wanted, :3, 3] - goals
    ankles, upright = body.ankles, len(plan.upright)
    above = np.swapaxes(world[ankles.shins, :3, :3] @ ankles.rest, -1, -2)
    turned = world[plan.upright, :3, :3] @ np.swapaxes(body.facing, -1, -2)
    vectors = rotation_vector(np.concatenate([turned, above @ rolled @ ankles.start]))
    away, ankle = vectors[:upright], vectors[upright:]
    past = ankle - np.clip(ankle, ankles.low, ankles.high)
    energy = 0.5 * (off[1:] ** 2).sum() / HOLD
    if past.any():
        energy += ANKLE * float(_soft(past)[0].sum())
    energy += 0.5 * (_attitudes(body) * (away * away).sum(-1)).sum()
    energy += 0.5 * (body.stiff * (z - body.start) ** 2).sum()
    rest = float(energy + barriers.energy(body.barriers, z))
    return State(z, world, vector, off, rolled, arm, away, ankle, past, rest + _pull(off[0]), rest)


def aimed(body: Body, state: State, place: Floats) -> State:
    """The same pose while the pulled joint is asked to be at another place (3,)."""
    off = state.off.copy()
    off[0] = state.world[body.plan.wanted[0], :3, 3] - place
    return state._replace(off=off, energy=state.rest + _pull(off[0]))


def _pull(off: Floats) -> float:
    """What the pull on a joint that is off by (3,) costs."""
    return FORCE * REACH * (_root(off) - 1.0)


def forces_at(state: State) -> Floats:
    """What pulls and holds amount to (T, 3)."""
    return _forces(state, pulling(state.off[0])[0])


def _forces(state: State, pull: Floats) -> Floats:
    forces: Floats = state.off / HOLD
    forces[0] = pull
    return forces


def forces_after(state: State, reach: Floats, change: Floats, way: Floats | float = 0.0) -> Floats:
    """The same (T, 3) to first order after a change (D,) and a way (3,) of the pulled place."""
    moved = np.einsum("tdc,d->tc", reach, change)
    moved[0] -= way
    pull, stretch = pulling(state.off[0])
    forces: Floats = (state.off + moved) / HOLD
    forces[0] = pull + stretch @ moved[0]
    return forces


def slopes_at(body: Body, state: State, forces: Floats | None = None) -> Slopes:
    """First and second derivatives of the energy there.

    forces (T, 3): those that the circles joints go on are weighed with; where joints are off for the moment those of the pose
    before, as sequential quadratic programming has its multipliers (Nocedal and Wright, section 18.1).
    """
    plan = body.plan
    bent = coefficients(state.vector)
    axes, arms, reach = _levers(body, state, bent)
    pull, stretch = pulling(state.off[0])
    force = _forces(state, pull)
    known = force if forces is None else forces
    held = reach[1:].transpose(0, 2, 1).reshape(-1, reach.shape[1])
    hessian = (held.T @ held) / HOLD + reach[0] @ stretch @ reach[0].T
    gradient = np.einsum("tdc,tc->d", reach, force)
    leaning = _add_attitudes(body, state, axes, gradient, hessian)
    _add_curving(body, state, axes, arms, reach, known, leaning, bent, hessian)
    if state.past.any():
        _add_ankles(body, state, axes, gradient, hessian)
    slope, bend = barriers.slopes(body.barriers, state.z)
    gradient += body.stiff * (state.z - body.start) + slope
    hessian[np.diag_indices_from(hessian)] += body.stiff + bend
    _add_circles(plan, body, state, known, hessian)
    return Slopes(gradient[body.live], hessian[np.ix_(body.live, body.live)], reach)


def pulling(off: Floats) -> tuple[Floats, Floats]:
    """Force (3,) and stiffness (3, 3) of the pull on a joint that is off by (3,), metres."""
    root = _root(off)
    stretch = ONE / root - off[:, None] * off / (REACH**2 * root**3)
    return np.asarray(off / (PULL * root)), stretch / PULL


def _root(off: Floats) -> float:
    return float(np.sqrt(1.0 + (off @ off) / REACH**2))


def _attitudes(body: Body) -> Floats:
    return np.where(body.pulled, LEANING, ATTITUDE)


def _goals(body: Body, targets: Floats, rolled: Floats) -> tuple[Floats, Floats]:
    """Where the wanted joints are to be (T, 3), feet as they have rolled (r, 3, 3), and the arms of these feet (r, 3)."""
    feet, rolls = body.plan.feet, body.rolls
    if not len(feet.limbs):
        return targets, rolls.arm
    arm = (rolled @ rolls.arm[..., None])[..., 0]
    goals = targets.copy()
    goals[feet.wanted] = rolls.pivot + arm
    return goals, arm


def reach_at(body: Body, state: State) -> Floats:
    """`Slopes.reach` alone."""
    return _levers(body, state, coefficients(state.vector))[2]


def _levers(body: Body, state: State, bent: Coefficients) -> tuple[Floats, Floats, Floats]:
    """World axes of the freedoms (D, 3), arms from turning joints to wanted ones (T, m, 3), and `Slopes.reach`."""
    plan, world = body.plan, state.world
    turning, count = plan.turning, 3 * len(plan.turning.place)
    axes = np.zeros((len(state.z), 3))
    turned = world[turning.place, :3, :3] @ right_jacobian(state.vector, bent) @ turning.axes
    axes[:count] = np.swapaxes(turned, -1, -2).reshape(-1, 3)
    place = world[:, :3, 3]
    arms = (place[plan.wanted][:, None] - place[turning.place]) * plan.above[:, turning.place, None]
    reach = np.zeros((len(plan.wanted), len(state.z), 3))
    reach[:, :count] = cross(axes[:count].reshape(1, -1, 3, 3), arms[:, :, None]).reshape(len(arms), -1, 3)
    frames = np.swapaxes(_frames(plan, world, plan.moving), -1, -2) * plan.carries[:, plan.moving, None, None]
    reach[:, count : count + 3 * len(plan.moving)] = frames.reshape(len(arms), -1, 3)
    feet = plan.feet
    if len(feet.limbs):
        reach[feet.wanted, np.arange(-len(feet.limbs), 0)] = -cross(body.rolls.axis, state.arm)
    return axes, arms, reach


def _frames(plan: BodyPlan, world: Floats, joints: NDArray[np.intp]) -> Floats:
    """Turns (k, 3, 3) of what carries some joints."""
    parents = plan.parents[joints]
    return np.where((parents >= 0)[:, None, None], world[parents, :3, :3], ONE)


def _add_attitudes(body: Body, state: State, axes: Floats, gradient: Floats, hessian: Floats) -> Floats:
    """Add the attitudes to slope and curvature; how they would turn each freedom's joint back (D, 3)."""
    cost = _attitudes(body)
    levers = axes * body.plan.leaning[..., None]
    torque = cost[:, None] * state.away
    gradient += np.einsum("qdc,qc->d", levers, torque)
    weighed = (np.sqrt(cost)[:, None, None] * levers).transpose(0, 2, 1).reshape(-1, len(axes))
    hessian += weighed.T @ weighed
    return np.asarray(body.plan.leaning.T @ torque)


def _add_ankles(body: Body, state: State, axes: Floats, gradient: Floats, hessian: Floats) -> None:
    """Add ankles that are past their limits, to first order of how they turn (Gauss and Newton's steps).

    A turn of the shin changes an ankle as the opposite turn of the foot does, whose roll is a freedom of its own.
    """
    count = len(body.ankles.shins)
    levers = -axes * body.ankles.bends[..., None]
    levers[np.arange(count), np.arange(-count, 0)] = body.rolls.axis
    slopes = np.linalg.inv(right_jacobian(state.ankle, coefficients(state.ankle))) @ np.swapaxes(
        state.rolled @ body.ankles.start, -1, -2
    )
    felt = (slopes @ np.swapaxes(levers, -1, -2)).reshape(3 * count, -1)
    _, pull, bend = _soft(state.past.ravel())
    gradient += ANKLE * (felt.T @ pull)
    hessian += ANKLE * ((felt.T * bend) @ felt)


def _soft(past: Floats) -> tuple[Floats, Floats, Floats]:
    """Half the square of what is past (...), and its first and second derivatives, all beginning smoothly."""
    size = np.abs(past)
    near = size < SOFT
    cost = np.where(near, size**3 / (6 * SOFT), 0.5 * size * (size - SOFT) + SOFT**2 / 6)
    pull = np.where(near, size**2 / (2 * SOFT), size - 0.5 * SOFT)
    return cost, np.sign(past) * pull, np.where(near, size / SOFT, 1.0)


def _add_curving(
    body: Body,
    state: State,
    axes: Floats,
    arms: Floats,
    reach: Floats,
    force: Floats,
    leaning: Floats,
    bent: Coefficients,
    hessian: Floats,
) -> None:
    """Add what comes of joints moving on circles: an outer joint's turn takes the axes of inner ones along."""
    plan, turning = body.plan, body.plan.turning
    twist = cross(reach, force[:, None]).sum(0) + cross(axes, 0.5 * leaning)
    pairs = axes @ twist.T
    outer = plan.outer * pairs
    hessian += outer + outer.T + plan.same * pairs.T
    count = 3 * len(turning.place)
    torque = cross(arms, force[:, None]).sum(0) + leaning[:count:3]
    frames = _frames(plan, state.world, turning.place) @ body.base
    inside = (np.swapaxes(frames, -1, -2) @ torque[..., None])[..., 0]
    rows = np.arange(count).reshape(-1, 3)
    hessian[rows[:, :, None], rows[:, None]] += bent_axes(state.vector, turning.axes, inside, bent)


def _add_circles(plan: BodyPlan, body: Body, state: State, force: Floats, hessian: Floats) -> None:
    """Add the curvature of the circles on which the ankles of rolling feet go."""
    if len(plan.feet.limbs):
        rows = np.arange(-len(plan.feet.limbs), 0)
        across = state.arm - (state.arm * body.rolls.axis).sum(-1, keepdims=True) * body.rolls.axis
        hessian[rows, rows] += (force[plan.feet.wanted] * across).sum(-1)
