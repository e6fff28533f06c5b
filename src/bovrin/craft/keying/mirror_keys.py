"""Mirror keys: of a stretch of a shot, or chosen ones, with their handles and roles, stepped or not, late parts and all."""

from __future__ import annotations

from collections.abc import Iterable, Mapping

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.keying.keys import KeyStyle, keyed_all, merged, part_channels
from bovrin.craft.keying.lag import NOBODY, belonging
from bovrin.craft.pose.mirror import Exchange, across, exchange_of, mirrored_values, mirrored_whole
from bovrin.craft.pose.mirror_travel import keep_in_place, travelling_controls, travelling_hips
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import continuous
from bovrin.figure.solve.plan import plan_of
from bovrin.motion.evaluate import channel_values
from bovrin.shot import ControlKind, Curve, CurveSet, HandleKind, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]
Bools = NDArray[np.bool_]
Chosen = Mapping[int, Floats]

CENTRED = 1e-9
"""Metres off the world's middle within which a figure rests in it."""


def mirror_range(
    shot: Shot,
    figure: str,
    start: float,
    end: float,
    parts: Iterable[str] | None = None,
    how: str = "swap",
    plane: str = "figure",
    *,
    keep_place: bool = True,
) -> Shot:
    """Mirror all poses and keys from start to end, those of late parts with their poses."""
    if end < start:
        raise BadMotion(f"the range ends ({end:g}) before it begins ({start:g}).")
    curves = shot.curves(figure)
    poses, owners = belonging(curves)
    chosen = {}
    for i in part_channels(shot.figure(figure).rig, parts):
        frames = curves[i].frames
        stands = np.where(owners[i] == NOBODY, frames, poses.frames[owners[i]]) if len(poses) else frames
        inside = (stands >= start - SAME_FRAME) & (stands <= end + SAME_FRAME)
        if inside.any():
            chosen[i] = frames[inside]
    return mirror_keys(shot, figure, chosen, how, plane, keep_place=keep_place, whole=parts is None)


def mirror_keys(
    shot: Shot,
    figure: str,
    chosen: Chosen,
    how: str = "swap",
    plane: str = "figure",
    *,
    keep_place: bool = True,
    whole: bool = True,
) -> Shot:
    """Mirror chosen keys, frames (N,) by channel index, and what the other side has on their poses and frames.

    Channels whose axes match across the plane take each other's keys as they are; others are worked out on every frame that
    carries one. The place and facing of the `whole` figure are mirrored as in `mirror`: about the figure's own plane on the
    first of the keys, or about the world's.
    """
    rig, before = shot.figure(figure).rig, shot.curves(figure)
    who = exchange_of(rig, [c for c in range(len(rig.controls)) if not chosen.keys().isdisjoint(rig.span(c))], how)
    masks = _masks(rig, before, chosen, who)
    way = across(rig, *who)
    changes = {
        int(to): _exchanged(before[to], masks[to], before[taken], masks[taken], float(sign))
        for to, taken, sign in zip(way.to.tolist(), way.taken.tolist(), way.sign, strict=True)
    }
    changes |= _worked_out(rig, before, masks, way.odd)
    hips = travelling_hips(shot, figure) if whole and plane == "figure" and keep_place else None
    if hips is not None:
        changes |= _in_place(rig, before, masks, who, hips)
    if whole:
        changes |= _place(rig, before, chosen, plane, keep_place=keep_place)
    return shot.with_curves(figure, before.replaced(changes))


def _masks(rig: Rig, curves: CurveSet, chosen: Chosen, who: Exchange) -> dict[int, Bools]:
    """Which keys of every channel take part: those of the poses, and on the frames, that are chosen of it or its other side."""
    owners = belonging(curves).owners
    masks = {}
    for pair in {frozenset(pair) for pair in zip(*who, strict=True)}:
        channels = [i for c in pair for i in rig.span(c)]
        own = [(i, np.isin(curves[i].frames, chosen[i])) for i in channels if i in chosen]
        frames = np.unique(np.concatenate([curves[i].frames[mask] for i, mask in own])) if own else np.empty(0)
        poses = np.unique(np.concatenate([owners[i][mask] for i, mask in own])) if own else np.empty(0, np.intp)
        for i in channels:
            of_pose = np.isin(owners[i], poses[poses != NOBODY])
            masks[i] = of_pose | ((owners[i] == NOBODY) & np.isin(curves[i].frames, frames))
    return masks


def _exchanged(own: Curve, gone: Bools, other: Curve, taken: Bools, sign: float) -> Curve:
    """A curve whose masked keys are those of another, times a sign."""
    new = _times(other, sign).taken(taken)
    stays = ~gone & ~np.isin(own.frames, new.frames)
    return merged(own.taken(stays), new) if stays.any() or not taken.all() else _times(other, sign)


