"""How far things hang: shares that are keyed, on frames on which nothing moves."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.hanging.attach import hung_anew
from bovrin.craft.hanging.influence import WHOLLY, Carrier, matched, role_there
from bovrin.craft.hanging.offsets import hanging_frame, held_at, own_for
from bovrin.craft.keying.edits import keys_for
from bovrin.craft.keying.keys import KeyStyle, keyed, local_style
from bovrin.errors import BadMotion
from bovrin.figure.staging import hangs_on, unlooked
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Attachment, Shot
from bovrin.shot.attachment import carrier_words
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

STAYS = 1e-7
"""Metres, or lengths of a turn's axes, by which a control may be off where it was."""


def set_influence(
    shot: Shot, figure: str, control: str, frame: float, amount: float, to: Carrier | None = None
) -> Shot:
    """How far a control hangs on something from a frame on, 0 to 1; keys of it hold until the next. `to`: on what, where it hangs
    on several things. The figure does not move on that frame: the control's own keys are matched; where no keys of its own would
    do that, it hangs anew from there, where it is.

    BadMotion where the control hangs on nothing, or the amount is no share.
    """
    if not (np.isfinite(amount) and 0.0 <= amount <= 1.0):
        raise BadMotion(f"it cannot hang by {amount:g}.", advice="Say a share from 0 to 1.")
    one = _named(shot, figure, control, to)
    rig = shot.figure(figure).rig
    column, index = rig.channel(one.column), rig.control(control)
    curve = shot.curves(figure)[column]
    if len(curve) and abs(float(curve_values(curve, np.array([frame]))[0]) - amount) < SAME_FRAME:
        return shot
    before = hanging_frame(shot, figure, index, frame)
    seen = unlooked(hangs_on(shot, figure), np.array([float(frame)]))
    made = _keyed(matched(shot, figure, index, frame), figure, one, frame, amount, seen)
    after = hanging_frame(made, figure, index, frame)
    if max(float(np.abs(a - b).max()) for a, b in zip(before, after, strict=True)) < STAYS:
        return made
    made = matched(shot, figure, index, frame) if amount < WHOLLY else shot
    return hung_anew(made, figure, one, frame, *before, amount)


def _keyed(shot: Shot, figure: str, one: Attachment, frame: float, amount: float, seen: Floats) -> Shot:
    """The share keyed, and the control's own keys such that it stays where values (1, C) have it, as far as they can."""
    rig = shot.figure(figure).rig
    column, index = rig.channel(one.column), rig.control(one.control)
    role = role_there(shot, figure, frame)
    share = keyed(shot.curves(figure)[column], frame, float(amount), KeyStyle(role=role))
    made = shot.with_curves(figure, shot.curves(figure).replaced({column: share}))
    held = next((h for h in held_at(made, figure, frame) if h.control == index), None)
    if held is None:
        return made
    ways = [what for what in ("place", "turn") if 0.0 < held.total(what) < WHOLLY]
    wanted = {c: v for what in ways for c, v in own_for(rig, held, what, seen).items()}
    style, curves = local_style(made, figure, frame, role), made.curves(figure)
    keys = dict(keys_for(made, figure, frame, wanted))
    return made.with_curves(figure, curves.replaced({c: keyed(curves[c], frame, v, style) for c, v in keys.items()}))


def _named(shot: Shot, figure: str, control: str, to: Carrier | None) -> Attachment:
    shot.figure(figure).rig.control(control)
    own = [one for one in shot.attachments(figure) if one.control == control]
    found = own if to is None else [one for one in own if (one.carrier, one.joint) == to]
    if not found:
        words = "anything" if to is None else carrier_words(*to)
        raise BadMotion(f"{control} of {figure} does not hang on {words}.", advice="Attach it first.")
    if len(found) > 1 and to is None:
        raise BadMotion(
            f"{control} of {figure} hangs on {len(found)} things.",
            advice=f"Say which with to: {', '.join(one.onto for one in found)}.",
        )
    return found[-1]
