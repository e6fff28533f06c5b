"""Limbs of a brought motion that reach at once: goals, poles and twists put where the motion has the limbs, frame by frame."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.solve.fit import LimbMode, continuous, fitted
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import special_column
from bovrin.figure.staging import staged
from bovrin.motion.evaluate import channel_values
from bovrin.shot import ChannelRole, Curve, CurveSet, Figure, HandleKind, Key, Rig, Shot, Take
from bovrin.shot.curve import NO_KEYS, columns_like, recorded_columns

Floats = NDArray[np.float64]
Frames = dict[str, NDArray[np.generic]]

NEAR = 1e-6
"""Metres, and shares of a turn, within which a limb that reaches must be where its joints had it."""
STILL = 1e-9
NOUGHT = 1e-12
"""Volume of a joint's space that counts as nothing."""
PORTION = 4000
"""Frames that are fitted at a time, so that long motions need no more memory."""


def reaching(shot: Shot) -> Shot:
    """A brought shot whose figures' limbs reach wherever that tells their motion; every whole frame stays as it was.

    Limbs of which reach cannot tell the motion (a joint between that bends, bones that come apart) stay posed joint by joint,
    and so does what no file moves.
    """
    for figure in shot.cast:
        shot = _reaching(shot, figure)
    return shot


def _reaching(shot: Shot, figure: Figure) -> Shot:
    rig = figure.rig
    switches = {n: special_column(rig, limb.goal, ChannelRole.REACH) for n, limb in enumerate(rig.limbs)}
    waiting = [n for n, c in switches.items() if c >= 0 and all(_off(rig, t, figure.name, c) for t in shot.all_takes)]
    if not waiting:
        return shot
    told = {take.name: _told(shot.showing(take), figure, waiting) for take in shot.all_takes}
    able = [n for n in waiting if all(n in found for found in told.values())]
    if not able:
        return shot
    new = replace(figure, rig=_switched_on(rig, [switches[n] for n in able]))

    def of(take: Take) -> Take:
        changes = {column: curve for n in able for column, curve in told[take.name][n].items()}
        changes |= {switches[n]: NO_KEYS for n in able}
        return take.acted(figure.name, curves=take.curves[figure.name].replaced(changes))

    cast = tuple(new if f.name == figure.name else f for f in shot.cast)
    return replace(shot, cast=cast, take=of(shot.take), takes=tuple(of(take) for take in shot.takes))


def _off(rig: Rig, take: Take, figure: str, column: int) -> bool:
    """Whether a switch says "joints" all through a take."""
    curve = take.curves[figure][column]
    return bool(curve.values.max() < 0.5) if len(curve) else rig.channels[column].default < 0.5


def _switched_on(rig: Rig, switches: list[int]) -> Rig:
    """The rig with these switches on where nothing is keyed."""
    controls, at = [], 0
    for control in rig.controls:
        channels = tuple(replace(c, default=1.0) if at + n in switches else c for n, c in enumerate(control.channels))
        controls.append(replace(control, channels=channels))
        at += len(channels)
    return replace(rig, controls=tuple(controls))


def _told(shot: Shot, figure: Figure, limbs: list[int]) -> dict[int, dict[int, Curve]]:
    """For each limb that can be told by reach in the shot's take: curves by channel."""
    rig, curves = figure.rig, shot.curves(figure.name)
    frames = _frames(shot, curves)
    modes = [LimbMode.REACH if n in limbs else LimbMode.LEAVE for n in range(len(rig.limbs))]
    fits, far = [], np.zeros(len(rig.limbs))
    for begin in range(0, len(frames), PORTION):
        values = channel_values(curves, rig, frames[begin : begin + PORTION])
        world = staged(shot, figure.name, frames[begin : begin + PORTION]).world
        if np.abs(np.linalg.det(world[..., :3, :3])).min() < NOUGHT:
            return {}  # somebody hides it, or a part, by sizing it to nothing
        fit = fitted(rig, world, values, modes)
        far = np.maximum(far, _far(rig, fit, world, limbs))
        fits.append(fit)
    own = {n: _reach_channels(rig, n) for n in limbs if far[n] < NEAR}
    stepped = _is_stepped(curves)
    whole = continuous(rig, np.concatenate(fits), [c for cols in own.values() for c in cols])
    shared, single = (_held if stepped else recorded_columns)(frames), recorded_columns(frames[:1])
    return {
        n: {c: _curve(whole[:, c], rig.channels[c].default, shared, single) for c in cols} for n, cols in own.items()
    }


def _frames(shot: Shot, curves: CurveSet) -> Floats:
    """The whole frames of the take; of stepped motion those with keys, and the first alone where nothing moves."""
    frames = np.array(shot.whole_frames, float)
    keyed = [curve.frames for curve in curves.curves if len(curve) > 1]
    if not keyed:
        return frames[:1]
    return np.unique(np.concatenate([frames[:1], *keyed])) if _is_stepped(curves) else frames


def _is_stepped(curves: CurveSet) -> bool:
    return all(bool((curve.out_kind[:-1] == HandleKind.STEPPED).all()) for curve in curves.curves)


def _held(frames: Floats) -> Frames:
    """The columns of poses that are held from frame to frame (F,)."""
    return columns_like(Key(0.0, 0.0, out_kind=HandleKind.STEPPED), frames)


def _far(rig: Rig, values: Floats, world: Floats, limbs: list[int]) -> Floats:
    """How far each limb is from where it was when it reaches at values (F, C), at most (L,)."""
    tried = values.copy()
    for n in limbs:
        tried[:, special_column(rig, rig.limbs[n].goal, ChannelRole.REACH)] = 1.0
    off = np.abs(solve(rig, tried) - world).max((0, 2, 3))
    found = np.zeros(len(rig.limbs))
    for n in limbs:
        limb = rig.limbs[n]
        line, at = [], limb.end
        while at not in (limb.upper, -1):
            line.append(at)
            at = rig.joints[at].parent
        found[n] = off[[*line, limb.upper]].max()
    return found


def _reach_channels(rig: Rig, limb: int) -> list[int]:
    """The channels of a limb's goal and pole, their switches not among them."""
    what = rig.limbs[limb]
    words = (ChannelRole.REACH, ChannelRole.ANCHOR)
    switches = {special_column(rig, control, word) for control in (what.goal, what.pole) for word in words}
    return [c for control in (what.goal, what.pole) for c in rig.span(control) if c not in switches]


def _curve(values: Floats, default: float, shared: Frames, single: Frames) -> Curve:
    """A key on every frame, one where nothing moves, none where nothing but the default is needed."""
    if np.abs(values - default).max() < STILL:
        return NO_KEYS
    still = float(np.ptp(values)) < STILL
    own = values[:1].copy() if still else np.ascontiguousarray(values)
    own.setflags(write=False)
    return Curve.from_columns({**(single if still else shared), "values": own})
