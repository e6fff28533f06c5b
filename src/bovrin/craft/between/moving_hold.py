"""A moving hold: a held span that stays alive, easing out to almost nothing; feet that are down stay down."""

from __future__ import annotations

from collections.abc import Iterable
from typing import Any

import numpy as np
from numpy.typing import ArrayLike, NDArray

from bovrin.craft.keying.keys import KeyStyle, keyed, pose_channels
from bovrin.craft.keying.lag import belonging, values_of_pose
from bovrin.craft.pose.posing import can_move, moved
from bovrin.errors import BadMotion
from bovrin.figure.body.bends import ancestors, movers
from bovrin.figure.solve.plan import columns
from bovrin.figure.stages.stance import Stance
from bovrin.figure.staging import staged
from bovrin.motion.evaluate import channel_values
from bovrin.motion.handles import gather
from bovrin.motion.insert import inserted
from bovrin.shot import Curve, CurveSet, HandleKind, KeyRole, Rig, Shot
from bovrin.shot.curve import SAME_FRAME

Floats = NDArray[np.float64]

HELD = 1e-6
"""Metres, radians or shares a channel may change over a span and still be held."""
FEET = 1e-4
"""Metres that a foot which is down may move."""
BREATHE = "breathe"
BREATH, IN = 3.2, 0.42
"""Seconds of a breath, and the share of it that goes in."""
BREATHES = np.radians(12.0)
"""How far spine and chest lean together at an amount of one."""
RUSH = 2.2
"""How much faster than evenly a drift begins."""


def moving_hold(
    shot: Shot,
    figure: str,
    start: float,
    end: float,
    amount: float,
    toward: str | ArrayLike = "on",
    parts: Iterable[str] | None = None,
) -> Shot:
    """What is held from start to end drifts: "on" the way it came, toward the "next" pose, by a share of that way; or the body
    along (3,) metres times the amount. It begins fast and eases out. "breathe": what carries arms and head leans back and on."""
    if end - start < 2 - SAME_FRAME:
        raise BadMotion("a moving hold needs two frames or more.", advice="Choose a longer span.")
    if not np.isfinite(amount):
        raise BadMotion("a drift is a finite share.")
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    if isinstance(toward, str) and toward == BREATHE:
        return breathing(shot, figure, start, end, amount)
    values = channel_values(curves, rig, np.array([start, (start + end) / 2, end]))
    held = np.ptp(values, axis=0) < HELD
    planted = _feet(rig, values[0])
    wanted = [i for i in pose_channels(rig, parts) if held[i] and i not in planted and _drifts(rig, curves, i)]
    chosen = np.zeros(len(held), bool)
    chosen[wanted] = True
    by = _way(shot, figure, (start, end), toward, values[0], chosen) * amount
    drift = {i: float(by[i]) for i in wanted if abs(by[i]) > HELD}
    if not drift:
        raise BadMotion(
            f"nothing that may drift is held from frame {start:g} to {end:g}.",
            advice="Choose a span in which the pose rests, and that comes from another pose.",
        )
    changes = {i: _drifting(curves[i], start, end, value, rig.channels[i].default) for i, value in drift.items()}
    made = shot.with_curves(figure, curves.replaced(changes))
    return made if _feet_stay(shot, made, figure, start, end) else _without_body(shot, figure, changes)


