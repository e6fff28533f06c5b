"""Edits of the pose on a frame by the animator: what they key besides what they touch, and where.

A part that comes late to a pose keeps its key there: an edit of the rest leaves it alone, an edit of the part itself puts an
in-between on the frame, and a pose put on as a whole (mirrored, pasted, from the book) goes onto the late key.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from enum import Enum

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.hanging.offsets import landed
from bovrin.craft.keying.exact_keys import keyed_exactly_late
from bovrin.craft.keying.keys import KeyStyle, keyed, part_channels, pose_channels
from bovrin.craft.keying.lag import lags_at, lags_there, pose_keys, poses_of
from bovrin.figure.stages.layers import as_keys, layers_of
from bovrin.motion.evaluate import curve_values
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, CurveSet, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

SAME_VALUE = 1e-12
"""Metres, radians or shares below which an edit changes nothing."""


class Scope(Enum):
    """What an edit keys besides what it touches."""

    WHOLE = "whole figure"
    PART = "part"
    TOUCHED = "touched"


def scope_parts(rig: Rig, controls: Iterable[int], scope: Scope) -> list[str] | None:
    """The parts that an edit of some controls keys besides what it touches; None: the whole figure, []: nothing more."""
    if scope is Scope.WHOLE:
        return None
    return rig.parts_of(controls) if scope is Scope.PART else []


def scope_controls(rig: Rig, controls: Iterable[int], scope: Scope) -> list[int]:
    """The controls that a scope stands for while some are chosen: with none chosen the whole figure's."""
    chosen = list(controls)
    parts = scope_parts(rig, chosen, scope)
    if parts is None or not chosen:
        return list(range(len(rig.controls)))
    if parts:
        return [c for name in parts for c in rig.parts[rig.part(name)].controls]
    return chosen


def prepared(shot: Shot, figure: str, frame: float, controls: Iterable[int], scope: Scope, style: KeyStyle) -> Shot:
    """A shot ready for an edit: what the edit keys is keyed, as it stands. On an existing pose nothing else changes.

    Parts that come late to the poses around are keyed as late, but for those that the edit touches.
    """
    rig = shot.figure(figure).rig
    lags = lags_there(shot.curves(figure), frame)
    lags[part_channels(rig, rig.parts_of(controls))] = 0.0
    return _prepared(shot, figure, frame, scope_parts(rig, controls, scope), lags, style)


def _prepared(shot: Shot, figure: str, frame: float, parts: list[str] | None, lags: Floats, style: KeyStyle) -> Shot:
    """Some parts keyed as they stand, each channel (C,) so many frames late."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    wanted = pose_channels(rig, parts) if parts is None or parts else []
    if all(curves[i].index_at(frame) is not None for i in wanted):
        return shot
    there, found = pose_keys(curves, frame), poses_of(curves)
    at = np.flatnonzero(np.abs(found.frames - frame) < SAME_FRAME)
    role = KeyRole(int(found.roles[at[0]])) if len(at) else style.role
    missing = [i for i in wanted if i not in there]
    keyed_too = keyed_exactly_late(curves, rig, missing, frame, lags, style.out_kind, role)
    return shot.with_curves(figure, curves.replaced(keyed_too))


def late_keys(curves: CurveSet, frame: float) -> dict[int, float]:
    """Where the channels that come late (or early) to the pose on a frame have their key of it, by channel index."""
    lags = lags_at(curves, frame)
    return {i: frame + float(lags[i]) for i in np.flatnonzero(lags).tolist()}


def edited(shot: Shot, figure: str, frame: float, values: Mapping[int, float], scope: Scope, style: KeyStyle) -> Shot:
    """An edit by the animator: channels (index: value) keyed at a frame, along with what the scope asks for."""
    ready = prepared(shot, figure, frame, _touched(shot, figure, values), scope, style)
    return edited_ready(shot, ready, figure, frame, values, style)


def posed_anew(
    shot: Shot, figure: str, frame: float, values: Mapping[int, float], scope: Scope, style: KeyStyle
) -> Shot:
    """Another pose on a frame: as an edit, but each channel that comes late there gets its value on a key that is as late."""
    lags, whole = lags_there(shot.curves(figure), frame), values
    values = keys_for(shot, figure, frame, values)
    late = {i: frame + float(lags[i]) for i in values if lags[i]}
    parts = scope_parts(shot.figure(figure).rig, _touched(shot, figure, values), scope)
    ready = _prepared(shot, figure, frame, parts, lags, style)
    now = {i: v for i, v in whole.items() if i not in late}
    made = _keyed_ready(shot, ready, figure, frame, now, style)
    curves = made.curves(figure)
    return made.with_curves(
        figure, curves.replaced({i: keyed(curves[i], at, values[i], style) for i, at in late.items()})
    )


def keys_for(shot: Shot, figure: str, frame: float, values: Mapping[int, float]) -> Mapping[int, float]:
    """What keys must say on a frame for a figure's channels to have these values there: over clips, what is to be added."""
    layers = layers_of(shot, figure)
    return values if layers is None else as_keys(layers, shot.figure(figure).rig, frame, dict(values))


