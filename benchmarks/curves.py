"""Curve evaluation against one prebuilt SciPy spline for each channel, looped."""

from __future__ import annotations

import numpy as np
from scipy.interpolate import CubicHermiteSpline

from benchmarks.row import Row, compare
from bovrin.motion.evaluate import compile_curves, evaluate
from bovrin.shot import Curve, HandleKind, Key

CHANNELS, KEYS, FRAMES = 300, 10, 240


def _curves(free: bool) -> list[Curve]:
    rng = np.random.default_rng(5)
    made = []
    for _ in range(CHANNELS):
        frames = np.sort(rng.choice(np.arange(1, FRAMES - 1), KEYS, replace=False)) + 0.25
        spans = np.diff(frames, prepend=frames[0] - 10, append=frames[-1] + 10)
        keys = []
        for i, frame in enumerate(frames):
            slope, lengths = rng.normal(), spans[i : i + 2] * rng.uniform(0.1, 0.9, 2)
            hand = HandleKind.BY_HAND
            keys.append(Key(frame, rng.normal(), hand, hand, slope, slope, lengths[0], lengths[1], True, free))
        made.append(Curve.from_keys(keys))
    return made


def rows() -> list[Row]:
    """Three rows: fixed handles, free handles, one frame."""
    fixed, free = _curves(False), _curves(True)
    frames = np.arange(float(FRAMES))
    splines = [CubicHermiteSpline(c.frames, c.values, c.out_slope) for c in fixed]
    compiled, loose = (compile_curves(c, [0.0] * CHANNELS) for c in (fixed, free))

    def base() -> None:
        for spline in splines:
            spline(frames)

    def base_one() -> None:
        for spline in splines:
            spline(frames[100:101])

    name = f"{CHANNELS} channels x {KEYS} keys"
    return [
        compare(f"{name} x {FRAMES} frames, fixed handles", 1.0, lambda: evaluate(compiled, frames), base),
        compare(f"{name} x {FRAMES} frames, free handles", 2.0, lambda: evaluate(loose, frames), base),
        compare(f"{name}, one frame", 0.05, lambda: evaluate(compiled, frames[100:101]), base_one),
    ]
