"""Channels for hanging on something, on controls that need them."""

from __future__ import annotations

from dataclasses import replace

from bovrin.shot import Shot
from bovrin.shot.regrown import with_channels_of
from bovrin.shot.rig import HANGS


def with_hooks(shot: Shot, figure: str, hooks: dict[str, int]) -> Shot:
    """A shot in which controls of a figure have at least so many channels to hang by; all else is as it was."""
    who = shot.figure(figure)
    rig = who.rig.with_hooks(hooks)
    if rig is who.rig:
        return shot
    counts = {c.name: sum(ch.technical.startswith(HANGS) for ch in c.channels) for c in rig.controls}
    return with_channels_of(shot, replace(who, rig=rig, hooks=tuple(sorted((n, k) for n, k in counts.items() if k))))
