"""The numbers of a shot as they lie in memory, for files that only this machine reads again soon: keys of figures, traces and
clips, columns that curves share once, and the points of strokes. Quick to write and to read."""

from __future__ import annotations

from dataclasses import replace
from operator import attrgetter
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BrokenFile
from bovrin.shot import Clip, Curve, CurveSet, Drawing, EndKind, Shot, Stroke, Take
from bovrin.shot.curve import COLUMN_TYPES, NO_KEYS, sound_column


class CurveRow(msgspec.Struct, array_like=True):
    """Where a curve belongs, what it does outside its keys, and the arrays of its columns.

    owner: the number of a figure in the cast, or of a trace in the take; channel: of its rig.
    """

    take: int
    owner: int
    is_trace: bool
    channel: int
    before: int
    after: int
    muted: bool
    arrays: list[int]


class ClipRow(msgspec.Struct, array_like=True):
    """A curve of a clip, by the clip's number and the channel's name."""

    clip: int
    channel: str
    before: int
    after: int
    muted: bool
    arrays: list[int]


class Manifest(msgspec.Struct, array_like=True):
    """The types and lengths of arrays that lie on end, and the curves and strokes that are made of them. strokes: the numbers of
    a drawing and of its stroke, and the arrays of its points and widths."""

    arrays: list[tuple[str, int]] = []
    curves: list[CurveRow] = []
    clips: list[ClipRow] = []
    strokes: list[tuple[int, int, int, int]] = []


columns_of = attrgetter(*COLUMN_TYPES)


def without_keys(shot: Shot) -> Shot:
    """The shot with everything but its keys, those of its clips and traces neither, and with strokes of one point."""

    def bare(take: Take) -> Take:
        curves = {name: _still(own) for name, own in take.curves.items()}
        traces = tuple(replace(trace, curves=_still(trace.curves)) for trace in take.traces)
        return replace(take.with_curves(curves), traces=traces)

    clips = tuple(replace(clip, curves={}) for clip in shot.clips)
    drawings = tuple(replace(one, strokes=tuple(map(_dotted, one.strokes))) for one in shot.drawings)
    return replace(shot, take=bare(shot.take), takes=tuple(map(bare, shot.takes)), clips=clips, drawings=drawings)


def _dotted(stroke: Stroke) -> Stroke:
    return replace(stroke, points=np.zeros((1, 3)), widths=stroke.widths[:1])


def _still(curves: CurveSet) -> CurveSet:
    return CurveSet((NO_KEYS,) * len(curves))


def keys_of(shot: Shot) -> tuple[Manifest, list[NDArray[Any]]]:
    """All keys and strokes of a shot: what they are, and the arrays that hold them."""
    manifest, arrays, known = Manifest([], []), list[NDArray[Any]](), dict[int, int]()

    def number(array: NDArray[Any]) -> int:
        if id(array) not in known:
            known[id(array)] = len(arrays)
            arrays.append(array)
            manifest.arrays.append((array.dtype.str, len(array)))
        return known[id(array)]

    def row(curve: Curve) -> tuple[int, int, bool, list[int]]:
        columns = columns_of(curve)
        own = [known[id(column)] if id(column) in known else number(column) for column in columns]
        return int(curve.before), int(curve.after), curve.muted, own

    for t, take in enumerate((shot.take, *shot.takes)):
        own = [(n, False, take.curves[f.name]) for n, f in enumerate(shot.cast)]
        for n, is_trace, curves in (*own, *((n, True, trace.curves) for n, trace in enumerate(take.traces))):
            for channel, curve in enumerate(curves.curves):
                if len(curve):
                    manifest.curves.append(CurveRow(t, n, is_trace, channel, *row(curve)))
    for n, clip in enumerate(shot.clips):
        manifest.clips += [ClipRow(n, name, *row(curve)) for name, curve in clip.curves.items() if len(curve)]
    for n, drawing in enumerate(shot.drawings):
        for k, stroke in enumerate(drawing.strokes):
            manifest.strokes.append((n, k, number(stroke.points.reshape(-1)), number(stroke.widths)))
    return manifest, arrays


def with_keys(bare: Shot, manifest: Manifest, data: memoryview) -> Shot:
    """A shot without keys with these. BrokenFile when there are too few bytes, or they belong to another shot."""
    arrays, at = [], 0
    for kind, count in manifest.arrays:
        dtype = np.dtype(kind)
        if dtype not in _KINDS or at + dtype.itemsize * count > len(data):
            raise BrokenFile("the keys are cut off.")
        arrays.append(np.frombuffer(data, dtype, count, at))
        at += dtype.itemsize * count
    takes, columns = [bare.take, *bare.takes], _Columns(arrays)
    found: dict[tuple[int, int, bool], dict[int, Curve]] = {}
    for row in manifest.curves:
        found.setdefault((row.take, row.owner, row.is_trace), {})[row.channel] = columns.curve(row)
    for (t, n, is_trace), changes in found.items():
        take = takes[t]
        if is_trace:
            traces = list(take.traces)
            traces[n] = replace(traces[n], curves=traces[n].curves.replaced(changes))
            takes[t] = replace(take, traces=tuple(traces))
        else:
            name = bare.cast[n].name
            takes[t] = take.acted(name, curves=take.curves[name].replaced(changes))
    whole = replace(bare, take=takes[0], takes=tuple(takes[1:]))
    return replace(whole, clips=_clips(bare, manifest, columns), drawings=_drawings(bare, manifest, arrays))


class _Columns:
    """Columns of curves out of arrays, each checked once however many curves share it."""

    def __init__(self, arrays: list[NDArray[Any]]) -> None:
        self._arrays = arrays
        self._sound: dict[tuple[str, int], NDArray[Any]] = {}

    def curve(self, row: CurveRow | ClipRow) -> Curve:
        """The curve of a row."""
        own = {name: self._column(name, n) for name, n in zip(COLUMN_TYPES, row.arrays, strict=True)}
        if len({len(column) for column in own.values()}) > 1:
            raise BrokenFile("the keys are damaged.")
        return Curve.from_parts({}, own).ending(EndKind(row.before), EndKind(row.after)).silenced(row.muted)

    def _column(self, name: str, number: int) -> NDArray[Any]:
        found = self._sound.get((name, number))
        if found is None:
            found = self._sound[name, number] = sound_column(name, self._arrays[number])
        return found


def _clips(bare: Shot, manifest: Manifest, columns: _Columns) -> tuple[Clip, ...]:
    found: list[dict[str, Curve]] = [dict(clip.curves) for clip in bare.clips]
    for row in manifest.clips:
        found[row.clip][row.channel] = columns.curve(row)
    return tuple(replace(clip, curves=own) for clip, own in zip(bare.clips, found, strict=True))


def _drawings(bare: Shot, manifest: Manifest, arrays: list[NDArray[Any]]) -> tuple[Drawing, ...]:
    found = [list(drawing.strokes) for drawing in bare.drawings]
    for n, k, points, widths in manifest.strokes:
        found[n][k] = replace(found[n][k], points=arrays[points].reshape(-1, 3), widths=arrays[widths])
    return tuple(replace(one, strokes=tuple(own)) for one, own in zip(bare.drawings, found, strict=True))


_KINDS = {np.dtype(kind) for kind in COLUMN_TYPES.values()}
