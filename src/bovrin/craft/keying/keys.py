"""Making, changing and removing keys. Every function takes a shot and returns the next one."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.craft.keying.exact_keys import EASED as EASED
from bovrin.frozen import frozen, frozen_equal
from bovrin.motion.grouping import least_on_each
from bovrin.motion.handles import raised
from bovrin.shot import Curve, CurveSet, Cycle, HandleKind, Key, KeyRole, Rig, Shot
from bovrin.shot.curve import COLUMN_TYPES, SAME_FRAME, check_measure, columns_like, sound_frames

Floats = NDArray[np.float64]


@frozen_equal
class KeyStyle:
    """What a new key is: how it leaves (the way it enters is always eased) and its role."""

    out_kind: HandleKind = HandleKind.STEPPED
    role: KeyRole = KeyRole.KEY_POSE


@frozen
class Poses:
    """The poses of a figure in order: frames (P,) and roles (P,)."""

    frames: Floats
    roles: NDArray[np.uint8]

    def __len__(self) -> int:
        return len(self.frames)

    def before(self, frame: float) -> float | None:
        """The last pose before a frame."""
        earlier = self.frames[self.frames < frame - SAME_FRAME]
        return float(earlier[-1]) if len(earlier) else None

    def after(self, frame: float) -> float | None:
        """The first pose after a frame."""
        later = self.frames[self.frames > frame + SAME_FRAME]
        return float(later[0]) if len(later) else None

    def held_at(self, frame: float) -> float | None:
        """The pose at a frame, or the last one before it."""
        upto = self.frames[self.frames <= frame + SAME_FRAME]
        return float(upto[-1]) if len(upto) else None


def poses_around(found: Poses, cycle: Cycle | None, frame: float) -> Poses:
    """The poses around a frame: of a loop those of its rounds before, on and after it too, since over its seam it goes on."""
    if cycle is None or not len(found):
        return found
    inside = (found.frames >= cycle.first - SAME_FRAME) & (found.frames < cycle.last - SAME_FRAME)
    own, roles = found.frames[inside], found.roles[inside]
    middle = np.floor((frame - cycle.first) / cycle.length)
    rounds = (middle + np.arange(-1, 3)) * cycle.length
    return Poses((own + rounds[:, None]).ravel(), np.tile(roles, len(rounds)))


@cached_by_identity
def _keys_at_once(curves: CurveSet) -> tuple[Floats, NDArray[np.uint8], NDArray[np.intp]]:
    """All keys of a figure (K,): frames, roles, and how many channels have just these keys. Channels that are keyed
    alike, as most are, are taken once."""
    alike: dict[tuple[bytes, bytes], list[Curve]] = {}
    for curve in curves.curves:
        if len(curve):
            alike.setdefault((curve.frames.tobytes(), curve.role.tobytes()), []).append(curve)
    firsts = [own[0] for own in alike.values()]
    if not firsts:
        return np.empty(0), np.empty(0, np.uint8), np.empty(0, np.intp)
    counts = np.repeat([len(own) for own in alike.values()], [len(curve) for curve in firsts])
    return np.concatenate([c.frames for c in firsts]), np.concatenate([c.role for c in firsts]), counts


@cached_by_identity
def posed_frames_of(curves: CurveSet) -> Poses:
    """Frames on which a key of a key pose or a breakdown lies, whatever pose it belongs to, and the least role there."""
    frames, roles, _ = _keys_at_once(curves)
    posed = roles != KeyRole.IN_BETWEEN
    return Poses(*least_on_each(frames[posed], roles[posed]))


@cached_by_identity
def whole_poses_of(curves: CurveSet) -> Poses:
    """The poses that most of the figure shares, with the role that most of it has there: frames on which only a part that came
    later is keyed are left out, and its keys on other frames do not count."""
    found = posed_frames_of(curves)
    if not len(found):
        return found
    frames, roles, times = _keys_at_once(curves)
    posed = roles != KeyRole.IN_BETWEEN
    frames, roles, times = frames[posed], roles[posed], times[posed]
    places = np.clip(np.searchsorted(found.frames, frames - SAME_FRAME), 0, len(found) - 1)
    hits = np.abs(found.frames[places] - frames) <= SAME_FRAME
    counts = np.bincount(places[hits], weights=times[hits], minlength=len(found))
    broken = hits & (roles == KeyRole.BREAKDOWN)
    breakdowns = 2 * np.bincount(places[broken], weights=times[broken], minlength=len(found)) > counts
    whole = 2 * counts >= counts.max()
    told = np.where(breakdowns, KeyRole.BREAKDOWN, KeyRole.KEY_POSE).astype(np.uint8)
    return Poses(found.frames[whole], told[whole])


def part_channels(rig: Rig, parts: Iterable[str] | None) -> list[int]:
    """The channel indices of some parts, or of all."""
    if parts is None:
        return list(range(len(rig.channels)))
    return [i for name in parts for i in rig.part_channels(rig.part(name))]


def pose_channels(rig: Rig, parts: Iterable[str] | None) -> list[int]:
    """The channel indices that make a pose of some parts, or of all: what followers are told is keyed only where it is named."""
    if parts is None:
        return [i for i in range(len(rig.channels)) if i not in rig.of_followers]
    return part_channels(rig, parts)


def changed_curves(shot: Shot, figure: str, channels: Iterable[int], change: Callable[[Curve], Curve]) -> Shot:
    """A copy in which some channels' curves went through a function."""
    curves = shot.curves(figure)
    return shot.with_curves(figure, curves.replaced({i: change(curves[i]) for i in channels}))


