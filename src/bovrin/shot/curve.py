"""Curves: the keys of one channel as sorted, read-only arrays."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import field
from enum import IntEnum
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BadMotion
from bovrin.frozen import frozen
from bovrin.progress import go_on

Floats = NDArray[np.float64]
Small = NDArray[np.uint8]
Flags = NDArray[np.bool_]


SAME_FRAME = 1e-6
"""Frames no further apart than this are one and the same."""


class HandleKind(IntEnum):
    """How a curve leaves or enters a key."""

    SMOOTH = 0
    NO_OVERSHOOT = 1
    FLAT = 2
    LINEAR = 3
    STEPPED = 4
    BY_HAND = 5


class EndKind(IntEnum):
    """What a curve does before its first key, or after its last."""

    HOLD = 0
    STRAIGHT = 1
    REPEAT = 2
    REPEAT_WITH_OFFSET = 3
    BACK_AND_FORTH = 4
    ROUND = 5
    """Again from where it got, and its first and its last key are one: handles are found across the seam."""

    @property
    def words(self) -> str:
        """As an animator says it."""
        return self.name.lower().replace("_", " ")


class KeyRole(IntEnum):
    """What a key is to the animator."""

    KEY_POSE = 0
    BREAKDOWN = 1
    IN_BETWEEN = 2


class Key(NamedTuple):
    """One key as plain numbers: frames, value units, slopes in units per frame, lengths in frames."""

    frame: float
    value: float
    in_kind: int = HandleKind.NO_OVERSHOOT
    out_kind: int = HandleKind.NO_OVERSHOOT
    in_slope: float = 0.0
    out_slope: float = 0.0
    in_length: float = 1.0
    out_length: float = 1.0
    joined: bool = True
    free: bool = False
    role: int = KeyRole.KEY_POSE
    in_span: float = 0.0
    out_span: float = 0.0


COLUMN_TYPES = {
    "frames": np.float64,
    "values": np.float64,
    "in_kind": np.uint8,
    "out_kind": np.uint8,
    "in_slope": np.float64,
    "out_slope": np.float64,
    "in_length": np.float64,
    "out_length": np.float64,
    "joined": np.bool_,
    "free": np.bool_,
    "role": np.uint8,
    "in_span": np.float64,
    "out_span": np.float64,
}

_LAST = {"in_kind": int(max(HandleKind)), "out_kind": int(max(HandleKind)), "role": int(max(KeyRole))}

MOST = 1e12
"""The largest number that a curve may hold, in whatever unit."""
GRID = 2.0**24
"""Parts of a frame on which keys can lie: moved by whole frames there and back, a key is exactly where it was."""


def _none(dtype: Any) -> Any:
    return field(default_factory=lambda: np.empty(0, dtype))


@frozen
class Curve:
    """The keys of one channel, all arrays (N,), sorted by frame, read-only. No keys: the channel rests at its default.

    A segment is shaped by the out side of its first key and the in side of its second. Slopes are units per frame and
    count only where the kind is BY_HAND; lengths are frames and count only where `free` is set (otherwise a handle is a
    third of its segment). Where a span is set, slope and length belong to a segment that was that many frames long and
    scale with it: so retiming there and back restores a curve exactly. `settled` writes them out.

    before, after: what the curve does outside its keys. A muted curve rests at its channel's default.
    """

    frames: Floats = _none(np.float64)
    values: Floats = _none(np.float64)
    in_kind: Small = _none(np.uint8)
    out_kind: Small = _none(np.uint8)
    in_slope: Floats = _none(np.float64)
    out_slope: Floats = _none(np.float64)
    in_length: Floats = _none(np.float64)
    out_length: Floats = _none(np.float64)
    joined: Flags = _none(np.bool_)
    free: Flags = _none(np.bool_)
    role: Small = _none(np.uint8)
    in_span: Floats = _none(np.float64)
    out_span: Floats = _none(np.float64)
    before: EndKind = EndKind.HOLD
    after: EndKind = EndKind.HOLD
    muted: bool = False

    def __post_init__(self) -> None:
        count, own = len(self.frames), {}
        for name in COLUMN_TYPES:
            column = getattr(self, name)
            if name in ("in_span", "out_span") and not len(column) and count:
                column = np.zeros(count)
            own[name] = column
        for name, column in _all_checked(own, count).items():
            object.__setattr__(self, name, column)
        _check_order(self.frames)

    @classmethod
    def _of(cls, columns: dict[str, NDArray[Any]], like: Curve) -> Curve:
        """A curve from read-only columns that are known to be sound; outside its keys it does what another does."""
        made = object.__new__(cls)
        made.__dict__.update(columns, before=like.before, after=like.after, muted=like.muted)
        return made

    @staticmethod
    def from_columns(columns: Mapping[str, NDArray[Any]], like: Curve | None = None) -> Curve:
        """A curve from columns by name; outside its keys it holds, or does what another does."""
        made = Curve(**columns)  # type: ignore[arg-type]
        return made if like is None else made.like(like)

    @staticmethod
    def from_parts(own: Mapping[str, Any], sound: Mapping[str, NDArray[Any]]) -> Curve:
        """A curve from columns of which only its own are checked: the others, frames among them, are known to be sound."""
        return Curve._of({**sound, **_all_checked(own, len(sound["frames"]))}, NO_KEYS)

    def like(self, other: Curve) -> Curve:
        """This curve, doing what another does outside its keys, and muted as that is."""
        return self._with(other.before, other.after, other.muted)

    def ending(self, before: EndKind | None = None, after: EndKind | None = None) -> Curve:
        """A copy that does something else outside its keys."""
        return self._with(self.before if before is None else before, self.after if after is None else after, self.muted)

    def silenced(self, muted: bool) -> Curve:
        """A copy that rests at the channel's default, or moves again."""
        return self._with(self.before, self.after, muted)

    def _with(self, before: EndKind, after: EndKind, muted: bool) -> Curve:
        if (before, after, muted) == (self.before, self.after, self.muted):
            return self
        made = Curve._of({}, self)
        made.__dict__.update(
            {**self.__dict__, "before": EndKind(before), "after": EndKind(after), "muted": bool(muted)}
        )
        return made

    @property
    def runs_on(self) -> bool:
        """Whether the curve does anything but hold outside its keys."""
        return len(self) > 1 and (self.before, self.after) != (EndKind.HOLD, EndKind.HOLD)

    @property
    def is_round(self) -> bool:
        """Whether the curve goes round: a cycle whose last key is its first."""
        return len(self) > 1 and self.before == self.after == EndKind.ROUND

    def __len__(self) -> int:
        return len(self.frames)

    @staticmethod
    def from_keys(keys: Iterable[Key]) -> Curve:
        """A curve from single keys in any order; of two keys on one frame the later in the list stays."""
        by_frame = {float(key.frame): key for key in keys}
        ordered = [by_frame[frame] for frame in sorted(by_frame)]
        if not ordered:
            return NO_KEYS
        columns = zip(*ordered, strict=True)
        named = zip(COLUMN_TYPES.items(), columns, strict=True)
        return Curve.from_columns({name: np.array(col, dtype) for (name, dtype), col in named})

    def key(self, index: int) -> Key:
        """The key at an index."""
        return Key(*(getattr(self, name)[index].item() for name in COLUMN_TYPES))

    def keys(self) -> list[Key]:
        """All keys as plain numbers."""
        columns = [getattr(self, name).tolist() for name in COLUMN_TYPES]
        return [Key(*row) for row in zip(*columns, strict=True)]

    def index_at(self, frame: float, tolerance: float = SAME_FRAME) -> int | None:
        """The index of the key on a frame, or None."""
        at = int(np.searchsorted(self.frames, frame - tolerance))
        return at if at < len(self) and abs(self.frames[at] - frame) <= tolerance else None

    def changed(self, **columns: Any) -> Curve:
        """A copy with some columns replaced; only those are checked."""
        count = len(columns.get("frames", self.frames))
        if count != len(self):
            raise BadMotion("a curve cannot change its number of keys in one column.")
        new = _all_checked(columns, count)
        if "frames" in new:
            _check_order(new["frames"])
        return Curve._of({**{n: getattr(self, n) for n in COLUMN_TYPES}, **new}, self)

    def holding(self) -> Curve:
        """The same keys, each of which holds until the next."""
        if not len(self) or (self.out_kind == HandleKind.STEPPED).all():
            return self
        return self.changed(out_kind=np.full(len(self), HandleKind.STEPPED, np.uint8))

    def in_time_with(self, other: Curve) -> Curve:
        """A copy with the frames of another of as many keys, and the spans for which its slopes and lengths stand."""
        own = {name: getattr(self, name) for name in COLUMN_TYPES}
        return Curve._of({**own, **{name: getattr(other, name) for name in ("frames", "in_span", "out_span")}}, self)

    def settled(self) -> Curve:
        """The same curve with every slope and length as it is in the segments there are now, no spans set."""
        if not (self.in_span.any() or self.out_span.any()):
            return self
        span = np.diff(self.frames)
        before, after = np.concatenate([[1.0], span]), np.concatenate([span, [1.0]])
        columns = {}
        for side, now in (("in", before), ("out", after)):
            ref = getattr(self, f"{side}_span")
            ratio = np.where(ref > 0, now / np.where(ref > 0, ref, 1.0), 1.0)
            columns[f"{side}_slope"] = np.clip(getattr(self, f"{side}_slope") / ratio, -MOST, MOST)
            columns[f"{side}_length"] = np.clip(getattr(self, f"{side}_length") * ratio, -MOST, MOST)
            columns[f"{side}_span"] = np.zeros(len(self))
        return self.changed(**columns)

    def taken(self, which: NDArray[Any]) -> Curve:
        """Only the keys that an index array or mask names."""
        own = self.settled()
        columns = {name: getattr(own, name)[which] for name in COLUMN_TYPES}
        for column in columns.values():
            column.setflags(write=False)
        _check_order(columns["frames"])
        return Curve._of(columns, self)

    def sliced(self, first: int, last: int) -> Curve:
        """Only the keys from one index to before another, without a copy."""
        return Curve._of({name: getattr(self, name)[first:last] for name in COLUMN_TYPES}, self)

    def with_key(self, key: Key) -> Curve:
        """A copy with one key more; it replaces a key on the same frame."""
        check_measure(*key[:8])
        own = self.settled()
        key = key._replace(frame=round(key.frame * GRID) / GRID)
        there = own.index_at(key.frame)
        at = int(np.searchsorted(own.frames, key.frame)) if there is None else there
        rest = at if there is None else at + 1
        columns = {}
        for (name, dtype), value in zip(COLUMN_TYPES.items(), key, strict=True):
            old = getattr(own, name)
            column: NDArray[Any] = np.empty(at + 1 + len(old) - rest, dtype)
            column[:at], column[at], column[at + 1 :] = old[:at], value, old[rest:]
            column.setflags(write=False)
            columns[name] = column
        return Curve._of(columns, self)


