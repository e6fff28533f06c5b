"""Flat figures for files that know no drawings: each drawing hangs on joints of its own, which show it by their size and put it
before or behind others by small steps."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.flat.reordering import with_joints
from bovrin.figure.flat.shown import FlatPlan, flat_plan
from bovrin.figure.solve.plan import columns
from bovrin.motion.evaluate import channel_values
from bovrin.shot import (
    Channel,
    Control,
    ControlKind,
    Curve,
    CurveSet,
    Figure,
    HandleKind,
    Joint,
    Key,
    Part,
    Piece,
    Shot,
    Take,
    Unit,
)
from bovrin.shot.curve import NO_KEYS
from bovrin.shot.regrown import with_channels_of

Floats = NDArray[np.float64]
STEP = 0.0015
"""Metres between one part and the next in front of it."""
AXES = "xyz"
SHOWN = "shown"


def told_by_joints(shot: Shot) -> Shot:
    """A shot in which every flat figure looks the same without channels that choose and rank."""
    for figure in shot.cast:
        if figure.model.is_flat and figure.model.bones is None:
            shot = _told(shot, figure)
    return shot


def _told(shot: Shot, figure: Figure) -> Shot:
    plan = flat_plan(figure.model, figure.rig)
    made, rows = _with_drawing_joints(figure, plan)
    shot = with_channels_of(shot, made)
    takes = {take.name: _keyed(shot, take, made, rows, plan) for take in shot.all_takes}
    others = tuple(takes[take.name] for take in shot.takes)
    return replace(shot, take=takes[shot.take.name], takes=others)


Row = tuple[int, str]
"""A piece's number, and the name of the control that shows it on one of its joints."""


def _with_drawing_joints(figure: Figure, plan: FlatPlan) -> tuple[Figure, list[Row]]:
    """The figure whose pieces hang on joints of their own, and which control shows which piece."""
    normal = figure.model.pieces[0].normals[0].astype(float)
    axis = int(np.abs(normal).argmax())
    defaults = np.array(figure.rig.defaults)
    taken = {joint.name for joint in figure.rig.joints} | {control.name for control in figure.rig.controls}
    new: list[Joint] = []
    carriers: list[dict[int, int]] = []
    rows: list[Row] = []
    for n, piece in enumerate(figure.model.pieces):
        own: dict[int, int] = {}
        for joint in np.unique(piece.joints[piece.weights > 0]).tolist():
            name = _free(piece.name if not own else f"{piece.name} {len(own) + 1}", taken)
            own[int(joint)] = len(figure.rig.joints) + len(new)
            new.append(Joint(name, int(joint), (0.0, 0.0, 0.0)))
            rows.append((n, name))
        carriers.append(own)
    ranks = [float(defaults[c]) if c >= 0 else float(n) for n, c in enumerate(plan.rank.tolist())]
    rows_of_pieces = zip(figure.model.pieces, carriers, ranks, strict=True)
    pieces = tuple(_hung(piece, own, STEP * rank * normal) for piece, own, rank in rows_of_pieces)
    hung = replace(figure, model=replace(figure.model, pieces=pieces))
    made, _ = with_joints(hung, tuple(new), {})
    shown = [float(_is_shown(plan.drawing[n], plan.number[n], defaults)) for n, _ in rows]
    controls = tuple(
        Control(name, ControlKind.JOINT, made.rig.joint(name), _channels(axis, default))
        for (_, name), default in zip(rows, shown, strict=True)
    )
    count = len(made.rig.controls)
    part = Part("drawings", tuple(range(count, count + len(controls))))
    rig = replace(made.rig, controls=(*made.rig.controls, *controls), parts=(*made.rig.parts, part))
    return replace(made, rig=rig), rows


def _free(name: str, taken: set[str]) -> str:
    found = name if name not in taken else next(f"{name} {n}" for n in range(2, 99999) if f"{name} {n}" not in taken)
    taken.add(found)
    return found


def _hung(piece: Piece, carriers: dict[int, int], before: Floats) -> Piece:
    """A piece on its own joints, a little before what lies behind it."""
    first = next(iter(carriers.values()))
    joints = np.full(piece.joints.shape, first, np.uint16)
    for old, new in carriers.items():
        joints[piece.joints == old] = new
    return replace(piece, joints=joints, cut=None, positions=(piece.positions + before).astype(np.float32))


def _channels(axis: int, default: float) -> tuple[Channel, ...]:
    sizes = (Channel(f"{SHOWN} {a}", f"size {a}", Unit.SWITCH, default) for a in AXES)
    return (*sizes, Channel("before", f"translate {AXES[axis]}", Unit.RANK))


def _is_shown(column: int, number: int, values: Floats) -> bool:
    return column < 0 or round(float(values[column])) == number


def _keyed(shot: Shot, take: Take, figure: Figure, rows: list[Row], plan: FlatPlan) -> Take:
    """The take in which drawings are shown, and lie before others, as their channels had it."""
    rig, curves = figure.rig, take.curves[figure.name]
    first = shot.span_of(take).first
    changes: dict[int, Curve] = {}
    for n, name in rows:
        control = rig.control(name)
        drawing, number, rank = int(plan.drawing[n]), int(plan.number[n]), int(plan.rank[n])
        frames = curves[drawing].frames if drawing >= 0 and len(curves[drawing]) else np.array([first])
        if drawing >= 0:
            values = channel_values(curves, rig, frames)[:, drawing]
            shown = _held(frames, (np.rint(values) == number).astype(float))
            changes |= {c: shown for c in columns(rig, control, "size") if c >= 0}
        step = max(columns(rig, control, "translate"))
        if rank >= 0 and len(curves[rank]):
            own = curves[rank]
            sign = float(np.sign(_normal(figure)))
            away = sign * STEP * (own.values - rig.channels[rank].default)
            changes[step] = _held(own.frames, away)
    whole = CurveSet(tuple(changes.get(i, curve) for i, curve in enumerate(curves.curves)))
    return take.acted(figure.name, curves=whole)


def _normal(figure: Figure) -> float:
    normal = figure.model.pieces[0].normals[0].astype(float)
    return float(normal[np.abs(normal).argmax()])


def _held(frames: Floats, values: Floats) -> Curve:
    """A curve that holds values (N,) from frames (N,) on; a key where nothing changes is left out."""
    keep = np.concatenate([[True], values[1:] != values[:-1]])
    kept = zip(frames[keep].tolist(), values[keep].tolist(), strict=True)
    return Curve.from_keys(Key(f, v, out_kind=HandleKind.STEPPED) for f, v in kept) if keep.any() else NO_KEYS
