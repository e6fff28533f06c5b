"""A figure that gets channels more, or loses some: its curves, in every take, go with their channels by name."""

from __future__ import annotations

from dataclasses import replace

from bovrin.shot.curve import NO_KEYS, CurveSet
from bovrin.shot.document import Figure, Shot
from bovrin.shot.take import Take


def with_channels_of(shot: Shot, new: Figure) -> Shot:
    """A shot in which a figure, by its name, is another one with the same channels but for a few; all else is as it was."""
    old = shot.figure(new.name)
    at = {name: n for n, name in enumerate(old.rig.channel_names)}
    order = [at.get(name, -1) for name in new.rig.channel_names]

    def told(curves: CurveSet) -> CurveSet:
        return CurveSet(tuple(curves[n] if n >= 0 else NO_KEYS for n in order))

    def retold(take: Take) -> Take:
        traces = tuple(replace(t, curves=told(t.curves)) if t.figure == new.name else t for t in take.traces)
        return replace(take.acted(new.name, curves=told(take.curves[new.name])), traces=traces)

    return replace(
        shot,
        cast=tuple(new if one.name == new.name else one for one in shot.cast),
        take=retold(shot.take),
        takes=tuple(retold(take) for take in shot.takes),
        unkeyed=tuple(replace(u, before=told(u.before)) if u.figure == new.name else u for u in shot.unkeyed),
    )
