"""What a figure does over the whole frames of a shot, as the proof looks at it."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.solve.reach import by_channel, goal_matrices
from bovrin.figure.stages.fade_feet import down_on_lane
from bovrin.figure.stages.layers import layers_of
from bovrin.figure.staging import staged
from bovrin.frozen import frozen
from bovrin.measure.bodies import bodies_of
from bovrin.measure.planted import planted
from bovrin.measure.proof.stretches import recorded_rows, stepped_spans
from bovrin.shot import HOLDING, CurveSet, KeyRole, Rig, Shot, Unit

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]

PIECE = 2000
"""Frames that are solved at a time."""
SEEN = {
    Unit.ANGLE: np.degrees(1.0),
    Unit.LENGTH: 100.0,
    Unit.AMOUNT: 100.0,
    **dict.fromkeys(HOLDING, 0.0),
    Unit.NUMBER: 0.0,
}
"""Degrees, centimetres or per cent that a unit of a channel is."""
UNITS = {Unit.ANGLE: "degrees", Unit.LENGTH: "cm", Unit.AMOUNT: "%", **dict.fromkeys(HOLDING, ""), Unit.NUMBER: ""}
MOVES = 0.02
"""Degrees, centimetres or per cent on a frame that are seen as movement."""

ON_GROUND = 0.01
"""Metres over the ground within which something lies on it."""
TRAVELS = 0.02
"""Metres that a figure goes in a round from which on it does not stride on the spot."""
Going = Callable[[float], bool]


@frozen
class Solved:
    """What is worked out from joints, by frame: their places (F, J, 3), the outermost points of each limb's end
    (F, N, 3), the goals of limbs (F, L, 3), the centre of mass (F, 3) and the lowest point of a figure without feet (F,)."""

    places: Floats
    ends: tuple[Floats, ...]
    goals: Floats
    centre: Floats
    lowest: Floats

    def rows(self) -> list[Floats]:
        """All of it."""
        return [self.places, self.goals, self.centre, self.lowest, *self.ends]

    @staticmethod
    def of(rows: list[Floats]) -> Solved:
        """From all of it."""
        return Solved(rows[0], tuple(rows[4:]), rows[1], rows[2], rows[3])


class Reading:
    """A figure over frames (F,). Only frames that changed since an earlier reading are solved anew."""

    def __init__(self, shot: Shot, figure: str, before: Reading | None = None) -> None:
        self.shot, self.name, self._figure = shot, figure, shot.figure(figure)
        self.rig: Rig = self._figure.rig
        self.curves: CurveSet = shot.curves(figure)
        self.frames: Floats = np.arange(np.ceil(shot.first), np.floor(shot.last) + 1)
        self.values: Floats = staged(shot, figure, self.frames).values
        self._before = before if before is not None and before._like(self) else None

    def _like(self, other: Reading) -> bool:
        same = self.rig is other.rig and self._figure.model is other._figure.model
        return same and np.array_equal(self.frames, other.frames)

    @cached_property
    def solved(self) -> Solved:
        """What is worked out from the joints."""
        before, self._before = self._before, None
        if before is None or "solved" not in before.__dict__:
            pieces = [self._solve(self.values[n : n + PIECE]) for n in range(0, len(self.values), PIECE)]
            return Solved.of([np.concatenate(rows) for rows in zip(*(piece.rows() for piece in pieces), strict=True)])
        changed = np.flatnonzero((before.values != self.values).any(1))
        if not len(changed):
            return before.solved
        rows = [row.copy() for row in before.solved.rows()]
        for n in range(0, len(changed), PIECE):
            at = changed[n : n + PIECE]
            for row, new in zip(rows, self._solve(self.values[at]).rows(), strict=True):
                row[at] = new
        return Solved.of(rows)

    def _solve(self, values: Floats) -> Solved:
        rig = self.rig
        world = solve(rig, values)
        bodies = bodies_of(rig, self._figure.model)
        ends = tuple(bodies.points_of(self.below(limb.end), world) for limb in rig.limbs)
        plan = plan_of(rig)
        goals = np.empty((len(values), 0, 3))
        if plan.limbs is not None:
            found = goal_matrices(plan, by_channel(values), world.swapaxes(0, 1))
            goals = np.ascontiguousarray(found[..., :3, 3].swapaxes(0, 1))
        centre = bodies.centre(world) if bodies.has_weight else np.full((len(values), 3), np.nan)
        return Solved(world[..., :3, 3], ends, goals, centre, self._lowest(world))

    def _lowest(self, world: Floats) -> Floats:
        if any(limb.foot for limb in self.rig.limbs):
            return np.full(len(world), np.nan)
        points = bodies_of(self.rig, self._figure.model).points_of(list(range(len(self.rig.joints))), world)
        return np.asarray((points if points.shape[1] else world[..., :3, 3])[..., 1].min(1))

    def below(self, joint: int) -> list[int]:
        """A joint and all that hang on it."""
        own = {joint}
        for index, one in enumerate(self.rig.joints):
            if one.parent in own:
                own.add(index)
        return sorted(own)

    @property
    def places(self) -> Floats:
        """Where the joints are (F, J, 3), metres."""
        return np.asarray(self.solved.places)

    @cached_property
    def seen(self) -> Floats:
        """The channels (F, C) in degrees, centimetres and per cent; switches do not count."""
        return np.asarray(self.values * [SEEN[channel.unit] for channel in self.rig.channels])

    @cached_property
    def eased(self) -> Bools:
        """Frames (F,) on which nothing of the figure jumps from one drawing to the next."""
        found = np.ones(len(self.frames), bool)
        spans = {
            span
            for curve, channel in zip(self.curves.curves, self.rig.channels, strict=True)
            if not channel.unit.holds
            for span in stepped_spans(curve)
        }
        for start, end in spans:
            found[(self.frames >= start) & (self.frames <= end)] = False
        return found

    @cached_property
    def recorded(self) -> Bools:
        """Frames (F,) on which the motion is a recording's, keyed on every frame."""
        return recorded_rows(self.curves.curves, self.frames)

    @cached_property
    def moves(self) -> Bools:
        """Frames (F,) on which anything differs from the frame before."""
        step = np.abs(np.diff(self.seen, axis=0)).max(1, initial=0.0)
        return np.concatenate([[False], step > MOVES])

    @cached_property
    def down(self) -> dict[int, Bools]:
        """By the number of a limb with a foot: the frames (F,) on which it is down."""
        found = {}
        for number, limb in enumerate(self.rig.limbs):
            if limb.foot is not None:
                legs = self.places[0, [limb.upper, limb.middle, limb.end]]
                leg = float(np.linalg.norm(np.diff(legs, axis=0), axis=1).sum())
                at = (limb.end, limb.foot.toes)
                found[number] = np.any([planted(self.places[:, j], leg, self.shot.frame_rate) for j in at], axis=0)
                if limb.name in self.told_down:
                    found[number] = self.told_down[limb.name]
        return found

    @cached_property
    def told_down(self) -> dict[str, Bools]:
        """By limb: the frames (F,) on which it is down by what the clips that are laid know, or what is kept with the shot, in
        every round of a cycle. Others are found by how they move."""
        return self._told_at(self.frames)

    def _told_at(self, frames: Floats) -> dict[str, Bools]:
        layers = layers_of(self.shot, self.name)
        if layers is not None:
            lane, names = layers.lanes[0], [limb.name for limb in self.rig.limbs if limb.foot is not None]
            laid = {name: down_on_lane(lane, layers.clips, self.rig, name, frames) for name in names}
            return {name: down for name, down in laid.items() if down is not None}
        cycle, found = self.shot.cycle(self.name), dict[str, Bools]()
        for name, kept in self.shot.contacts(self.name).items():
            found[name] = np.zeros(len(frames), bool)
            for start, end in kept:
                since = frames - start if cycle is None else (frames - start) % cycle.length
                found[name] |= (since >= 0) & (since <= end - start + 1e-6)
        return found

    @cached_property
    def on_spot(self) -> bool:
        """Whether the figure strides on the spot: the ground goes by under its feet."""
        cycle = self.shot.cycle(self.name)
        if cycle is None or not self.told_down:
            return False
        ends = staged(self.shot, self.name, [cycle.first, cycle.last]).world[:, :, :3, 3]
        return bool(np.abs((ends[1] - ends[0]).mean(0)).max() < TRAVELS)

    @cached_property
    def contacts(self) -> Bools:
        """Frames (F,) on which a foot comes down or lifts, or a figure without feet touches the ground, and those beside them."""
        edges = np.zeros(len(self.frames), bool)
        for down in self.down.values():
            change = np.flatnonzero(np.diff(down.astype(int)))
            edges[change] = edges[change + 1] = True
        before, after = self._told_at(self.frames - 1), self._told_at(self.frames + 1)
        for name, down in self.told_down.items():
            edges |= (before[name] != down) | (after[name] != down)
        if not self.down:
            edges |= self._touches()
        return np.asarray(edges | np.concatenate([[False], edges[:-1]]) | np.concatenate([edges[1:], [False]]))

    def _touches(self) -> Bools:
        """Frames on which a figure without feet is on the ground, or is thrown back by what it falls on."""
        touches = self.solved.lowest < ON_GROUND
        height = self.places[..., 1].min(1)
        step = np.diff(height)
        touches[1:-1] |= (step[:-1] < -ON_GROUND) & (step[1:] >= 0)
        return np.asarray(touches)

    @cached_property
    def legs(self) -> set[str]:
        """The names of parts that stand on the ground."""
        joints = {j for limb in self.rig.limbs if limb.foot for j in (limb.upper, limb.middle, limb.end)}
        own = {
            c
            for c, what in enumerate(self.rig.controls)
            if what.joint in joints or (what.limb >= 0 and self.rig.limbs[what.limb].foot is not None)
        }
        return set(self.rig.parts_of(own))

    def part_at(self, joint: int) -> str:
        """The part whose control drives a joint, or the one nearest above it."""
        while joint >= 0:
            own = [c for c, what in enumerate(self.rig.controls) if what.joint == joint]
            names = self.rig.parts_of(own)
            if names:
                return names[0]
            joint = self.rig.joints[joint].parent
        return self.name

    def part_of(self, channel: int) -> str:
        """The part that a channel belongs to."""
        control = next(c for c in range(len(self.rig.controls)) if channel in self.rig.span(c))
        part = self.rig.part_of(control)
        return self.rig.parts[part].name if part >= 0 else self.rig.controls[control].name

    @cached_property
    def poses(self) -> Floats:
        """Frames of poses: those on which at least half as many channels have a key pose as on the fullest."""
        used = [c.frames[c.role == KeyRole.KEY_POSE] for c in self.curves.curves if len(c)]
        if not used:
            return np.empty(0)
        frames, count = np.unique(np.concatenate(used), return_counts=True)
        return np.asarray(frames[count >= count.max(initial=0) / 2])

    def span(self, rows: NDArray[np.intp]) -> tuple[float, float]:
        """The first and the last of some rows as frames."""
        return float(self.frames[rows[0]]), float(self.frames[rows[-1]])