def _touched(shot: Shot, figure: str, values: Mapping[int, float]) -> list[int]:
    rig = shot.figure(figure).rig
    return [i for i in range(len(rig.controls)) if set(rig.span(i)) & set(values)]


def edited_ready(
    shot: Shot, ready: Shot, figure: str, frame: float, values: Mapping[int, float], style: KeyStyle
) -> Shot:
    """An edit of a shot that was made `ready` for it (see `prepared`). What changes gets keys of the style, as if the motion
    had not been cut for it; what stays as it was keeps the motion it has. What hangs wholly on something hangs there anew."""
    attachments, values = landed(shot, figure, frame, values)
    made = _keyed_ready(shot, ready, figure, frame, values, style)
    return made if attachments == shot.attachments(figure) else made.with_attachments(figure, attachments)


def _keyed_ready(
    shot: Shot, ready: Shot, figure: str, frame: float, values: Mapping[int, float], style: KeyStyle
) -> Shot:
    if shot.followers(figure):
        from bovrin.craft.following.edits import ruled_out  # noqa: PLC0415 - kept out of the window's start

        values = ruled_out(shot, figure, frame, values)
    values = keys_for(shot, figure, frame, values)
    before, curves = shot.curves(figure), ready.curves(figure)
    late = late_keys(before, frame)
    changes = {}
    for i, value in values.items():
        if i in late:
            changes[i] = _touched_up(before[i], frame, value, style)
            continue
        at = curves[i].index_at(frame)
        new = at is not None and before[i].index_at(frame) is None and abs(curves[i].values[at] - value) > SAME_VALUE
        own = KeyStyle(style.out_kind, KeyRole(int(curves[i].role[at]))) if new else style
        changes[i] = keyed(before[i] if new else curves[i], frame, value, own)
    return ready.with_curves(figure, curves.replaced(changes))


def _touched_up(curve: Curve, frame: float, value: float, style: KeyStyle) -> Curve:
    """A curve that comes late to the pose on a frame, with an in-between there; itself where it has that value already."""
    if abs(float(curve_values(curve, np.array([frame]))[0]) - value) <= SAME_VALUE:
        return curve
    return keyed(curve, frame, value, KeyStyle(style.out_kind, KeyRole.IN_BETWEEN))


def fence(shot: Shot, figure: str, frame: float, controls: Iterable[int]) -> Shot:
    """Keys on a frame and on those beside it, the motion as it is, so that an edit of this frame spoils nothing else."""
    rig = shot.figure(figure).rig
    wanted = [i for c in controls for i in rig.span(c)]

    def fenced(curve: Curve, default: float) -> Curve:
        for at in (frame - 1.0, frame, frame + 1.0):
            curve = inserted(curve, at, default)
        return curve

    curves = shot.curves(figure)
    return shot.with_curves(figure, curves.replaced({i: fenced(curves[i], rig.channels[i].default) for i in wanted}))
