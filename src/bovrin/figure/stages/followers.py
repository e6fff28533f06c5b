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
from bovrin.figure.stages.rules import ruled
from bovrin.figure.stages.springs import Felt, SpringRun, at, chain_of, felt, grid_of, run, sprung
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
    runs = iter(_runs(curves, rig, time, frames, before, key) if _any_spring(time) else ())
    for one in time.followers:
        if one.kind != "spring":
            ruled(curves, rig, one, time, made, frames)
            continue
        kept = next(runs)
        told = Told(rig, one, made)
        if told.weight.any():
            added = at(rig, one, time, kept, time.seconds(frames), _felt(rig, one, made))
            sprung(rig, one, made, added, told.weight)
    return made


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
        values = np.concatenate([_gone_on(before, part) for part in parts])
        found = list[SpringRun]()
        last = [own for own in time.followers if own.kind == "spring"][-1]
        for one in time.followers[: time.followers.index(last) + 1]:
            if one.kind != "spring":
                ruled(curves, rig, one, time, values, at_frames)
                continue
            kept, added = run(rig, one, time, grid, _felt(rig, one, values))
            found.append(kept)
            if one is not last:  # what nobody feels need not be told
                sprung(rig, one, values, added, Told(rig, one, values).weight)
        return found

    return RESULTS.get((SpringRun, *key, end), made)


def _gone_on(before: Unfollowed, frames: Floats) -> Floats:
    go_on()
    return before(frames)


def _felt(rig: Rig, one: Follower, values: Floats) -> Felt:
    """What a spring feels of the figure as values (F, C) before it make it."""
    return felt(rig, one, values, _world(rig, values, chain_of(rig, one.controls).joints, bool(one.clear_of)))


@cached_by_identity
def _in_body(rig: Rig) -> frozenset[int]:
    return frozenset(int(j) for level in plan_of(rig).body_levels for j in level.joints)


def _world(rig: Rig, values: Floats, joints: tuple[int, ...], whole: bool) -> Floats:
    """Joints (F, J, 4, 4) of which some are wanted, or all of them."""
    seen = looked(rig, values)
    found = body(rig, seen) if not whole and _in_body(rig).issuperset(joints) else None
    return solve(rig, seen) if found is None else found
