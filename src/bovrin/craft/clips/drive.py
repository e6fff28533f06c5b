"""A figure steered through its clips as a game would do it: blended by speed and direction in step, the root moved by code.

Every step takes where it is steered and gives the pose of the next frame. Nothing is random: the same steering gives the same
motion. Feet that are down are held where they came down, as far as legs reach; what they slide all the same is told.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.clips.slots import SLOTS, found_slots, way_of
from bovrin.errors import BadMotion
from bovrin.figure.ground.feet import FLAT, Footing, bearing_steps, footholds, footing_of
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import columns, plan_of
from bovrin.figure.solve.ways import Stand, put, root_columns
from bovrin.figure.stages.clip_values import clip_curves
from bovrin.figure.stages.in_step import matched
from bovrin.figure.stages.mixing import mixed
from bovrin.frozen import frozen
from bovrin.motion.evaluate import channel_values
from bovrin.shot import Clip, Curve, Shot, Span, Take, acting_by
from bovrin.shot.curve import recorded_columns

Floats = NDArray[np.float64]

BLENDS, TURNS = 0.16, np.radians(200.0)
"""Seconds in which a blend gets two thirds of the way to what is steered; radians a second that it turns at most."""
BY_CLIP, WIDE = np.radians(90.0), np.radians(60.0)
"""Radians a second that it is turned at most besides what a clip of a turn does, and from how far off on by that clip alone."""
RELEASES = 0.1
"""Seconds in which a foot that has left gets two thirds of the way back to its own."""
FARTHEST, MISSES = 0.42, 0.01
"""Leg lengths that a foot is held off its own way at most, and metres that it misses its place by; farther, it takes a step."""
TWISTS = np.radians(50.0)
"""How far a figure turns over a foot that stands, before that takes a step."""
STEPS, LIFT = 0.22, 0.12
"""Seconds of such a step, and how high it goes, in leg lengths."""
LITTLE = 0.02


class Steer(NamedTuple):
    """Where somebody steers: across and ahead in the world, -1 to 1; fast: running; strafes: facing as it does, it goes aside."""

    across: float = 0.0
    ahead: float = 0.0
    fast: bool = False
    strafes: bool = False


class Driven(NamedTuple):
    """A frame: channel values (C,), joints (J, 3), by how much planted feet slid since the frame before (N,), metres, and which
    are down (N,)."""

    values: Floats
    places: Floats
    slid: Floats
    down: NDArray[np.bool_]
    stand: Stand


@frozen
class _Mover:
    """A clip in a slot: its pose by phase, how far a phase takes it, and how many phases a frame it makes. A phase is as many
    steps in every slot: `share` of the clip."""

    slot: str
    clip: Clip
    way: complex
    turn: float
    starts: float
    share: float

    @property
    def pace(self) -> float:
        return 1.0 / (self.share * self.clip.length)

    def at(self, phase: float) -> float:
        """The clip's own frame at a phase, which is whole where the same foot comes down in all of them."""
        return (self.starts + phase * self.share * self.clip.length) % self.clip.length


