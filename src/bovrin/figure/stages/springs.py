"""Springs: links that come after what carries them, sway and settle.

Each link is turned to where it would be by its keys, by what carries it and by gravity; it goes there as a damped oscillator
does (`motion.damped`), which feels how it is turned and how what carries the chain speeds up. Since no link feels those after it,
each is worked out for all time at once, from the first on. It begins at rest; in a loop it is the steady round.

Time goes in even steps that neither the frame rate nor the frame that is looked at changes; from the last of them to a frame in
between it is one shorter step. So nothing that comes after a frame is felt on it.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.stages.following import FINE, MOST_STEPS, Links, Rules, Told, grid_over, links_of, turn_more
from bovrin.figure.stages.keeping_off import Obstacles, kept_off
from bovrin.motion.damped import Passage, Spring, pushed, spring, steps
from bovrin.motion.rotations import (
    cross,
    inverse,
    matrix_quaternion,
    multiply,
    power,
    quaternion_vector,
    swings,
    turn_only,
    vector_quaternion,
)
from bovrin.shot import Follower, Rig

Floats = NDArray[np.float64]

GRAVITY = 9.81
FARTHEST = 2.2
"""Radians: a link bends away from where it would be by less than this, however hard it is shaken."""
INSTANT = 1e-9


class Chain(NamedTuple):
    """The links of a spring: their joints, where each points in its own axes (L, 3), how long it is (L,), metres, and how long
    the whole chain is that it belongs to (L,)."""

    links: Links
    joints: tuple[int, ...]
    ways: Floats
    lengths: Floats
    whole: Floats


@cached_by_identity
def chain_of(rig: Rig, controls: tuple[str, ...]) -> Chain:
    """The links of a spring."""
    links, plan = links_of(rig, controls), plan_of(rig)
    joints = tuple(rig.controls[c].joint for c in links.controls)
    below = {j: n for n, j in reversed(list(enumerate(j.parent for j in rig.joints)))}
    tips = np.zeros((len(joints), 3))
    for n, joint in enumerate(joints):
        after = [joints[m] for m, above in enumerate(links.above) if above == n]
        child = after[0] if after else below.get(joint)
        local = plan.rest_local[joint]
        on = plan.rest_world[joint, :3, :3].T @ (local_world(plan.rest_world, rig, joint))
        tips[n] = on if child is None else (np.linalg.inv(plan.rest_world[joint]) @ plan.rest_world[child])[:3, 3]
        if not tips[n].any():
            tips[n] = local[:3, :3].T @ [0.0, 0.1, 0.0]
    lengths = np.linalg.norm(tips, axis=-1)
    return Chain(links, joints, tips / lengths[:, None], lengths, _whole(links, lengths))


def local_world(rest: Floats, rig: Rig, joint: int) -> Floats:
    """How a joint lies from its parent (3,), in the world at rest: a last link goes on as it began."""
    parent = rig.joints[joint].parent
    return np.asarray(rest[joint, :3, 3] - rest[parent, :3, 3]) if parent >= 0 else np.zeros(3)


def _whole(links: Links, lengths: Floats) -> Floats:
    """How long each link's chain is from its first link to its farthest tip (L,)."""
    reach, root = lengths.copy(), list(range(len(lengths)))
    for n, above in enumerate(links.above):
        if above >= 0:
            reach[n] += reach[above]
            root[n] = root[above]
    longest = {r: max(reach[n] for n in range(len(root)) if root[n] == r) for r in set(root)}
    return np.array([longest[r] for r in root])


class Felt(NamedTuple):
    """What a spring feels of the figure on frames (F,): its links' joints turned by keys (F, L, 4) and where they are (F, L, 3),
    what it is told, and what it stays out of."""

    turns: Floats
    places: Floats
    told: Told
    obstacles: Obstacles | None


def felt(rig: Rig, one: Follower, values: Floats, world: Floats) -> Felt:
    """What a spring feels: values (F, C) before it and the joints (F, J, 4, 4) that they make."""
    joints = list(chain_of(rig, one.controls).joints)
    turns = matrix_quaternion(turn_only(world[:, joints, :3, :3]))
    off = Obstacles.of(rig, one, world) if one.clear_of else None
    return Felt(turns, world[..., :3, 3][:, joints], Told.of(rig, one, values), off)


