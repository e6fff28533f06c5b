"""Where an edit of what hangs on something lands: in how it hangs there, or in its own keys where it does not hang wholly."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import columns
from bovrin.figure.stages.hanging import Hook, by_control, carried, frames_of, put_at, shares
from bovrin.figure.staging import hangs_on, staged, unlooked, world_of
from bovrin.motion.rotations import matrix_quaternion, quaternion_matrix
from bovrin.shot import Attachment, Rig, Shot
from bovrin.shot.rig import Quaternion, Vector

Floats = NDArray[np.float64]

SAME = 1e-9
"""Metres, radians or shares that are no change."""


class Landed(NamedTuple):
    """What becomes of an edit: how a figure's controls hang, and the channels (index: value) that are for keys."""

    attachments: tuple[Attachment, ...]
    values: dict[int, float]


class Held(NamedTuple):
    """A control that hangs on something on a frame: its hooks, the share of each (N,), where they put it (N, 3) and (N, 3, 3)."""

    control: int
    hooks: list[Hook]
    share: Floats
    places: Floats
    turns: Floats

    def total(self, what: str) -> float:
        """How far its place or its turn hangs, 0 to 1."""
        return float(
            sum(s for s, hook in zip(self.share, self.hooks, strict=True) if hook.attachment.what in ("both", what))
        )


def held_at(shot: Shot, figure: str, frame: float) -> list[Held]:
    """The controls of a figure that hang on something on a frame, if only in part."""
    what, at = hangs_on(shot, figure), np.array([float(frame)])
    if not what[3]:
        return []
    own = staged(shot, figure, frame)
    found = []
    for control, hooks in by_control(own.rig, what[3]).items():
        share = shares(own.rig, hooks, own.values)[:, 0]
        if share.any():
            targets = [carried(hook, own.world, at, world_of) for hook in hooks]
            found.append(Held(control, hooks, share, *(np.concatenate(part) for part in zip(*targets, strict=True))))
    return found


def landed(shot: Shot, figure: str, frame: float, values: Mapping[int, float]) -> Landed:
    """Where an edit of channels on a frame (index: value, as they are to be seen) lands."""
    found, rest = shot.attachments(figure), dict(values)
    if not found:
        return Landed(found, rest)
    now, rig = staged(shot, figure, frame), shot.figure(figure).rig
    wanted = now.values.copy()
    wanted[0, list(values)] = list(values.values())
    holds = held_at(shot, figure, frame)
    alone = _alone(rig, holds, np.flatnonzero(np.abs(wanted[0] - now.values[0]) > SAME).tolist())
    for held in holds:
        for what, word in (("place", "translate"), ("turn", "rotate")):
            cols = [c for c in columns(rig, held.control, word) if c in rest]
            if not cols or held.total(what) == 0.0:
                continue
            if max(abs(wanted[0, c] - now.values[0, c]) for c in cols) <= SAME:
                rest = {c: value for c, value in rest.items() if c not in cols}
            elif held.total(what) > 1.0 - SAME:
                found = found if not alone else _hung_anew(rig, found, held, what, wanted)
                rest = {c: value for c, value in rest.items() if c not in cols}
            else:
                rest |= own_for(rig, held, what, wanted)
    return Landed(found, rest)


def _alone(rig: Rig, holds: list[Held], changed: list[int]) -> bool:
    """Whether an edit is about what hangs alone: an edit of the body leaves what hangs where it hangs."""
    own = {held.control for held in holds}
    limbs = {rig.controls[c].limb for c in own} - {-1}
    own |= {c for n in limbs for c in (rig.limbs[n].goal, rig.limbs[n].pole)}
    return set(changed) <= {i for c in own for i in rig.span(c)}


def _hung_anew(
    rig: Rig, attachments: tuple[Attachment, ...], held: Held, what: str, wanted: Floats
) -> tuple[Attachment, ...]:
    """The attachments of a control that hangs wholly, so that it is where values (1, C) want it."""
    place, turn = frames_of(rig, held.control, wanted, solve(rig, wanted))
    changed = {}
    for n, hook in enumerate(held.hooks):
        if held.share[n] > 0.0 and hook.attachment.what in ("both", what):
            changed[hook.attachment] = taken_anew(
                hook.attachment, held.places[n], held.turns[n], place[0], turn[0], what
            )
    return tuple(changed.get(one, one) for one in attachments)


def taken_anew(
    one: Attachment, was: Floats, was_turned: Floats, place: Floats, turn: Floats, what: str = "both"
) -> Attachment:
    """An attachment that puts what hangs by it at a place (3,) and turn (3, 3), where it put it at others before."""
    offset = quaternion_matrix(np.array(one.turn, float) / np.linalg.norm(one.turn))
    axes = was_turned @ offset.T
    new: dict[str, Vector | Quaternion] = {}
    if what in ("both", "place"):
        x, y, z = (np.array(one.place) + axes.T @ (place - was)).tolist()
        new["place"] = (x, y, z)
    if what in ("both", "turn"):
        x, y, z, w = matrix_quaternion(axes.T @ turn).tolist()
        new["turn"] = (x, y, z, w)
    return replace(one, **new)  # type: ignore[arg-type]


def own_for(rig: Rig, held: Held, what: str, wanted: Floats) -> dict[int, float]:
    """A control's own channels, so that it is seen where values (1, C) want it while it hangs on something in part."""
    world = solve(rig, wanted)
    place, turn = frames_of(rig, held.control, wanted, world)
    share = np.array([s * (h.attachment.what in ("both", what)) for s, h in zip(held.share, held.hooks, strict=True)])
    left = 1.0 - share.sum()
    made = wanted.copy()
    if what == "place":
        put_at(rig, held.control, made, world, (place - share @ held.places) / left, None)
    else:
        put_at(rig, held.control, made, world, None, _own_turn(turn, held.turns, share, left))
    cols = [c for c in columns(rig, held.control, "translate" if what == "place" else "rotate") if c >= 0]
    return {c: float(made[0, c]) for c in cols}


def _own_turn(turn: Floats, turns: Sequence[Floats] | Floats, share: Floats, left: float) -> Floats:
    """The turn (1, 3, 3) that blends with others (N, 3, 3) to the one wanted (1, 3, 3); the nearest there is."""
    a, q = matrix_quaternion(turn)[0], matrix_quaternion(np.asarray(turns))
    q = np.where((q @ a)[:, None] < 0.0, -q, q)
    b = share @ q
    along = float(a @ b)
    size = along + np.sqrt(max(along**2 - float(b @ b) + left**2, 0.0))
    own = (size * a - b) / left
    return np.asarray(quaternion_matrix(own / np.linalg.norm(own))[None])


def with_what_hangs(shot: Shot, figure: str, frame: float, values: Floats) -> Floats:
    """A pose (C,) read from keys, with what hangs on something on a frame where it is seen."""
    rig, found = shot.figure(figure).rig, values
    if not shot.attachments(figure):
        return values
    for held in held_at(shot, figure, frame):
        cols = [c for word in ("translate", "rotate") for c in columns(rig, held.control, word) if c >= 0]
        found = found.copy()
        found[cols] = staged(shot, figure, frame).values[0, cols]
    return found


def hanging_frame(shot: Shot, figure: str, control: int, frame: float) -> tuple[Floats, Floats]:
    """Where a control is seen on a frame (3,), metres, and how it is turned (3, 3), in the world."""
    own = staged(shot, figure, frame)
    values = unlooked(hangs_on(shot, figure), own.frames)
    place, turn = frames_of(own.rig, control, values, own.world)
    return place[0], turn[0]
