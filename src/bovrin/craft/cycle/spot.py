"""Travel taken out, so that a figure walks on the spot, and put back: as it was, or from what its planted feet say."""

from __future__ import annotations

from collections.abc import Collection
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.cycle.new_cycle import whole_control
from bovrin.craft.cycle.round_fit import is_line, led_through, line
from bovrin.craft.cycle.rounds import TRAVELS, gained
from bovrin.craft.pose.mirror_travel import hips_control, travelling_hips
from bovrin.craft.recorded.travel import travel_to_whole
from bovrin.errors import BadMotion
from bovrin.figure.ground.feet import bearing_steps
from bovrin.figure.solve.plan import columns
from bovrin.figure.solve.rest_space import move_values, rest_moves, rest_plan, rest_turns
from bovrin.figure.staging import staged
from bovrin.measure.gait.contacts import contacts
from bovrin.measure.gait.footing import footing
from bovrin.measure.gait.slide import slide_of
from bovrin.motion.evaluate import channel_values
from bovrin.motion.rotations import about
from bovrin.shot import Curve, Rig, Shot, Trace

Floats = NDArray[np.float64]

DIRECTIONS = ("across", "up", "forward", "turn")
KEPT = "travel"
"""The name of the trace that keeps what was taken out."""
UP = np.array([0.0, 1.0, 0.0])
AGREES = 5e-4
"""Metres that feet may slide by more with the travel that was kept than with one of their own."""
SMALL = 1e-12
FINE = 0.02
"""Share of the usual tolerances to which what is left of a travel is keyed."""


def _check(directions: Collection[str]) -> None:
    unknown = set(directions) - set(DIRECTIONS)
    if unknown or not directions:
        raise BadMotion(f"travel goes {', '.join(DIRECTIONS)}.", advice="Name one of them at least.")


def to_the_root(shot: Shot, figure: str, directions: Collection[str] = ("forward",)) -> Shot:
    """The shot in which travel of the hips is that of the whole figure; no joint moves for it."""
    _check(directions)
    if travelling_hips(shot, figure) is None and not _hips_go(shot, figure):
        return shot
    return travel_to_whole(shot, figure, directions, hips=hips_control(shot.figure(figure).rig))


def _hips_go(shot: Shot, figure: str) -> bool:
    cycle, rig = shot.cycle(figure), shot.figure(figure).rig
    ends = (shot.first, shot.last) if cycle is None else (cycle.first, cycle.last)
    gains = gained(rig, channel_values(shot.curves(figure), rig, np.array(ends)))
    hips = hips_control(rig)
    return hips is not None and bool(np.abs(gains[list(rig.span(hips))]).max() > TRAVELS)


def on_the_spot(shot: Shot, figure: str, directions: Collection[str] = ("forward",), *, steady: bool = False) -> Shot:
    """The shot in which a figure stays where it stands at the beginning, in some directions as it faces there.

    What was taken out is kept as a trace named "travel". steady: only what one speed makes is taken out, the rest stays.
    """
    made = to_the_root(shot, figure, directions)
    rig, curves = made.figure(figure).rig, made.curves(figure)
    whole, frames = whole_control(rig), _frames(made, figure)
    new = _without(rig, whole, channel_values(curves, rig, frames), set(directions), frames, steady=steady)
    changes = _told(made, figure, frames, new)
    if not changes:
        return shot
    others = tuple(t for t in shot.take.traces if not _is_kept(t, figure))
    take = replace(made.take, traces=(*others, Trace(KEPT, figure, curves)))
    return replace(made, take=take).with_curves(figure, curves.replaced(changes))


def _is_kept(trace: Trace, figure: str) -> bool:
    return trace.figure == figure and trace.name == KEPT


def _frames(shot: Shot, figure: str) -> Floats:
    """The whole frames of a figure's cycle, or of the shot."""
    cycle = shot.cycle(figure)
    first, last = (shot.first, shot.last) if cycle is None else (cycle.first, cycle.last)
    return np.union1d(np.arange(np.ceil(first), np.floor(last) + 1), [first, last])


def _without(rig: Rig, whole: int, values: Floats, directions: set[str], frames: Floats, *, steady: bool) -> Floats:
    """Values (F, C) without the travel in some directions."""
    new = values.copy()
    share = ((frames - frames[0]) / ((frames[-1] - frames[0]) or 1.0))[:, None] if steady else None
    mover = np.flatnonzero(rest_plan(rig).movers == whole)
    moves = rest_moves(rig, values, mover)[:, 0]
    gone = moves - moves[0] if share is None else (moves[-1] - moves[0]) * share
    facing = _facing(rig, whole, values[:1])
    wanted = np.array([name in directions for name in DIRECTIONS[:3]], float)
    taken = (gone @ facing) * wanted @ facing.T
    move_values(rig, (moves - taken)[:, None], mover, new)
    turn = columns(rig, whole, "rotate")[1]
    if "turn" in directions and turn >= 0:
        turned = values[:, turn] - values[0, turn]
        new[:, turn] -= turned if share is None else turned[-1] * share[:, 0]
    return new


def _facing(rig: Rig, whole: int, values: Floats) -> Floats:
    """How the whole figure faces (3, 3), as a turn about the vertical."""
    row = np.flatnonzero(rest_plan(rig).turners == whole)
    if not len(row):
        return np.eye(3)
    ahead = rest_turns(rig, values, row)[0, 0, :, 2]
    return np.asarray(about(UP, np.array([np.arctan2(ahead[0], ahead[2])]))[0])


