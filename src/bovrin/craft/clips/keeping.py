"""Clips kept: a stretch of motion under a name, from keys or from what clips and keys do together."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.spline_fit import frozen_key, with_span
from bovrin.craft.cycle.rounds import begun_at, close_loop
from bovrin.craft.keying.keys import merged, pose_channels
from bovrin.errors import BadMotion
from bovrin.figure.solve.plan import columns
from bovrin.figure.solve.ways import root_columns
from bovrin.measure.gait.contacts import contacts, cycle_contacts
from bovrin.motion.evaluate import channel_values, curve_values
from bovrin.motion.handles import gather
from bovrin.motion.insert import inserted
from bovrin.shot import Clip, Contacts, Curve, CurveSet, EndKind, HandleKind, Rig, Shot, Stretch
from bovrin.shot.checks import check_range
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

SHORTEST = 1.0
TURNS = 1e-3
"""Radians by which a round turns a figure."""


def keep_clip(
    shot: Shot,
    figure: str,
    name: str,
    start: float,
    end: float,
    *,
    loop: bool = False,
    parts: Iterable[str] | None = None,
) -> Shot:
    """The shot in which what a figure does from `start` to `end` is kept as a clip of that name, of the whole figure or of parts.

    loop: its end is its beginning; it is closed where it is not. A clip of that name is replaced, wherever it lies.
    """
    clip = clip_of(shot, figure, name, start, end, loop=loop, parts=parts)
    return with_clip(shot, clip)


def clip_of(
    shot: Shot,
    figure: str,
    name: str,
    start: float,
    end: float,
    *,
    loop: bool = False,
    parts: Iterable[str] | None = None,
) -> Clip:
    """The clip by itself. BadMotion when there is nothing to keep."""
    from bovrin.craft.clips.to_keys import clips_to_keys  # noqa: PLC0415 - kept out of the window's start

    words = name.strip()
    if not words:
        raise BadMotion("a clip needs a name.")
    check_range("the clip", start, end)
    if end - start < SHORTEST:
        raise BadMotion(f"a clip from {start:g} to {end:g} is too short.", advice="Give it two frames or more.")
    made = shot
    if shot.attachments(figure):
        from bovrin.craft.hanging.bake import bake  # noqa: PLC0415 - kept out of the window's start

        by_keys = replace(shot, take=shot.take.acted(figure, followers=()))  # rules go on above whatever is laid
        made = bake(replace(by_keys, first=min(shot.first, start), last=max(shot.last, end)), figure)
    elif shot.lanes(figure):
        made = clips_to_keys(shot, figure)
    rig = made.figure(figure).rig
    cut = made.with_curves(figure, _cut(made.curves(figure), rig, start, end))
    curves = _gone_round(cut, figure, start, end) if loop else cut.curves(figure)
    wanted = [i for i in pose_channels(rig, parts) if len(curves[i])]
    if not wanted:
        raise BadMotion(f"'{figure}' has no keys from {start:g} to {end:g}.", advice="Key a pose first.")
    own = {rig.channel_names[i]: _from_zero(curves[i], start) for i in wanted}
    neutral = neutral_pose(rig, channel_values(curves, rig, np.arange(start, end + (0.0 if loop else 0.5))))
    named = {rig.channel_names[i]: float(neutral[i]) for i in wanted}
    return Clip(words, own, end - start, loop, named, _contacts(made, figure, start, end, loop=loop), figure)


def _gone_round(cut: Shot, figure: str, start: float, end: float) -> CurveSet:
    """The curves of a stretch as a loop. Where a round turns the figure, the next goes another way: its way is left as it is."""
    rig, own = cut.figure(figure).rig, cut.curves(figure)
    closed = close_loop(cut, figure, start, end).curves(figure)
    roots = root_columns(rig)
    if roots is None:
        return closed
    forward, across, turn = roots
    if np.ptp(curve_values(own[turn], np.array([start, end]), rig.defaults[turn])) < TURNS:
        return closed
    return closed.replaced({i: own[i] for i in (forward, across) if not own[i].is_round})


def with_clip(shot: Shot, clip: Clip) -> Shot:
    """The shot with a clip more, or another one under its name."""
    others = tuple(own for own in shot.clips if own.name != clip.name)
    return replace(shot, clips=tuple(sorted((*others, clip), key=lambda own: own.name)))


def _cut(curves: CurveSet, rig: Rig, start: float, end: float) -> CurveSet:
    """Curves with keys from one frame to another only, every value there as it was."""
    found = {}
    for i, own in enumerate(curves.curves):
        if not len(own) or own.muted:
            found[i] = Curve()
            continue
        if own.is_round and not (np.ptp(own.values) or own.in_slope.any() or own.out_slope.any()):
            found[i] = own.taken(np.array([0, -1])).changed(frames=np.array([start, end]))
            continue
        default = rig.channels[i].default
        unrolled = own if not own.runs_on else _unrolled(own, start, end, default)
        whole = inserted(inserted(unrolled, start, default), end, default)
        same_ends = own.is_round and abs(own.frames[0] - start) < SAME_FRAME and abs(own.frames[-1] - end) < SAME_FRAME
        whole = whole if same_ends else _with_ends_frozen(whole, start, end)
        kept = whole.taken((whole.frames >= start - SAME_FRAME) & (whole.frames <= end + SAME_FRAME))
        found[i] = kept if same_ends else kept.ending(EndKind.HOLD, EndKind.HOLD)
    return curves.replaced(found)


def _with_ends_frozen(curve: Curve, start: float, end: float) -> Curve:
    """A curve whose keys on both ends of a stretch keep their handles when what lies beside it is cut off."""
    now = gather([curve])
    for frame in (start, end):
        at = curve.index_at(frame)
        if at is not None and HandleKind.STEPPED not in (curve.in_kind[at], curve.out_kind[at]):
            curve = curve.with_key(frozen_key(curve, now, at))
    return curve


def _unrolled(curve: Curve, start: float, end: float, default: float) -> Curve:
    """A curve that runs on, with keys out to the frames of a stretch; itself where it has them all."""
    if curve.frames[0] <= start + SAME_FRAME and curve.frames[-1] >= end - SAME_FRAME:
        return curve
    if curve.is_round:
        length = float(curve.frames[-1] - curve.frames[0])
        return _rounds_from(curve, start - length, end + length)
    frames = np.union1d(np.arange(np.ceil(start), np.floor(end) + 1), [start, end])
    values = curve_values(curve, frames, default)
    return with_span(Curve(), frames, values, np.gradient(values, frames), frames[[0, -1]])


def _rounds_from(curve: Curve, start: float, end: float) -> Curve:
    """A loop gone through as often as a stretch needs, key by key."""
    length = float(curve.frames[-1] - curve.frames[0])
    gain = float(curve.values[-1] - curve.values[0])
    first = begun_at(curve, start, length)
    count = int(np.ceil((end - start) / length))
    one = first.taken(np.arange(len(first) - 1))
    whole = one
    for n in range(1, count):
        whole = merged(whole, one.changed(frames=one.frames + n * length, values=one.values + n * gain))
    last = first.key(len(first) - 1)
    return whole.with_key(last._replace(frame=start + count * length, value=last.value + (count - 1) * gain))


def _from_zero(curve: Curve, start: float) -> Curve:
    return curve.changed(frames=curve.frames - start)


def neutral_pose(rig: Rig, values: Floats) -> Floats:
    """The pose (C,) that a motion (F, C) is stronger or weaker about: where it rests on the average; feet on the ground."""
    neutral = np.asarray(values.mean(0))
    defaults = np.asarray(rig.defaults)
    for limb in rig.limbs:
        if limb.foot is None:
            continue
        up = columns(rig, limb.goal, "translate")[1]
        rolls = [i for i in rig.span(limb.goal) if rig.channels[i].technical in ("heel", "ball")]
        for i in (up, *rolls):
            if i >= 0:
                neutral[i] = defaults[i]
    return neutral


def _contacts(shot: Shot, figure: str, start: float, end: float, *, loop: bool) -> Contacts:
    """When limbs are down in a stretch, counted from its beginning."""
    cycle = shot.cycle(figure)
    if cycle is not None and abs(cycle.length - (end - start)) < SAME_FRAME:
        found = cycle_contacts(shot, figure, cycle)
        return {limb: tuple(_shifted(span, start, cycle.length) for span in spans) for limb, spans in found.items()}
    ranged = replace(shot, first=min(shot.first, start), last=max(shot.last, end))
    down = contacts(ranged, figure)
    cut = {
        limb: tuple((max(a, start) - start, min(b, end) - start) for a, b in spans if b >= start and a <= end)
        for limb, spans in down.items()
    }
    return {limb: _over_the_seam(spans, end - start) for limb, spans in cut.items()} if loop else cut


def _over_the_seam(spans: tuple[Stretch, ...], length: float) -> tuple[Stretch, ...]:
    """Spans of a loop: one that is cut by its seam is one span, told from where the limb comes down."""
    if len(spans) < 2 or spans[0][0] > SAME_FRAME or spans[-1][1] < length - SAME_FRAME:
        return spans
    comes_down = spans[-1][0]
    if comes_down >= length - SAME_FRAME:
        return spans[:-1]
    return (*spans[1:-1], (comes_down, length + spans[0][1]))


def _shifted(span: Stretch, start: float, length: float) -> Stretch:
    first = (span[0] - start) % length
    return first, first + span[1] - span[0]