def breathing(shot: Shot, figure: str, start: float, end: float, amount: float) -> Shot:
    """Spine and chest of a held span lean back a little and forward again, once in so many seconds; it ends as it began."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    ends = np.array([start, (start + end) / 2, end])
    held = np.ptp(channel_values(curves, rig, ends), axis=0) < HELD
    chosen = [i for i in _ribs(rig) if held[i] and len(curves[i])]
    if not chosen:
        raise BadMotion(
            f"nothing that breathes is held from frame {start:g} to {end:g}.",
            advice="Choose a span in which the body rests.",
        )
    count = max(round((end - start) / (BREATH * shot.frame_rate)), 1)
    tops = start + (end - start) * (np.arange(count) + IN) / count
    rests = start + (end - start) * np.arange(1, count) / count
    style = KeyStyle(HandleKind.NO_OVERSHOOT, KeyRole.IN_BETWEEN)
    changes = {}
    for n, i in enumerate(chosen):
        own = inserted(inserted(curves[i], start, rig.defaults[i]), end, rig.defaults[i]).settled()
        first, last = own.index_at(start), own.index_at(end)
        assert first is not None and last is not None
        own = _frozen(_frozen(own, first), last)
        base = float(own.values[first])
        lean = {round(frame + n): base - BREATHES * amount / len(chosen) for frame in tops.tolist()}
        for frame, value in ({round(frame): base for frame in rests.tolist()} | lean).items():
            if start + SAME_FRAME < frame < end - SAME_FRAME:
                own = keyed(own, frame, value, style)
        changes[i] = own
    return shot.with_curves(figure, curves.replaced(changes))


def _ribs(rig: Rig) -> list[int]:
    """The channels that tilt what carries arms and head, besides what carries the body."""
    carriers = _shared_by_arms(rig)
    bodies = movers(rig)
    own = [c for c, what in enumerate(rig.controls) if what.joint in carriers - bodies and what.joint > 0]
    return [i for c in own for i in [columns(rig, c, "rotate")[0]] if i >= 0]


def _shared_by_arms(rig: Rig) -> set[int]:
    found = [set(ancestors(rig, limb.upper)) for limb in rig.limbs if limb.foot is None]
    return set.intersection(*found) if found else set()


def _drifts(rig: Rig, curves: CurveSet, channel: int) -> bool:
    return not rig.channels[channel].unit.holds and len(curves[channel]) > 0


def _feet(rig: Rig, values: Floats) -> set[int]:
    """The channels of legs, whose ends stand on the ground: they hold what they hold."""
    found: set[int] = set()
    for limb in rig.limbs:
        if limb.foot is not None:
            joints = {limb.upper, limb.middle, limb.end}
            own = [
                c for c, what in enumerate(rig.controls) if what.joint in joints or what.limb == rig.limbs.index(limb)
            ]
            found |= {i for c in own for i in rig.span(c)}
    return found


def _way(
    shot: Shot, figure: str, span: tuple[float, float], toward: str | ArrayLike, now: Floats, held: NDArray[np.bool_]
) -> Floats:
    """The whole way (C,) of which the drift is a share."""
    (start, end), rig, curves = span, shot.figure(figure).rig, shot.curves(figure)
    poses = belonging(curves).poses.frames
    if isinstance(toward, str):
        if toward not in ("on", "next"):
            raise BadMotion(
                f"a hold cannot drift '{toward}'.", advice='Say "on", "next", "breathe", or a way in metres.'
            )
        before, after = poses[poses < start - SAME_FRAME], poses[poses > end + SAME_FRAME]
        if toward == "on":
            if not len(before):
                raise BadMotion(f"no pose comes before frame {start:g}.", advice="Drift toward the next pose instead.")
            return now - _other_pose(curves, rig, before[::-1], now, held)
        if not len(after):
            raise BadMotion(f"no pose comes after frame {end:g}.", advice="Drift on the way it came instead.")
        return _other_pose(curves, rig, after, now, held) - now
    way = np.asarray(toward, float)
    if way.shape != (3,) or not np.isfinite(way).all():
        raise BadMotion("a way is three finite numbers, metres.")
    result = np.zeros(len(now))
    stance = Stance(rig, now)
    for control, what in enumerate(rig.controls):
        if what.joint in movers(rig) and can_move(rig, control):
            for i, value in moved(stance, control, way).items():
                result[i] = value - now[i]
            break
    return result


def _other_pose(curves: CurveSet, rig: Rig, poses: Floats, now: Floats, held: NDArray[np.bool_]) -> Floats:
    """The values (C,) of the nearest of some poses that is another in what is held."""
    found = now
    for frame in poses.tolist():
        found = values_of_pose(curves, rig, frame)
        if np.abs(found - now)[held].max(initial=0.0) > HELD:
            break
    return np.asarray(found)


def _drifting(curve: Curve, start: float, end: float, by: float, default: float) -> Curve:
    """A held stretch that goes on by so much, quickly at first; outside it stays, but for the way on to the next key."""
    made = inserted(inserted(curve, start, default), end, default).settled()
    first, last = made.index_at(start), made.index_at(end)
    assert first is not None and last is not None
    made = _frozen(_frozen(made, first), min(last + 1, len(made) - 1))
    inner = np.ones(len(made), bool)
    inner[first + 1 : last] = False
    made = made.taken(inner)
    last = first + 1
    values = made.values.copy()
    values[last] += by
    columns = {n: getattr(made, n).copy() for n in ("in_kind", "out_kind", "in_slope", "out_slope", "joined", "role")}
    for side, at, slope in (("out", first, RUSH * by / (end - start)), ("in", last, 0.0)):
        columns[f"{side}_kind"][at], columns[f"{side}_slope"][at] = HandleKind.BY_HAND, slope
    columns["joined"][[first, last]] = False
    if columns["role"][last] == KeyRole.IN_BETWEEN and columns["out_kind"][last] != HandleKind.STEPPED:
        columns["out_kind"][last], columns["out_slope"][last] = HandleKind.BY_HAND, 0.0
    return made.changed(values=values, **columns)


def _frozen(curve: Curve, index: int) -> Curve:
    """A key whose handles are by hand, as they are, so that what is beyond it does not follow what changes before it."""
    now = gather([curve])
    columns: dict[str, NDArray[Any]] = {}
    for side in ("in", "out"):
        kinds, slopes = getattr(curve, f"{side}_kind").copy(), getattr(curve, f"{side}_slope").copy()
        if kinds[index] != HandleKind.STEPPED:
            kinds[index], slopes[index] = HandleKind.BY_HAND, getattr(now, f"{side}_slope")[index]
        columns |= {f"{side}_kind": kinds, f"{side}_slope": slopes}
    return curve.changed(**columns)


def _feet_stay(shot: Shot, made: Shot, figure: str, start: float, end: float) -> bool:
    rig = shot.figure(figure).rig
    ends = [limb.end for limb in rig.limbs if limb.foot is not None]
    if not ends:
        return True
    frames = np.arange(np.ceil(start), np.floor(end) + 1)
    before, after = (staged(one, figure, frames).places[:, ends] for one in (shot, made))
    return bool(np.abs(before - after).max() < FEET)


def _without_body(shot: Shot, figure: str, changes: dict[int, Curve]) -> Shot:
    """The same without what carries legs that are posed by joints, or do not reach so far."""
    rig, curves = shot.figure(figure).rig, shot.curves(figure)
    carriers = {c for c, what in enumerate(rig.controls) if what.joint in movers(rig) or what.joint == 0}
    body = {i for c in carriers for i in rig.span(c)}
    left = {i: curve for i, curve in changes.items() if i not in body}
    if not left:
        raise BadMotion(
            "the feet would move with the body.", advice="Let the legs reach first, or drift by other parts."
        )
    return shot.with_curves(figure, curves.replaced(left))
