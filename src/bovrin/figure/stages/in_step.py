"""Clips in step: which footfalls of two loops are the same, and how time runs through a fade so that they fall together.

After L. Kovar and M. Gleicher, "Flexible automatic motion blending with registration curves", SCA 2003: the registration curve
goes through the footfalls, and its slope stays between a third and three, so that no step stands still or is rushed.
"""

from __future__ import annotations

from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.motion.monotone import monotone
from bovrin.shot import Clip
from bovrin.shot.cycle import Contacts

Floats = NDArray[np.float64]

SLOWEST, FASTEST = 1 / 3, 3.0
"""How slow and how fast one loop may run as the other sees it."""
HASTE = 1 / 3
"""The share of its pace that a loop gives way by at most while the warp comes and goes."""
GRID = np.linspace(0.0, 1.0, 33)
APART = 0.02
"""Rounds by which two footfalls of a loop must be apart to be told apart."""


class InStep(NamedTuple):
    """Two loops in step. zero: their own frames where a round begins; rounds: how many rounds of feet each has in it; later: how
    many rounds later, on `GRID`, what happens at a phase of the first happens in the second; None where nothing is later.
    """

    zero: tuple[float, float]
    rounds: tuple[int, int]
    later: Floats | None


@cached_by_identity
def matched(one: Clip, other: Clip) -> InStep | None:
    """How two clips that go round fall together; None where no limb of both is ever down."""
    falls, theirs = _falls(one), _falls(other)
    shared = [limb for limb in falls if limb in theirs]
    if not shared:
        return _resting(one, other)
    counts = tuple(max(len(own[limb]) for limb in shared) for own in (falls, theirs))
    rounds = (1, 1) if counts[0] == counts[1] else counts
    first = falls[shared[0]][0]
    phases = {limb: (falls[limb] - first) / one.length * rounds[0] for limb in shared}
    found = [_beside(phases, theirs, start, rounds[1] / other.length) for start in theirs[shared[0]].tolist()]
    _, zero, nodes, late = min(found, key=lambda each: each[0])
    return InStep((first, zero), (rounds[0], rounds[1]), _curve(nodes, late))


def slowed_to(match: InStep, width: float, pace: float) -> Floats | None:
    """How much later the second is (on `GRID`) in a fade of so many frames between loops of at least so many rounds a frame."""
    if match.later is None:
        return None
    most = float(np.abs(match.later).max())
    return match.later * min(1.0, HASTE * width * pace / (1.5 * most))


def phases(later: Floats | None, common: Floats, share: Floats) -> tuple[Floats, Floats]:
    """The phases (F,) of both loops at a common phase (F,), when so much (F,) of the second is seen: as the first has it at
    0, as the second has it at 1."""
    if later is None:
        return common, common
    whole = np.floor(common)
    within = common - whole
    grid = np.concatenate([GRID[:-1] - 1.0, GRID, GRID[1:] + 1.0])
    offs = np.concatenate([later[:-1], later, later[1:]])
    told = grid + share[:, None] * offs  # (F, G): the common phase at which the first is where the grid says
    at = np.clip((told <= within[:, None]).sum(1) - 1, 0, len(grid) - 2)
    rows = np.arange(len(common))
    low, high = told[rows, at], told[rows, at + 1]
    first = grid[at] + (within - low) / (high - low) * (grid[at + 1] - grid[at])
    return first + whole, within + whole + (1.0 - share) * np.interp(first, grid, offs)


def _falls(clip: Clip) -> dict[str, Floats]:
    """When each limb comes down (N,), in the clip's frames; those that are never down, or always, are left out."""
    contacts: Contacts = clip.contacts
    found = {}
    for limb, spans in contacts.items():
        starts = [start % clip.length for start, end in spans if end - start < clip.length - 1e-6]
        if starts and len(starts) == len(spans):
            found[limb] = np.sort(np.array(starts))
    return found


def _resting(one: Clip, other: Clip) -> InStep | None:
    """Two loops of which one stands: they begin with what is down first in both."""
    for limb, spans in one.contacts.items():
        if spans and other.contacts.get(limb):
            return InStep((spans[0][0], other.contacts[limb][0][0]), (1, 1), None)
    return None


def _beside(
    phases_: dict[str, Floats], theirs: dict[str, Floats], start: float, pace: float
) -> tuple[float, float, Floats, Floats]:
    """The second's footfalls beside the first's when a round of the second begins at `start`: how badly they fit, where its
    round begins best, and at which phases of the first (N,) it is how much later (N,)."""
    nodes, late = [], []
    for limb, own in phases_.items():
        off = (theirs[limb] - start) * pace - own[:, None]
        off -= np.round(off)
        nodes.append(own % 1.0)
        late.append(off[np.arange(len(own)), np.abs(off).argmin(1)])
    at, much = np.concatenate(nodes), np.concatenate(late)
    mean = float(much.mean())
    return float(((much - mean) ** 2).sum()), start + mean / pace, at, much - mean


def _curve(nodes: Floats, late: Floats) -> Floats | None:
    """How much later the second loop is, on `GRID`, through footfalls at phases (N,) of the first; as steep as it may be."""
    order = np.argsort(nodes, kind="stable")
    nodes, late = nodes[order], late[order]
    groups = np.concatenate([[0], np.cumsum(np.diff(nodes) > APART)])
    if nodes[0] + 1.0 - nodes[-1] <= APART:
        nodes, groups = np.where(groups == groups[-1], nodes - 1.0, nodes), np.where(groups == groups[-1], 0, groups)
    counts = np.bincount(groups)
    at, much = np.bincount(groups, nodes) / counts, np.bincount(groups, late) / counts
    if len(at) < 2 or np.abs(much).max() < 1e-6:
        return None
    x = np.concatenate([at - 1.0, at, at + 1.0, at + 2.0])
    made = monotone(x, np.tile(much, 4), GRID)
    made[-1] = made[0]
    slopes = np.diff(made) / np.diff(GRID)
    steep = max(-slopes.min() / (1.0 - SLOWEST), slopes.max() / (FASTEST - 1.0), 1.0)
    return np.asarray(made / steep)