class Drive:
    """A figure on its way through a game. BadMotion where it has no clip to go by."""

    def __init__(self, shot: Shot, figure: str, slots: Mapping[str, str] | None = None) -> None:
        self.shot, self.figure = shot, figure
        self.rig = shot.figure(figure).rig
        roots = root_columns(self.rig)
        chosen = found_slots(shot, figure) if slots is None else dict(slots)
        unknown = set(chosen) - set(SLOTS)
        if unknown:
            raise BadMotion(f"there is no slot '{sorted(unknown)[0]}'.", advice=f"Slots: {', '.join(SLOTS)}.")
        if roots is None or not set(chosen) - {"idle"}:
            raise BadMotion(f"'{figure}' has no clip that goes anywhere.", advice="Keep a walk as a clip first.")
        self.roots = roots
        self.movers = self._movers({slot: shot.clip(name) for slot, name in chosen.items()})
        self.weights = dict.fromkeys(self.movers, 0.0)
        self.weights["idle" if "idle" in self.movers else next(iter(self.movers))] = 1.0
        self.phase, self.idle = 0.0, 0.0
        self.place, self.facing = 0j, 0.0
        self._last: tuple[Footing, set[int]] | None = None
        self._go = 0.0
        self._held: dict[int, tuple[Floats, int]] = {}
        self._steps: dict[int, tuple[Floats, float]] = {}
        self._off: dict[int, Floats] = {}
        self._steered = self._turned = 0.0
        self._yaw: dict[int, float] = {}

    @property
    def slots(self) -> dict[str, str]:
        """Which clip is in which slot."""
        return {slot: mover.clip.name for slot, mover in self.movers.items()}

    def _movers(self, clips: dict[str, Clip]) -> dict[str, _Mover]:
        """The clips of all slots, in step with the one that is gone by most."""
        lead = next(clips[slot] for slot in ("walk", *clips) if slot in clips and slot != "idle")
        found = {}
        for slot, clip in clips.items():
            way, turn = way_of(clip, self.rig, self.roots)
            match = None if slot == "idle" else matched(lead, clip)
            share, starts = 1.0, 0.0
            if match is not None:
                share = match.rounds[0] / match.rounds[1]
                starts = match.zero[1] - match.zero[0] / lead.length * share * clip.length
            found[slot] = _Mover(slot, clip, way * share, turn * share, starts, share)
        return found

    # -- a frame ------------------------------------------------------------------------------------------------------

    def step(self, steer: Steer) -> Driven:
        """On by a frame."""
        dt = 1.0 / self.shot.frame_rate
        self._steered = 0.0
        wanted = self._wanted(steer, dt)
        share = float(1.0 - np.exp(-dt / BLENDS))
        self._go += (sum(w for s, w in wanted.items() if s != "idle") - self._go) * share
        if wanted:
            for slot in self.weights:
                self.weights[slot] += (wanted.get(slot, 0.0) - self.weights[slot]) * share
        moving = {s: w for s, w in self.weights.items() if s != "idle"}
        total = sum(moving.values())
        if total > LITTLE:
            pace = sum(w * self.movers[s].pace for s, w in moving.items()) / total
            pace *= 1.0 if "idle" in self.movers else self._go  # who cannot stand stops in a step
            gone = sum(w * self.movers[s].way for s, w in moving.items()) * pace
            turned = sum(w * self.movers[s].turn for s, w in moving.items()) * pace
            self.place += complex(np.exp(1j * self.facing) * gone)
            self.facing += turned
            self.phase += pace
        else:
            self.phase, turned = 0.0, 0.0
        self._turned = turned
        if "idle" in self.movers:
            self.idle += self.movers["idle"].pace
        return self._posed(dt)

    def _wanted(self, steer: Steer, dt: float) -> dict[str, float]:
        """How much of each slot is wanted (they add up to 1), after turning toward where it is steered."""
        toward = complex(steer.ahead, steer.across)
        size = min(abs(toward), 1.0)
        if size < LITTLE:
            return {"idle": 1.0} if "idle" in self.movers else {}
        angle = float(np.angle(toward))
        runs = "run" in self.movers and (steer.fast or "walk" not in self.movers)
        round_: dict[str, float] = {}
        if not steer.strafes or not {"left", "right", "backward"} & set(self.movers):
            off = (angle - self.facing + np.pi) % (2 * np.pi) - np.pi
            side = "turn left" if off > 0 else "turn right"
            if side in self.movers and not runs:
                round_ = {side: min(abs(off) / WIDE, 1.0)}
                self._steered = float(np.clip(off - self._turned, -BY_CLIP * dt, BY_CLIP * dt))
            else:
                self._steered = float(np.clip(off, -TURNS * dt, TURNS * dt))
            self.facing += self._steered
        local = angle - self.facing
        found: dict[str, float] = {}
        for slot, much in (
            ("run" if runs else "walk", np.cos(local)),
            ("backward", -np.cos(local)),
            ("left", np.sin(local)),
            ("right", -np.sin(local)),
        ):
            if much > 1e-6 and slot in self.movers:
                found[slot] = float(much)
        for side, much in round_.items():  # it walks round, and neither aside nor backward
            found = {slot: own for slot, own in (("walk", 1.0 - much), (side, much)) if slot in self.movers}
        whole = sum(found.values())
        if whole < 1e-6:
            return {"idle": 1.0} if "idle" in self.movers else {}
        shares = {slot: size * much / whole for slot, much in found.items()}
        return {**shares, "idle": 1.0 - size} if "idle" in self.movers else shares

    def _posed(self, dt: float) -> Driven:
        values = self._mixed()
        stand = Stand(np.array([self.place]), np.array([self.facing]))
        put(values, self.roots, stand)
        down = self._down()
        self._turn_back(values, down, dt)
        world = solve(self.rig, values)
        own = footing_of(self.rig, np.zeros(1), world)
        posed, feet, world = self._held_down(values, world, own, down, dt)
        if self._late(feet):
            posed, feet, world = self._held_down(values, world, own, down, 0.0)
        slid = self._slid(feet)
        self._last = feet, set(self._held)
        return Driven(posed[0], world[0, :, :3, 3], slid, down, stand)

    def _turn_back(self, values: Floats, down: NDArray[np.bool_], dt: float) -> None:
        """Feet that stand keep their turn while the figure is steered to another; those that left get back to their own."""
        for n, foot in enumerate(footholds(self.rig)):
            stands = down[n] and n in self._held and n not in self._steps
            yaw = self._yaw.get(n, 0.0)
            self._yaw[n] = yaw - self._steered if stands else yaw * float(np.exp(-dt / RELEASES))
            channel = columns(self.rig, self.rig.limbs[foot.limb].goal, "rotate")[1]
            if channel >= 0:
                values[0, channel] += self._yaw[n]

    def _held_down(
        self, values: Floats, world: Floats, own: Footing, down: NDArray[np.bool_], dt: float
    ) -> tuple[Floats, Footing, Floats]:
        """Values, feet and joints with feet where they shall be."""
        posed = values.copy()
        self._hold(posed, world, own, down, dt)
        world = solve(self.rig, posed)
        return posed, footing_of(self.rig, np.zeros(1), world), world

    def _late(self, feet: Footing) -> bool:
        """Whether some feet that are held are out of reach; these take a step from now on."""
        found = False
        for n, (place, bears) in list(self._held.items()):
            off = feet.points[n, 0, bears] - place[bears]
            if float(np.hypot(off[0], off[2])) > MISSES:
                self._steps[n], found = (self._off[n], 0.0), True
        return found

    def _mixed(self) -> Floats:
        """The pose of all slots by their weights (1, C)."""
        made, sum_ = None, 0.0
        for slot, weight in self.weights.items():
            if weight < 1e-4:
                continue
            mover = self.movers[slot]
            curves, _, _ = clip_curves(mover.clip, self.rig)
            phase = self.idle if slot == "idle" else self.phase
            pose = channel_values(curves, self.rig, np.array([mover.at(phase)]))
            sum_ += weight
            made = pose if made is None else mixed(self.rig, made, pose, np.array([weight / sum_]))
        assert made is not None
        return np.array(made)

    def _down(self) -> NDArray[np.bool_]:
        """Which feet are down: as the slot has it that counts most."""
        slot = max(self.weights, key=lambda s: self.weights[s])
        mover = self.movers[slot]
        at = mover.at(self.idle if slot == "idle" else self.phase)
        found = []
        for foot in footholds(self.rig):
            spans = mover.clip.contacts.get(foot.name, ())
            found.append(any((at - a) % mover.clip.length <= b - a + 1e-6 for a, b in spans))
        return np.array(found, bool)

    def _hold(self, values: Floats, world: Floats, feet: Footing, down: NDArray[np.bool_], dt: float) -> None:
        """Move the goals of feet: those that are down to where they came down, those that left back to their own way."""
        back = plan_of(self.rig).root_back
        root = world[0, 0] if back is None else world[0, 0] @ back
        into = np.linalg.inv(root[:3, :3])
        for n, foot in enumerate(feet.feet):
            if n in self._steps:
                off = self._stepping(n, foot.leg, dt)
            elif down[n]:
                off = self._standing(n, feet, foot.leg)
            else:
                self._held.pop(n, None)
                off = self._off.get(n, np.zeros(3)) * float(np.exp(-dt / RELEASES))
            self._off[n] = off
            for axis, channel in enumerate(columns(self.rig, self.rig.limbs[foot.limb].goal, "translate")):
                if channel >= 0:
                    values[0, channel] += float((into @ off)[axis])

    def _standing(self, n: int, feet: Footing, leg: float) -> Floats:
        """How far off its own way (3,) a foot is that stands; one that is too far begins a step."""
        at, own = feet.points[n, 0], feet.heights[n, 0]
        off = self._off.get(n, np.zeros(3))
        if n not in self._held or self._last is None:
            self._held[n] = at + off, int(own.argmin())
        else:  # it turns on the point that bears from the frame before to this one, as slides are measured
            places, bears = self._held[n]
            high = np.maximum(self._last[0].heights[n, 0], own - own.min())
            if high[bears] > high.min() + FLAT:
                self._held[n] = self._last[0].points[n, 0], int(high.argmin())
        places, bears = self._held[n]
        off = np.array(places[bears] - at[bears])
        off[1] = -float(own.min())
        if float(np.hypot(off[0], off[2])) > FARTHEST * leg or abs(self._yaw.get(n, 0.0)) > TWISTS:
            self._steps[n] = off, 0.0
        return off

    def _stepping(self, n: int, leg: float, dt: float) -> Floats:
        """How far off its own way (3,) a foot is in a step back to it, which lifts it; at its end it may be held anew."""
        self._held.pop(n, None)
        off, since = self._steps[n]
        since += dt
        share = min(since / STEPS, 1.0)
        self._steps[n] = off, since
        if share == 1.0:
            del self._steps[n]
        at = off * (1.0 - share * share * (3.0 - 2.0 * share))
        at[1] += LIFT * leg * float(np.sin(np.pi * share))
        return np.asarray(at)

    def _slid(self, feet: Footing) -> Floats:
        """How far what bears of each planted foot went since the frame before (N,), metres."""
        found = np.zeros(len(feet.feet))
        if self._last is None:
            return found
        before, stood = self._last
        for n in stood & set(self._held):
            points = np.concatenate([before.points[n], feet.points[n]])
            heights = np.concatenate([before.heights[n], feet.heights[n]])
            found[n] = float(np.linalg.norm(bearing_steps(points, heights, np.zeros((1, 3)))[0]))
        return found


