"""What moves by rule: followers, one after the other, on top of keys, clips and what hangs on something.

They come before the gaze and before anything reaches, so that what they do ends in channel values as all else does; springs feel
what carries them with its gaze and its reach.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import RESULTS, cached_by_identity
from bovrin.figure.solve.joints import body, solve
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.stages.following import Rules, Told
from bovrin.figure.stages.gaze import looked
from bovrin.figure.stages.hanging import joints_moved
from bovrin.figure.stages.keeping_off import joints_felt
from bovrin.figure.stages.rules import ruled
from bovrin.figure.stages.springs import Felt, SpringRun, at, chain_of, felt, grid_of, joined, run, sprung
from bovrin.progress import go_on
from bovrin.shot import CurveSet, Follower, Rig

Floats = NDArray[np.float64]

AT_ONCE = 1500
"""Frames that are solved at once."""
AHEAD = 10.0
"""Seconds in which a longer time is taken on."""
Unfollowed = Callable[[Floats], Floats]
"""The channels (F, C) at frames (F,) before anything follows."""


def followed(
    curves: CurveSet, rig: Rig, time: Rules, values: Floats, frames: Floats, before: Unfollowed, key: tuple[Any, ...]
) -> Floats:
    """Values (F, C) on frames (F,) with all that follows. key: what `before` hangs on."""
    made, waves = values.copy(), waves_of(rig, time.followers)
    scene = _Scene(curves, rig, time)
    if not _any_spring(time.followers):
        scene.follow(made, frames, waves, [])
        return made
    runs = _runs(scene, frames, before, key)
    folded = time.folded(frames)
    for rows in np.array_split(np.arange(len(frames)), 1 + len(frames) // AT_ONCE):
        go_on()
        part = made[rows]
        felt_in = part if folded is frames else before(folded[rows])
        scene.follow(part, folded[rows], waves, runs, felt_in)
        made[rows] = part
    return made


class _Scene(NamedTuple):
    """A figure and what follows in it."""

    curves: CurveSet
    rig: Rig
    time: Rules

    def follow(
        self,
        values: Floats,
        frames: Floats,
        waves: Sequence[Wave],
        runs: list[SpringRun],
        felt_in: Floats | None = None,
    ) -> None:
        """Write into values (F, C) on frames (F,) what some waves of followers make of them, the springs by their runs.

        felt_in (F, C): the values in which springs feel, where those are others: of the first round, from which later ones may
        have gone on. They follow as well.
        """
        both = [values] if felt_in is None or felt_in is values else [values, felt_in]
        rig, time, left = self.rig, self.time, iter(runs)
        for wave in waves:
            springs = [one for one in wave if one.kind == "spring"]
            counting = [one for one in springs if Told.of(rig, one, both[-1]).weight.any()]
            felts = self.felt_by(counting, both[-1])
            for one in wave:
                if one.kind != "spring":
                    for own in both:
                        ruled(self.curves, rig, one, time, own, frames)
                    continue
                kept = next(left)
                if one in felts:
                    added = at(rig, one, time, kept, time.seconds(frames), felts[one])
                    for own in both:
                        sprung(rig, one, own, added, felts[one].told.weight)

    def felt_by(self, springs: Sequence[Follower], values: Floats) -> dict[Follower, Felt]:
        """What springs of one wave feel of the figure as values (F, C) before them make it."""
        if not springs:
            return {}
        world = _world(self.rig, values, frozenset().union(*(_known(self.rig, one) for one in springs)))
        return {one: felt(self.rig, one, values, world) for one in springs}


Wave = tuple[Follower, ...]


@cached_by_identity
def waves_of(rig: Rig, followers: tuple[Follower, ...]) -> tuple[Wave, ...]:
    """Followers in their order, together where no spring feels one of them before it: they look at the figure once."""
    waves, moved = list[list[Follower]](), set[int]()
    for one in followers:
        own = frozenset().union(*(joints_moved(rig, rig.control(name)) for name in one.controls))
        if not waves or (one.kind == "spring" and moved & (_feels(rig, one) | own)):
            waves.append([])
            moved = set()
        waves[-1].append(one)
        moved |= own
    return tuple(tuple(wave) for wave in waves)


def _known(rig: Rig, one: Follower) -> frozenset[int]:
    """The joints that a spring looks at."""
    return joints_felt(rig, one) | set(chain_of(rig, one.controls).joints)


def _feels(rig: Rig, one: Follower) -> frozenset[int]:
    """The joints that carry what a spring looks at; all of them where that is part of a limb."""
    found = set(_known(rig, one))
    if not _in_body(rig) >= found:
        return frozenset(range(len(rig.joints)))
    for joint in sorted(found, reverse=True):
        while joint >= 0:
            found.add(joint)
            joint = rig.joints[joint].parent
    return frozenset(found)


def _any_spring(followers: Sequence[Follower]) -> bool:
    return any(one.kind == "spring" for one in followers)


def _runs(scene: _Scene, frames: Floats, before: Unfollowed, key: tuple[Any, ...]) -> list[SpringRun]:
    """The springs of a figure over all time, up to the last of some frames at least."""
    rig, time = scene.rig, scene.time
    end = 0.0 if time.round else float(np.ceil(max(float(time.seconds(frames).max()), 0.0) / AHEAD) * AHEAD)

    def made() -> list[SpringRun]:
        grid = grid_of(time, end)
        at_frames = np.round(time.first + grid * time.rate, 6)  # on a frame, not a hair before its keys
        parts = np.array_split(at_frames, max(len(at_frames) // AT_ONCE, 1))
        found, waves = list[SpringRun](), waves_of(rig, time.followers)
        for n, wave in enumerate(waves):
            springs = [one for one in wave if one.kind == "spring"]
            felts = [_felt_on(scene, before, part, waves[:n], found, springs) for part in parts] if springs else []
            for one in springs:
                found.append(run(rig, one, time, grid, joined(one, [part[one] for part in felts]))[0])
        return found

    return RESULTS.get((SpringRun, *key, end), made)


def _felt_on(
    scene: _Scene,
    before: Unfollowed,
    frames: Floats,
    waves: Sequence[Wave],
    runs: list[SpringRun],
    springs: Sequence[Follower],
) -> dict[Follower, Felt]:
    """What springs feel on some frames after some waves: nothing else of them is kept."""
    go_on()
    values = before(frames)
    scene.follow(values, frames, waves, runs)
    return scene.felt_by(springs, values)


@cached_by_identity
def _in_body(rig: Rig) -> frozenset[int]:
    return frozenset(int(j) for level in plan_of(rig).body_levels for j in level.joints)


def _world(rig: Rig, values: Floats, joints: frozenset[int]) -> Floats:
    """Joints (F, J, 4, 4) of which some are wanted, or all of them."""
    seen = looked(rig, values)
    found = body(rig, seen) if _in_body(rig) >= joints else None
    return solve(rig, seen) if found is None else found
