"""Loops closed: the last pose is the first, curves meet in value and slope and go round, the seam's two keys are one."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.keys import merged
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import columns
from bovrin.figure.solve.rest_space import move_values, rest_moves, rest_plan
from bovrin.motion.evaluate import channel_values
from bovrin.motion.handles import gather
from bovrin.motion.insert import inserted
from bovrin.shot import (
    ControlKind,
    Curve,
    CurveSet,
    Cycle,
    EndKind,
    HandleKind,
    Key,
    KeyRole,
    Rig,
    Shot,
)
from bovrin.shot.checks import check_range
from bovrin.shot.curve import COLUMN_TYPES, SAME_FRAME

Floats = NDArray[np.float64]

TRAVELS = 0.02
"""Metres by which the body must be elsewhere at the end of a loop for it to travel."""
FEWEST = 2
"""Frames that a loop has at least."""
MEETS = 1e-9
_SIDES = ("kind", "slope", "length", "span")


def close_loop(shot: Shot, figure: str, start: float, end: float) -> Shot:
    """The shot in which a figure's motion from `start` to `end` is a loop: the pose at the end is that at the start, the way that
    the figure travels kept, and curves meet there in value and slope.

    Where nothing is keyed outside the loop, curves go round from then on, and it is the figure's cycle.
    """
    check_range("the loop", start, end)
    if end - start < FEWEST:
        raise BadMotion(f"a loop from {start:g} to {end:g} is too short.", advice=f"Give it {FEWEST} frames or more.")
    rig = shot.figure(figure).rig
    curves = shot.curves(figure).mapped(lambda own: _from(own, start, end))
    keyed = [i for i, own in enumerate(curves.curves) if len(own) and not own.muted]
    if not keyed:
        raise BadMotion(f"'{figure}' has no keys from {start:g} to {end:g}.", advice="Key a pose first.")
    gains = gained(rig, channel_values(curves, rig, np.array([start, end])))
    alone = all(_inside(curves[i], start, end) for i in keyed)
    changes = {i: _closed(curves[i], start, end, float(gains[i]), rig.defaults[i], goes_round=alone) for i in keyed}
    made = shot.with_curves(figure, curves.replaced(changes))
    if not alone:
        return made
    old = shot.cycle(figure)
    return made.with_cycle(figure, Cycle(start, end, old.gait if old else "", old.mirrored if old else False))


def _from(curve: Curve, start: float, end: float) -> Curve:
    """A loop as long as another one, that comes later, with its seam where that one has it."""
    late = curve.is_round and abs(curve.frames[-1] - curve.frames[0] - (end - start)) < SAME_FRAME
    return begun_at(curve, start, end - start) if late and abs(curve.frames[0] - start) > SAME_FRAME else curve


def _inside(curve: Curve, start: float, end: float) -> bool:
    return bool(curve.frames[0] >= start - SAME_FRAME and curve.frames[-1] <= end + SAME_FRAME)


def gained(rig: Rig, values: Floats) -> Floats:
    """What every channel gains over a loop (C,) by its travel, from the values (2, C) at its ends: the whole figure keeps what
    it does; hips and what stands beside them keep how far the hips go, if they do."""
    gains = np.zeros(values.shape[1])
    for control, what in enumerate(rig.controls):
        if what.kind is ControlKind.WHOLE:
            own = [c for word in ("translate", "rotate") for c in columns(rig, control, word) if c >= 0]
            gains[own] = values[1, own] - values[0, own]
    plan = rest_plan(rig)
    hips = next((c for c in plan.movers.tolist() if rig.controls[c].kind is ControlKind.JOINT), None)
    if hips is None:
        return gains
    row = np.flatnonzero(plan.movers == hips)
    moves = rest_moves(rig, values, row)[:, 0]
    way = (moves[1] - moves[0]) * [1.0, 0.0, 1.0]
    if np.linalg.norm(way) < TRAVELS:
        return gains
    for control in (hips, *(i for i, c in enumerate(rig.controls) if c.kind is ControlKind.GOAL)):
        made = np.zeros((1, values.shape[1]))
        move_values(rig, way[None, None], np.flatnonzero(plan.movers == control), made)
        gains += made[0]
    return gains


def _closed(curve: Curve, start: float, end: float, gain: float, default: float, *, goes_round: bool) -> Curve:
    made = inserted(inserted(curve, start, default, KeyRole.KEY_POSE), end, default, KeyRole.KEY_POSE).settled()
    first, last = made.index_at(start), made.index_at(end)
    assert first is not None and last is not None
    values = made.values.copy()
    values[last] = values[first] + gain
    made = made.changed(values=values)
    if goes_round:
        made = made.ending(EndKind.ROUND, EndKind.ROUND)
    now = gather([made if goes_round else made.taken(np.arange(first, last + 1)).ending(EndKind.ROUND, EndKind.ROUND)])
    a, b = (0, -1) if not goes_round else (first, last)
    if made.out_kind[first] == HandleKind.STEPPED or made.out_kind[last - 1] == HandleKind.STEPPED:
        return made
    leaves, arrives = float(now.out_slope[a]), float(now.in_slope[b])
    if goes_round and abs(leaves - arrives) <= MEETS:
        return made
    return _meeting(made, first, last, leaves if abs(leaves - arrives) <= MEETS else (leaves + arrives) / 2)


def _meeting(curve: Curve, first: int, last: int, slope: float) -> Curve:
    """A curve that leaves its first key as it comes to its last."""
    columns_ = {
        name: getattr(curve, name).copy() for name in ("in_kind", "out_kind", "in_slope", "out_slope", "joined")
    }
    for at in (first, last):
        columns_["in_kind"][at] = columns_["out_kind"][at] = HandleKind.BY_HAND
        columns_["in_slope"][at] = columns_["out_slope"][at] = slope
        columns_["joined"][at] = True
    return curve.changed(**columns_)


def opened(shot: Shot, figure: str) -> Shot:
    """The shot in which a figure's motion no longer goes round: its curves hold at their ends, every key as it is."""
    curves = shot.curves(figure)
    made = curves.mapped(lambda own: own.ending(EndKind.HOLD, EndKind.HOLD) if EndKind.ROUND in _ends(own) else own)
    return shot.with_curves(figure, made).with_cycle(figure, None)


