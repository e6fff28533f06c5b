"""Whole-body posing: some joints are pulled to places, others hold, and the rest of the body gives way softly.

Damped least squares on the joint tree with a preference for the pose the drag began with: of all poses that bring the
wanted joints to their places, the one that turns the body least is found by Gauss-Newton steps in the space of the
wanted places (Y. Nakamura and H. Hanafusa, "Inverse kinematic solutions with singularity robustness for robot
manipulator control", J. Dyn. Sys., Meas., Control 108, 1986; S. R. Buss and J.-S. Kim, "Selectively damped least squares
for inverse kinematics", J. Graphics Tools 10, 2005). Every solution starts from the same pose, so it does not matter
which way the pointer went. Joints turn by rotation vectors (F. S. Grassia, "Practical parameterization of rotations using
the exponential map", J. Graphics Tools 3, 1998); those that would pass a limit stop at it and the others make up for it.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.body_plan import BodyPlan
from bovrin.motion.rotations import matrix_quaternion, rotation_vector, vector_matrix

Floats = NDArray[np.float64]

ROUNDS = 14
STAGE, STAGE_ROUNDS = 0.04, 2
"""Metres of a stage on the way to far targets, and the rounds each is given."""
LAG = 0.03
"""Metres a joint may hang back before it is not pulled on."""
STEP = 0.6
"""The most a joint turns in one round, radians (or moves, a tenth of it in metres)."""
PATIENCE = 2
SETTLED = 3e-5
"""A step smaller than this, radians or metres, is the last."""
DRIFT = 5e-5
"""Metres an anchor may be off before it is put back."""
NOTHING = 1e9
"""The slack of a joint that no longer pulls."""
REFITS = 4
"""How often in a round joints that would pass their limits are set on them and the others asked again."""


class Body(NamedTuple):
    """A body about to be dragged: turns at the zero of their parameters, parameters at the start, local places.

    base (m, 3, 3); start, low, high (D,): parameters and their limits; live: the parameters that count, of D; local
    (n, 4, 4).
    """

    plan: BodyPlan
    local: Floats
    base: Floats
    start: Floats
    low: Floats
    high: Floats
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
    moves = np.zeros(3 * len(plan.moving))
    endless = np.full_like(moves, np.inf)
    exists = np.concatenate([(np.abs(plan.axes).sum(1) > 0).ravel(), np.ones(moves.size, bool)])
    stiff = np.concatenate([plan.stiffness.ravel(), np.repeat(plan.move_stiffness, 3)])
    live = np.flatnonzero(exists & (stiff > 0))
    start = np.concatenate([along.ravel(), moves])
    low = np.minimum(np.concatenate([plan.low.ravel(), -endless]), start)
    high = np.maximum(np.concatenate([plan.high.ravel(), endless]), start)
    return Body(plan, local, base, start, low[live], high[live], live, 1.0 / stiff[live] ** 2)


def _hinge_start(rest_turn: Floats, turn: Floats, axes: Floats) -> Floats:
    """How far hinges are turned about their one axis (m, 3), the rest in columns of zeros."""
    q = matrix_quaternion(np.swapaxes(rest_turn, -1, -2) @ turn)
    about = (q[..., :3] * axes[..., 0]).sum(-1)
    angle = 2.0 * np.arctan2(about, q[..., 3])
    return np.stack([angle, np.zeros_like(angle), np.zeros_like(angle)], -1)


def pulled(body: Body, targets: Floats, slack: Floats) -> Floats:
    """Local matrices (n, 4, 4) in which the plan's wanted joints are at targets (T, 3) as well as can be.

    slack (T,): how readily a joint gives up its place when not all can be met; anchors little, the dragged joint more.
    A pull beyond what the anchors allow would still tug at them a little, so they are put back last.
    """
    found, targets = _led(body, targets, slack)
    found = _settled(body, targets, slack, found)
    off = targets - _descended(body.plan, _posed(body, found)[0])[body.plan.wanted, :3, 3]
    held = slack < slack.max()
    if held.any() and np.abs(off[held]).max() > DRIFT:
        found = _settled(body._replace(start=found), targets, np.where(held, slack, NOTHING), found)
    return _posed(body, found)[0]


def _led(body: Body, targets: Floats, slack: Floats) -> tuple[Floats, Floats]:
    """Parameters (D,) and targets after leading the joints there in short stages, straight from where they were.

    Going in stages keeps to poses that follow from each other; where the body cannot follow any more the rest of the way
    is left out, since pulling on would only make it thrash about.
    """
    begin = _descended(body.plan, body.local)[body.plan.wanted, :3, 3]
    way = targets - begin
    length = float(np.linalg.norm(way, axis=-1).max())
    z = body.start
    for stage in np.arange(STAGE, length, STAGE):
        now = begin + way * (stage / length)
        z = _settled(body, now, slack, z, STAGE_ROUNDS)
        place = _descended(body.plan, _posed(body, z)[0])[body.plan.wanted, :3, 3]
        if np.linalg.norm(place - now, axis=-1).max() > LAG:
            return z, now
    return z, targets


def _settled(body: Body, targets: Floats, slack: Floats, begin: Floats, rounds: int = ROUNDS) -> Floats:
    """The best parameters (D,), looked for from `begin`.

    A full step may stray from the anchors before the next one mends it (the way is curved), so a few rounds without
    gain are allowed before going back to the best pose with smaller steps (the "watchdog" of R. M. Chamberlain et al.,
    Mathematical Programming Study 16, 1982).
    """
    z, best, best_merit = begin, begin, np.inf
    share, lost = 1.0, 0
    give = np.repeat(slack, 3)
    for _ in range(rounds):
        local, vector = _posed(body, z)
        world = _descended(body.plan, local)
        off = (targets - world[body.plan.wanted, :3, 3]).ravel()
        away = z[body.live] - body.start[body.live]
        merit = float((off * off / give).sum() + (away * away / body.weight).sum())
        if merit < best_merit:
            best, best_merit, lost = z, merit, 0
        else:
            lost += 1
        if lost > PATIENCE:
            if share < 0.1:
                break
            z, share, lost = best, share * 0.3, 0
            continue
        step = _step(body, world, vector, off, away, give) * share
        if np.abs(step).max(initial=0.0) < SETTLED:
            break
        z = z.copy()
        z[body.live] += step
    return z if rounds == STAGE_ROUNDS else best


def _step(body: Body, world: Floats, vector: Floats, off: Floats, away: Floats, give: Floats) -> Floats:
    """The best small change of the live parameters that stays within their limits."""
    jacobian = _jacobian(body, world, vector)
    now = body.start[body.live] + away
    step = np.zeros(len(body.live))
    free = np.ones(len(body.live), bool)
    for _ in range(REFITS):
        asked = off + jacobian[:, free] @ away[free] - jacobian[:, ~free] @ step[~free]
        weighted = jacobian[:, free] * body.weight[free]
        square = weighted @ jacobian[:, free].T
        square[np.diag_indices_from(square)] += give
        step[free] = weighted.T @ np.linalg.solve(square, asked) - away[free]
        bounded = np.clip(step, body.low - now, body.high - now)
        past = free & (bounded != step)
        if not past.any():
            break
        step = np.where(past, bounded, step)
        free &= ~past
    step = np.clip(step, body.low - now, body.high - now)
    largest = float(np.abs(step).max(initial=0.0))
    return np.asarray(step * min(1.0, STEP / max(largest, 1e-12)))


def _posed(body: Body, z: Floats) -> tuple[Floats, Floats]:
    """Local matrices (n, 4, 4) at parameters (D,), and the rotation vectors (m, 3) of the turning joints."""
    plan = body.plan
    count = 3 * len(plan.turning)
    vector = (plan.axes @ z[:count].reshape(-1, 3, 1))[..., 0]
    local = body.local.copy()
    local[plan.turning, :3, :3] = body.base @ vector_matrix(vector)
    if len(plan.moving):
        local[plan.moving, :3, 3] += z[count:].reshape(-1, 3)
    return local, vector


def _descended(plan: BodyPlan, local: Floats) -> Floats:
    world = local.copy()
    for joints, parents in plan.levels[1:]:
        world[joints] = world[parents] @ local[joints]
    return world


def _jacobian(body: Body, world: Floats, vector: Floats) -> Floats:
    """How the wanted joints move with the live parameters: (3 T, live)."""
    plan = body.plan
    turn = world[plan.turning, :3, :3] @ _right_jacobian(vector) @ plan.axes
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
