"""A bounce from its contacts: values that are shared, handles split at the ground, and true throws in between."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.keys import merged
from bovrin.errors import BadMotion
from bovrin.shot import Curve, HandleKind, Key, KeyRole, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

GRAVITY = 9.81
"""Metres a second, each second."""


def throws(
    contacts: Floats, ground: Floats, heights: Floats | None, frame_rate: float, gravity: float = GRAVITY
) -> tuple[Floats, Floats]:
    """Speed upward at the start of each throw between contacts (N,), and what it loses per frame: (N-1,) both.

    y = y0 + v t - g t^2 / 2 with t in frames from a contact. heights (N-1,): how far the top lies above the contact before
    it, from which v and g follow; without them g is gravity at the shot's frame rate.
    """
    span, rise = np.diff(contacts), np.diff(ground)
    if heights is None:
        loss = np.full(len(span), gravity / frame_rate**2)
        return rise / span + loss * span / 2, loss
    if (heights <= np.maximum(rise, 0.0)).any():
        raise BadMotion("a top of the bounce lies no higher than a contact beside it.", advice="Give larger heights.")
    speed = 2 * heights * (1 + np.sqrt(1 - rise / heights)) / span
    return speed, speed**2 / (2 * heights)


def bounce_curve(
    curve: Curve,
    contacts: Sequence[float],
    ground: float | Sequence[float],
    heights: Sequence[float] | None,
    frame_rate: float,
    gravity: float = GRAVITY,
) -> Curve:
    """A curve that bounces from contact to contact, as ordinary keys; what lies outside the contacts stays.

    Contacts are key poses with split handles; tops, where a throw has one, are breakdowns with level handles. A throw is a
    parabola, which a cubic with handles of a third of its span is exactly.
    """
    at, low = _checked(contacts, ground, heights)
    tops = None if heights is None else np.asarray(heights, float)
    speed, loss = throws(at, low, tops, frame_rate, gravity)
    hand = HandleKind.BY_HAND
    keys = []
    for n, (frame, value) in enumerate(zip(at.tolist(), low.tolist(), strict=True)):
        landing = float(speed[n - 1] - loss[n - 1] * (at[n] - at[n - 1])) if n else 0.0
        leaving = float(speed[n]) if n < len(speed) else 0.0
        into, out = (hand if n else HandleKind.FLAT), (hand if n < len(speed) else HandleKind.FLAT)
        keys.append(Key(frame, value, into, out, landing, leaving, joined=False))
        if n < len(speed):
            keys += _top(frame, value, float(speed[n]), float(loss[n]), float(at[n + 1]))
    made = Curve.from_keys(keys)
    own = curve.settled()
    outside = own.taken((own.frames < at[0] - SAME_FRAME) | (own.frames > at[-1] + SAME_FRAME))
    return merged(outside, _with_outer_handles(made, own)).like(curve)


def keyed_tops(curve: Curve, contacts: Floats, ground: Floats, frame_rate: float) -> list[float] | None:
    """How high each throw between contacts (N,) goes above the contact before it: as the highest key between both has it, or
    by gravity where none lies above them. None when all go by gravity."""
    speed, loss = throws(contacts, ground, None, frame_rate)
    heights = speed**2 / (2 * loss)
    found = False
    for n in range(len(contacts) - 1):
        between = (curve.frames > contacts[n] + SAME_FRAME) & (curve.frames < contacts[n + 1] - SAME_FRAME)
        top = curve.values[between].max(initial=-np.inf)
        if top > max(ground[n], ground[n + 1]):
            heights[n], found = top - ground[n], True
    return heights.tolist() if found else None


def _checked(
    contacts: Sequence[float], ground: float | Sequence[float], heights: Sequence[float] | None
) -> tuple[Floats, Floats]:
    at = np.asarray(contacts, float)
    if at.ndim != 1 or len(at) < 2 or not np.isfinite(at).all() or (np.diff(at) < 1).any():
        raise BadMotion(
            "a bounce needs two contacts or more, in order of time and at least a frame apart.",
            advice="Choose the frames on which it touches the ground.",
        )
    low = np.broadcast_to(np.asarray(ground, float), at.shape).copy()
    if not np.isfinite(low).all() or (heights is not None and len(heights) != len(at) - 1):
        raise BadMotion(f"{len(at)} contacts have {len(at) - 1} tops between them, each with a height.")
    return at, low


def _top(frame: float, value: float, speed: float, loss: float, until: float) -> list[Key]:
    """The key at the top of a throw, if it has one well inside."""
    time = speed / loss
    if not 0.5 <= time <= until - frame - 0.5:
        return []
    level = HandleKind.BY_HAND
    return [Key(frame + time, value + speed * time / 2, level, level, role=KeyRole.BREAKDOWN)]


def _with_outer_handles(made: Curve, own: Curve) -> Curve:
    """The first and last contact keep how the curve came to them and goes on from them."""
    columns: dict[str, NDArray[Any]] = {}
    for side, at in (("in", 0), ("out", len(made) - 1)):
        there = own.index_at(float(made.frames[at]))
        if there is None:
            continue
        for name in (f"{side}_kind", f"{side}_slope"):
            column = columns.get(name, getattr(made, name).copy())
            column[at] = getattr(own, name)[there]
            columns[name] = column
    return made.changed(**columns) if columns else made


def bounce(
    shot: Shot,
    figure: str,
    channel: int,
    contacts: Sequence[float],
    heights: Sequence[float] | None,
    ground: float | Sequence[float] = 0.0,
    gravity: float = GRAVITY,
) -> Shot:
    """Let a channel (index, metres) bounce: heights of the tops above the contact before each, or None for gravity."""
    curves = shot.curves(figure)
    made = bounce_curve(curves[channel], contacts, ground, heights, shot.frame_rate, gravity)
    return shot.with_curves(figure, curves.replaced({channel: made}))