def _ends(curve: Curve) -> tuple[EndKind, EndKind]:
    return curve.before, curve.after


def seams_as_one(before: CurveSet, after: CurveSet) -> CurveSet:
    """Curves in which what an edit did to one key of a seam is done to its other one, and keys that it put outside a loop lie
    where the loop has that frame."""
    changes = {
        i: _one_seam(old, new)
        for i, (old, new) in enumerate(zip(before.curves, after.curves, strict=True))
        if new is not old and old.is_round and new.is_round
    }
    return after.replaced(changes) if changes else after


def gone_later(old: Curve, new: Curve) -> float:
    """By how many frames all keys of a loop came later, with nothing else changed in time; 0 where that is not so. Such
    a loop is one still, and its seam goes along: it lies beside that of the cycle, as the part comes late to its poses."""
    if len(old) != len(new) or not (old.is_round and new.is_round):
        return 0.0
    by = new.frames - old.frames
    return float(by[0]) if np.ptp(by) < SAME_FRAME else 0.0


def _begins_elsewhere(old: Curve, new: Curve) -> bool:
    """Whether a loop is as long as it was, and its seam, both keys of it, lies on another frame."""
    spans = [float(c.frames[-1] - c.frames[0]) for c in (old, new)]
    return abs(spans[0] - spans[1]) < SAME_FRAME and abs(float(new.frames[0] - old.frames[0])) > SAME_FRAME


def _one_seam(old: Curve, new: Curve) -> Curve:
    if _begins_elsewhere(old, new):
        return new
    new = _folded(old, new)
    was_first, was_last = old.key(0), old.key(len(old) - 1)
    first, last = new.index_at(was_first.frame), new.index_at(was_last.frame)
    if first is None or last is None:
        return _without_pose(old, new.taken(np.arange(len(new)) != (last if first is None else first)))
    now_first, now_last = new.key(first), new.key(last)
    gain = was_last.value - was_first.value
    if now_first == was_first and now_last == was_last:
        return new
    sides = (
        first if _outer_alone(was_last, now_last, was_first, now_first, "in") else last,
        last if _outer_alone(was_first, now_first, was_last, now_last, "out") else first,
    )
    if now_last == was_last:
        return _alike(new, first, last, gain, sides)
    if now_first != was_first or abs(gain) > MEETS:  # the end of a travel is how far it goes
        return _alike(new, first, last, now_last.value - now_first.value, sides)
    return _alike(new, last, first, -gain, sides)


