"""Followers without a memory: swing, bob, turn and noise, told for any frame by itself."""

from __future__ import annotations

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.rest_space import rest_plan
from bovrin.figure.stages.following import Rules, Told, links_of, rounds, turn_more
from bovrin.motion.rotations import vector_quaternion
from bovrin.shot import CurveSet, Follower, Rig

Floats = NDArray[np.float64]

WAVES = 7
"""How many waves a noise is made of."""
SLOWEST = 0.25
"""How slow its slowest wave is against its quickest."""


def ruled(curves: CurveSet, rig: Rig, one: Follower, time: Rules, values: Floats, frames: Floats) -> None:
    """Write into values (F, C) on frames (F,) what a swing, bob, turn or noise makes of them."""
    told, links = Told.of(rig, one, values), links_of(rig, one.controls)
    weight = told.weight
    if not weight.any():
        return
    seconds = time.seconds(frames)
    for control, depth in zip(links.controls, links.depth, strict=True):
        gone = rounds(curves, rig, one, time, seconds - told["delay"] * depth / time.rate)
        counts = weight * told.share("at the end", depth, links.total)
        if one.kind == "noise":
            _shake(rig, control, told, _noise(told, gone, time, rounds_in(curves, rig, one, time)), values, counts)
            continue
        turning = gone + told["phase"] / (2.0 * np.pi)
        if one.kind == "turn":
            share = _closed(told.share("at the end", depth, links.total), rounds_in(curves, rig, one, time))
            angle = (2.0 * np.pi * gone * share + told["phase"]) * weight
            _turn(rig, control, values, told.axis() * angle[:, None], counts)
            continue
        to_and_fro = np.sin(2.0 * np.pi * turning) * told["how far"] * counts
        act = _turn if one.kind == "swing" else _move
        act(rig, control, values, told.axis() * to_and_fro[:, None], counts)


def rounds_in(curves: CurveSet, rig: Rig, one: Follower, time: Rules) -> float:
    """How many rounds a follower goes in one of its loop; 0 where there is no loop."""
    if not time.round:
        return 0.0
    return float(rounds(curves, rig, one, time, np.array([time.round]))[0])


def _closed(share: Floats, whole: float) -> Floats:
    """Shares (F,) of a turning that goes round `whole` times in a loop, so that what gets them comes round as well."""
    return np.round(share * whole) / whole if whole else share


def _turn(rig: Rig, control: int, values: Floats, vector: Floats, counts: Floats) -> None:
    """Turn a control on by rotation vectors (F, 3) in the figure's space at rest."""
    row = _turner_rows(rig).get(control)
    if row is not None:
        own = vector @ rest_plan(rig).turn_axes[row]
        turn_more(rig, control, values, vector_quaternion(own), counts)


@cached_by_identity
def _turner_rows(rig: Rig) -> dict[int, int]:
    return {control: row for row, control in enumerate(rest_plan(rig).turners.tolist())}


def _move(rig: Rig, control: int, values: Floats, move: Floats, counts: Floats) -> None:
    """Move a control by (F, 3), metres, in the figure's space at rest."""
    plan = rest_plan(rig)
    for row in np.flatnonzero(plan.movers == control):
        own = move @ plan.move_axes[row]
        for axis, column in enumerate(plan.move_columns[row].tolist()):
            if column >= 0:
                values[:, column] += np.where(counts > 0.0, own[:, axis], 0.0)


def _shake(rig: Rig, control: int, told: Told, noise: Floats, values: Floats, counts: Floats) -> None:
    """Turn and move a control by noise (F, 6)."""
    noise = noise * counts[:, None]
    if told["turns by"].any():
        _turn(rig, control, values, noise[:, :3] * told["turns by"][:, None], counts)
    if told["moves by"].any():
        _move(rig, control, values, noise[:, 3:] * told["moves by"][:, None], counts)


@lru_cache(64)
def _waves(seed: int) -> tuple[Floats, Floats]:
    """How quick waves (WAVES, 6) are, and where they begin."""
    random = np.random.default_rng(seed)
    return random.uniform(SLOWEST, 1.0, (WAVES, 6)), random.uniform(0.0, 1.0, (WAVES, 6))


def _noise(told: Told, gone: Floats, time: Rules, whole: float) -> Floats:
    """Six noises (F, 6) about 0, seldom beyond 1, when so many rounds (F,) have gone by, of `whole` in a loop: few waves between
    a quarter of the told quickness and all of it, of even strength, begun anywhere. Their band has no more than that in it."""
    made = np.empty((len(gone), 6))
    for seed in set(np.round(told["seed"]).tolist()):
        quick, begin = _waves(int(seed))
        if time.round:
            quick = np.maximum(np.round(quick * whole), 1.0) / whole if whole else quick * 0.0
        rows = np.round(told["seed"]) == seed
        waves = np.sin(2.0 * np.pi * (gone[rows, None, None] * quick + begin))
        made[rows] = waves.sum(1) * np.sqrt(0.5 / WAVES)
    return made
