"""Pulls of the whole body as an impatient animator makes them: every joint, every way, far beyond reach, millimetre by
millimetre; and what is measured of them."""

from __future__ import annotations

import tempfile
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from functools import cache
from itertools import product
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import least_squares
from tests.formats import gltf_maker as make
from tests.rigs import goat

from bovrin import script
from bovrin.craft.pose.body import BodyDrag, anchored
from bovrin.figure.body.bends import bends_of, movers, upright_joints
from bovrin.figure.solve.plan import plan_of
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import staged
from bovrin.motion.rotations import rotation_vector, vector_matrix
from bovrin.shot import Rig

Floats = NDArray[np.float64]

CAST = Path(script.__file__).parents[1] / "cast"
FAR = 0.6
MOST_SLICES = 50
WAYS = np.array([w for w in product((-1, 0, 1), repeat=3) if np.abs(w).sum() in (1, 3)], float)
WAYS /= np.linalg.norm(WAYS, axis=1, keepdims=True)
"""The fourteen: along the axes and along the diagonals of a cube (14, 3)."""


@cache
def poses() -> dict[str, tuple[Rig, Floats]]:
    """Standing, crouched and mid-step poses of the porter, the cast's goat and two made-up builds, by name."""
    porter = script.demo()
    rigs = {"porter": porter.figure("porter").rig, "goat": script.bring(CAST / "goat.glb").figure("goat").rig}
    rigs["walker"] = _walker()
    rigs["askew goat"] = goat(2).rig
    found = {f"{name} {pose}": (rig, values) for name, rig in rigs.items() for pose, values in _stances(rig)}
    for frame in (101, 119):
        found[f"porter {frame}"] = (rigs["porter"], staged(porter, "porter", frame).values[0].copy())
    return found


def _walker() -> Rig:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "walker.glb"
        path.write_bytes(make.figure(make.TWO_LEGS).glb())
        return script.bring(path, 1.0).figure("walker").rig


def _stances(rig: Rig) -> Iterator[tuple[str, Floats]]:
    rest = np.array(rig.defaults)
    moves = [n for n in rig.channel_names if n.endswith("/up") and "goal" not in n and "foot" not in n]
    hips = rig.channel(next(n for n in moves if "whole" not in n and any(n.startswith(w) for w in ("hips", "Kern"))))
    tall = float(plan_of(rig).rest_world[rig.controls[_control_of(rig, hips)].joint, 1, 3])
    yield "standing", rest
    for name, share in (("crouched", 0.3), ("in step", 0.06)):
        values = rest.copy()
        values[hips] -= share * tall
        if name == "in step":
            for number, limb in enumerate(limb for limb in rig.limbs if "leg" in limb.name):
                values[rig.channel(f"{rig.controls[limb.goal].name}/forward")] += 0.2 * tall * (-1) ** number
        yield name, values


def _control_of(rig: Rig, channel: int) -> int:
    return next(i for i in range(len(rig.controls)) if channel in rig.span(i))


def pulled_joints(rig: Rig) -> list[int]:
    """Hips, chest, head, and the ends and middles of all limbs."""
    return [*sorted(movers(rig)), *upright_joints(rig), *(j for limb in rig.limbs for j in (limb.end, limb.middle))]


@dataclass
class Swept:
    """What came of one pull. For each step (N,), metres: the farthest that any joint moved, how far the pulled joint was from
    the pointer, and how much farther than before the pointer's own way explains. The most that an anchor drifted, metres;
    that chest or head leaned, degrees; how far the farthest joint was from home after the way back in leaps, and how often the
    pull went on to get there once the pointer rested; the last pose and what it was pulled to."""

    steps: Floats
    missed: Floats
    back: Floats
    drift: float
    leaned: float
    home: float
    slices: int
    last: Stance
    target: Floats


def swept(
    rig: Rig, values: Floats, joint: int, way: Floats, *, step: float = 0.001, held: Iterable[int] | None = None
) -> Swept:
    """Pull a joint along a way (3,) in steps and back in a few leaps."""
    start = Stance(rig, values)
    anchors = [a for a in (anchored(start) if held is None else held) if a != joint]
    drag = BodyDrag(start, joint, anchors)
    begin, before = start.place(joint), start
    steps, missed, drift, leaned = [], [0.0], 0.0, 0.0
    watched = upright_joints(rig)
    for far in np.arange(step, FAR + 1e-9, step):
        now = start.with_values(drag.to(begin + far * way))
        steps.append(_farthest(before, now))
        missed.append(np.linalg.norm(now.place(joint) - begin - far * way))
        drift = max([drift, *(np.linalg.norm(anchor_place(now, a) - anchor_place(start, a)) for a in anchors)])
        leaned = max([leaned, *(_leaned(start, now, j) for j in watched)])
        before = now
    back = start
    for share in (0.7, 0.4, 0.2, 0.05, 0.0):
        back = start.with_values(drag.to(begin + share * FAR * way))
    slices = 0
    while not drag.at_rest and slices < MOST_SLICES:
        back, slices = start.with_values(drag.to(begin)), slices + 1
    return Swept(
        np.array(steps),
        np.array(missed[1:]),
        np.diff(missed) - step,
        drift,
        leaned,
        _farthest(start, back),
        slices,
        before,
        begin + FAR * way,
    )


