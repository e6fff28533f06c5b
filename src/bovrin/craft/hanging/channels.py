"""Channels for hanging on something, on controls that need them."""

from __future__ import annotations

from dataclasses import replace

from bovrin.shot import CurveSet, Shot, Take
from bovrin.shot.curve import NO_KEYS
from bovrin.shot.rig import HANGS


def with_hooks(shot: Shot, figure: str, hooks: dict[str, int]) -> Shot:
    """A shot in which controls of a figure have at least so many channels to hang by; all else is as it was."""
    who = shot.figure(figure)
    rig = who.rig.with_hooks(hooks)
    if rig is who.rig:
        return shot
    counts = {c.name: sum(ch.technical.startswith(HANGS) for ch in c.channels) for c in rig.controls}
    new = replace(who, rig=rig, hooks=tuple(sorted((name, n) for name, n in counts.items() if n)))
    at = {name: n for n, name in enumerate(who.rig.channel_names)}
    order = [at.get(name, -1) for name in rig.channel_names]

    def told(curves: CurveSet) -> CurveSet:
        return CurveSet(tuple(curves[n] if n >= 0 else NO_KEYS for n in order))

    def with_channels(take: Take) -> Take:
        traces = tuple(replace(t, curves=told(t.curves)) if t.figure == figure else t for t in take.traces)
        return replace(take.acted(figure, curves=told(take.curves[figure])), traces=traces)

    return replace(
        shot,
        cast=tuple(new if one.name == figure else one for one in shot.cast),
        take=with_channels(shot.take),
        takes=tuple(with_channels(take) for take in shot.takes),
        unkeyed=tuple(replace(u, before=told(u.before)) if u.figure == figure else u for u in shot.unkeyed),
    )
