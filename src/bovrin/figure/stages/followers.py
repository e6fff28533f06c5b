"""What moves by rule: followers, one after the other, on top of keys, clips and what hangs on something.

They come before the gaze and before anything reaches, so that what they do ends in channel values as all else does; springs feel
what carries them with its gaze and its reach.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import RESULTS, cached_by_identity
from bovrin.figure.solve.joints import body, solve
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.stages.following import Rules, Told
from bovrin.figure.stages.gaze import looked
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
    made = values.copy()
    if not _any_spring(time):
        _follow_all(curves, rig, time, made, frames, [], len(time.followers))
        return made
    runs = _runs(curves, rig, time, frames, before, key)
    for rows in np.array_split(np.arange(len(frames)), 1 + len(frames) // AT_ONCE):
        go_on()
        part = made[rows]
        _follow_all(curves, rig, time, part, frames[rows], runs, len(time.followers))
        made[rows] = part
    return made


def _follow_all(
    curves: CurveSet, rig: Rig, time: Rules, values: Floats, frames: Floats, runs: list[SpringRun], count: int
) -> None:
    """Write into values (F, C) on frames (F,) what the first so many followers make of them, the springs by their runs."""
    left = iter(runs)
    for one in time.followers[:count]:
        if one.kind != "spring":
            ruled(curves, rig, one, time, values, frames)
            continue
        kept, weight = next(left), Told.of(rig, one, values).weight
        if weight.any():
            added = at(rig, one, time, kept, time.seconds(frames), _felt(rig, one, values))
            sprung(rig, one, values, added, weight)


def _any_spring(time: Rules) -> bool:
    return any(one.kind == "spring" for one in time.followers)


def _runs(
    curves: CurveSet, rig: Rig, time: Rules, frames: Floats, before: Unfollowed, key: tuple[Any, ...]
) -> list[SpringRun]:
    """The springs of a figure over all time, up to the last of some frames at least."""
    end = 0.0 if time.round else float(np.ceil(max(float(time.seconds(frames).max()), 0.0) / AHEAD) * AHEAD)

    def made() -> list[SpringRun]:
        grid = grid_of(time, end)
        at_frames = time.first + grid * time.rate
        parts = np.array_split(at_frames, max(len(at_frames) // AT_ONCE, 1))
        found = list[SpringRun]()
        for n, one in enumerate(time.followers):
            if one.kind == "spring":
                felts = [_felt_on(curves, rig, time, before, part, found, n) for part in parts]
                found.append(run(rig, one, time, grid, joined(one, felts))[0])
        return found

    return RESULTS.get((SpringRun, *key, end), made)


def _felt_on(
    curves: CurveSet, rig: Rig, time: Rules, before: Unfollowed, frames: Floats, runs: list[SpringRun], number: int
) -> Felt:
    """What a follower, by its number, feels on some frames: nothing else of them is kept."""
    go_on()
    values = before(frames)
    _follow_all(curves, rig, time, values, frames, runs, number)
    return _felt(rig, time.followers[number], values)


def _felt(rig: Rig, one: Follower, values: Floats) -> Felt:
    """What a spring feels of the figure as values (F, C) before it make it."""
    joints = joints_felt(rig, one) | set(chain_of(rig, one.controls).joints)
    return felt(rig, one, values, _world(rig, values, joints))


@cached_by_identity
def _in_body(rig: Rig) -> frozenset[int]:
    return frozenset(int(j) for level in plan_of(rig).body_levels for j in level.joints)


def _world(rig: Rig, values: Floats, joints: frozenset[int]) -> Floats:
    """Joints (F, J, 4, 4) of which some are wanted, or all of them."""
    seen = looked(rig, values)
    found = body(rig, seen) if _in_body(rig) >= joints else None
    return solve(rig, seen) if found is None else found