def _told(shot: Shot, figure: str, frames: Floats, new: Floats) -> dict[int, Curve]:
    """The curves of the channels that have other values (F, C) on whole frames."""
    rig, curves, cycle = shot.figure(figure).rig, shot.curves(figure), shot.cycle(figure)
    changed = np.flatnonzero(np.abs(new - channel_values(curves, rig, frames)).max(0) > SMALL).tolist()
    found = {}
    for i in changed:
        if np.ptp(new[:, i]) < SMALL and len(curves[i]):
            found[i] = _level(curves[i], float(new[0, i]))
        elif is_line(frames, new[:, i]):
            found[i] = line(frames, new[:, i], cycle)
    others = [i for i in changed if i not in found]
    led = led_through(curves, rig, frames, new, others, cycle, FINE)
    return found | {i: led[i] for i in others}


def _level(curve: Curve, value: float) -> Curve:
    """A curve that stays where it is; its keys lie where they lay."""
    still = np.zeros(len(curve))
    return curve.changed(values=still + value, in_slope=still, out_slope=still)


def travelling(shot: Shot, figure: str, directions: Collection[str] = ("forward",), *, steady: bool = False) -> Shot:
    """The shot in which a figure that walks on the spot travels, so that its planted feet do not slide.

    The travel that was taken out is put back where the feet still agree with it; else it is as the feet that are down go back
    under the figure, and in the air goes on between. steady: at one speed. BadMotion where no foot is down.
    """
    _check(directions)
    told = _from_the_feet(shot, figure, set(directions), steady=steady)
    kept = next((t for t in shot.take.traces if _is_kept(t, figure)), None)
    if kept is None or steady:
        return told
    rig, whole = shot.figure(figure).rig, whole_control(shot.figure(figure).rig)
    curves = shot.curves(figure)
    back = shot.with_curves(figure, curves.replaced({i: kept.curves[i] for i in rig.span(whole)}))
    back = replace(back, take=replace(back.take, traces=tuple(t for t in shot.take.traces if t is not kept)))
    slid = [max(slide_of(made, figure).values(), default=0.0) for made in (back, told)]
    return back if slid[0] <= slid[1] + AGREES else told


def _from_the_feet(shot: Shot, figure: str, directions: set[str], *, steady: bool) -> Shot:
    """The travel that the feet tell."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    whole, frames = whole_control(rig), _frames(shot, figure)
    found = staged(shot, figure, frames)
    facing = _facing(rig, whole, found.values[:1])
    wanted = np.array([name in directions for name in DIRECTIONS[:3]], float)
    gone = (body_travel(shot, figure, frames) @ facing) * wanted @ facing.T
    if steady:
        gone = gone[-1] * ((frames - frames[0]) / ((frames[-1] - frames[0]) or 1.0))[:, None]
    mover = np.flatnonzero(rest_plan(rig).movers == whole)
    new = channel_values(curves, rig, frames)
    move_values(rig, (rest_moves(rig, new, mover)[:, 0] + gone)[:, None], mover, new)
    changes = _told(shot, figure, frames, new)
    return shot.with_curves(figure, curves.replaced(changes)) if changes else shot


def body_travel(shot: Shot, figure: str, frames: Floats) -> Floats:
    """How far a figure must go by each frame (F, 3), metres, so that its feet stay where they are down; in the air it goes on as
    before and after. BadMotion where no foot is ever down."""
    feet = footing(shot, figure, frames)
    if not feet.feet:
        raise BadMotion(f"'{figure}' has no feet that tell its travel.", advice="Choose a figure that walks.")
    down = _rows_down(shot, figure, frames, [foot.name for foot in feet.feet])
    both = down[:, :-1] & down[:, 1:]
    if not both.any():
        raise BadMotion(f"no foot of '{figure}' is down long enough to tell its travel.", advice="Set its contacts.")
    still = np.zeros((len(frames) - 1, 3))
    steps = np.stack([bearing_steps(own, high, still) for own, high in zip(feet.points, feet.heights, strict=True)])
    weight = both.astype(float)
    total = weight.sum(0)
    borne = total > 0
    mean = (steps * weight[..., None]).sum(0) / np.maximum(total, 1.0)[:, None]
    rows = np.arange(len(total), dtype=float)
    filled = np.stack([np.interp(rows, rows[borne], -mean[borne, k]) for k in range(3)], -1) * [1.0, 0.0, 1.0]
    return np.concatenate([np.zeros((1, 3)), np.cumsum(filled, axis=0)])


def _rows_down(shot: Shot, figure: str, frames: Floats, names: list[str]) -> NDArray[np.bool_]:
    """Which feet (N,) are down on which frames (F,)."""
    spans = contacts(_covering(shot, frames), figure)
    return np.array(
        [
            np.any(
                [(frames >= a - 1e-6) & (frames <= b + 1e-6) for a, b in spans.get(name, [])] or [frames < -np.inf], 0
            )
            for name in names
        ]
    )


def _covering(shot: Shot, frames: Floats) -> Shot:
    """The shot with a range of all of some frames."""
    return replace(shot, first=min(shot.first, float(frames[0])), last=max(shot.last, float(frames[-1])))
