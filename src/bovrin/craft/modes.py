"""The two modes of a limb: switched and matched, so that it never jumps."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keys import KeyStyle, keyed, local_style, poses
from bovrin.errors import BadMotion, UnknownName
from bovrin.figure.fit import LimbMode, fitted
from bovrin.figure.plan import plan_of, special_column
from bovrin.figure.solve import solve
from bovrin.figure.staging import staged
from bovrin.figure.stance import unstretched
from bovrin.motion.evaluate import channel_values
from bovrin.shot import ChannelRole, Curve, HandleKind, KeyRole, Limb, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
MODES = (LimbMode.REACH, LimbMode.JOINTS)


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


def set_mode(shot: Shot, figure: str, limb: int, frame: float, mode: LimbMode, end: float | None = None) -> Shot:
    """Switch a limb to reach or joints from a frame on without a jump: poses look as before, in-betweens may differ.

    The switch holds until its next change. With `end`, every whole frame of the range is matched, so that the motion
    itself stays, and the limb goes back to the mode it had after it.
    """
    rig = shot.figure(figure).rig
    switch = special_column(rig, rig.limbs[limb].goal, ChannelRole.REACH)
    if switch < 0:
        raise BadMotion(f"the limb '{rig.limbs[limb].name}' has one mode only.")
    wanted = 1.0 if mode == LimbMode.REACH else 0.0
    frames = _frames(shot, figure, limb, switch, frame, wanted, end)
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


def _matched(shot: Shot, figure: str, limb: int, frames: Floats, mode: LimbMode) -> Floats:
    """Channel values (F, C) in which a limb's channels of one mode put it where it is."""
    rig = shot.figure(figure).rig
    values = unstretched(rig, staged(shot, figure, frames).values).copy()
    world = solve(rig, values)
    if mode == LimbMode.REACH:
        rolls = [special_column(rig, rig.limbs[limb].goal, word) for word in (ChannelRole.HEEL, ChannelRole.BALL)]
        now = values[:, special_column(rig, rig.limbs[limb].goal, ChannelRole.REACH)]
        for column in rolls:
            if column >= 0:
                values[now < 0.5, column] = 0.0
    return fitted(rig, world, values, [mode if i == limb else LimbMode.LEAVE for i in range(len(rig.limbs))])


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
    return [c for c in found if c not in switches]


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
    style = KeyStyle(HandleKind.STEPPED, KeyRole.KEY_POSE)
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
    posed = poses(shot, figure).frames
    style = local_style(shot, figure, float(frames[0]), KeyRole.KEY_POSE)
    curves, changes = shot.curves(figure), {}
    for column in limb_channels(rig, limb, mode):
        curve = curves[column]
        for row, frame in enumerate(frames):
            role = KeyRole.KEY_POSE if (np.abs(posed - frame) < SAME_FRAME).any() else KeyRole.IN_BETWEEN
            curve = keyed(curve, float(frame), float(matched[row, column]), KeyStyle(style.out_kind, role))
        changes[column] = curve
    return shot.with_curves(figure, curves.replaced(changes))
