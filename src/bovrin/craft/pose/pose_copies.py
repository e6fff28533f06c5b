"""Poses as values: copied from a figure, pasted plain, mirrored or by a share, also onto another figure."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.between.pose_blending import blended_poses, in_modes
from bovrin.craft.hanging.offsets import with_what_hangs
from bovrin.craft.keying.edits import Scope, posed_anew
from bovrin.craft.keying.keys import KeyStyle, local_style
from bovrin.craft.keying.lag import values_of_pose
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import modes_of
from bovrin.figure.solve.rest_space import move_values, rest_moves, rest_plan, rest_turns, turn_values
from bovrin.motion.rotations import matrix_quaternion, quaternion_matrix
from bovrin.shot import ChannelRole, ControlKind, KeyRole, Pose, Rig, Shot

Floats = NDArray[np.float64]


def controls_of_parts(rig: Rig, parts: Iterable[str] | None) -> list[int]:
    """The controls of some parts, or all."""
    if parts is None:
        return [i for i, control in enumerate(rig.controls) if control.kind is not ControlKind.FOLLOWER]
    return [c for name in parts for c in rig.parts[rig.part(name)].controls]


def pose_of(rig: Rig, values: Floats, controls: Iterable[int], name: str = "", figure: str = "") -> Pose:
    """The pose of some controls at values (C,)."""
    plan = rest_plan(rig)
    chosen = set(controls)
    turners = np.array([i for i, c in enumerate(plan.turners) if int(c) in chosen], np.intp)
    movers = np.array([i for i, c in enumerate(plan.movers) if int(c) in chosen], np.intp)
    names = [control.name for control in rig.controls]
    turns = matrix_quaternion(rest_turns(rig, values[None], turners))[0]
    moves = rest_moves(rig, values[None], movers)[0]
    amounts = {names[c]: {n: float(values[i]) for n, i in plan.others[c].items()} for c in sorted(chosen)}
    return Pose(
        name,
        figure,
        {names[plan.turners[row]]: tuple(map(float, q)) for row, q in zip(turners, turns, strict=True)},  # type: ignore[misc]
        {names[plan.movers[row]]: tuple(map(float, v)) for row, v in zip(movers, moves, strict=True)},  # type: ignore[misc]
        {name: found for name, found in amounts.items() if found},
    )


def copy_pose(shot: Shot, figure: str, frame: float, parts: Iterable[str] | None = None) -> Pose:
    """The pose of a figure, or of some of its parts, at a frame."""
    rig = shot.figure(figure).rig
    values = with_what_hangs(shot, figure, frame, values_of_pose(shot.curves(figure), rig, frame))
    return pose_of(rig, values, controls_of_parts(rig, parts), f"pose at {frame:g}", figure)


def mirrored_pose(pose: Pose, rig: Rig) -> Pose:
    """The pose with left and right exchanged, by the pairs of a rig."""
    other = {name: name for name in pose.controls}
    for left, right in rig.pairs:
        other |= {left: right, right: left}
    return replace(
        pose,
        turns={other.get(n, n): (x, -y, -z, w) for n, (x, y, z, w) in pose.turns.items()},
        moves={other.get(n, n): (-x, y, z) for n, (x, y, z) in pose.moves.items()},
        amounts={
            other.get(n, n): {k: -v if k.endswith("twist") else v for k, v in found.items()}
            for n, found in pose.amounts.items()
        },
    )


def missing_controls(pose: Pose, rig: Rig) -> list[str]:
    """The controls of a pose that a rig does not have."""
    return sorted(pose.controls - {control.name for control in rig.controls})


def pose_values(rig: Rig, pose: Pose, now: Floats, amount: float = 1.0, *, place: bool = False) -> Floats:
    """Channel values (C,) of a figure, now at (C,), with a share of a pose in them; beyond 1 it is made stronger.

    `place`: the figure also goes where the pose stood. Anchors stay as they are.
    """
    target = _full(rig, pose, now, place=place)
    if amount == 1.0:
        return target
    target = in_modes(rig, target, modes_of(rig, now))  # a limb is blended in the mode that it is in
    return blended_poses(rig, now, target, np.full(len(now), amount), short_way=True)


def _full(rig: Rig, pose: Pose, now: Floats, *, place: bool) -> Floats:
    plan = rest_plan(rig)
    names = [control.name for control in rig.controls]
    skipped = set() if place else {n for n, c in zip(names, rig.controls, strict=True) if c.kind is ControlKind.WHOLE}
    result = now[None].copy()
    rows = [i for i, c in enumerate(plan.turners) if names[c] in pose.turns and names[c] not in skipped]
    if rows:
        turns = quaternion_matrix(np.array([pose.turns[names[plan.turners[i]]] for i in rows]))
        turn_values(rig, turns[None], np.array(rows, np.intp), now[None], result)
    rows = [i for i, c in enumerate(plan.movers) if names[c] in pose.moves and names[c] not in skipped]
    if rows:
        moves = np.array([pose.moves[names[plan.movers[i]]] for i in rows])
        move_values(rig, moves[None], np.array(rows, np.intp), result)
    for control, columns in plan.others.items():
        found = pose.amounts.get(names[control], {})
        for technical, column in columns.items():
            if technical != ChannelRole.ANCHOR and names[control] not in skipped:
                result[0, column] = found.get(technical, result[0, column])
    return np.asarray(result[0])


def paste_pose(
    shot: Shot,
    figure: str,
    frame: float,
    pose: Pose,
    amount: float = 1.0,
    *,
    mirrored: bool = False,
    place: bool | None = None,
    style: KeyStyle | None = None,
) -> Shot:
    """Put a pose, or a share of it, on a frame, and key the controls it holds.

    `place`: whether the figure also goes where the pose stood; by default only when it is
    pasted plain on the figure it was copied from.
    """
    changed = pasted_values(shot, figure, frame, pose, amount, mirrored=mirrored, place=place)
    how = style or local_style(shot, figure, frame, KeyRole.KEY_POSE)
    return posed_anew(shot, figure, frame, changed, Scope.TOUCHED, how)


def pasted_values(
    shot: Shot,
    figure: str,
    frame: float,
    pose: Pose,
    amount: float = 1.0,
    *,
    mirrored: bool = False,
    place: bool | None = None,
) -> dict[int, float]:
    """The channels that pasting a pose keys. BadMotion when the figure has none of its controls."""
    rig = shot.figure(figure).rig
    if mirrored:
        pose = mirrored_pose(pose, rig)
    known = {control.name: i for i, control in enumerate(rig.controls)}
    there = [known[name] for name in pose.controls if name in known]
    if not there:
        raise BadMotion(
            f"'{figure}' has none of the controls of the pose '{pose.name}'.",
            advice="Choose a figure with parts of the same names.",
        )
    with_place = (pose.figure == figure and not mirrored) if place is None else place
    now = values_of_pose(shot.curves(figure), rig, frame)
    new = pose_values(rig, pose, now, amount, place=with_place)
    kept = [c for c in there if with_place or rig.controls[c].kind is not ControlKind.WHOLE]
    return {i: float(new[i]) for c in kept for i in rig.span(c)}


def default_pose(rig: Rig) -> Pose:
    """The pose in which every channel is at its default."""
    return pose_of(rig, np.array(rig.defaults), range(len(rig.controls)), "default")
