"""Breakdowns: a pose on the way between two others, favouring one of them, each part by its own amount."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.between.pose_blending import blended_poses
from bovrin.craft.keying.cards import card_at, remember_blend
from bovrin.craft.keying.keys import keyed, local_style, pose_channels, poses_around, whole_poses_of
from bovrin.craft.keying.lag import key_of_pose, lags_between, pose_keys, poses, values_of_pose
from bovrin.craft.keying.late_keys import keyed_between
from bovrin.errors import BadMotion
from bovrin.shot import Blend, KeyRole, OfControl, PartOrControl, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]


def neighbours(shot: Shot, figure: str, frame: float) -> tuple[float, float]:
    """The poses before and after a frame, in a loop over its seam too; BadMotion says so when there are not two."""
    found = poses_around(whole_poses_of(shot.curves(figure)), shot.cycle(figure), frame)
    before, after = found.before(frame), found.after(frame)
    if before is None or after is None:
        raise BadMotion(
            f"frame {frame:g} does not lie between two poses of '{figure}'.",
            advice="Go to a frame between two poses, or make a key pose first.",
        )
    return before, after


def breakdown(
    shot: Shot,
    figure: str,
    frame: float,
    favour: float,
    own: Mapping[PartOrControl, float] | None = None,
    channels: Iterable[int] | None = None,
) -> Shot:
    """Put a breakdown at a frame. favour: 0 is the pose before, 1 the pose after, beyond is allowed; `own` overrides it.

    Turns go the way that the curves make, however far; reach goals blend as goals. The whole figure is keyed, or only some
    channels. How it was made is remembered: a breakdown that nobody touched since is favoured anew between the poses that
    it came from.
    """
    rig = shot.figure(figure).rig
    before, after = parents(shot, figure, frame)
    curves = shot.curves(figure)
    ends = [values_of_pose(curves, rig, end) for end in (before, after)]
    share = part_shares(rig, favour, own or {})
    values = blended_poses(rig, ends[0], ends[1], share)
    style = local_style(shot, figure, before, KeyRole.BREAKDOWN)
    wanted = pose_channels(rig, None) if channels is None else channels
    there, lags = pose_keys(curves, frame), lags_between(curves, before, after, frame)
    at = {i: key_of_pose(there[i], frame) if i in there else frame + float(lags[i]) for i in wanted}
    changes = {i: keyed(curves[i], at[i], float(values[i]), style, claim_role=True) for i in wanted}
    made = Blend.of(before, after, float(favour), own or {})
    return remember_blend(shot.with_curves(figure, curves.replaced(changes)), figure, frame, made)


def remembered(shot: Shot, figure: str, frame: float) -> Blend | None:
    """How the breakdown on a frame was made, unless it was posed by hand since or a pose that it came from is gone.

    Only what is keyed on the frame counts: a part that was delayed since stays delayed.
    """
    blend = card_at(shot, figure, frame).blend
    if blend is None or not blend.before < frame < blend.after:
        return None
    there = poses(shot, figure).frames
    if any(not (abs(there - f) < SAME_FRAME).any() for f in (blend.before, frame, blend.after)):
        return None
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    known = {*(part.name for part in rig.parts), *(OfControl(control.name) for control in rig.controls)}
    a, now, b = (values_of_pose(curves, rig, f) for f in (blend.before, frame, blend.after))
    share = part_shares(rig, blend.favour, {n: f for n, f in blend.own if n in known})
    off = np.abs(blended_poses(rig, a, b, share) - now)
    keyed_here = list(pose_keys(curves, frame))
    return blend if off[keyed_here].max(initial=0.0) < 1e-6 else None


def parents(shot: Shot, figure: str, frame: float) -> tuple[float, float]:
    """The poses that a breakdown on a frame lies between: those it was made from, else those around it."""
    blend = remembered(shot, figure, frame)
    return neighbours(shot, figure, frame) if blend is None else (blend.before, blend.after)


def measured_favours(shot: Shot, figure: str, frame: float) -> tuple[float, dict[str, float]]:
    """How far the figure has got at a frame between the poses around, and each part that moves there."""
    rig = shot.figure(figure).rig
    before, after = parents(shot, figure, frame)
    a, now, b = (values_of_pose(shot.curves(figure), rig, f) for f in (before, frame, after))
    found = {}
    for index, part in enumerate(rig.parts):
        cols = [i for i in rig.part_channels(index) if abs(b[i] - a[i]) > 1e-9]
        if cols:
            found[part.name] = float((now - a)[cols] @ (b - a)[cols] / ((b - a)[cols] @ (b - a)[cols]))
    return measured_favour(shot, figure, frame), found


def part_shares(rig: Rig, favour: float, shares: Mapping[PartOrControl, float]) -> Floats:
    """The favour of every channel (C,): for all, over that of parts, and over them of controls."""
    share = np.full(len(rig.channels), float(favour))
    for named, own in sorted(((named_channels(rig, name), own) for name, own in shares.items()), key=_widest_first):
        share[named] = own
    return share


def named_channels(rig: Rig, name: PartOrControl) -> list[int]:
    """The channel indices of a part or a control."""
    if isinstance(name, OfControl):
        return list(rig.span(rig.control(name.name)))
    return list(rig.part_channels(rig.part(name)))


def _widest_first(row: tuple[list[int], float]) -> int:
    return -len(row[0])


def favour_profile(t: Floats, favour: float) -> Floats:
    """Shares (N,) at moments t (N,), 0..1, that go evenly for a favour of 0.5 and lean to one pose for others.

    C. Schlick, "Fast alternatives to Perlin's bias and gain functions", Graphics Gems IV (1994).
    """
    lean = min(max(favour, 0.01), 0.99)
    return np.asarray(t / ((1.0 / lean - 2.0) * (1.0 - t) + 1.0))


def fill_breakdowns(
    shot: Shot,
    figure: str,
    start: float,
    end: float,
    every: float,
    favour: float = 0.5,
    own: Mapping[PartOrControl, float] | None = None,
    channels: Iterable[int] | None = None,
) -> Shot:
    """Breakdowns on every so many frames (fours, threes, twos) between the poses from start to end.

    favour: how far the middle one has got; with 0.5 they go evenly. Each stretch between two poses is filled by itself,
    for the whole figure or for some channels.
    """
    if every < 1:
        raise BadMotion(f"breakdowns cannot lie {every:g} frames apart.", advice="Use 4, 3, 2 or 1.")
    found = whole_poses_of(shot.curves(figure)).frames
    found = found[(found >= start - SAME_FRAME) & (found <= end + SAME_FRAME)]
    if len(found) < 2:
        raise BadMotion(
            f"there are not two poses of '{figure}' from frame {start:g} to {end:g}.",
            advice="Make a key pose at both ends first.",
        )
    for before, after in zip(found[:-1].tolist(), found[1:].tolist(), strict=True):
        frames = np.arange(before + every, after - SAME_FRAME, every)
        if len(frames):
            shot = _fill(shot, figure, (before, after), frames, _Profile(favour, own or {}, channels))
    return shot


class _Profile(NamedTuple):
    """How a stretch is filled: the favour of its middle, of some parts by their own, and which channels are keyed."""

    favour: float
    own: Mapping[PartOrControl, float]
    channels: Iterable[int] | None


def _fill(shot: Shot, figure: str, ends: tuple[float, float], frames: Floats, profile: _Profile) -> Shot:
    rig = shot.figure(figure).rig
    favour, shares, channels = profile
    curves = shot.curves(figure)
    a, b = (values_of_pose(curves, rig, end) for end in ends)
    t = (frames - ends[0]) / (ends[1] - ends[0])
    share = np.tile(favour_profile(t, favour)[:, None], len(rig.channels))
    for named, own in sorted(((named_channels(rig, name), own) for name, own in shares.items()), key=_widest_first):
        share[:, named] = favour_profile(t, own)[:, None]
    values = blended_poses(rig, a, b, share)
    style = local_style(shot, figure, ends[0], KeyRole.BREAKDOWN)
    wanted = pose_channels(rig, None) if channels is None else list(channels)
    filled = shot.with_curves(figure, curves.replaced(keyed_between(curves, wanted, ends, frames, values, style)))
    made = favour_profile(t, favour).tolist()
    rows = {name: favour_profile(t, one).tolist() for name, one in shares.items()}
    cards = [
        replace(
            card_at(shot, figure, frame),
            blend=Blend.of(*ends, made[n], {name: row[n] for name, row in rows.items()}),
        )
        for n, frame in enumerate(frames.tolist())
    ]
    return filled.with_cards(figure, [*shot.cards(figure), *cards])


def measured_favour(shot: Shot, figure: str, frame: float) -> float:
    """How far the present motion has got between the poses around a frame, 0..1, over all channels that change."""
    rig = shot.figure(figure).rig
    before, after = parents(shot, figure, frame)
    a, x, b = (values_of_pose(shot.curves(figure), rig, f) for f in (before, frame, after))
    way = b - a
    size = float(way @ way)
    return float((x - a) @ way) / size if size > 1e-12 else 0.5
