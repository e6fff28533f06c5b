"""Keys that count instead of the clips under them, and keys that are added to those again: on keys nothing is seen to move."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

import numpy as np

from bovrin.craft.keying.keys import local_style, set_channels
from bovrin.errors import BadMotion
from bovrin.figure.stages.layers import beneath, layers_of
from bovrin.shot import Curve, KeyRole, Shot


def is_instead(shot: Shot, figure: str, channels: Collection[int]) -> bool:
    """Whether the keys of all of some channels count instead of clips."""
    own = shot.take.of(figure).instead
    names = shot.figure(figure).rig.channel_names
    return bool(channels) and all(names[i] in own for i in channels)


def keys_instead(shot: Shot, figure: str, channels: Collection[int], frame: float, *, instead: bool = True) -> Shot:
    """The shot in which keys of some channels count instead of the clips under them, or are added to those again.

    What is keyed says what was seen there; a channel without keys gets one on the frame. Between keys the clips are no longer
    heard, or again. BadMotion where no clip lies under them.
    """
    layers, rig = layers_of(shot, figure), shot.figure(figure).rig
    if layers is None:
        raise BadMotion(f"no clip lies under the keys of '{figure}'.", advice="Lay a clip first.")
    own = shot.take.of(figure).instead
    wanted = [i for i in channels if (rig.channel_names[i] in own) != instead]
    if not wanted:
        return shot
    made, sign = shot.curves(figure), 1.0 if instead else -1.0
    changes: dict[int, Curve] = {}
    bare: dict[int, float] = {}
    for i in wanted:
        curve = made[i]
        at = curve.frames if len(curve) else np.array([frame])
        by = sign * (beneath(layers, rig, at)[0][:, i] - rig.defaults[i])
        if len(curve):
            changes[i] = curve.changed(values=curve.values + by)
        elif instead:
            bare[i] = rig.defaults[i] + float(by[0])
    names = {rig.channel_names[i] for i in wanted}
    now = own | names if instead else own - names
    new = replace(shot, take=shot.take.acted(figure, curves=made.replaced(changes), instead=now))
    if not bare:
        return new
    return set_channels(new, figure, frame, bare, local_style(new, figure, frame, KeyRole.IN_BETWEEN))