def _times(curve: Curve, sign: float) -> Curve:
    if sign == 1.0:
        return curve
    return curve.changed(values=-curve.values, in_slope=-curve.in_slope, out_slope=-curve.out_slope)


def _worked_out(rig: Rig, before: CurveSet, masks: Mapping[int, Bools], who: Exchange) -> dict[int, Curve]:
    """Controls whose axes do not match across the plane: mirrored on every frame that carries one of their keys."""
    if not who.sources:
        return {}
    keyed = [before[i].frames[masks[i]] for c in who.sources for i in rig.span(c)]
    frames = np.unique(np.concatenate(keyed))
    if not len(frames):
        return {}
    new = mirrored_values(rig, channel_values(before, rig, frames), who)
    return keyed_all(before, [i for c in who.targets for i in rig.span(c)], frames, new, _style(before, frames))


def _in_place(rig: Rig, before: CurveSet, masks: Mapping[int, Bools], who: Exchange, hips: int) -> dict[int, Curve]:
    """The keys of hips that travel, and of what goes along with them, mirrored where they are."""
    own = [i for c in travelling_controls(rig, hips) for i in rig.span(c) if i in masks]
    keyed = [before[i].frames[masks[i]] for i in own]
    frames = np.unique(np.concatenate(keyed)) if keyed else np.empty(0)
    if not len(frames):
        return {}
    values = channel_values(before, rig, frames)
    new = mirrored_values(rig, values, who)
    keep_in_place(rig, hips, values, new)
    return keyed_all(before, [i for i in own if len(before[i])], frames, continuous(rig, new), _style(before, frames))


def _style(curves: CurveSet, frames: Floats) -> KeyStyle:
    """How keys of some curves leave on a frame: most of them, if none, stepped."""
    leaves = [curve.out_kind[at] for curve in curves.curves if (at := curve.index_at(float(frames[0]))) is not None]
    stepped = not leaves or 2 * leaves.count(HandleKind.STEPPED) >= len(leaves)
    return KeyStyle(HandleKind.STEPPED if stepped else HandleKind.NO_OVERSHOOT, KeyRole.KEY_POSE)


def _place(rig: Rig, before: CurveSet, chosen: Chosen, plane: str, *, keep_place: bool) -> dict[int, Curve]:
    """The keys of the whole figure's place and facing, mirrored: as they are about the world's plane where their axes lie
    along it, else frame by frame with handles of their own."""
    wholes = [i for i, c in enumerate(rig.controls) if c.kind is ControlKind.WHOLE]
    channels = [i for c in wholes for i in rig.span(c) if i in chosen]
    if not channels:
        return {}
    frames = np.unique(np.concatenate([chosen[i] for i in channels]))
    values = channel_values(before, rig, frames)
    new = values.copy()
    if not mirrored_whole(rig, values, new, plane, keep_place=keep_place):
        return {}
    way = across(rig, tuple(wholes), tuple(wholes))
    middles = plan_of(rig).rest_world[[rig.controls[c].joint for c in wholes], 0, 3]
    if plane == "world" and not way.odd.targets and np.abs(middles).max() < CENTRED:
        signs = dict(zip(way.to.tolist(), way.sign.tolist(), strict=True))
        moved = [
            i for i in channels if signs[i] < 0 and (not keep_place or "translate" not in rig.channels[i].technical)
        ]
        return {i: _partly_times(before[i], np.isin(before[i].frames, chosen[i])) for i in moved}
    changed = [i for i in channels if np.abs(new[:, i] - values[:, i]).max() > 0.0]
    made = keyed_all(before, changed, frames, new, _style(before, frames))
    return {i: _eased_where_free(curve, frames) for i, curve in made.items()}


def _partly_times(curve: Curve, mask: Bools) -> Curve:
    """A curve with some of its keys turned over."""
    turned = _times(curve, -1.0)
    if mask.all():
        return turned
    return merged(curve.taken(~mask), turned.taken(mask))


def _eased_where_free(curve: Curve, frames: Floats) -> Curve:
    """A curve whose handles made by hand on some frames, which other values do not fit, are found anew."""
    here = np.isin(curve.frames, frames)
    hand, eased = int(HandleKind.BY_HAND), int(HandleKind.NO_OVERSHOOT)
    return curve.changed(
        in_kind=np.where(here & (curve.in_kind == hand), eased, curve.in_kind),
        out_kind=np.where(here & (curve.out_kind == hand), eased, curve.out_kind),
    )
