"""Mirror poses: swap sides, copy one side onto the other, or mirror some parts."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.craft.keying.keys import KeyStyle, local_style
from bovrin.craft.keying.lag import lags_on, lags_there, values_with_lags
from bovrin.craft.keying.late_keys import keyed_late
from bovrin.craft.pose.mirror_travel import keep_in_place, travelling_hips
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.solve.rest_space import MIRROR, move_values, rest_moves, rest_plan, rest_turns, turn_values
from bovrin.shot import ControlKind, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME
from bovrin.shot.rig import HANGS

Floats = NDArray[np.float64]
Ints = NDArray[np.intp]

HOWS = ("swap", "left to right", "right to left")
PLANES = ("figure", "world")


class Exchange(NamedTuple):
    """Which controls (n,) get the mirrored values of which (n,)."""

    targets: tuple[int, ...]
    sources: tuple[int, ...]


def exchange(rig: Rig, parts: Iterable[str] | None, how: str) -> Exchange:
    """Who takes from whom. A part brings its other side along; the middle of the figure takes part in a swap only."""
    every = range(len(rig.controls))
    return exchange_of(
        rig, every if parts is None else [c for p in parts for c in rig.parts[rig.part(p)].controls], how
    )


def exchange_of(rig: Rig, chosen: Iterable[int], how: str) -> Exchange:
    """Who takes from whom, for some controls and their other sides."""
    if how not in HOWS:
        raise BadMotion(f"'{how}' is not a way to mirror.", advice="Use: " + ", ".join(HOWS) + ".")
    if how != "swap" and not rig.pairs:
        raise BadMotion("this figure has no left and right side to copy from.", advice="Swap mirrors it in place.")
    others = {c: rig.other_side(c) for c in chosen}
    wanted = {*others, *(o for o in others.values() if o is not None)}
    lefts, rights = ({rig.control(pair[i]) for pair in rig.pairs} for i in (0, 1))
    if how == "left to right":
        wanted &= rights
    elif how == "right to left":
        wanted &= lefts
    targets = tuple(sorted(c for c in wanted if rig.controls[c].kind not in UNMIRRORED))
    sources = tuple(c if (other := rig.other_side(c)) is None else other for c in targets)
    return Exchange(targets, sources)


UNMIRRORED = (ControlKind.WHOLE, ControlKind.FOLLOWER)
"""What has no side, and is no part of a pose that changes sides."""


class Across(NamedTuple):
    """What mirroring does to channels: `to[k]` becomes `sign[k]` times `taken[k]`; odd controls need their turns worked out."""

    to: Ints
    taken: Ints
    sign: Floats
    odd: Exchange


@cached_by_identity
def across(rig: Rig, targets: tuple[int, ...], sources: tuple[int, ...]) -> Across:
    """How channels change sides. Controls whose axes do not match across the plane are odd."""
    plan = rest_plan(rig)
    turn_row = {int(c): i for i, c in enumerate(plan.turners)}
    move_row = {int(c): i for i, c in enumerate(plan.movers)}
    rows: list[tuple[int, int, float]] = []
    odd = []
    for target, source in zip(targets, sources, strict=True):
        own, other = _by_technical(rig, target), _by_technical(rig, source)
        signs = {name: (-1.0 if name.endswith("twist") else 1.0) for name in plan.others[target]}
        for word, row, axes in (("translate", move_row, plan.move_axes), ("rotate", turn_row, plan.turn_axes)):
            if target in row and source in row:
                signs |= _axis_signs(word, axes[row[target]].T @ MIRROR @ axes[row[source]])
        same_order = rig.controls[target].order == rig.controls[source].order
        matched = [n for n in own if n in other and n in signs and (same_order or not n.startswith("rotate"))]
        rows += [(own[name], other[name], signs[name]) for name in matched]
        if any(name not in matched for name in own if name in other):
            odd.append((target, source))
    found = np.array(rows, float).reshape(-1, 3)
    return Across(
        found[:, 0].astype(np.intp),
        found[:, 1].astype(np.intp),
        found[:, 2],
        Exchange(tuple(t for t, _ in odd), tuple(s for _, s in odd)),
    )


def _axis_signs(word: str, turn: Floats) -> dict[str, float]:
    """The sign of each axis's channel, when the axes of both sides lie mirrored; else none."""
    if np.abs(np.abs(turn) - np.eye(3)).max() > 1e-9:
        return {}
    flip = 1.0 if word == "translate" else float(np.sign(np.linalg.det(turn)))
    return {f"{word} {axis}": flip * float(np.sign(turn[i, i])) for i, axis in enumerate("xyz")}


