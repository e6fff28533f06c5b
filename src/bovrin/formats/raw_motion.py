"""The keys of a shot as they lie in memory, for files that only this machine reads again soon: quick to write, columns that
curves share once."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import msgspec
import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BrokenFile
from bovrin.shot import Curve, CurveSet, EndKind, Shot, Take
from bovrin.shot.curve import COLUMN_TYPES, NO_KEYS


class CurveRow(msgspec.Struct, array_like=True):
    """Where a curve belongs, what it does outside its keys, and the arrays of its columns."""

    take: int
    owner: int
    is_trace: bool
    channel: int
    before: int
    after: int
    muted: bool
    arrays: list[int]


class Manifest(msgspec.Struct, array_like=True):
    """The types and lengths of arrays that lie on end, and the curves that are made of them."""

    arrays: list[tuple[str, int]] = []
    curves: list[CurveRow] = []


def without_keys(shot: Shot) -> Shot:
    """The shot with everything but its keys."""

    def bare(take: Take) -> Take:
        curves = {name: _still(own) for name, own in take.curves.items()}
        traces = tuple(replace(trace, curves=_still(trace.curves)) for trace in take.traces)
        return replace(take.with_curves(curves), traces=traces)

    return replace(shot, take=bare(shot.take), takes=tuple(map(bare, shot.takes)))


def _still(curves: CurveSet) -> CurveSet:
    return CurveSet((NO_KEYS,) * len(curves))


def keys_of(shot: Shot) -> tuple[Manifest, list[NDArray[Any]]]:
    """All keys of a shot: what they are, and the arrays that hold them."""
    manifest, arrays, known = Manifest([], []), list[NDArray[Any]](), dict[int, int]()

    def number(array: NDArray[Any]) -> int:
        if id(array) not in known:
            known[id(array)] = len(arrays)
            arrays.append(array)
            manifest.arrays.append((array.dtype.str, len(array)))
        return known[id(array)]

    for t, take in enumerate((shot.take, *shot.takes)):
        own = [(n, False, take.curves[f.name]) for n, f in enumerate(shot.cast)]
        for n, is_trace, curves in (*own, *((n, True, trace.curves) for n, trace in enumerate(take.traces))):
            for channel, curve in enumerate(curves.curves):
                if len(curve):
                    columns = [number(getattr(curve, name)) for name in COLUMN_TYPES]
                    outside = int(curve.before), int(curve.after), curve.muted
                    manifest.curves.append(CurveRow(t, n, is_trace, channel, *outside, columns))
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
    takes = [bare.take, *bare.takes]
    found: dict[tuple[int, int, bool], dict[int, Curve]] = {}
    for row in manifest.curves:
        columns = {name: arrays[n] for name, n in zip(COLUMN_TYPES, row.arrays, strict=True)}
        made = Curve.from_columns(columns).ending(EndKind(row.before), EndKind(row.after)).silenced(row.muted)
        found.setdefault((row.take, row.owner, row.is_trace), {})[row.channel] = made
    for (t, n, is_trace), changes in found.items():
        take = takes[t]
        if is_trace:
            traces = list(take.traces)
            traces[n] = replace(traces[n], curves=traces[n].curves.replaced(changes))
            takes[t] = replace(take, traces=tuple(traces))
        else:
            name = bare.cast[n].name
            takes[t] = take.acted(name, curves=take.curves[name].replaced(changes))
    return replace(bare, take=takes[0], takes=tuple(takes[1:]))


_KINDS = {np.dtype(kind) for kind in COLUMN_TYPES.values()}