class SpringRun(NamedTuple):
    """A spring over all time: seconds from step to step, and by link the target turned (N + 1, 4), the state (N + 1, 2, 3), where
    the chain begins (N + 1, 3), and its springs (N + 1,)."""

    step: float
    targets: list[Floats]
    states: list[Floats]
    bases: list[Floats]
    springs: list[Spring]


def grid_of(time: Rules, seconds: float) -> Floats:
    """The times (N + 1,), seconds, of the steps of one round, or of at least so long."""
    if not time.round:
        return grid_over(max(seconds, 0.0))
    count = min(max(int(np.ceil(time.round / FINE - 1e-9)), 8), MOST_STEPS)
    return np.asarray(np.arange(count + 1) * (time.round / count))


def joined(one: Follower, parts: Sequence[Felt]) -> Felt:
    """What a spring feels on the frames of all parts."""
    turns, places = (np.concatenate([getattr(part, name) for part in parts]) for name in ("turns", "places"))
    told = Told(one, np.concatenate([part.told.own for part in parts]))
    off = [part.obstacles for part in parts if part.obstacles is not None]
    return Felt(turns, places, told, Obstacles.joined(off) if off else None)


def run(rig: Rig, one: Follower, time: Rules, grid: Floats, what: Felt) -> tuple[SpringRun, list[Floats]]:
    """A spring over a grid (N + 1,), and how it turns each link on its own (N + 1, 4)."""
    chain, step = chain_of(rig, one.controls), float(grid[1])
    made = SpringRun(step, [], [], [], [])
    passages: dict[int, tuple[Spring, Floats, Passage]] = {}

    def stepped(n: int, own: Spring, target: Floats, base: Floats) -> Floats:
        if id(own) not in passages:
            middle = _between(own, slice(None, -1), slice(1, None))
            free, push = steps(middle, np.full(len(grid) - 1, step))
            passages[id(own)] = middle, push, Passage(free)
        middle, push, passage = passages[id(own)]
        turned = quaternion_vector(multiply(inverse(target[:-1]), target[1:])) / step
        left = _left_behind(chain, n, target[1:], np.diff(base, axis=0)) / step
        states = passage.states(push @ pushed(middle, turned, left), loops=bool(time.round))
        made.targets.append(target)
        made.states.append(states)
        made.bases.append(base)
        made.springs.append(own)
        return np.asarray(states[:, 0])

    return made, _down_the_chain(chain, what, time.rate, stepped)


def _between(own: Spring, before: slice, after: slice) -> Spring:
    return Spring(*((part[before] + part[after]) / 2 for part in own))


def at(rig: Rig, one: Follower, time: Rules, made: SpringRun, seconds: Floats, what: Felt) -> list[Floats]:
    """How a spring turns each link on its own (F, 4) at times (F,): from the last step before each."""
    chain = chain_of(rig, one.controls)
    last = len(made.targets[0]) - 1
    step = np.clip(np.floor(seconds / made.step).astype(int), 0, last)
    since = np.maximum(seconds - step * made.step, 0.0)
    early = seconds < 0.0

    short = np.maximum(since, INSTANT)
    known: dict[int, tuple[Spring, Floats, Floats]] = {}

    def partly(n: int, own: Spring, target: Floats, base: Floats) -> Floats:
        if id(own) not in known:
            begun = Spring(*(part[step] for part in made.springs[n]))
            middle = Spring(*((a + b) / 2 for a, b in zip(begun, own, strict=True)))
            known[id(own)] = middle, *steps(middle, short)
        middle, free, push = known[id(own)]
        turned = quaternion_vector(multiply(inverse(made.targets[n][step]), target)) / short[:, None]
        left = _left_behind(chain, n, target, base - made.bases[n][step]) / short[:, None]
        kept = made.states[n][step]
        state = free @ kept + push @ pushed(middle, turned, left)
        state = np.where((since > INSTANT)[:, None, None], state, kept)
        return np.where(early[:, None], 0.0, state[:, 0])

    return _down_the_chain(chain, what, time.rate, partly)


