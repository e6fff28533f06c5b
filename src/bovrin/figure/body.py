"""Whole-body posing: some joints are pulled to places, others hold, and the rest of the body gives way softly.

Damped least squares on the joint tree with a preference for the pose the drag began with: of all poses that bring the
wanted joints to their places, the one that turns the body least is found by Gauss-Newton steps in the space of the
wanted places (Y. Nakamura and H. Hanafusa, "Inverse kinematic solutions with singularity robustness for robot
manipulator control", J. Dyn. Sys., Meas., Control 108, 1986; S. R. Buss and J.-S. Kim, "Selectively damped least squares
for inverse kinematics", J. Graphics Tools 10, 2005). Every solution starts from the same pose, so it does not matter
which way the pointer went. Joints turn by rotation vectors (F. S. Grassia, "Practical parameterization of rotations using
the exponential map", J. Graphics Tools 3, 1998), bent softly so that they never pass their limits.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.body_plan import BodyPlan
from bovrin.motion.rotations import matrix_quaternion, rotation_vector, vector_matrix

Floats = NDArray[np.float64]

ROUNDS = 40
STEP = 0.6
"""The most a joint turns in one round, radians (or moves, a tenth of it in metres)."""
DRIFT = 5e-5
"""Metres an anchor may be off before it is put back."""
NOTHING = 1e9
"""The slack of a joint that no longer pulls."""
FREE = 3.1
"""Limits this wide, radians, are none."""
SOFTNESS = 6.0
START_ROOM = 0.97


class Body(NamedTuple):
    """A body about to be dragged: turns at the zero of their parameters, parameters at the start, local places.

    base (m, 3, 3); start (D,): parameters; middle, half (m, 3): limits as centre and half width; local (n, 4, 4).
    """

    plan: BodyPlan
    local: Floats
    base: Floats
    start: Floats
    middle: Floats
    half: Floats
    free: NDArray[np.bool_]
    live: NDArray[np.intp]
    weight: Floats


def body_at(plan: BodyPlan, rest_turn: Floats, world: Floats) -> Body:
    """Take hold of a body. rest_turn (m, 3, 3): the turning joints' turns at rest in their parents; world (n, 4, 4) rigid."""
    local = world.copy()
    held = plan.parents >= 0
    local[held] = np.linalg.inv(world[plan.parents[held]]) @ world[held]
    turn = local[plan.turning, :3, :3]
    total = rotation_vector(np.swapaxes(rest_turn, -1, -2) @ turn)
    along = np.einsum("mij,mi->mj", plan.axes, total)
    full = np.abs(plan.axes).sum((1, 2)) > 2.5
    along = np.where(plan.hinge[:, None], _hinge_start(rest_turn, turn, plan.axes), along)
    base = turn @ np.swapaxes(vector_matrix((plan.axes @ along[..., None])[..., 0]), -1, -2)
    base = np.where(full[:, None, None], rest_turn, base)
    low, high = np.minimum(plan.low, along - 0.02), np.maximum(plan.high, along + 0.02)
    middle, half = (low + high) / 2, (high - low) / 2
    half = np.maximum(half, np.abs(along - middle) / START_ROOM)
    free = (plan.low <= -FREE) & (plan.high >= FREE)
    start = np.where(free, along, half * _unbent((along - middle) / half))
    moves = np.zeros((len(plan.moving), 3))
    exists = np.concatenate([(np.abs(plan.axes).sum(1) > 0).ravel(), np.ones(moves.size, bool)])
    stiff = np.concatenate([plan.stiffness.ravel(), np.repeat(plan.move_stiffness, 3)])
    live = np.flatnonzero(exists & (stiff > 0))
    begin = np.concatenate([start.ravel(), moves.ravel()])
    return Body(plan, local, base, begin, middle, half, free, live, 1.0 / stiff[live] ** 2)


def _hinge_start(rest_turn: Floats, turn: Floats, axes: Floats) -> Floats:
    """How far hinges are turned about their one axis (m, 3), the rest in columns of zeros."""
    q = matrix_quaternion(np.swapaxes(rest_turn, -1, -2) @ turn)
    about = (q[..., :3] * axes[..., 0]).sum(-1)
    angle = 2.0 * np.arctan2(about, q[..., 3])
    return np.stack([angle, np.zeros_like(angle), np.zeros_like(angle)], -1)


def _bent(s: Floats) -> tuple[Floats, Floats]:
    """s nearly as it is in the middle, never past -1 and 1; and its slope."""
    bottom = 1.0 + np.abs(s) ** SOFTNESS
    return s * bottom ** (-1 / SOFTNESS), bottom ** (-1 / SOFTNESS - 1)


def _unbent(x: Floats) -> Floats:
    return np.asarray(x / (1.0 - np.abs(x) ** SOFTNESS) ** (1 / SOFTNESS))


def pulled(body: Body, targets: Floats, slack: Floats) -> Floats:
    """Local matrices (n, 4, 4) in which the plan's wanted joints are at targets (T, 3) as well as can be.

    slack (T,): how readily a joint gives up its place when not all can be met; anchors little, the dragged joint more.
    A pull beyond what the anchors allow would still tug at them a little, so they are put back last.
    """
    found = _settled(body, targets, slack)
    off = targets - _descended(body.plan, _posed(body, found)[0])[body.plan.wanted, :3, 3]
    held = slack < slack.max()
    if held.any() and np.abs(off[held]).max() > DRIFT:
        found = _settled(body._replace(start=found), targets, np.where(held, slack, NOTHING))
    return _posed(body, found)[0]