def _by_technical(rig: Rig, control: int) -> dict[str, int]:
    named = zip(rig.span(control), rig.controls[control].channels, strict=True)
    return {c.technical: i for i, c in named if not c.technical.startswith(HANGS)}


def mirrored_values(rig: Rig, values: Floats, who: Exchange) -> Floats:
    """Poses (F, C) with the mirrored values of `who` in them; the whole figure's place is not touched."""
    result = values.copy()
    way = across(rig, *who)
    result[:, way.to] = values[:, way.taken] * way.sign
    if way.odd.targets:
        _turn_odd(rig, values, way.odd, result)
    return result


def _turn_odd(rig: Rig, values: Floats, who: Exchange, result: Floats) -> None:
    plan = rest_plan(rig)
    targets, sources = _rows(plan.turners, who)
    if len(targets):
        turn_values(rig, MIRROR @ rest_turns(rig, values, sources) @ MIRROR, targets, values, result)
    targets, sources = _rows(plan.movers, who)
    if len(targets):
        move_values(rig, rest_moves(rig, values, sources) @ MIRROR, targets, result)


def _rows(controls: Ints, who: Exchange) -> tuple[Ints, Ints]:
    """Rows of targets and sources where both turn (or both move)."""
    row = {int(c): i for i, c in enumerate(controls)}
    pairs = [(row[t], row[s]) for t, s in zip(*who, strict=True) if t in row and s in row]
    found = np.array(pairs, np.intp).reshape(-1, 2)
    return found[:, 0], found[:, 1]


def mirror(
    shot: Shot,
    figure: str,
    frames: float | Sequence[float] | Floats,
    parts: Iterable[str] | None = None,
    how: str = "swap",
    plane: str = "figure",
    *,
    keep_place: bool = True,
    style: KeyStyle | None = None,
) -> Shot:
    """Mirror the pose on each of some frames, and key it there.

    The figure's plane goes through its middle, wherever it stands and faces; the world's is x = 0. With `keep_place` the
    figure stays where it stands; without, its place and facing are mirrored too, about its own plane on the first frame
    or about the world's. A part that comes late to a pose comes as late to the mirrored one.
    """
    rig = shot.figure(figure).rig
    at = np.unique(np.atleast_1d(np.asarray(frames, float)))
    who = exchange(rig, parts, how)
    curves = shot.curves(figure)
    # of a run of frames, those between poses are in-betweens
    lags = lags_there(curves, float(at[0]))[None] if len(at) == 1 else lags_on(curves, at)
    lags[:, (np.diff(at[:, None] + lags, axis=0) <= SAME_FRAME).any(0)] = 0.0  # frame by frame, nothing can be late
    values = values_with_lags(curves, rig, at, lags)
    new = mirrored_values(rig, values, who)
    hips = travelling_hips(shot, figure) if plane == "figure" and keep_place and parts is None else None
    if hips is not None:
        keep_in_place(rig, hips, values, new)
    roots = mirrored_whole(rig, values, new, plane, keep_place=keep_place) if parts is None else []
    touched = [i for c in (*who.targets, *roots) for i in rig.span(c)]
    how_keyed = style or local_style(shot, figure, float(at[0]), KeyRole.KEY_POSE)
    return shot.with_curves(figure, curves.replaced(keyed_late(curves, touched, at, lags, new, how_keyed)))


def mirrored_whole(rig: Rig, values: Floats, new: Floats, plane: str, *, keep_place: bool) -> list[int]:
    """Mirror the place and facing of the whole figure in `new`; says which controls that touched."""
    if plane not in PLANES:
        raise BadMotion(f"'{plane}' is not a plane to mirror about.", advice="Use: figure, world.")
    if plane == "figure" and keep_place:
        return []
    plan = rest_plan(rig)
    wholes = [i for i, c in enumerate(rig.controls) if c.kind is ControlKind.WHOLE]
    turners = np.flatnonzero(np.isin(plan.turners, wholes))
    movers = np.flatnonzero(np.isin(plan.movers, wholes))
    if len(turners):
        turns = rest_turns(rig, values, turners)
        flip = MIRROR if plane == "world" else turns[0, 0] @ MIRROR @ turns[0, 0].T
        turn_values(rig, flip @ turns @ MIRROR, turners, values, new)
    else:
        flip = MIRROR
    if len(movers) and not keep_place:
        rest = plan_of(rig).rest_world[0, :3, 3]
        places = rest_moves(rig, values, movers) + rest
        origin = np.zeros(3) if plane == "world" else places[0, 0]
        move_values(rig, (places - origin) @ flip.T + origin - rest, movers, new)
    return wholes
