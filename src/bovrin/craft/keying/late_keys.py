"""Keys put on many frames at once, each channel as much later as it comes."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.keys import KeyStyle, keyed_all
from bovrin.craft.keying.lag import lags_between
from bovrin.shot import Curve, CurveSet

Floats = NDArray[np.float64]


def keyed_between(
    curves: CurveSet,
    channels: Iterable[int],
    ends: tuple[float, float],
    frames: Floats,
    values: Floats,
    style: KeyStyle,
) -> dict[int, Curve]:
    """Curves with keys of values (F, C) on frames (F,) between two poses, or as much later as each channel comes to them."""
    lags = np.stack([lags_between(curves, *ends, frame) for frame in frames.tolist()])
    return keyed_late(curves, channels, frames, lags, values, style)


def keyed_late(
    curves: CurveSet, channels: Iterable[int], frames: Floats, lags: Floats, values: Floats, style: KeyStyle
) -> dict[int, Curve]:
    """Curves with keys of values (F, C) on frames (F,), later by lags (F, C). Where a lag leaves no order of time, the
    channel gets none."""
    alike: dict[bytes, list[int]] = {}
    for i in channels:
        alike.setdefault(lags[:, i].tobytes(), []).append(i)
    made: dict[int, Curve] = {}
    for members in alike.values():
        at = np.round(frames + lags[:, members[0]], 9)
        made |= keyed_all(curves, members, at, values, style) if (np.diff(at) > 0).all() else {}
    return made