def anchor_place(stance: Stance, joint: int) -> Floats:
    """What an anchored joint holds: of a foot its ball, on which it may roll; of others the joint itself."""
    return held_place(stance.rig, stance.rigid, joint)


def held_place(rig: Rig, world: Floats, joint: int) -> Floats:
    """The same where all joints are at world (J, 4, 4)."""
    foot = next((limb.foot for limb in rig.limbs if limb.end == joint), None)
    if foot is None:
        return world[joint, :3, 3]
    turn = world[joint, :3, :3] @ plan_of(rig).rest_world[joint, :3, :3].T
    return np.asarray(world[joint, :3, 3] + turn @ np.asarray(foot.ball))


def _farthest(a: Stance, b: Stance) -> float:
    return float(np.linalg.norm(a.rigid[:, :3, 3] - b.rigid[:, :3, 3], axis=-1).max())


def _leaned(a: Stance, b: Stance, joint: int) -> float:
    return float(np.degrees(np.linalg.norm(rotation_vector(a.rigid[joint, :3, :3].T @ b.rigid[joint, :3, :3]))))


def best_distance(start: Stance, joint: int, anchors: list[int], target: Floats, near: Stance) -> float:
    """How near a joint can come to a target at all, by a slow search over the turns of all joints within their limits, the
    hips' place and the rolls of held feet, whose ankles keep within theirs; looked for from the start and from another pose."""
    return min(_searched(start, joint, anchors, target, from_) for from_ in (start, near))


def _searched(start: Stance, joint: int, anchors: list[int], target: Floats, from_: Stance) -> float:
    rig, rest = start.rig, plan_of(start.rig).rest_local
    bends = [b for b in bends_of(rig).values() if max(b.stiffness) > 0]
    movers = [b.joint for b in bends_of(rig).values() if b.move > 0]
    parents = [j.parent for j in rig.joints]
    turn = [rotation_vector(rest[b.joint, :3, :3].T @ from_.local[b.joint, :3, :3]) for b in bends]
    own = [rotation_vector(rest[b.joint, :3, :3].T @ start.local[b.joint, :3, :3]) for b in bends]
    feet = [limb for limb in rig.limbs if limb.foot is not None and limb.end in anchors]
    pads = np.full(3 * len(movers), 2.0)
    low = np.concatenate([np.minimum([b.low for b in bends], own).ravel() - 1e-3, -pads, np.full(len(feet), -1e-6)])
    high = np.concatenate([np.maximum([b.high for b in bends], own).ravel() + 1e-3, pads, np.ones(len(feet))])
    moved = [from_.local[j, :3, 3] - start.local[j, :3, 3] for j in movers]
    first = np.clip(np.concatenate([np.ravel(turn), np.ravel(moved), np.zeros(len(feet))]), low + 1e-9, high - 1e-9)

    def places(x: Floats) -> Floats:
        local = start.local.copy()
        turned = vector_matrix(x[: 3 * len(bends)].reshape(-1, 3))
        for n, bend in enumerate(bends):
            local[bend.joint, :3, :3] = rest[bend.joint, :3, :3] @ turned[n]
        for n, mover in enumerate(movers):
            local[mover, :3, 3] += x[3 * (len(bends) + n) :][:3]
        world = local
        for j, parent in enumerate(parents):
            if parent >= 0:
                world[j] = world[parent] @ world[j]
        return world

    def off(x: Floats) -> Floats:
        world = places(x)
        at = world[:, :3, 3]
        rows = [at[joint] - target]
        for anchor in anchors:
            foot = next((n for n, limb in enumerate(feet) if limb.end == anchor), None)
            angle = 0.0 if foot is None else float(x[len(x) - len(feet) + foot])
            to = start.place(anchor) if foot is None else _rolled(start, anchor, angle)
            if foot is not None:
                rows.append(30.0 * _past_ankle(start, anchor, angle, world))
            rows.append(300.0 * (at[anchor] - to))
        return np.concatenate([*rows, 1e-4 * (x - first)])

    found = least_squares(off, first, bounds=(low, high), max_nfev=60)
    return float(np.linalg.norm(found.fun[:3]))


def _rolled(start: Stance, joint: int, angle: float) -> Floats:
    pivot = anchor_place(start, joint)
    return np.asarray(pivot + _roll(start, joint, angle) @ (start.place(joint) - pivot))


def _roll(start: Stance, joint: int, angle: float) -> Floats:
    turn = start.rigid[joint, :3, :3] @ plan_of(start.rig).rest_world[joint, :3, :3].T
    return vector_matrix(turn[:, 0] * angle)


def _past_ankle(start: Stance, joint: int, angle: float, world: Floats) -> Floats:
    """How far the ankle of a foot that has rolled is past its limits (3,), radians, where joints are at world (J, 4, 4)."""
    rig = start.rig
    parent, rest, bend = rig.joints[joint].parent, plan_of(rig).rest_local[joint, :3, :3], bends_of(rig)[joint]
    turned = _roll(start, joint, angle) @ start.rigid[joint, :3, :3]
    was, own = (
        rotation_vector((w[parent, :3, :3] @ rest).T @ t)
        for w, t in ((start.rigid, start.rigid[joint, :3, :3]), (world, turned))
    )
    return np.asarray(own - np.clip(own, np.minimum(bend.low, was), np.maximum(bend.high, was)))
