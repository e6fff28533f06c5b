"""The two modes of a limb: switched and matched, so that it never jumps."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.spline_fit import fewest_keys, with_span
from bovrin.craft.keying.keys import KeyStyle, keyed, local_style
from bovrin.craft.keying.lag import lags_at, poses_of
from bovrin.errors import BadMotion, UnknownName
from bovrin.figure.solve.fit import LimbMode, continuous, fitted
from bovrin.figure.solve.joints import solve
from bovrin.figure.solve.plan import plan_of, special_column
from bovrin.figure.stages.stance import unstretched
from bovrin.figure.staging import staged
from bovrin.motion.evaluate import channel_values
from bovrin.motion.insert import inserted
from bovrin.shot import ChannelRole, Curve, CurveSet, HandleKind, KeyRole, Limb, Rig, Shot, Unit
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
MODES = (LimbMode.REACH, LimbMode.JOINTS)
CLOSE, SAME_VALUE = 1e-4, 1e-9
NEAR_ENOUGH = 2e-4, 1e-3
"""Metres and radians within which a mode is taken to have the motion of a range already."""
TOLERANCE = {Unit.LENGTH: 3e-5, Unit.ANGLE: 1e-4, Unit.AMOUNT: 1e-5}
"""How near a matched motion comes to what it was, metres, radians and shares: a tenth of a millimetre at a hand."""
BETWEEN = 20.0
"""How many times as far off it may be between frames, which nobody sees."""


def limb_named(rig: Rig, name: str) -> int:
    """The index of a limb by its name."""
    for index, limb in enumerate(rig.limbs):
        if limb.name == name:
            return index
    known = ", ".join(limb.name for limb in rig.limbs) or "none; it is posed joint by joint"
    raise UnknownName(f"there is no limb '{name}'.", advice=f"Limbs: {known}.")


def limb_of_control(rig: Rig, control: int) -> int | None:
    """The limb that a control belongs to, or None."""
    for index, limb in enumerate(rig.limbs):
        own = {limb.upper, limb.middle, limb.end}
        if control in (limb.goal, limb.pole) or rig.controls[control].joint in own:
            return index
    return None


def limb_mode(word: str) -> LimbMode:
    """The mode of that name."""
    if word not in MODES:
        raise BadMotion(f"'{word}' is not a mode of a limb.", advice='Use "reach" or "joints".')
    return LimbMode(word)


def set_mode(
    shot: Shot, figure: str, limb: int, frame: float, mode: LimbMode, end: float | None = None, *, every: bool = False
) -> Shot:
    """Switch a limb to reach or joints from a frame on without a jump: poses look as before, in-betweens may differ.

    The switch holds until its next change. With `end`, every whole frame of the range is matched, so that the motion
    itself stays, and the limb goes back to the mode it had after it; with as few keys as that needs, or on every frame.
    """
    rig = shot.figure(figure).rig
    switch = special_column(rig, rig.limbs[limb].goal, ChannelRole.REACH)
    if switch < 0:
        raise BadMotion(f"the limb '{rig.limbs[limb].name}' has one mode only.")
    wanted = 1.0 if mode == LimbMode.REACH else 0.0
    frames = _frames(shot, figure, limb, switch, frame, wanted, end)
    if end is not None and len(frames) > 2 and not every:
        return _switched(_keyed_range(shot, figure, limb, frames, mode), figure, switch, frame, wanted, end)
    matched = _matched(shot, figure, limb, frames, mode)
    shot = _switched(shot, figure, switch, frame, wanted, end)
    return _keyed(shot, figure, limb, frames, matched, mode)


def match_limb(shot: Shot, figure: str, limb: int, frame: float, mode: LimbMode) -> Shot:
    """Bring the channels of one mode to where the other has the limb at a frame; the switch stays as it is."""
    frames = np.array([frame])
    return _keyed(shot, figure, limb, frames, _matched(shot, figure, limb, frames, mode), mode)


def _frames(shot: Shot, figure: str, limb: int, switch: int, frame: float, wanted: float, end: float | None) -> Floats:
    """The frames to match: the first, then every whole frame of the range or every key of the limb in the run."""
    if end is not None:
        if end < frame:
            raise BadMotion(f"the range ends ({end:g}) before it begins ({frame:g}).")
        return np.unique(np.append(np.arange(np.ceil(frame), end + 1e-9), frame))
    curves = shot.curves(figure)
    stop = _run_end(curves[switch], frame, wanted)
    rig = shot.figure(figure).rig
    own = limb_channels(rig, limb)
    later = np.concatenate([curves[i].frames for i in own])
    later = later[(later > frame) & (later < stop)]
    now, then = channel_values(curves, rig, [frame, frame + 1.0])
    if len(later) and not np.array_equal(now[own], then[own]):
        later = np.append(later, frame + 1.0)  # motion under way goes on the same on both sides of the switch
    return np.unique(np.append(later, frame))


def _run_end(curve: Curve, frame: float, wanted: float) -> float:
    """The next frame on which the switch goes to the wanted mode by itself."""
    later = (curve.frames > frame + SAME_FRAME) & ((curve.values >= 0.5) == (wanted >= 0.5))
    return float(curve.frames[later][0]) if later.any() else np.inf


def _matched(
    shot: Shot, figure: str, limb: int, frames: Floats, mode: LimbMode, near: tuple[float, float] = (1e-7, 1e-7)
) -> Floats:
    """Channel values (F, C) in which a limb's channels of one mode put it where it is. near: metres and radians within which
    they have it there already and stay as they are."""
    rig = shot.figure(figure).rig
    values = unstretched(rig, staged(shot, figure, frames).values).copy()
    world = solve(rig, values)
    if mode == LimbMode.REACH:
        rolls = [special_column(rig, rig.limbs[limb].goal, word) for word in (ChannelRole.HEEL, ChannelRole.BALL)]
        now = values[:, special_column(rig, rig.limbs[limb].goal, ChannelRole.REACH)]
        for column in rolls:
            if column >= 0:
                values[now < 0.5, column] = 0.0
    fit = fitted(rig, world, values, [mode if i == limb else LimbMode.LEAVE for i in range(len(rig.limbs))])
    same = _already_there(rig, limb, values, world, mode, near)
    fit[same] = values[same]
    return continuous(rig, fit, limb_channels(rig, limb, mode))


def _already_there(
    rig: Rig, limb: int, values: Floats, world: Floats, mode: LimbMode, near: tuple[float, float]
) -> NDArray[np.bool_]:
    """On which frames the channels of a mode have the limb where it is as they are (F,)."""
    what = rig.limbs[limb]
    switched = values.copy()
    switched[:, special_column(rig, what.goal, ChannelRole.REACH)] = 1.0 if mode == LimbMode.REACH else 0.0
    joints = [what.upper, what.middle, what.end, *((what.foot.toes,) if what.foot is not None else ())]
    off = np.abs(solve(rig, switched)[:, joints] - world[:, joints]).max(1)
    return np.asarray((off[:, :3, 3].max(1) < near[0]) & (off[:, :3, :3].max((1, 2)) < near[1]))


def limb_channels(rig: Rig, limb: int, mode: LimbMode | None = None) -> list[int]:
    """The channels of a limb, or those of one mode, the switch not among them."""
    what = rig.limbs[limb]
    found = []
    if mode != LimbMode.JOINTS:
        found += [*rig.span(what.goal), *rig.span(what.pole)]
    if mode != LimbMode.REACH:
        found += _joint_channels(rig, what)
        if what.foot is not None:
            found += [c for c in plan_turns(rig, what.foot.toes) if c >= 0]
    switches = {special_column(rig, what.goal, word) for word in ("reach", ChannelRole.ANCHOR)}
    switches.add(special_column(rig, what.pole, ChannelRole.ANCHOR))
    return [c for c in dict.fromkeys(found) if c not in switches]


def _joint_channels(rig: Rig, limb: Limb) -> list[int]:
    return [c for joint in (limb.upper, limb.middle, limb.end) for c in plan_turns(rig, joint) if c >= 0]


def plan_turns(rig: Rig, joint: int) -> list[int]:
    """The rotation channels of the control that turns a joint."""
    for turns in plan_of(rig).turns:
        at = np.flatnonzero(turns.joints == joint)
        if len(at):
            return [int(c) for c in turns.columns[at[0]]]
    return []


def _switched(shot: Shot, figure: str, switch: int, frame: float, wanted: float, end: float | None) -> Shot:
    curves = shot.curves(figure)
    curve = curves[switch]
    late = bool(lags_at(curves, frame)[switch])  # then its key of the pose is not on this frame
    style = KeyStyle(HandleKind.STEPPED, KeyRole.IN_BETWEEN if late else KeyRole.KEY_POSE)
    default = shot.figure(figure).rig.defaults[switch]
    before = (
        float(channel_values(curves, shot.figure(figure).rig, [frame - 1e-4])[0, switch]) if len(curve) else default
    )
    if not len(curve) or curve.frames[0] > frame:  # before its first key a curve shows that key: hold what was
        first = float(shot.first) if shot.first < frame else frame - 1.0
        curve = keyed(curve, first, before, style)
    if end is not None:
        after = float(channel_values(curves, shot.figure(figure).rig, [end + 1.0])[0, switch])
        curve = keyed(curve, end + 1.0, after, style)
    stop = _run_end(curve, frame, wanted) if end is None else end + 0.5
    values = curve.values.copy()
    values[(curve.frames > frame - SAME_FRAME) & (curve.frames < stop)] = wanted
    curve = keyed(curve.changed(values=values), frame, wanted, style)
    kinds = np.full(len(curve), HandleKind.STEPPED, np.uint8)
    return shot.with_curves(figure, curves.replaced({switch: curve.changed(out_kind=kinds)}))


def _keyed(shot: Shot, figure: str, limb: int, frames: Floats, matched: Floats, mode: LimbMode) -> Shot:
    """Key the matched channels; frames without a pose get in-betweens. What was before the first frame stays."""
    rig = shot.figure(figure).rig
    curves, changes = shot.curves(figure), {}
    posed = _posed(curves, limb_channels(rig, limb))
    style = local_style(shot, figure, float(frames[0]), KeyRole.KEY_POSE)
    for column in limb_channels(rig, limb, mode):
        curve = curves[column]
        for row, frame in enumerate(frames):
            role = KeyRole.KEY_POSE if (np.abs(posed - frame) < SAME_FRAME).any() else KeyRole.IN_BETWEEN
            curve = keyed(curve, float(frame), float(matched[row, column]), KeyStyle(style.out_kind, role))
        changes[column] = curve
    return shot.with_curves(figure, curves.replaced(changes))


def _posed(curves: CurveSet, channels: list[int]) -> Floats:
    """The frames on which a limb has its poses: late ones where it comes late."""
    own = [curves[i].frames[curves[i].role != KeyRole.IN_BETWEEN] for i in channels]
    others = [f for f in poses_of(curves).frames.tolist() if not lags_at(curves, f)[channels].any()]
    return np.unique(np.concatenate([*own, others]))


def _keyed_range(shot: Shot, figure: str, limb: int, frames: Floats, mode: LimbMode) -> Shot:
    """Key the matched channels over a range with as few keys as the motion needs; what is outside it stays as it is."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    channels = limb_channels(rig, limb, mode)
    tolerance = np.array([TOLERANCE.get(rig.channels[c].unit, CLOSE) for c in channels])
    posed = _posed(curves, limb_channels(rig, limb))
    if local_style(shot, figure, float(frames[0]), KeyRole.KEY_POSE).out_kind is HandleKind.STEPPED:
        matched = _matched(shot, figure, limb, frames, mode)
        moved = np.abs(np.diff(matched[:, channels], axis=0, prepend=np.inf)) > tolerance
        drawn = moved.any(1) | np.isin(frames, posed)
        drawn[-1] = True
        return _keyed(shot, figure, limb, frames[drawn], matched[drawn], mode)
    back = float(frames[-1]) + 1.0
    if not any(curves[c].is_round and back >= curves[c].frames[-1] - SAME_FRAME for c in channels):
        frames = np.append(
            frames, back
        )  # the switch goes back there (but at a loop's seam): until then it is seen as it was
    fine = _between_too(frames)
    near = _matched(shot, figure, limb, fine, mode, NEAR_ENOUGH)
    whole = np.isin(fine, frames)
    if np.abs(near - channel_values(curves, rig, fine))[whole][:, channels].max() < SAME_VALUE:
        return shot  # the motion of this mode is there already
    allowed = tolerance * np.where(whole, 1.0, BETWEEN)[:, None]
    keyed, slopes = fewest_keys(fine, near[:, channels], allowed, posed, whole)
    changes = {}
    for n, column in enumerate(channels):
        curve, default = curves[column], rig.channels[column].default
        ends = inserted(inserted(curve, float(fine[0]), default), float(fine[-1]), default)
        made = with_span(ends, fine[keyed], near[keyed, column], slopes[:, n], posed)
        changes[column] = made.changed(values=_with_edges(made, fine, near[:, column]))
    return shot.with_curves(figure, curves.replaced(changes))


def _between_too(frames: Floats) -> Floats:
    """Frames (F,) and three more between each two: as many as settle the slopes of a cubic."""
    shares = np.arange(0.0, 1.0, 0.25)
    return np.append((frames[:-1, None] + np.diff(frames)[:, None] * shares).ravel(), frames[-1])


def _with_edges(curve: Curve, frames: Floats, values: Floats) -> Floats:
    """A curve's values (N,) with those on the first and last of some frames (F,) as given (F,)."""
    new = curve.values.copy()
    for at in (0, -1):
        row = curve.index_at(float(frames[at]))
        assert row is not None
        new[row] = values[at]
    return new
