"""Curves by script."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

import numpy as np

from bovrin.craft import traces as _traces
from bovrin.craft.between import bounce as _bounce
from bovrin.craft.between import snap as _snap
from bovrin.craft.curves import reshaping as _reshaping
from bovrin.craft.curves.bending import set_kind as _set_kind
from bovrin.craft.keying import keys as _keys
from bovrin.errors import BadMotion
from bovrin.script.basics import factor_of
from bovrin.shot import Curve, EndKind, HandleKind, Shot


def curve(shot: Shot, figure: str, channel: str) -> Curve:
    """The keys of a channel as read-only arrays (N,), degrees or metres: frames, values, slopes (per frame), lengths
    (frames), kinds and roles. It is a copy to look at: in a shot angles are radians."""
    rig = shot.figure(figure).rig
    at = rig.channel(channel)
    own, factor = shot.curves(figure)[at].settled(), factor_of(rig, at)
    return own.changed(**{name: getattr(own, name) * factor for name in ("values", "in_slope", "out_slope")})


def set_handles(shot: Shot, figure: str, channel: str, frames: Iterable[float], kind: str) -> Shot:
    """Give keys on frames a handle kind: "smooth", "no overshoot", "flat", "linear", "stepped" or "by hand"."""
    kinds = {k.name.lower().replace("_", " "): k for k in HandleKind}
    if kind not in kinds:
        raise BadMotion(f"there is no handle kind '{kind}'.", advice=f"Kinds: {', '.join(kinds)}.")

    def change(own: Curve) -> Curve:
        at = [own.index_at(frame) for frame in frames]
        if None in at:
            raise BadMotion(
                f"'{channel}' has no key on one of these frames.", advice="See keys(shot, figure, channel)."
            )
        return _set_kind(own, np.array(at, np.intp), kinds[kind])

    return _keys.changed_curves(shot, figure, [shot.figure(figure).rig.channel(channel)], change)


def insert_key(shot: Shot, figure: str, channel: str, frame: float) -> Shot:
    """A key more; no value of the curve changes. BadMotion outside the keys of a curve that repeats there."""
    rig = shot.figure(figure).rig
    at = rig.channel(channel)
    return _keys.changed_curves(
        shot, figure, [at], lambda own: _reshaping.key_more(own, frame, rig.channels[at].default)
    )


def set_ends(shot: Shot, figure: str, channel: str, before: str | None = None, after: str | None = None) -> Shot:
    """What a channel does outside its keys: "hold", "straight", "repeat", "repeat with offset" or "back and forth"."""
    kinds = {kind.words: kind for kind in EndKind}
    for word in (before, after):
        if word is not None and word not in kinds:
            raise BadMotion(f"a curve cannot '{word}' outside its keys.", advice=f"Words: {', '.join(kinds)}.")
    ends = {name: kinds[word] for name, word in (("before", before), ("after", after)) if word is not None}
    return _reshaping.with_ends(shot, figure, [shot.figure(figure).rig.channel(channel)], **ends)


def bounce(
    shot: Shot,
    figure: str,
    channel: str,
    contacts: Sequence[float],
    heights: Sequence[float] | None = None,
    ground: float | Sequence[float] = 0.0,
) -> Shot:
    """Let a channel bounce between contact frames: heights (metres) of the tops above the contact before each.

    Without heights gravity makes them from the timing. ground: one level, or one for each contact.
    """
    return _bounce.bounce(shot, figure, shot.figure(figure).rig.channel(channel), contacts, heights, ground)


def snap(
    shot: Shot,
    figure: str,
    start: float,
    end: float,
    parts: Iterable[str] | None = None,
    hold: float = 0.0,
    drift: float = 0.0,
) -> Shot:
    """Leave at once on one frame, arrive at once on another, on every channel that takes part; then hold or drift."""
    return _snap.snap(shot, figure, parts, start, end, hold, drift)


def keep_trace(shot: Shot, figure: str, name: str = "") -> Shot:
    """Keep the curves as they are, to compare with and to go back to."""
    return _traces.keep_trace(shot, figure, name)


def swap_trace(shot: Shot, figure: str, name: str) -> Shot:
    """The trace becomes the motion, and the motion the trace."""
    return _traces.swap_trace(shot, figure, name)