def _settled(body: Body, targets: Floats, slack: Floats) -> Floats:
    """The best parameters (D,)."""
    z = body.start.copy()
    best, best_merit = z, np.inf
    share = 1.0
    give = np.repeat(slack, 3)
    step = np.zeros(len(body.live))
    for _ in range(ROUNDS):
        local, slopes, vector = _posed(body, z)
        world = _descended(body.plan, local)
        off = (targets - world[body.plan.wanted, :3, 3]).ravel()
        away = z[body.live] - body.start[body.live]
        merit = float((off * off / give).sum() + (away * away / body.weight).sum())
        if merit > best_merit * (1 + 1e-9):
            share *= 0.5
            if share < 0.02:
                break
            z = best.copy()
            z[body.live] += step * share
            continue
        settled = best_merit - merit < 1e-9 * max(merit, 1.0) and np.abs(step * share).max(initial=0.0) < 1e-5
        best, best_merit, share = z, merit, 1.0
        if settled:
            break
        step = _step(body, world, slopes, vector, off, away, give)
        if np.abs(step).max(initial=0.0) < 1e-6:
            break
        z = z.copy()
        z[body.live] += step
    return best


def _step(
    body: Body, world: Floats, slopes: Floats, vector: Floats, off: Floats, away: Floats, give: Floats
) -> Floats:
    jacobian = _jacobian(body, world, slopes, vector)
    weighted = jacobian * body.weight
    square = weighted @ jacobian.T
    square[np.diag_indices_from(square)] += give
    step = weighted.T @ np.linalg.solve(square, off + jacobian @ away) - away
    largest = float(np.abs(step).max(initial=0.0))
    return np.asarray(step * min(1.0, STEP / max(largest, 1e-12)))


def _posed(body: Body, z: Floats) -> tuple[Floats, Floats, Floats]:
    """Local matrices (n, 4, 4) at parameters (D,); slopes (m, 3) of the turns by them, and the rotation vectors (m, 3)."""
    plan = body.plan
    count = len(plan.turning)
    raw = z[: 3 * count].reshape(-1, 3)
    bent, slope = _bent(raw / body.half)
    angles = np.where(body.free, raw, body.middle + body.half * bent)
    slopes = np.where(body.free, 1.0, slope)
    vector = (plan.axes @ angles[..., None])[..., 0]
    local = body.local.copy()
    local[plan.turning, :3, :3] = body.base @ vector_matrix(vector)
    if len(plan.moving):
        local[plan.moving, :3, 3] += z[3 * count :].reshape(-1, 3)
    return local, slopes, vector


def _descended(plan: BodyPlan, local: Floats) -> Floats:
    world = local.copy()
    for joints, parents in plan.levels[1:]:
        world[joints] = world[parents] @ local[joints]
    return world


def _jacobian(body: Body, world: Floats, slopes: Floats, vector: Floats) -> Floats:
    """How the wanted joints move with the live parameters: (3 T, live)."""
    plan = body.plan
    turn = world[plan.turning, :3, :3] @ _right_jacobian(vector) @ plan.axes * slopes[:, None, :]
    place = world[:, :3, 3]
    arms = place[plan.wanted][:, None] - place[plan.turning][None]
    arms = arms * plan.above[:, plan.turning, None]
    a, b = np.swapaxes(turn, -1, -2)[None], arms[:, :, None]
    swept = np.empty((len(plan.wanted), len(plan.turning), 3, 3))
    swept[..., 0] = a[..., 1] * b[..., 2] - a[..., 2] * b[..., 1]
    swept[..., 1] = a[..., 2] * b[..., 0] - a[..., 0] * b[..., 2]
    swept[..., 2] = a[..., 0] * b[..., 1] - a[..., 1] * b[..., 0]
    turned = swept.transpose(0, 3, 1, 2).reshape(3 * len(plan.wanted), -1)
    above = plan.parents[plan.moving]
    frames = np.where((above >= 0)[:, None, None], world[above, :3, :3], np.eye(3))
    moved = frames[None] * plan.carries[:, plan.moving, None, None]
    moved = moved.transpose(0, 2, 1, 3).reshape(3 * len(plan.wanted), -1)
    return np.concatenate([turned, moved], 1)[:, body.live]


def _right_jacobian(vector: Floats) -> Floats:
    """(m, 3, 3): how a small change of a rotation vector turns the joint, in the joint's own axes."""
    angle2 = (vector * vector).sum(-1)
    angle = np.sqrt(np.maximum(angle2, 1e-16))
    small = angle < 1e-4
    safe = np.where(small, 1.0, angle)
    first = np.where(small, 0.5 - angle2 / 24, (1 - np.cos(safe)) / safe**2)
    second = np.where(small, 1 / 6 - angle2 / 120, (safe - np.sin(safe)) / safe**3)
    skew = np.zeros((len(vector), 3, 3))
    skew[:, 0, 1], skew[:, 0, 2] = -vector[:, 2], vector[:, 1]
    skew[:, 1, 0], skew[:, 1, 2] = vector[:, 2], -vector[:, 0]
    skew[:, 2, 0], skew[:, 2, 1] = -vector[:, 1], vector[:, 0]
    return np.asarray(np.eye(3) - first[:, None, None] * skew + second[:, None, None] * (skew @ skew))