def keyed(curve: Curve, frame: float, value: float, style: KeyStyle, *, claim_role: bool = False) -> Curve:
    """A curve with a key of this value. A key already there keeps its handles (and, unless claimed, its role); where nothing
    changes it is the curve itself, so that undo steps share it."""
    at = curve.index_at(frame)
    if at is None:
        return curve.with_key(Key(frame, value, in_kind=EASED, out_kind=style.out_kind, role=style.role))
    same = curve.values[at].tobytes() == np.float64(value).tobytes()  # to the bit: 0 is not -0
    if same and (not claim_role or curve.role[at] == style.role):
        return curve
    check_measure(value)
    values = curve.values.copy()
    values[at] = value
    made = raised(curve, values)
    if not claim_role:
        return made
    role = curve.role.copy()
    role[at] = style.role
    return made.changed(role=role)


def keyed_all(
    curves: CurveSet, channels: Iterable[int], frames: Floats, values: Floats, style: KeyStyle
) -> dict[int, Curve]:
    """Curves with keys of values (F, C) on frames (F,) in order; keys already there keep their handles and roles."""
    blank = columns_like(Key(0.0, 0.0, in_kind=EASED, out_kind=style.out_kind, role=style.role), frames)
    merges: dict[bytes, tuple[Floats, NDArray[np.intp], NDArray[np.intp]]] = {}
    found, sound = {}, sound_frames(frames.tolist())
    for i in channels:
        own = curves[i].settled()
        if not len(own):
            rest = {name: column for name, column in blank.items() if name not in ("values", "frames")}
            found[i] = Curve.from_parts({"values": values[:, i]}, {**rest, "frames": sound}).like(own)
            continue
        key = own.frames.tobytes()
        if key not in merges:
            merges[key] = _merge(own.frames, frames)
        both, old, new = merges[key]
        columns = {"frames": both}
        for name, column in blank.items():
            if name not in ("frames", "values"):
                made = np.empty(len(both), column.dtype)
                made[new] = column
                made[old] = getattr(own, name)
                made.setflags(write=False)
                columns[name] = made
        numbers = np.empty(len(both))
        numbers[old], numbers[new] = own.values, values[:, i]
        found[i] = Curve.from_parts({"values": numbers}, columns).like(own)
    return found


def _merge(own: Floats, frames: Floats) -> tuple[Floats, NDArray[np.intp], NDArray[np.intp]]:
    """All frames of both in order, and where each of `own` and of `frames` lies among them."""
    snapped = frames.copy()
    at = np.clip(np.searchsorted(own, frames - SAME_FRAME), 0, len(own) - 1)
    same = np.abs(own[at] - frames) <= SAME_FRAME
    snapped[same] = own[at[same]]
    both = np.union1d(own, snapped)
    return sound_frames(both.tolist()), np.searchsorted(both, own), np.searchsorted(both, snapped)


def merged(first: Curve, second: Curve) -> Curve:
    """The keys of two curves that share no frame; outside its keys it does what the first does."""
    own, other = first.settled(), second.settled()
    order = np.argsort(np.concatenate([own.frames, other.frames]), kind="stable")
    both = {name: np.concatenate([getattr(own, name), getattr(other, name)])[order] for name in COLUMN_TYPES}
    return Curve.from_columns(both, first)


def set_channels(
    shot: Shot, figure: str, frame: float, values: Mapping[int, float], style: KeyStyle = KeyStyle()
) -> Shot:
    """Key channels by index at a frame (metres, radians)."""
    curves = shot.curves(figure)
    changes = {i: keyed(curves[i], frame, value, style) for i, value in values.items()}
    return shot.with_curves(figure, curves.replaced(changes))


def local_style(shot: Shot, figure: str, frame: float, role: KeyRole) -> KeyStyle:
    """How a new key should leave so that it fits in: stepped where the poses around it are stepped, else eased."""
    stepped = total = 0
    for curve in shot.curves(figure).curves:
        at = int(np.searchsorted(curve.frames, frame + SAME_FRAME)) - 1
        if at >= 0:
            total += 1
            stepped += int(curve.out_kind[at] == HandleKind.STEPPED)
    return KeyStyle(HandleKind.STEPPED if total == 0 or 2 * stepped >= total else EASED, role)


def _came_later(old: Curve, new: Curve) -> bool:
    """Whether a curve is a loop as long as it was."""
    if not (old.is_round and new.is_round):
        return False
    spans = [float(c.frames[-1] - c.frames[0]) for c in (old, new)]
    return abs(spans[0] - spans[1]) < SAME_FRAME


def stretched_to_keys(shot: Shot, before: Shot) -> Shot:
    """A shot whose range reaches at least the last key of each curve that is another than before, on a whole frame. A loop that
    only came later goes round over the same range."""
    ends = [
        float(new.frames[-1])
        for name, curves in shot.take.curves.items()
        for old, new in zip(before.take.curves[name].curves, curves.curves, strict=True)
        if len(new) and new is not old and not _came_later(old, new)
    ]
    last = float(np.ceil(max(ends, default=shot.last) - SAME_FRAME))
    return replace(shot, last=last) if last > shot.last else shot
