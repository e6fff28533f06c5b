"""Notes on curves: drift between equal poses, jumps of slope, turns the long way, noise, keys that do nothing."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from bovrin.caching import cached_by_identity
from bovrin.figure.solve.plan import columns
from bovrin.measure.proof.dense import jumps
from bovrin.measure.proof.notes import Note
from bovrin.measure.proof.reading import SEEN, UNITS, Reading
from bovrin.measure.proof.stretches import DENSE
from bovrin.motion.evaluate import curve_values
from bovrin.motion.handles import Keys, gather
from bovrin.motion.hermite import hermite_basis
from bovrin.motion.rotations import euler_matrix, rotation_vector
from bovrin.shot import Curve, HandleKind, KeyRole

Floats = NDArray[np.float64]

EQUAL = 1e-9
FINE = 9
"""Places at which a stretch between two keys is looked at."""
NOTICED = 0.35
"""The share of the quicker slope by which slopes differ when they pop."""
NEIGHBOURS = 2.0 + 1e-6
LEAST_TURN = 20.0
"""Degrees between two poses from which there is a shorter and a longer way; less is a whole turn, which was meant."""
Rows = list[tuple[float, float, float]]
Found = dict[tuple[str, float, float], list[tuple[float, int]]]
"""By part and stretch: how much, and of which channel."""


def overshoots(read: Reading, limit: float) -> Iterator[Note]:
    """Curves that leave a value and come back to it between two keys that hold it."""
    yield from _by_part(read, "overshoot", "flatten", limit, _swells, "drifts between equal poses")


def pops(read: Reading, limit: float) -> Iterator[Note]:
    """Keys on which a curve goes on at another pace than it came, off the contacts of feet and ground."""
    contact = read.frames[read.contacts] if len(read.frames) and _may_pop(read, limit) else np.empty(0)

    def off(curve: Curve, _default: float) -> Rows:
        inside = [row for row in _jumps(curve, not read.rig.limbs) if read.frames[0] < row[0] < read.frames[-1]]
        return [row for row in inside if not (np.abs(contact - row[0]) < 1).any()]

    yield from _by_part(read, "pop", "smooth", limit, off, "pops in speed", " a frame")
    yield from jumps(read, limit)


def _may_pop(read: Reading, limit: float) -> bool:
    pairs = zip(read.curves.curves, read.rig.channels, strict=True)
    return any(
        row[2] * SEEN[channel.unit] > limit for curve, channel in pairs for row in _jumps(curve, not read.rig.limbs)
    )


def _by_part(
    read: Reading, kind: str, remedy: str, limit: float, look: object, words: str, each: str = ""
) -> Iterator[Note]:
    """One note for each part and stretch, of the channel on which it is most."""
    found: Found = {}
    for i, curve in enumerate(read.curves.curves):
        channel = read.rig.channels[i]
        if channel.unit.holds or curve.muted or len(curve) < 2:
            continue
        for start, end, amount in look(curve, channel.default):  # type: ignore[operator]
            by = amount * SEEN[channel.unit]
            if by > limit and read.frames[0] <= end and start <= read.frames[-1]:
                found.setdefault((read.part_of(i), start, end), []).append((by, i))
    yield from _notes(read, kind, remedy, found, words, each)


def _notes(
    read: Reading,
    kind: str,
    remedy: str,
    found: dict[tuple[str, float, float], list[tuple[float, int]]],
    words: str,
    each: str = "",
) -> Iterator[Note]:
    for (part, start, end), rows in found.items():
        amount, most = max(rows)
        unit = UNITS[read.rig.channels[most].unit]
        shown = f"{amount:.1f}°" if unit == "degrees" else f"{amount:.1f} {unit}"
        names = tuple(read.rig.channel_names[i] for _, i in rows)
        yield Note(
            kind, read.name, part, start, end, amount, unit + each, f"{part} {words} ({shown}{each})", remedy, names
        )


@cached_by_identity
def _swells(curve: Curve, default: float) -> Rows:
    """From which key to which of the same value a curve swells, and by how much."""
    keys = _keys(curve)
    equal = (np.abs(np.diff(keys.values)) < EQUAL) & ~keys.stepped[:-1]
    bent = (np.abs(keys.out_slope[:-1]) > EQUAL) | (np.abs(keys.in_slope[1:]) > EQUAL)
    found = []
    for n in np.flatnonzero(equal & bent).tolist():
        at = np.linspace(keys.frames[n], keys.frames[n + 1], FINE)
        by = float(np.abs(curve_values(curve, at, default) - keys.values[n]).max())
        found.append((float(keys.frames[n]), float(keys.frames[n + 1]), by))
    return found


@cached_by_identity
def _jumps(curve: Curve, pushed: bool) -> Rows:
    """On which inner keys a curve's slope jumps, and by how much a frame. pushed: from rest it may go on at any pace, as things
    do that something else pushes."""
    if len(curve) < 3:
        return []
    keys = _keys(curve)
    span = np.diff(keys.frames)
    loose = (span[:-1] > DENSE) | (span[1:] > DENSE)
    into, out = keys.in_slope[1:-1], keys.out_slope[1:-1]
    eased = ~(keys.stepped[:-2] | keys.stepped[1:-1]) & ~(pushed & (np.abs(into) < EQUAL))
    jump = np.abs(out - into)
    pops = eased & loose & (jump > NOTICED * np.maximum(np.abs(out), np.abs(into)))
    return [(float(keys.frames[n + 1]),) * 2 + (float(jump[n]),) for n in np.flatnonzero(pops & (jump > EQUAL))]


def flips(read: Reading, limit: float) -> Iterator[Note]:
    """Turns that go farther than from one pose to the next, to the same place."""
    for number, control in enumerate(read.rig.controls):
        cols = columns(read.rig, number, "rotate")
        own = [read.curves[i] for i in cols if i >= 0]
        if not any(_turns_far(curve) for curve in own):
            continue
        frames = np.unique(np.concatenate([curve.frames for curve in own]))
        for start, end in zip(frames[:-1].tolist(), frames[1:].tolist(), strict=True):
            beyond = _beyond(read, cols, control.order, start, end)
            if beyond > limit:
                part = read.part_of(next(i for i in cols if i >= 0))
                words = f"{control.name} turns {beyond:.0f}° too far"
                yield Note("flip", read.name, part, start, end, beyond, "degrees", words, "short way", (control.name,))


@cached_by_identity
def _turns_far(curve: Curve) -> bool:
    """Whether any two keys in a row are more than a right angle and a half apart."""
    return bool(len(curve) > 1 and np.abs(np.diff(curve.values)).max() > 0.75 * np.pi)


def _beyond(read: Reading, cols: list[int], order: str, start: float, end: float) -> float:
    """How many degrees farther than the short way a control turns from one key to the next; 0 for a turn that was meant."""
    at = np.linspace(start, end, 4 * FINE)
    angles = np.stack(
        [curve_values(read.curves[i], at, read.rig.channels[i].default) if i >= 0 else 0.0 * at for i in cols], -1
    )
    if np.abs(angles[-1] - angles[0]).max() <= 0.75 * np.pi:
        return 0.0
    turns = euler_matrix(angles, order)
    steps = np.linalg.norm(rotation_vector(turns[1:] @ np.swapaxes(turns[:-1], -1, -2)), axis=-1)
    direct = float(np.linalg.norm(rotation_vector((turns[-1] @ turns[0].T)[None])[0]))
    if np.degrees(direct) < LEAST_TURN and end - start > NEIGHBOURS:
        return 0.0
    return float(np.degrees(steps.sum() - direct))


def idle_keys(read: Reading, limit: float) -> Iterator[Note]:
    """In-betweens without which nothing changes, and poses of which that is true of every channel."""
    recorded = read.recorded  # there nobody put keys one by one
    by_part: dict[str, list[tuple[float, int]]] = {}
    kept: dict[float, int] = {}
    idle: dict[float, int] = {}
    for i, curve in enumerate(read.curves.curves):
        if len(curve) < 3:
            continue
        for frame in curve.frames[[0, -1]].tolist():
            kept[frame] = kept.get(frame, 0) + 1
        frames, posed, nothing = _idle(curve, read.rig.channels[i].default, SEEN[read.rig.channels[i].unit] or 1.0)
        for frame, is_pose, does_nothing in zip(frames, posed, nothing, strict=True):
            if is_pose:
                where = idle if does_nothing else kept
                where[frame] = where.get(frame, 0) + 1
            elif does_nothing and not _on(recorded, read.frames, frame):
                by_part.setdefault(read.part_of(i), []).append((frame, i))
    for part, rows in by_part.items():
        at = [frame for frame, _ in rows]
        if len(at) > limit:
            names = tuple(dict.fromkeys(read.rig.channel_names[i] for _, i in rows))
            words = f"{len(at)} key{'s' if len(at) > 1 else ''} of {part} do{'es' if len(at) == 1 else ''} nothing"
            yield Note("idle key", read.name, part, min(at), max(at), float(len(at)), "keys", words, "remove", names)
    whole = set(read.poses.tolist())
    for frame in sorted(set(idle) - set(kept)):
        if frame in whole and idle[frame] > limit:
            words = f"the pose on {frame:g} does nothing"
            yield Note("idle key", read.name, read.name, frame, frame, float(idle[frame]), "keys", words, "remove")


def _on(rows: NDArray[np.bool_], frames: Floats, frame: float) -> bool:
    """What is said of a frame's row; nothing is of frames beyond the range."""
    at = round(frame - frames[0]) if len(frames) else -1
    return bool(0 <= at < len(rows) and rows[at])


