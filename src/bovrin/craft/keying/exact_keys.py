"""Keys put where the figure already is: whatever tool puts them, no value changes on any frame."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.motion.evaluate import channel_values, compile_curves, evaluate
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, CurveSet, HandleKind, Key, KeyRole, Rig
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

EASED = HandleKind.NO_OVERSHOOT
SAME = 1e-12
"""Shares of a curve's own height below which two values are the same."""
LOOKS = np.array([0.13, 0.37, 0.5, 0.71, 0.9])
"""Where in each segment two curves are compared: cubics that agree in so many places agree."""


def keyed_exactly(
    curves: CurveSet, rig: Rig, channels: Iterable[int], frame: float, out_kind: HandleKind, role: KeyRole
) -> dict[int, Curve]:
    """The curves of channels that get a key on a frame where they have none: with the value that is there, and the same
    values everywhere else.

    A key that eases (or steps) is put where that changes nothing; elsewhere the segment is cut in two and its handles are
    by hand.
    """
    missing = [i for i in channels if curves[i].index_at(frame) is None]
    now = channel_values(curves, rig, [frame])[0]
    plain = Key(frame, 0.0, EASED, out_kind, role=role)
    tried = {i: curves[i].with_key(plain._replace(value=float(now[i]))) for i in missing}
    return {
        i: made if same or curves[i].runs_on else inserted(curves[i], frame, rig.channels[i].default, role)
        for (i, made), same in zip(tried.items(), _alike(curves, rig, tried, frame), strict=True)
    }


def keyed_exactly_late(
    curves: CurveSet,
    rig: Rig,
    channels: Iterable[int],
    frame: float,
    lags: Floats,
    out_kind: HandleKind,
    role: KeyRole,
) -> dict[int, Curve]:
    """As `keyed_exactly`, each channel as many frames later as `lags` (C,) says."""
    alike: dict[float, list[int]] = {}
    for i in channels:
        alike.setdefault(float(lags[i]), []).append(i)
    found: dict[int, Curve] = {}
    for lag, members in alike.items():
        found |= keyed_exactly(curves, rig, members, frame + lag, out_kind, role)
    return found


def _alike(curves: CurveSet, rig: Rig, tried: dict[int, Curve], frame: float) -> list[bool]:
    """Whether curves with a key more on a frame have the values that they had, on the segments around it."""
    groups: dict[bytes, list[int]] = {}
    for i, made in tried.items():
        groups.setdefault(made.frames.tobytes(), []).append(i)
    found: dict[int, bool] = {}
    for members in groups.values():
        frames = _looks(tried[members[0]].frames, frame)
        defaults = [rig.channels[i].default for i in members]
        old = evaluate(compile_curves([curves[i] for i in members], defaults), frames)
        new = evaluate(compile_curves([tried[i] for i in members], defaults), frames)
        close = np.atleast_1d((np.abs(new - old) <= SAME * (1.0 + np.abs(old))).all(0))
        found |= dict(zip(members, close.tolist(), strict=True))
    return [found[i] for i in tried]


def _looks(keys: Floats, frame: float) -> Floats:
    """Frames (F,) in the two segments on either side of a key, and a little beyond where there are no more."""
    at = int(np.searchsorted(keys, frame - SAME_FRAME))  # a key lies on the grid beside the frame it was asked on
    around = keys[max(at - 2, 0) : at + 3]
    around = np.concatenate([[around[0] - 4.0], around, [around[-1] + 4.0]])
    return np.asarray((around[:-1, None] + np.diff(around)[:, None] * LOOKS).ravel())
