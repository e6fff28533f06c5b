"""Travel that lies in the hips, as recorded figures have it, taken over by the whole figure; no joint moves for it."""

from __future__ import annotations

from collections.abc import Callable, Collection
from typing import Any

import numpy as np
from numpy.typing import NDArray

from bovrin.craft.curves.spline_fit import fewest_keys, with_span
from bovrin.craft.keying.keys import whole_poses_of
from bovrin.craft.pose.mirror_travel import travelling_hips
from bovrin.craft.takes import in_every_take
from bovrin.errors import BadMotion
from bovrin.figure.solve.fit import continuous
from bovrin.figure.solve.plan import columns, plan_of, special_column
from bovrin.figure.solve.rest_space import carry_controls, move_values, rest_moves, rest_plan, rest_turns, turn_values
from bovrin.frozen import frozen_equal
from bovrin.motion.evaluate import channel_values
from bovrin.motion.insert import inserted
from bovrin.motion.rotations import about
from bovrin.shot import ChannelRole, ControlKind, Curve, CurveSet, HandleKind, Key, Rig, Shot, Unit
from bovrin.shot.checks import check_range
from bovrin.shot.curve import columns_like, recorded_columns

Floats = NDArray[np.float64]

WAYS = ("across", "up", "forward", "turn")
"""What of a travel can be taken over."""
Columns = Callable[[Floats], dict[str, NDArray[Any]]]
UP = np.array([0.0, 1.0, 0.0])
RECORDED = 0.66
"""Share of the frames that carry a key from which on a motion is recorded, and is keyed on every frame again."""
NEAR = {Unit.LENGTH: 1e-4, Unit.ANGLE: 2e-4}
"""How near keyed motion stays to what it was between its keys, metres and radians."""
SMALL = 1e-9


@frozen_equal
class _Travel:
    """Who travels: the controls of the whole figure and of the hips, and what stands in the figure's space beside them."""

    whole: int
    hips: int
    standing: tuple[int, ...]

    def channels(self, rig: Rig) -> list[int]:
        """The channels that move and turn them all."""
        own = (self.whole, self.hips, *self.standing)
        found = [c for control in own for word in ("translate", "rotate") for c in columns(rig, control, word)]
        return [c for c in dict.fromkeys(found) if c >= 0]


def travel_to_whole(shot: Shot, figure: str, ways: Collection[str] = WAYS, hips: int | None = None) -> Shot:
    """The shot in which the whole figure goes and turns the ways that its hips do in the shot's take; no joint moves for it.

    ways: some of "across", "up", "forward" (the shot's own directions) and "turn". The hips keep the rest. Recorded motion is
    keyed on every frame again, other motion with as few keys more as it needs. hips: the control whose travel it is, where
    that is known. BadMotion where that cannot be.
    """
    unknown = set(ways) - set(WAYS)
    if unknown or not ways:
        raise BadMotion(f"travel goes {', '.join(WAYS)}.", advice="Name one of them at least.")
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    who = _who(shot, figure, hips)
    frames, recorded = _frames(rig, curves, who)
    if not len(frames):
        return shot
    values = channel_values(curves, rig, frames)
    new = continuous(rig, _taken_over(rig, values, who, ways), who.channels(rig))
    changed = [c for c in who.channels(rig) if np.abs(new[:, c] - values[:, c]).max() > SMALL]
    if recorded is None:
        told = _told_by_fewest(rig, curves, frames, new, changed)
    else:
        columns_ = recorded(frames)
        told = {c: Curve.from_columns({**columns_, "values": np.ascontiguousarray(new[:, c])}) for c in changed}
    return shot.with_curves(figure, curves.replaced(told))


def _who(shot: Shot, figure: str, hips: int | None) -> _Travel:
    rig = shot.figure(figure).rig
    hips = travelling_hips(shot, figure) if hips is None else hips
    whole = next((i for i, c in enumerate(rig.controls) if c.kind is ControlKind.WHOLE), None)
    if hips is None or whole is None or min(*columns(rig, whole, "translate"), *columns(rig, whole, "rotate")) < 0:
        raise BadMotion(
            f"the hips of '{figure}' do not travel.", advice="The whole figure travels already, or nothing does."
        )
    curves = shot.curves(figure)
    sizes = [special_column(rig, whole, word) for word in (ChannelRole.SIZE, ChannelRole.STRETCH)]
    if any(c >= 0 and len(curves[c]) and np.abs(curves[c].values - 1.0).max() > SMALL for c in sizes):
        raise BadMotion(f"'{figure}' changes its size on the way.", advice="Take its stretch and size back first.")
    at = rig.joints[rig.controls[hips].joint].parent
    while at > 0:
        own = [c for i, control in enumerate(rig.controls) if control.joint == at for c in rig.span(i)]
        if any(len(curves[c]) > 1 for c in own):
            raise BadMotion(
                f"'{rig.joints[at].name}' above the hips moves too.", advice="Leave the travel where it is."
            )
        at = rig.joints[at].parent
    goals = [i for i, c in enumerate(rig.controls) if c.kind is ControlKind.GOAL]
    return _Travel(whole, hips, (*goals, *_beside(rig, hips)))