@cached_by_identity
def _idle(curve: Curve, default: float, scale: float) -> tuple[list[float], list[bool], list[bool]]:
    """The inner keys of a curve: their frames, whether they belong to a pose, and whether the curve is the same without."""
    inner = np.arange(1, len(curve) - 1)
    posed = curve.role[inner] != KeyRole.IN_BETWEEN
    return curve.frames[inner].tolist(), posed.tolist(), does_nothing(curve, default, scale)[inner].tolist()


def does_nothing(curve: Curve, default: float, scale: float) -> NDArray[np.bool_]:
    """Keys (N,) of a curve without which, each for itself, the curve can be the same to a ten thousandth of what is seen."""
    result = np.zeros(len(curve), bool)
    level, tried = maybe_idle(curve)
    result[level] = True
    if len(tried):
        result[tried] = is_idle(curve, tried, default, 1e-4 / scale)
    return result


def maybe_idle(curve: Curve) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """Inner keys of a level stretch, which do nothing, and in-betweens where the slope goes on, which may do nothing."""
    keys = _keys(curve)
    inner = np.zeros(len(curve), bool)
    inner[1:-1] = True
    stepped = curve.out_kind == HandleKind.STEPPED
    inner[1:] &= stepped[1:] == stepped[:-1]
    held = np.abs(np.diff(curve.values)) < EQUAL
    held &= stepped[:-1] | ((np.abs(keys.out_slope[:-1]) < EQUAL) & (np.abs(keys.in_slope[1:]) < EQUAL))
    level = inner.copy()
    level[1:-1] &= held[:-1] & held[1:]
    goes_on = np.abs(keys.out_slope - keys.in_slope) < 1e-3 * np.maximum(np.abs(keys.out_slope), 1e-3)
    tried = inner & ~level & (curve.role == KeyRole.IN_BETWEEN) & goes_on & ~stepped
    return np.flatnonzero(level), np.flatnonzero(tried)


def is_idle(curve: Curve, which: NDArray[np.intp], default: float, same: float) -> NDArray[np.bool_]:
    """Inner eased keys (n,) without any one of which a curve can be the same: from the key before to the one after it is one
    cubic, whose slopes are found by least squares."""
    start, end = curve.frames[which - 1], curve.frames[which + 1]
    t = np.linspace(0.0, 1.0, 4 * FINE)
    frames = start[:, None] + t * (end - start)[:, None]
    wanted = curve_values(curve, frames.ravel(), default).reshape(frames.shape)
    basis = hermite_basis(t)
    rest = wanted - basis.start * wanted[:, :1] - basis.end * wanted[:, -1:]
    matrix = np.stack([basis.start_slope, basis.end_slope], axis=1)
    off = rest - rest @ np.linalg.pinv(matrix).T @ matrix.T
    return np.asarray(np.abs(off).max(1) < same)


@cached_by_identity
def _keys(curve: Curve) -> Keys:
    return gather([curve])
