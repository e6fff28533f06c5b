"""From when to when something hangs."""

from __future__ import annotations

import numpy as np

from bovrin.motion.evaluate import curve_values
from bovrin.shot import Attachment, Shot


def spans_of(shot: Shot, figure: str, one: Attachment) -> list[tuple[float, float]]:
    """The stretches (from, to) of the shot's range on which an attachment counts, if only in part; frames at both ends."""
    curve = shot.curves(figure)[shot.figure(figure).rig.channel(one.column)]
    frames = np.unique(np.concatenate([np.arange(shot.first, np.floor(shot.last) + 1), curve.frames]))
    frames = frames[(frames >= shot.first) & (frames <= shot.last)]
    counts = np.concatenate([[False], curve_values(curve, frames) > 0.0, [False]]).astype(int)
    starts, ends = np.flatnonzero(np.diff(counts) == 1), np.flatnonzero(np.diff(counts) == -1)
    return [(float(frames[a]), float(frames[b - 1])) for a, b in zip(starts, ends, strict=True)]
