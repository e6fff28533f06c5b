"""Hanging things on things, and letting go of them, on a frame: on it nothing moves, on neither side."""

from __future__ import annotations

from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.hanging.channels import with_hooks
from bovrin.craft.hanging.influence import WHOLLY, Carrier, let_go_of, role_there
from bovrin.craft.hanging.offsets import hanging_frame, taken_anew
from bovrin.craft.pose.modes import set_mode
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import LimbMode
from bovrin.figure.solve.plan import columns, plan_of, special_column
from bovrin.figure.stages.hanging import joints_moved
from bovrin.figure.stages.hooks import check_hanging
from bovrin.figure.staging import staged
from bovrin.motion.rotations import turn_only
from bovrin.shot import TO_GROUND, Attachment, ChannelRole, ControlKind, Curve, HandleKind, Key, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME
from bovrin.shot.rig import HANGS

Floats = NDArray[np.float64]
GROUND: Carrier = (TO_GROUND, "")
MOST = 12
"""Attachments that one control has at most."""


def attach(
    shot: Shot,
    figure: str,
    control: str,
    to: Carrier,
    frame: float | None = None,
    *,
    keep: bool = True,
    what: str = "both",
) -> Shot:
    """A control hung on a joint of a figure, or on GROUND, from a frame on; None: always. What it hung on before lets go of it.

    keep: it stays where it is on that frame; else it goes onto the joint, turned away from rest as that is. what: "both",
    "place" or "turn". BadMotion where it would hang on itself, by whatever way, or has no place of its own.
    """
    rig = shot.figure(figure).rig
    index = rig.control(control)
    if frame is not None and not np.isfinite(frame):
        raise BadMotion("a frame is a finite number.")
    _check(shot, figure, index, to, what)
    at = float(shot.first) if frame is None else float(frame)
    shot = _reaching(shot, figure, index, at)
    place, turn = hanging_frame(shot, figure, index, at)
    if not keep:
        place, turn = onto_joint(shot, figure, index, to, at)
    made = _plain(control, to, what)
    return hung_anew(shot, figure, made, at, place, turn, always=frame is None)


def hung_anew(
    shot: Shot,
    figure: str,
    one: Attachment,
    at: float,
    place: Floats,
    turn: Floats,
    amount: float = 1.0,
    *,
    always: bool = False,
) -> Shot:
    """A control hung on a carrier by an attachment more, with a channel of its own, so that it is at a place (3,) and turn (3, 3)
    on a frame; from there on, or always. No other of its attachments counts any more."""
    plain = _plain(one.control, (one.carrier, one.joint), one.what)
    made = taken_anew(plain, *_carrier_at(shot, plain, at), place, turn)
    shot, made = _with_channel(shot, figure, made)
    hooked = shot.with_attachments(figure, (*shot.attachments(figure), made))
    check_hanging(hooked)
    return _counted(hooked, figure, made, at, amount, always=always)


def onto_joint(shot: Shot, figure: str, control: int, to: Carrier, frame: float) -> tuple[Floats, Floats]:
    """Where a joint is on a frame (3,), and a control's turn (3, 3) that is as far from rest as the joint's."""
    rig = shot.figure(figure).rig
    one = _plain(rig.controls[control].name, to)
    place, turn = _carrier_at(shot, one, frame)
    return place, np.asarray(turn @ _at_rest(shot, rig, control, one))


def _check(shot: Shot, figure: str, control: int, to: Carrier, what: str) -> None:
    rig = shot.figure(figure).rig
    name = rig.controls[control].name
    moves, turns = (max(columns(rig, control, word)) >= 0 for word in ("translate", "rotate"))
    able = {"place": moves, "turn": turns, "both": moves or turns}
    if what not in able:
        raise BadMotion(f"'{what}' is no way to hang.", advice='Say "both", "place" or "turn".')
    if not able[what]:
        lacks = "neither place nor turn" if what == "both" else f"no {what}"
        raise BadMotion(f"{name} of {figure} cannot hang there: it has {lacks} of its own.")
    if to[0] == TO_GROUND:
        return
    joint = shot.figure(to[0]).rig.joint(to[1])
    if to[0] == figure and joint in joints_moved(rig, control):
        raise BadMotion(
            f"{name} of {figure} would hang on itself: it moves {to[1]}.",
            advice="Hang it on a joint that it does not move.",
        )


