"""Clips and lanes as a project has them."""

from __future__ import annotations

import math
from collections.abc import Iterable
from typing import Any

from bovrin.errors import BadMotion
from bovrin.formats.project.data import ClipData, LaidData, LaneData, curve_from_data, curve_to_data
from bovrin.shot import Clip, Laid, Lane, contacts_of
from bovrin.shot.curve import NO_KEYS

_PLAIN = Laid("-", 0.0, 0.0, 1.0)
_SETTINGS = ("repeats", "speed", "strength", "hold", "how", "backwards", "follows", "in_step")


def clip_row(clip: Clip) -> dict[str, Any]:
    """A clip as plain JSON values."""
    row: dict[str, Any] = {"name": clip.name, "length": float(clip.length)}
    row["curves"] = {name: curve_to_data(curve) for name, curve in clip.curves.items() if len(curve)}
    if clip.loops:
        row["loops"] = True
    if clip.neutral:
        row["neutral"] = {name: float(value) for name, value in clip.neutral.items()}
    if clip.contacts:
        row["contacts"] = {limb: [list(map(float, span)) for span in spans] for limb, spans in clip.contacts.items()}
    return {**row, "figure": clip.figure} if clip.figure else row


def lane_row(lane: Lane) -> dict[str, Any]:
    """A lane as plain JSON values."""
    row: dict[str, Any] = {"clips": [_laid_row(one) for one in lane.laid]}
    return {**row, "muted": True} if lane.muted else row


def _laid_row(laid: Laid) -> dict[str, Any]:
    row: dict[str, Any] = {"clip": laid.clip}
    row |= {name: float(getattr(laid, name)) for name in ("at", "first", "last")}
    plain = {name: getattr(laid, name) for name in _SETTINGS if getattr(laid, name) != getattr(_PLAIN, name)}
    row |= {name: float(value) if type(value) is int else value for name, value in plain.items()}
    if len(laid.weight):
        row["weight"] = curve_to_data(laid.weight)
    return {**row, "mute": list(laid.mute)} if laid.mute else row


def clip_of(row: ClipData) -> Clip:
    """A clip of a project. BadMotion says what is wrong with it."""
    where = f"clip '{row.name}'"
    if not (math.isfinite(row.length) and row.length > 0):
        raise BadMotion(f"the {where} has no length.")
    if not all(math.isfinite(value) for value in row.neutral.values()):
        raise BadMotion(f"the neutral pose of the {where} is not finite.")
    if any(not -math.inf < a <= b < math.inf for spans in row.contacts.values() for a, b in spans):
        raise BadMotion(f"a contact of the {where} ends before it begins.")
    curves = {name: curve_from_data(data, f"{where}, {name}") for name, data in row.curves.items()}
    contacts = contacts_of({limb: tuple(spans) for limb, spans in row.contacts.items()})
    return Clip(row.name, curves, row.length, row.loops, row.neutral, contacts, row.figure)


def lanes_of(rows: list[LaneData], clips: Iterable[Clip]) -> tuple[Lane, ...]:
    """The lanes of a figure. BadMotion where one holds a clip that is not there."""
    by_name = {clip.name: clip for clip in clips}
    for row in (one for lane in rows for one in lane.clips):
        _check(row, by_name)
    return tuple(Lane(tuple(map(_laid, lane.clips)), lane.muted) for lane in rows)


def _check(row: LaidData, clips: dict[str, Clip]) -> None:
    if row.clip not in clips:
        raise BadMotion(f"the take lays the clip '{row.clip}', which the project does not hold.")
    numbers = (row.at, row.first, row.last, row.repeats, row.speed, row.strength, row.hold)
    if not all(math.isfinite(number) for number in numbers):
        raise BadMotion(f"the clip '{row.clip}' is laid with a number that is not finite.")
    if not 0.0 <= row.first < row.last <= clips[row.clip].length + 1e-6:
        raise BadMotion(f"the clip '{row.clip}' is laid from {row.first:g} to {row.last:g}, which it does not have.")


def _laid(row: LaidData) -> Laid:
    weight = NO_KEYS if row.weight is None else curve_from_data(row.weight, f"weight of {row.clip}")
    settings = {name: getattr(row, name) for name in _SETTINGS}
    return Laid(row.clip, row.at, row.first, row.last, weight=weight, mute=tuple(row.mute), **settings)