def _left_behind(chain: Chain, link: int, target: Floats, shift: Floats) -> Floats:
    """The turn (F, 3) in its own axes by which a link stays behind when its chain is carried along by (F, 3), metres."""
    own = _turned(inverse(target), shift)
    turn = cross(np.broadcast_to(chain.ways[link], own.shape), own) / chain.whole[link]
    size = np.sqrt((turn * turn).sum(-1, keepdims=True))
    return np.asarray(turn * np.where(size > 1e-9, np.arctan(size) / np.maximum(size, 1e-300), 1.0))


Away = Callable[[int, Spring, Floats, Floats], Floats]
"""How far (F, 3) a link is away from its target, by its number, spring, target (F, 4) and its chain's beginning (F, 3)."""


def _down_the_chain(chain: Chain, what: Felt, rate: float, states: Away) -> list[Floats]:
    """Each link turned on its own (F, 4), from the first on."""
    told, links, off = what.told, chain.links, what.obstacles
    weight, springs = told.weight, _springs(told, rate, links)
    drawn_down = bool(told["gravity"].any())
    added, turned = list[Floats](), list[Floats]()
    places = what.places.copy()
    for n, above in enumerate(links.above):
        target = what.turns[:, n]
        if above >= 0:
            back = inverse(what.turns[:, above])
            target = multiply(turned[above], multiply(back, target))
            if off is not None:
                offset = _turned(back, what.places[:, n] - what.places[:, above])
                places[:, n] = places[:, above] + _turned(turned[above], offset)
        own = springs[links.depth[n]]
        drawn = multiply(_sag(chain, n, own, told, target), target) if drawn_down else target
        more = vector_quaternion(_within(states(n, own, drawn, what.places[:, links.first[n]])))
        if drawn_down:
            more = multiply(inverse(target), multiply(drawn, more))
        more = power(more, weight) if (weight != 1.0).any() else more
        whole = multiply(target, more)
        if off is not None:
            tip = chain.ways[n] * chain.lengths[n]
            whole = kept_off(off, places[:, n], whole, tip, told["keeps off"], weight)
            more = multiply(inverse(target), whole)
        added.append(more)
        turned.append(whole)
    return added


def _springs(told: Told, rate: float, links: Links) -> list[Spring]:
    """The springs of links by how many links they are from the first; the same one where all are alike."""
    if (told["stiff end"] == 1.0).all():
        return [_spring(told, rate, 0, 1)] * links.total
    return [_spring(told, rate, depth, links.total) for depth in range(links.total)]


def _spring(told: Told, rate: float, depth: int, count: int) -> Spring:
    quicker = np.maximum(told.share("stiff end", depth, count), 1e-3)
    return spring(told["lags by"] / rate / quicker, told["settles in"] / rate / quicker, told["sways"])


def _sag(chain: Chain, link: int, own: Spring, told: Told, target: Floats) -> Floats:
    """How gravity turns a link (F, 4), in the world, against what draws it back."""
    gravity = told["gravity"]
    way = _turned(target, np.broadcast_to(chain.ways[link], (len(target), 3)))
    down = np.array([0.0, -GRAVITY, 0.0]) * gravity[:, None]
    drawn = way * (own.stiffness * chain.whole[link])[:, None] + down
    size = np.sqrt((drawn * drawn).sum(-1, keepdims=True))
    return np.where(
        gravity[:, None] > 0.0, vector_quaternion(swings(way, drawn / np.maximum(size, 1e-12))), [0, 0, 0, 1.0]
    )


def _within(away: Floats) -> Floats:
    """Turns (F, 3) kept within FARTHEST, those that are small as they are."""
    size = np.sqrt((away * away).sum(-1, keepdims=True))
    return np.asarray(away / (1.0 + (size / FARTHEST) ** 4) ** 0.25)


def _turned(turn: Floats, vector: Floats) -> Floats:
    """Vectors (F, 3) turned by unit quaternions (F, 4)."""
    axis = turn[..., :3]
    aside = 2.0 * cross(axis, vector)
    return np.asarray(vector + turn[..., 3:] * aside + cross(axis, aside))


def sprung(rig: Rig, one: Follower, values: Floats, added: list[Floats], weight: Floats) -> None:
    """Write into values (F, C) how a spring turns each link on its own (F, 4)."""
    for control, more in zip(links_of(rig, one.controls).controls, added, strict=True):
        turn_more(rig, control, values, more, weight)
