"""How far things hang on what they hang on, and letting go of them: on the frame of a change nothing moves."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bovrin.craft.hanging.offsets import held_at
from bovrin.craft.keying.edits import keys_for
from bovrin.craft.keying.exact_keys import keyed_exactly
from bovrin.craft.keying.keys import KeyStyle, keyed, local_style
from bovrin.craft.keying.lag import lags_at, poses_of
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import columns
from bovrin.figure.staging import hangs_on, unlooked
from bovrin.motion.evaluate import curve_values
from bovrin.motion.insert import fixed
from bovrin.shot import Attachment, KeyRole, Shot
from bovrin.shot.curve import NO_KEYS, SAME_FRAME

Carrier = tuple[str, str]
"""A figure and one of its joints; ("", ""): the ground."""
WHOLLY = 1.0 - 1e-9


def role_there(shot: Shot, figure: str, frame: float) -> KeyRole:
    """What a key on a frame is: of the pose that lies there, else an in-between, which makes no pose of its own."""
    found = poses_of(shot.curves(figure))
    at = np.flatnonzero(np.abs(found.frames - frame) < SAME_FRAME)
    late = bool(lags_at(shot.curves(figure), frame).any()) if len(at) else True
    return KeyRole.IN_BETWEEN if late else KeyRole(int(found.roles[at[0]]))


def let_go_of(shot: Shot, figure: str, some: Iterable[Attachment], at: float) -> Shot:
    """Attachments that count on a frame no longer do, from it on."""
    rig = shot.figure(figure).rig
    curves, changed = shot.curves(figure), {}
    for one in some:
        column = rig.channel(one.column)
        if len(curves[column]) and curve_values(curves[column], np.array([at]))[0] != 0.0:
            later = curves[column].frames > at + SAME_FRAME
            kept = curves[column].taken(~later) if not later.any() else curves[column]
            changed[column] = keyed(kept, at, 0.0, KeyStyle(role=role_there(shot, figure, at)))
    return shot.with_curves(figure, curves.replaced(changed))


def detach(shot: Shot, figure: str, control: str, frame: float) -> Shot:
    """A control let go of on a frame: from it on it goes its own way, which begins where it hung.

    BadMotion where it hangs on nothing there.
    """
    rig = shot.figure(figure).rig
    index = rig.control(control)
    if not any(held.control == index for held in held_at(shot, figure, frame)):
        raise BadMotion(
            f"{control} of {figure} hangs on nothing on frame {frame:g}.", advice="Go to a frame on which it does."
        )
    shot = matched(shot, figure, index, frame)
    return let_go_of(shot, figure, [one for one in shot.attachments(figure) if one.control == control], frame)


def forgotten(shot: Shot, figure: str, one: Attachment) -> Shot:
    """An attachment taken away altogether: its control goes its own way, by the keys that it has."""
    rig = shot.figure(figure).rig
    left = [other for other in shot.attachments(figure) if other != one]
    curves = shot.curves(figure).replaced({rig.channel(one.column): NO_KEYS})
    return shot.with_curves(figure, curves).with_attachments(figure, left)


def matched(shot: Shot, figure: str, control: int, frame: float) -> Shot:
    """A control's own keys on a frame put where it is seen; before the stretch on which it hangs they are as they were."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    cols = [c for word in ("translate", "rotate") for c in columns(rig, control, word) if c >= 0]
    seen = unlooked(hangs_on(shot, figure), np.array([float(frame)]))[0]
    style = local_style(shot, figure, frame, role_there(shot, figure, frame))
    since = hangs_since(shot, figure, rig.controls[control].name, frame)
    if since is not None and since < frame - SAME_FRAME:
        kept = keyed_exactly(curves, rig, cols, since, style.out_kind, KeyRole.IN_BETWEEN)
        curves = curves.replaced(kept)
        curves = curves.replaced({c: fixed(curves[c], since) for c in cols})
    wanted = keys_for(shot, figure, frame, {c: float(seen[c]) for c in cols})
    return shot.with_curves(figure, curves.replaced({c: keyed(curves[c], frame, wanted[c], style) for c in cols}))


def hangs_since(shot: Shot, figure: str, control: str, frame: float) -> float | None:
    """The frame on which a control began to hang on something, of the stretch that a frame lies in; None: it always did."""
    rig = shot.figure(figure).rig
    own = [shot.curves(figure)[rig.channel(one.column)] for one in shot.attachments(figure) if one.control == control]
    frames = np.unique(np.concatenate([np.zeros(0), *(curve.frames for curve in own)]))
    frames = frames[frames <= frame + SAME_FRAME]
    total = sum((np.clip(curve_values(curve, frames), 0.0, 1.0) for curve in own), np.zeros(len(frames)))
    off = np.flatnonzero(total <= 0.0)
    if not len(off):
        return None
    return float(frames[min(off[-1] + 1, len(frames) - 1)])
