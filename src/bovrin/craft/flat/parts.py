"""Parts of flat figures by name, and the channels that only they have."""

from __future__ import annotations

from collections.abc import Mapping

from bovrin.craft.keying.keys import KeyStyle, keyed
from bovrin.errors import BadFigure, UnknownName
from bovrin.figure.flat.assembling import part_controls
from bovrin.figure.solve.plan import columns, special_column
from bovrin.motion.evaluate import channel_values
from bovrin.shot import ChannelRole, Figure, HandleKind, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

JUST_BEFORE = 1e-3
"""Frames before one on which it is looked what was held until then."""
HELD = KeyStyle(HandleKind.STEPPED, KeyRole.IN_BETWEEN)
"""What a swap's key is: it holds, and makes no pose."""


def is_flat(figure: Figure) -> bool:
    """Whether a figure is made of drawn parts."""
    return figure.model.is_flat


def flat_controls(rig: Rig) -> list[int]:
    """The controls of drawn parts, the rearmost at rest first."""
    return part_controls(rig)


def order_column(rig: Rig, control: int) -> int:
    """The channel that says how far in front a part is, or -1."""
    return special_column(rig, control, ChannelRole.ORDER)


def drawing_column(rig: Rig, control: int) -> int:
    """The channel that says which drawing of a part is shown, or -1 where it has one alone."""
    return special_column(rig, control, ChannelRole.DRAWING)


def flip_column(rig: Rig, control: int) -> int:
    """The channel that turns a part over, or -1."""
    return max(columns(rig, control, ChannelRole.FLIP))


def flat_part(figure: Figure, part: str) -> int:
    """The control of a drawn part, by its name or its joint's."""
    rig = figure.rig
    if not is_flat(figure):
        raise BadFigure(f"'{figure.name}' is no flat figure; it has no drawings.", advice="Bring a layered drawing.")
    found = [n for n in flat_controls(rig) if part in (rig.controls[n].name, rig.joints[rig.controls[n].joint].name)]
    if not found:
        known = ", ".join(rig.controls[n].name for n in flat_controls(rig))
        raise UnknownName(f"'{figure.name}' has no part '{part}'.", advice=f"Its parts: {known}.")
    return found[0]


def held_from(shot: Shot, figure: str, frame: float, values: Mapping[int, float], until: float | None = None) -> Shot:
    """Channels that hold set from a frame on, until their next key or, where it is told, until a frame on which they are again
    what they were. What they do before stays."""
    curves, rig = shot.curves(figure), shot.figure(figure).rig
    changes = {}
    for channel, value in values.items():
        own = curves[channel]
        before = float(channel_values(curves, rig, [frame - JUST_BEFORE])[0, channel])
        made = own
        if not len(own) or own.frames[0] > frame - SAME_FRAME:
            start = min(shot.first, frame)
            if start < frame - SAME_FRAME:
                made = keyed(made, start, before, HELD)
        if until is not None and made.index_at(until) is None:
            back = float(channel_values(curves, rig, [until])[0, channel])
            made = keyed(made, until, back, HELD)
        changes[channel] = keyed(made, frame, value, HELD)
    return shot.with_curves(figure, curves.replaced(changes))