def _all_checked(columns: Mapping[str, Any], count: int) -> dict[str, NDArray[Any]]:
    go_on()
    with np.errstate(invalid="ignore", over="ignore"):
        found = {name: _checked(name, values, count) for name, values in columns.items()}
        numbers = [column for column in found.values() if column.dtype == np.float64]
        if numbers and not np.abs(np.concatenate(numbers)).max(initial=0.0) <= MOST:
            _tell_where(found)
    return found


def _tell_where(columns: Mapping[str, NDArray[Any]]) -> None:
    """BadMotion for the column that holds what is no number."""
    for name, column in columns.items():
        if column.dtype == np.float64 and not np.abs(column).max(initial=0.0) <= MOST:
            raise BadMotion(f"a curve holds a number that is not finite, or over {MOST:g}, in '{name}'.")


def _checked(name: str, values: Any, count: int) -> NDArray[Any]:
    """A column as a read-only array of its type; BadMotion if it has another length or holds what is no number."""
    dtype = COLUMN_TYPES[name]
    column: NDArray[Any] = np.ascontiguousarray(values, dtype)
    if name == "frames":
        on_grid = np.rint(column * GRID) / GRID
        column = column if (on_grid == column).all() else on_grid
    if column.shape != (count,):
        raise BadMotion(f"a curve has {count} frames but {column.shape} entries of '{name}'.")
    if name.endswith("span") and column.any() and np.abs(column[column != 0]).min() < 1 / GRID:
        raise BadMotion(f"a curve holds a stretch of less than {1 / GRID:g} frames in '{name}'.")
    if name in _LAST and column.size and int(column.max()) > _LAST[name]:
        raise BadMotion(f"a curve has a key of a kind that there is not in '{name}'.")
    if column.flags.writeable:
        column = column if isinstance(values, list) else column.copy()
        column.setflags(write=False)
    return column


