"""Followers copied onto the other side, or onto other parts."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np

from bovrin.craft.following.chains import across
from bovrin.craft.following.follow import EASED, follow, follower
from bovrin.craft.keying.keys import keyed
from bovrin.shot import Curve, Shot
from bovrin.shot.follower import settings_of
from bovrin.shot.rig import Rig

FLIPPED = {"swing": ("about y", "about z"), "turn": ("about y", "about z"), "bob": ("about x",)}
"""The settings that a mirror turns over: axes of turns lie in the mirror as they are, ways across it change sides."""


def copied(shot: Shot, figure: str, name: str, controls: Iterable[str]) -> Shot:
    """A follower of a figure once more, told the same, on other controls; mirrored where those are the other side's."""
    one, names = follower(shot, figure, name), tuple(controls)
    rig = shot.figure(figure).rig
    mirrored = across(rig, one.controls) == names
    made = follow(shot, figure, names, one.kind, clear_of=_off(rig, one.clear_of, mirrored=mirrored))
    new, rig, curves = made.followers(figure)[-1].name, made.figure(figure).rig, made.curves(figure)
    flipped = FLIPPED.get(one.kind, ()) if mirrored else ()
    told = {}
    for setting in settings_of(one.kind):
        own = curves[rig.channel(f"{name}/{setting.name}")]
        if setting.name in flipped:
            own = _upside_down(own, setting.first, shot.first)
        told[rig.channel(f"{new}/{setting.name}")] = own
    return made.with_curves(figure, curves.replaced(told))


def _off(rig: Rig, joints: Iterable[str], *, mirrored: bool) -> list[str]:
    """What the copy stays out of: of the other side, where there is such a joint."""
    named = {joint.name for joint in rig.joints}
    swapped = {a: b for pair in rig.pairs for a, b in (pair, pair[::-1])}
    return [swapped[j] if mirrored and swapped.get(j) in named else j for j in joints]


def _upside_down(curve: Curve, rest: float, first: float) -> Curve:
    if not len(curve):
        return keyed(curve, first, -rest, EASED) if rest else curve
    return curve.changed(
        values=-curve.values, in_slope=-np.asarray(curve.in_slope), out_slope=-np.asarray(curve.out_slope)
    )