def _reaching(shot: Shot, figure: str, control: int, frame: float) -> Shot:
    """A shot in which the limb of a goal or a pole reaches from a frame on: what is posed joint by joint follows no goal."""
    rig = shot.figure(figure).rig
    what = rig.controls[control]
    if what.kind not in (ControlKind.GOAL, ControlKind.POLE):
        return shot
    switch = special_column(rig, rig.limbs[what.limb].goal, ChannelRole.REACH)
    if switch < 0 or staged(shot, figure, frame).values[0, switch] >= WHOLLY:
        return shot
    return set_mode(shot, figure, what.limb, frame, LimbMode.REACH)


def _plain(control: str, to: Carrier, what: str = "both") -> Attachment:
    """Right on the carrier."""
    return Attachment(control, HANGS, to[0], to[1] if to[0] != TO_GROUND else "", what=what)


def _carrier_at(shot: Shot, one: Attachment, frame: float) -> tuple[Floats, Floats]:
    """Where what carries an attachment is (3,) and how it is turned (3, 3)."""
    if one.carrier == TO_GROUND:
        return np.zeros(3), np.eye(3)
    own = staged(shot, one.carrier, frame).stance
    joint = own.rig.joint(one.joint)
    return own.seen(joint), np.asarray(_turned(own.world[joint]))


def _turned(matrix: Floats) -> Floats:
    return np.asarray(turn_only(matrix[None, :3, :3])[0])


def _at_rest(shot: Shot, rig: Rig, control: int, one: Attachment) -> Floats:
    """How a control is turned at rest (3, 3), in the axes that its carrier has at rest."""
    what = rig.controls[control]
    inside = what.kind in (ControlKind.JOINT, ControlKind.WHOLE)
    own = plan_of(rig).rest_world[what.joint, :3, :3] if inside else np.eye(3)
    if one.carrier == TO_GROUND:
        return np.asarray(own)
    other = shot.figure(one.carrier).rig
    return np.asarray(plan_of(other).rest_world[other.joint(one.joint), :3, :3].T @ own)


def _with_channel(shot: Shot, figure: str, one: Attachment) -> tuple[Shot, Attachment]:
    """A shot whose figure has a channel for one attachment more, and that attachment with it."""
    taken = {other.channel for other in shot.attachments(figure) if other.control == one.control}
    number = next((n for n in range(1, MOST + 1) if _name(n) not in taken), None)
    if number is None:
        raise BadMotion(
            f"{one.control} of {figure} hangs on {MOST} things already.", advice="Take one of them away first."
        )
    return with_hooks(shot, figure, {one.control: number}), replace(one, channel=_name(number))


def _name(number: int) -> str:
    return HANGS if number == 1 else f"{HANGS} {number}"


def _counted(shot: Shot, figure: str, one: Attachment, at: float, amount: float, *, always: bool) -> Shot:
    """The attachment counts from a frame on, and no other of its control any more."""
    rig = shot.figure(figure).rig
    column = rig.channel(one.column)
    start = min([shot.first, *(float(c.frames[0]) for c in shot.curves(figure).curves if len(c))])
    keys = [Key(at, amount, out_kind=HandleKind.STEPPED, role=role_there(shot, figure, at))]
    if not always and start < at - SAME_FRAME:
        keys = [Key(start, 0.0, out_kind=HandleKind.STEPPED, role=KeyRole.IN_BETWEEN), *keys]
    shot = shot.with_curves(figure, shot.curves(figure).replaced({column: Curve.from_keys(keys)}))
    others = [o for o in shot.attachments(figure) if o.control == one.control and o != one]
    return let_go_of(shot, figure, others, at)
