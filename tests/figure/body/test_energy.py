import numpy as np
import pytest
from tests.pulls import poses

from bovrin.craft.pose.body import anchored
from bovrin.figure.body import barriers
from bovrin.figure.body.energy import slopes_at, state_at
from bovrin.figure.body.held import Body, body_at, descended, posed
from bovrin.figure.body.plan import body_plan
from bovrin.figure.stages.stance import Stance

Floats = np.ndarray

CASES = ("porter 119", "goat in step", "walker crouched", "askew goat standing")


def _body(name: str) -> tuple[Body, Floats, Stance]:
    """A body pulled by its first limb's end, feet rolling, and where its wanted joints are."""
    rig, values = poses()[name]
    stance = Stance(rig, values)
    pulled = rig.limbs[0].end
    wanted = (pulled, *(a for a in anchored(stance) if a != pulled))
    rolling = tuple(n for n, limb in enumerate(rig.limbs) if limb.foot is not None and limb.end in wanted[1:])
    plan = body_plan(rig, wanted, rolling)
    body = body_at(plan, rig, stance.rigid)
    return body, stance.rigid[list(wanted), :3, 3], stance


def _elsewhere(body: Body, seed: int) -> Floats:
    """Freedoms away from the start, within their limits; feet rolled a little."""
    rng = np.random.default_rng(seed)
    step = np.zeros_like(body.start)
    step[body.live] = rng.normal(0, 0.15, len(body.live))
    feet = len(body.plan.feet.limbs)
    if feet:
        step[-feet:] = rng.uniform(0.05, 0.4, feet)
    return body.start + step * barriers.share_inside(body.barriers, body.start, step, 0.6)


@pytest.mark.parametrize("name", CASES)
def test_the_start_is_the_pose_itself_and_costs_nothing(name: str) -> None:
    body, places, stance = _body(name)
    world = descended(body.plan, posed(body, body.start)[0])
    assert np.abs(world - stance.rigid[body.plan.joints]).max() < 1e-9
    state = state_at(body, places, body.start)
    assert abs(state.energy) < 1e-9
    assert np.abs(slopes_at(body, state).gradient).max() < 1e-6


@pytest.mark.parametrize("name", CASES)
@pytest.mark.parametrize("seed", [1, 2])
def test_slopes_are_those_of_finite_differences(name: str, seed: int) -> None:
    body, places, _ = _body(name)
    body = _without_ankles(body)
    targets = places + np.random.default_rng(seed).normal(0, 1e-4, places.shape)
    targets[0] += (0.05, -0.03, 0.04)
    z = _elsewhere(body, seed)
    slopes = slopes_at(body, state_at(body, targets, z))
    step = 1e-6
    for row, freedom in enumerate(body.live):
        ends = []
        for sign in (-1, 1):
            moved = z.copy()
            moved[freedom] += sign * step
            ends.append(state_at(body, targets, moved))
        steep = (ends[1].energy - ends[0].energy) / (2 * step)
        assert steep == pytest.approx(slopes.gradient[row], rel=1e-4, abs=1e-6 * np.abs(slopes.gradient).max())
        bend = (slopes_at(body, ends[1]).gradient - slopes_at(body, ends[0]).gradient) / (2 * step)
        assert np.abs(bend - slopes.hessian[row]).max() < 1e-6 * np.abs(slopes.hessian).max()


def _without_ankles(body: Body) -> Body:
    """Ankles that bend as they like: how their limits curve is left out of the curvature."""
    free = np.full_like(body.ankles.low, np.inf)
    return body._replace(ankles=body.ankles._replace(low=-free, high=free))


@pytest.mark.parametrize("name", ["porter 119", "walker crouched"])
@pytest.mark.parametrize("seed", [1, 2, 3])
def test_ankles_past_their_limits_pull_back_as_they_cost(name: str, seed: int) -> None:
    body, places, _ = _body(name)
    tight = body._replace(
        ankles=body.ankles._replace(low=body.ankles.low * 0.0 - 0.05, high=body.ankles.high * 0.0 + 0.05)
    )
    z = _elsewhere(body, seed)
    state, free = state_at(tight, places, z), state_at(_without_ankles(body), places, z)
    assert state.past.any() and state.energy > free.energy + 1.0
    own = slopes_at(tight, state).gradient - slopes_at(body, free).gradient
    for row, freedom in enumerate(body.live):
        cost = []
        for sign in (-1, 1):
            moved = z.copy()
            moved[freedom] += sign * 1e-6
            cost.append(state_at(tight, places, moved).energy - state_at(_without_ankles(body), places, moved).energy)
        assert (cost[1] - cost[0]) / 2e-6 == pytest.approx(own[row], rel=1e-3, abs=1e-4 * np.abs(own).max())
    bend = slopes_at(tight, state).hessian - slopes_at(body, free).hessian
    assert np.linalg.eigvalsh(bend).min() > -1e-6 * np.abs(bend).max()


@pytest.mark.parametrize("name", CASES)
def test_barriers_rise_without_bound_toward_limits(name: str) -> None:
    body, _, _ = _body(name)
    limit = body.barriers.limit[0]
    bounded = np.flatnonzero(np.isfinite(limit))[0]
    costs = []
    for gap in (1e-2, 1e-4, 1e-7, 1e-12):
        z = body.start.copy()
        z[bounded] = limit[bounded] + gap
        costs.append(barriers.energy(body.barriers, z))
    assert costs == sorted(costs) and costs[-1] > 2 * costs[1] > 0