def check_measure(*numbers: float) -> None:
    """BadMotion where a number of a key is not finite, or over MOST."""
    if not all(abs(number) <= MOST for number in numbers):
        raise BadMotion(f"a key holds a number that is not finite, or over {MOST:g}.")


def _check_order(frames: Floats) -> None:
    if len(frames) > 1 and not (np.diff(frames) > 0).all():
        raise BadMotion("the keys of a curve are not in order of time, or two share a frame.")


def sound_frames(frames: Sequence[float]) -> Floats:
    """Frames (N,) of keys as a read-only column; BadMotion when they are not in order."""
    found: Floats = sound_column("frames", frames)
    return found


def sound_column(name: str, values: Any) -> NDArray[Any]:
    """A column (N,) that many curves may share, read-only; BadMotion when it is none."""
    found = _all_checked({name: values}, len(values))[name]
    if name == "frames":
        _check_order(found)
    return found


NO_KEYS = Curve()


def columns_like(key: Key, frames: Floats) -> dict[str, NDArray[Any]]:
    """All columns of keys on frames (F,) that are alike in all else, read-only so that many curves can share them."""
    named = zip(COLUMN_TYPES.items(), key, strict=True)
    columns: dict[str, NDArray[Any]] = {name: np.full(len(frames), value, kind) for (name, kind), value in named}
    columns["frames"] = frames.copy()
    for column in columns.values():
        column.setflags(write=False)
    return columns