def _beside(rig: Rig, hips: int) -> list[int]:
    """Controls that can be moved of joints that hang on the whole figure beside the hips."""
    above, at = {0}, rig.joints[rig.controls[hips].joint].parent
    while at > 0:
        above.add(at)
        at = rig.joints[at].parent
    found = []
    for i, control in enumerate(rig.controls):
        hangs = i != hips and control.joint not in above and rig.joints[control.joint].parent in above
        if hangs and control.kind is ControlKind.JOINT and min(columns(rig, i, "translate")) >= 0:
            found.append(i)
    return found


def _frames(rig: Rig, curves: CurveSet, who: _Travel) -> tuple[Floats, Columns | None]:
    """The frames to work out (F,), and the columns of the keys that they get, or None: as few keys as will do."""
    own = [curves[c] for c in who.channels(rig) if len(curves[c])]
    if not own:
        return np.empty(0), None
    keys = np.unique(np.concatenate([curve.frames for curve in own]))
    check_range("its motion", float(np.floor(keys[0])), float(np.ceil(keys[-1])))
    if all((curve.out_kind[:-1] == HandleKind.STEPPED).all() for curve in own):
        return keys, _held
    hips = max((curves[c].frames for c in columns(rig, who.hips, "translate")), key=len)
    if len(hips) > RECORDED * (np.ptp(hips) + 1.0):
        return np.union1d(np.arange(np.ceil(keys[0]), keys[-1] + 1e-9), keys), recorded_columns
    return np.union1d(np.arange(np.ceil(keys[0] * 4), keys[-1] * 4 + 1e-9) / 4, keys), None


def _held(frames: Floats) -> dict[str, NDArray[Any]]:
    return columns_like(Key(0.0, 0.0, out_kind=HandleKind.STEPPED), frames)


def _taken_over(rig: Rig, values: Floats, who: _Travel, ways: Collection[str]) -> Floats:
    """Values (F, C) in which the whole figure has taken over the ways; what stands in its space stands where it stood."""
    plan, rest = rest_plan(rig), plan_of(rig).rest_world[:, :3, 3]
    rows = {c: (np.flatnonzero(plan.turners == c), np.flatnonzero(plan.movers == c)) for c in (who.whole, who.hips)}
    turn, hips_turn = (rest_turns(rig, values, rows[c][0])[:, 0] for c in (who.whole, who.hips))
    move, hips_move = (rest_moves(rig, values, rows[c][1])[:, 0] for c in (who.whole, who.hips))
    root, hips = rest[rig.controls[who.whole].joint], rest[rig.controls[who.hips].joint]
    shift = root + move - (turn @ root[:, None])[..., 0]
    stood = (turn @ hips[:, None])[..., 0] + shift
    goes = (turn @ (hips + hips_move)[..., None])[..., 0] + shift
    taken = np.array([way in ways for way in WAYS[:3]])
    target = np.where(taken, goes, stood)
    new_turn = about(UP, _yaw(turn @ hips_turn) - _yaw(turn)) @ turn if "turn" in ways else turn
    new_shift = target - (new_turn @ hips[:, None])[..., 0]
    result = values.copy()
    turn_values(rig, new_turn[:, None], rows[who.whole][0], values, result)
    move_values(rig, ((new_turn @ root[:, None])[..., 0] + new_shift - root)[:, None], rows[who.whole][1], result)
    back = np.swapaxes(new_turn, -1, -2)
    inside = back @ turn, (back @ (shift - new_shift)[..., None])[..., 0]
    carry_controls(rig, (who.hips, *who.standing), *inside, values, result)
    return result


def _yaw(turns: Floats) -> Floats:
    """Where turns (F, 3, 3) face, radians about the vertical (F,), going on from frame to frame."""
    ahead = turns[:, :, 2]
    return np.asarray(np.unwrap(np.arctan2(ahead[:, 0], ahead[:, 2])))


def _told_by_fewest(rig: Rig, curves: CurveSet, frames: Floats, new: Floats, changed: list[int]) -> dict[int, Curve]:
    """Curves through new values (F, C) with keys where poses are, and as few more as will do."""
    keys = np.unique(np.concatenate([np.empty(0), *(curves[c].frames for c in changed)]))
    posed = whole_poses_of(curves).frames  # late keys of parts stay in-betweens
    tolerance = np.array([NEAR.get(rig.channels[c].unit, 1e-5) for c in changed])
    whole = np.isin(frames, keys) | (frames == np.round(frames))
    keyed, slopes = fewest_keys(frames, new[:, changed], tolerance, keys, whole)
    found = {}
    for n, c in enumerate(changed):
        ends = inserted(
            inserted(curves[c], float(frames[0]), rig.channels[c].default), float(frames[-1]), rig.channels[c].default
        )
        made = with_span(ends, frames[keyed], new[keyed, c], slopes[:, n], posed)
        values = made.values.copy()
        values[[0, -1]] = new[[0, -1], c]
        found[c] = made.changed(values=values)
    return found


def all_travel_to_whole(shot: Shot, figure: str, ways: Collection[str] = WAYS) -> Shot:
    """The same in every take in which the hips travel."""

    def change(one: Shot) -> Shot:
        return one if travelling_hips(one, figure) is None else travel_to_whole(one, figure, ways)

    return in_every_take(shot, change)
