"""Projects: reading and writing a shot as JSON."""

from __future__ import annotations

import math
import os
from collections.abc import Mapping
from dataclasses import replace
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from bovrin.errors import BadMotion, BovrinError, BrokenFile, CannotWrite, NewerFile
from bovrin.figure.stages.hooks import check_hanging
from bovrin.formats.figures.file import read_figure
from bovrin.formats.figures.files import KEEP, keep_beside, lies_there, load_figure
from bovrin.formats.figures.rig_data import spoken_fault
from bovrin.formats.files import read_bytes, refuse_inputs, write_atomically
from bovrin.formats.project.clips import clip_of
from bovrin.formats.project.data import (
    FORMAT,
    VERSION,
    DrawingData,
    ProjectData,
    SpotData,
    StrokeData,
)
from bovrin.formats.project.takes import take_of
from bovrin.formats.project.text import rounded, shot_to_bytes
from bovrin.formats.project.versions import keep_version
from bovrin.progress import each, part, tell
from bovrin.shot import CHANGED, Curve, Drawing, Figure, Group, Marker, Ruler, Shot, Spot, Stroke
from bovrin.shot.comparing import Measure, alike, differing
from bovrin.shot.follower import with_followers

PathLike = str | os.PathLike[str]


def save(shot: Shot, path: PathLike, versions: int = 0) -> Shot:
    """Write a project; a failure leaves the file on disk as it was. Returns the shot as it was written.

    Figures that do not lie beside it, as they are, are written anew. What was written is read again before it takes the old
    file's place, which is kept as the youngest of so many `versions`.
    """
    target = Path(path)
    refuse_inputs(target)
    shot = _with_own_files(shot, target.parent)

    def check(written: Path) -> None:
        try:
            other = _written_otherwise(shot_from_bytes(read_bytes(written, "project"), target), shot)
        except BovrinError as error:
            raise CannotWrite(_UNREAD.format(error.what), where=str(target), advice=_HELD) from error
        tell(1.0)
        if other:
            words = f"it holds other {' and '.join(other)}"
            raise CannotWrite(_UNREAD.format(words), where=str(target), advice=_HELD)
        if versions and (not target.is_file() or target.read_bytes() != written.read_bytes()):
            keep_version(target, versions)

    with part(0.0, WRITING):
        data = shot_to_bytes(shot)
    with part(WRITING, 1.0):
        write_atomically(target, data, check)
    return shot


DIGITS = 1e-6
"""By how much, as a share, numbers that are read may differ from those that were written."""
WRITING = 0.4
"""The share of the time that a save takes before it is read again."""
_UNREAD = "what was written could not be read again ({})."
_HELD = "Nothing on disk was changed. Keep this window open, and save under another name or in another folder."


def _written_otherwise(read: Shot, wanted: Shot) -> list[str]:
    """The fields in which a shot that was read is another than it should be. Files hold what is not keyed yet as keys, and what
    handles hang on only where it counts; figures lie in files of their own."""
    casts = [[(f.name, f.orders, f.hooks, f.followers) for f in shot.cast] for shot in (read, wanted)]
    found = differing(read, wanted, AS_WRITTEN, besides=("cast", "unkeyed"))
    return found if casts[0] == casts[1] else [*found, "cast"]


def _same_keys(read: Curve, wanted: Curve) -> bool:
    wanted = wanted.settled()
    ends = (read.before, read.after, read.muted) == (wanted.before, wanted.after, wanted.muted)
    columns = ("frames", "values", "in_kind", "out_kind", "role")
    return ends and all(np.array_equal(getattr(read, name), getattr(wanted, name)) for name in columns)


def _same_stroke(read: Stroke, wanted: Stroke) -> bool:
    return alike(read, rounded(wanted), Measure(DIGITS))


AS_WRITTEN = Measure(DIGITS, {Curve: _same_keys, Stroke: _same_stroke})
"""How a file tells the same: numbers to some digits, curves by what moves."""


def _with_own_files(shot: Shot, folder: Path) -> Shot:
    """A shot whose brought figures lie beside the project as figure files, rig and all; no other file is overwritten."""
    cast = tuple(f if lies_there(f, folder) else keep_beside(f, folder) for f in shot.cast)
    return shot if all(a is b for a, b in zip(cast, shot.cast, strict=True)) else replace(shot, cast=cast)


def load(path: PathLike) -> Shot:
    """Read a project. FileProblem, BadFigure or BadMotion say in one sentence what is wrong with it."""
    source = Path(path)
    return shot_from_bytes(read_bytes(source, "project"), source)


def shot_from_bytes(data: bytes, source: Path, spare: Mapping[str, Path] = {}) -> Shot:
    """The shot in a project's bytes; figures are looked for beside `source`.

    spare: figure files by what the project says, for those that are not there or were changed after they were read.
    """
    where = str(source)
    _check_head(data, where)
    try:
        project = msgspec.json.decode(data, type=ProjectData)
    except msgspec.ValidationError as error:
        raise BrokenFile(f"the project is damaged{spoken_fault(error)}.", where=where, advice=KEEP) from error
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BrokenFile("the project file is cut off or damaged.", where=where, advice=KEEP) from error
    try:
        return _shot(project, source, spare)
    except BadMotion as error:
        raise BadMotion(error.what, where=where, advice=error.advice or KEEP) from error