def recorded_columns(frames: Floats) -> dict[str, NDArray[Any]]:
    """The columns of a recorded motion keyed on frames (F,): straight lines, and the ends are poses to begin from."""
    linear = Key(0.0, 0.0, in_kind=HandleKind.LINEAR, out_kind=HandleKind.LINEAR, role=KeyRole.IN_BETWEEN)
    columns = columns_like(linear, frames)
    role = columns["role"].copy()
    role[:1] = role[-1:] = KeyRole.KEY_POSE
    role.setflags(write=False)
    return {**columns, "role": role}


@frozen
class CurveSet:
    """The curves of one figure in one take, aligned with its rig's channels (C,)."""

    curves: tuple[Curve, ...]

    def __len__(self) -> int:
        return len(self.curves)

    def __getitem__(self, index: int) -> Curve:
        return self.curves[index]

    def mapped(self, change: Callable[[Curve], Curve]) -> CurveSet:
        """A copy with every curve changed; itself when nothing changes."""
        return self.replaced({i: change(curve) for i, curve in enumerate(self.curves)})

    def replaced(self, changes: dict[int, Curve]) -> CurveSet:
        """A copy with the curves at some channel indices replaced; itself when nothing changes."""
        if all(self.curves[i] is curve for i, curve in changes.items()):
            return self
        return CurveSet(tuple(changes.get(i, curve) for i, curve in enumerate(self.curves)))
