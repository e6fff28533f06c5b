"""A clip's channels on its own frames, worked out once for a frame however often it comes."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.ways import Stand
from bovrin.motion.evaluate import MANY, Compiled, channel_values, compile_curves, evaluate
from bovrin.shot import Clip, CurveSet, Rig
from bovrin.shot.curve import NO_KEYS, Curve

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Ints = NDArray[np.intp]


@cached_by_identity
def clip_curves(clip: Clip, rig: Rig) -> tuple[CurveSet, Bools, Floats]:
    """A clip's curves in the order of a rig's channels, which of them it has (C,), and its neutral pose (C,)."""
    own = [clip.curves.get(name, NO_KEYS) for name in rig.channel_names]
    neutral = [clip.neutral.get(name, d) for name, d in zip(rig.channel_names, rig.defaults, strict=True)]
    return CurveSet(tuple(own)), np.array([len(curve) > 0 for curve in own]), np.array(neutral)


def clip_values(clip: Clip, rig: Rig, frames: Floats) -> Floats:
    """A clip's channels at its own frames (F, C), to be written on."""
    some, which = np.unique(frames, return_inverse=True)  # rounds come back to the same frames
    return np.asarray(_values_at(clip, rig, some)[which] if len(some) < len(frames) else _values_at(clip, rig, frames))


def _values_at(clip: Clip, rig: Rig, frames: Floats) -> Floats:
    """The same; what stands still is not worked out again and again."""
    if _is_dense(clip, rig):
        return channel_values(clip_curves(clip, rig)[0], rig, frames)
    still, moving, compiled = _moving(clip, rig)
    values = np.tile(still, (len(frames), 1))
    if compiled is not None:
        values[:, moving] = evaluate(compiled, frames)
    return values


@cached_by_identity
def _is_dense(clip: Clip, rig: Rig) -> bool:
    """Whether a clip has so many keys that its curves are better worked out as recorded ones are."""
    return sum(map(len, clip_curves(clip, rig)[0].curves)) >= MANY


def clip_stands(clip: Clip, rig: Rig, roots: tuple[int, int, int], frames: Floats) -> Stand:
    """Where a clip has the figure stand at its own frames (F,)."""
    still, compiled = _root_curves(clip, rig, roots)
    if compiled is None:
        found = np.tile(still, (len(frames), 1))
    else:
        found = evaluate(compiled, frames)
    return Stand(found[:, 0] + 1j * found[:, 1], found[:, 2])


def clip_goes(clip: Clip, rig: Rig, roots: tuple[int, int, int]) -> bool:
    """Whether a clip takes the whole figure anywhere."""
    return _root_curves(clip, rig, roots)[1] is not None


@cached_by_identity
def _moving(clip: Clip, rig: Rig) -> tuple[Floats, Ints, Compiled | None]:
    """What a clip's channels rest at (C,), which of them move, and those ready to be worked out."""
    curves, _, _ = clip_curves(clip, rig)
    still = np.array([c.values[0] if len(c) else d for c, d in zip(curves.curves, rig.defaults, strict=True)])
    moving = [i for i, curve in enumerate(curves.curves) if _moves(curve)]
    compiled = compile_curves([curves[i] for i in moving], [rig.defaults[i] for i in moving]) if moving else None
    return still, np.array(moving, np.intp), compiled


@cached_by_identity
def _root_curves(clip: Clip, rig: Rig, roots: tuple[int, int, int]) -> tuple[Floats, Compiled | None]:
    """Where the whole figure rests (forward, across, turn), and the curves that take it along, if any do."""
    curves, _, _ = clip_curves(clip, rig)
    own, defaults = [curves[c] for c in roots], [rig.defaults[c] for c in roots]
    still = np.array([c.values[0] if len(c) else d for c, d in zip(own, defaults, strict=True)])
    return still, compile_curves(own, defaults) if any(map(_moves, own)) else None


def _moves(curve: Curve) -> bool:
    return bool(len(curve) and (np.ptp(curve.values) or curve.in_slope.any() or curve.out_slope.any()))