class _Head(msgspec.Struct):
    """What must be known before the rest can be read."""

    format: Any = None
    version: Any = None


def _check_head(data: bytes, where: str) -> None:
    if not data.strip():
        raise BrokenFile("the project file is empty.", where=where, advice=KEEP)
    try:
        head = msgspec.json.decode(data, type=_Head)
    except msgspec.ValidationError:
        head = _Head()
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BrokenFile("the project file is cut off or damaged.", where=where, advice=KEEP) from error
    if head.format != FORMAT:
        raise BrokenFile("this is not a Bovrin project.", where=where, advice="Choose a file that Bovrin has saved.")
    version = head.version
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise BrokenFile("the project file does not say its version.", where=where, advice=KEEP)
    if version > VERSION:
        raise NewerFile(
            f"the project was made by a newer Bovrin (file version {version}, this one reads up to {VERSION}).",
            where=where,
            advice="Update Bovrin to open it.",
        )


def _shot(project: ProjectData, source: Path, spare: Mapping[str, Path]) -> Shot:
    cast = tuple(
        _with_rules(_with_hooks(_with_orders(read, entry.orders), entry.hooks), entry.followers)
        for entry in project.cast
        for read in [_figure(entry.file, entry.name, source.parent, spare)]
    )
    clips = tuple(clip_of(row) for row in project.clips)
    take, *takes = (take_of(cast, own, clips) for own in each([project.take, *project.takes]))
    shot = Shot(
        title=project.title,
        cast=cast,
        take=take,
        takes=tuple(takes),
        clips=clips,
        markers=tuple(Marker(m.start, m.end, m.words, m.kind, m.pencil) for m in project.markers),
        first=project.first,
        last=project.last,
        frame_rate=project.frame_rate,
        groups=tuple(Group(g.name, tuple(g.controls)) for g in project.groups),
        second=project.second,
        retimes_all=project.retiming == "all",
        on_set=project.ground == "set",
        loops=project.loops,
        spots=_spots(cast, project.spots),
        limits=_limits(project.limits),
        drawings=_drawings(project.drawings),
        ruler=None if project.ruler is None else Ruler(*project.ruler).checked(),
    )
    check_hanging(shot)
    return shot


def _spots(cast: tuple[Figure, ...], rows: list[SpotData]) -> tuple[Spot, ...]:
    names = {figure.name for figure in cast}
    for row in rows:
        if row.figure not in names:
            raise BadMotion(f"an arc is kept of '{row.figure}', which is not in the cast.")
        if not all(math.isfinite(x) for x in row.at):
            raise BadMotion(f"the kept arc of '{row.joint}' lies at no finite place.")
    return tuple(Spot(row.figure, row.joint, row.at, row.pencil) for row in rows)


def _drawings(rows: list[DrawingData]) -> tuple[Drawing, ...]:
    def stroke(row: StrokeData) -> Stroke:
        points = np.array(row.points, float).reshape(-1, 3)
        return Stroke(points, np.array(row.widths, float), row.pencil, row.pin, row.aspect)

    found = (Drawing(row.frame, tuple(map(stroke, row.strokes))) for row in rows)
    return tuple(sorted(found, key=lambda drawing: drawing.frame))


def _limits(rows: dict[str, float]) -> tuple[tuple[str, float], ...]:
    for kind, limit in rows.items():
        if not (math.isfinite(limit) and limit >= 0):
            raise BadMotion(f"the proof's threshold of '{kind}' is {limit:g}.", advice="Thresholds are 0 or more.")
    return tuple(rows.items())


def _with_orders(figure: Figure, orders: Mapping[str, str]) -> Figure:
    for name in orders:
        figure.rig.control(name)
    return (
        replace(figure, rig=figure.rig.with_orders(orders), orders=tuple(sorted(orders.items()))) if orders else figure
    )


def _with_hooks(figure: Figure, hooks: Mapping[str, int]) -> Figure:
    if not hooks:
        return figure
    return replace(figure, rig=figure.rig.with_hooks(hooks), hooks=tuple(sorted(hooks.items())))


def _with_rules(figure: Figure, followers: Mapping[str, str]) -> Figure:
    rows = tuple(followers.items())
    rig = with_followers(figure.rig, rows)
    return figure if rig is figure.rig else replace(figure, rig=rig, followers=rows)


def _figure(file: str, name: str, folder: Path, spare: Mapping[str, Path]) -> Figure:
    """A figure of a project; from its spare file, to be written anew, where its own is not there or not as it is now."""
    if file not in spare:
        return load_figure(file, name, folder)
    if not file.endswith(CHANGED):
        try:
            return load_figure(file, name, folder)
        except BovrinError:
            pass
    figure = read_figure(spare[file], file)
    return Figure(name, figure.rig, figure.model, file.removesuffix(CHANGED) + CHANGED, figure.colour)