def driven(shot: Shot, figure: str, steering: Iterable[Steer], slots: Mapping[str, str] | None = None) -> list[Driven]:
    """The steps of a whole drive, one for each frame of steering."""
    drive = Drive(shot, figure, slots)
    return [drive.step(steer) for steer in steering]


def as_take(shot: Shot, figure: str, steps: list[Driven], name: str) -> Shot:
    """The shot with a drive as a take of its own, keyed on every frame, which is worked on from now on."""
    if len(steps) < 2:
        raise BadMotion("a drive needs two frames at least to be kept.", advice="Steer for a while first.")
    values = np.array([step.values for step in steps])
    frames = np.asarray(shot.first + np.arange(len(steps)), float)
    columns_ = recorded_columns(frames)
    made = {
        i: Curve.from_columns({**columns_, "values": np.ascontiguousarray(values[:, i])})
        for i in range(values.shape[1])
    }
    curves = {one.name: one.no_motion() for one in shot.cast}
    curves[figure] = curves[figure].replaced(made)
    taken = {take.name for take in shot.all_takes}
    words = (
        name
        if name not in taken
        else next(f"{name} {n}" for n in range(2, len(taken) + 3) if f"{name} {n}" not in taken)
    )
    order = max(take.order for take in shot.all_takes) + 1
    take = Take(words, acting_by(curves), order=order, span=Span(shot.first, float(frames[-1])))
    return replace(shot, takes=(*shot.takes, take)).with_take(words)