def _outer_alone(was: Key, now: Key, was_outer: Key, now_outer: Key, side: str) -> bool:
    """Whether of a seam's handles on one side the one that lies in the loop stayed, and the one outside it points elsewhere."""
    names = [f"{side}_{name}" for name in _SIDES]
    if any(getattr(was, name) != getattr(now, name) for name in names):
        return False
    return any(getattr(was_outer, name) != getattr(now_outer, name) for name in names[:2])


def _without_pose(old: Curve, left: Curve) -> Curve:
    """A loop whose seam was taken out: it goes as the other keys have it, and its ends are in-betweens."""
    if not len(left):
        return left
    first, last = float(old.frames[0]), float(old.frames[-1])
    length, gain = last - first, float(old.values[-1] - old.values[0])
    plain = left.ending(EndKind.HOLD, EndKind.HOLD)
    rounds = [plain.changed(frames=plain.frames + n * length, values=plain.values + n * gain) for n in (-1, 0, 1)]
    whole = merged(merged(rounds[0], rounds[1]), rounds[2])
    for frame in (first, last):
        whole = inserted(whole, frame)
    inside = (whole.frames >= first - SAME_FRAME) & (whole.frames <= last + SAME_FRAME)
    return whole.taken(inside).like(old)


def _alike(curve: Curve, source: int, target: int, gain: float, sides: tuple[int, int]) -> Curve:
    """A curve in which one key of the seam is as the other, but for what a round gains; sides: the keys whose handles toward what
    comes before, and toward what comes after, both have."""
    handles = {
        f"{side}_{name}": getattr(curve, f"{side}_{name}")[key].item()
        for side, key in zip(("in", "out"), sides, strict=True)
        for name in _SIDES
    }
    columns_ = {name: getattr(curve, name).copy() for name in COLUMN_TYPES if name != "frames"}
    for column in columns_.values():
        column[target] = column[source]
    columns_["values"][target] += gain
    for name, handle in handles.items():
        columns_[name][[source, target]] = handle
    return curve.changed(**columns_)


def _folded(old: Curve, new: Curve) -> Curve:
    """A curve whose new keys outside the loop lie inside it."""
    first, last = float(old.frames[0]), float(old.frames[-1])
    outside = (new.frames < first - SAME_FRAME) | (new.frames > last + SAME_FRAME)
    if not outside.any() or new.index_at(first) is None or new.index_at(last) is None:
        return new
    length, gain = last - first, float(old.values[-1] - old.values[0])
    away, kept = new.taken(outside), new.taken(~outside)
    rounds = np.floor((away.frames - first) / length)
    frames, values = away.frames - rounds * length, away.values - rounds * gain
    frames, at = np.unique(frames, return_index=True)
    moved = away.taken(at).changed(frames=frames, values=values[at])
    free = np.array([moved.index_at(float(f)) is None for f in kept.frames], bool)
    both = merged(kept.taken(free), moved) if not free.all() or len(moved) else kept
    return _ends_kept(both, old, first, last)


def _ends_kept(curve: Curve, old: Curve, first: float, last: float) -> Curve:
    """A curve with keys on both ends of the loop."""
    for frame, key in ((first, old.key(0)), (last, old.key(len(old) - 1))):
        if curve.index_at(frame) is None:
            curve = curve.with_key(key)
    return curve


def seamless(curve: Curve) -> Curve:
    """A loop whose first key has on its near side what its last key has there."""
    own = curve.settled()
    columns = {name: getattr(own, name).copy() for name in COLUMN_TYPES if name.startswith("in_")}
    for column in columns.values():
        column[0] = column[-1]
    return own.changed(**columns)


def begun_at(curve: Curve, first: float, length: float) -> Curve:
    """The same loop with its seam on another frame."""
    gain = float(curve.values[-1] - curve.values[0])
    begins = float(curve.frames[0])
    one = seamless(inserted(curve, begins + (first - begins) % length))
    keys = one.taken(np.arange(len(one) - 1))
    rounds = np.floor((keys.frames - first + SAME_FRAME) / length)
    moved = keys.frames - rounds * length
    order = np.argsort(moved)
    columns = {name: getattr(keys, name)[order] for name in COLUMN_TYPES}
    columns["frames"], columns["values"] = moved[order], (keys.values - rounds * gain)[order]
    made = Curve.from_columns(columns, curve)
    start = made.key(0)
    return made.with_key(start._replace(frame=start.frame + length, value=start.value + gain))
