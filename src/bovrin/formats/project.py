"""Projects: reading and writing a shot as JSON."""

from __future__ import annotations

import json
import math
import os
from collections.abc import Mapping
from dataclasses import asdict, replace
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from bovrin.caching import cached_by_identity
from bovrin.cast import figure_path
from bovrin.errors import BadMotion, BovrinError, BrokenFile, CannotWrite, FileProblem, NewerFile
from bovrin.formats.figure_file import figure_bytes, read_figure
from bovrin.formats.files import file_stem, read_bytes, whole_letters, write_atomically
from bovrin.formats.project_data import (
    FORMAT,
    VERSION,
    CardData,
    ProjectData,
    SpotData,
    TakeData,
    curve_from_data,
    curve_to_data,
)
from bovrin.formats.rig_data import spoken_fault
from bovrin.formats.versions import keep_version
from bovrin.shot import (
    CHANGED,
    Blend,
    Card,
    Curve,
    CurveSet,
    Figure,
    Group,
    Marker,
    OfControl,
    PartOrControl,
    Shot,
    Span,
    Spot,
    Take,
    Trace,
)
from bovrin.shot.curve import NO_KEYS

PathLike = str | os.PathLike[str]

_KEEP = "Nothing was changed. If you have a copy or an earlier version of the file, open that."


def shot_to_text(shot: Shot) -> str:
    """The project file's text; one line per channel, so that versions compare well."""
    head = {
        "format": FORMAT,
        "version": VERSION,
        "title": shot.title,
        "frame_rate": shot.frame_rate,
        "first": shot.first,
        "last": shot.last,
        "cast": [_figure_row(f) for f in shot.cast],
        "markers": [_without_defaults(_PLAIN_MARKER, asdict(m)) for m in shot.markers],
    }
    if shot.second is not None:
        head["second"] = list(shot.second)
    if shot.loops:
        head["loops"] = True
    if shot.retimes_all:
        head["retiming"] = "all"
    if shot.groups:
        head["groups"] = [{"name": g.name, "controls": list(g.controls)} for g in shot.groups]
    if shot.spots:
        head["spots"] = [spot._asdict() for spot in shot.spots]
    lines = [f" {_json(k)}: {_json(v)}," for k, v in head.items()]
    lines.append(f' "take": {_take_text(shot, shot.take)}')
    if shot.takes:
        lines[-1] += ","
        lines.append(' "takes": [' + ", ".join(_take_text(shot, take) for take in shot.takes) + "]")
    return "{\n" + "\n".join(lines) + "\n}\n"


def shot_to_bytes(shot: Shot) -> bytes:
    """The project file. CannotWrite when a name or a text cannot be written."""
    try:
        return shot_to_text(shot).encode()
    except UnicodeEncodeError as error:
        words = error.object[: error.start].rpartition('"')[2] + error.object[error.start :].partition('"')[0]
        raise CannotWrite(
            f"'{whole_letters(words)}' holds half a letter.", advice="Write it anew, then save again."
        ) from error


def _take_text(shot: Shot, take: Take) -> str:
    cards = {name: [_card_row(card) for card in found] for name, found in take.cards.items() if found}
    carried = f'"cards": {_json(cards)}, ' if cards else ""
    carried += _traces_text(shot, take)
    if take.order:
        carried += f'"order": {take.order}, '
    if take.span is not None:
        carried += f'"first": {_json(take.span.first)}, "last": {_json(take.span.last)}, '
        carried += '"loops": true, ' if take.span.loops else ""
    figures = []
    for figure in shot.cast:
        named = zip(figure.rig.channel_names, take.curves[figure.name].curves, strict=True)
        rows = [f"   {_json(name)}: {_curve_text(curve)}" for name, curve in named if len(curve)]
        figures.append(f"  {_json(figure.name)}: {{\n" + ",\n".join(rows) + "\n  }")
    return f'{{"name": {_json(take.name)}, {carried}"curves": {{\n' + ",\n".join(figures) + "\n }}"


def _curve_text(curve: Curve) -> str:
    """A curve in one line, as the rest of the file is written but quicker: recordings are long."""
    return msgspec.json.format(msgspec.json.encode(curve_to_data(curve)), indent=0).decode()


def _traces_text(shot: Shot, take: Take) -> str:
    """The traces of a take, each on a line of its own."""
    rows = []
    for trace in take.traces:
        named = zip(shot.figure(trace.figure).rig.channel_names, trace.curves.curves, strict=True)
        curves = {name: curve_to_data(curve) for name, curve in named if len(curve)}
        rows.append(f"\n  {_json({'name': trace.name, 'figure': trace.figure, 'curves': curves})}")
    return f'"traces": [{",".join(rows)}], ' if rows else ""


_PLAIN_MARKER = asdict(Marker(math.nan, math.nan, ""))


def _without_defaults(defaults: Mapping[str, Any], row: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in row.items() if name == "words" or value != defaults[name]}


def _card_row(card: Card) -> dict[str, Any]:
    row = _without_defaults({**asdict(Card(math.nan)), "blend": None}, {**asdict(card), "blend": card.blend})
    if card.blend is not None:
        row["blend"] = _blend_row(card.blend)
    return row


def _figure_row(figure: Figure) -> dict[str, Any]:
    row: dict[str, Any] = {"name": figure.name, "file": figure.source}
    if figure.orders:
        row["orders"] = dict(figure.orders)
    return row


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def save(shot: Shot, path: PathLike, versions: int = 0) -> Shot:
    """Write a project; a failure leaves the file on disk as it was. Returns the shot as it was written.

    Figures that do not lie beside it, as they are, are written anew. What was written is read again before it takes the old
    file's place, which is kept as the youngest of so many `versions`.
    """
    target = Path(path)
    shot = _with_own_files(shot, target.parent)

    def check(written: Path) -> None:
        try:
            same = _same(shot_from_bytes(read_bytes(written, "project"), target), shot)
        except BovrinError as error:
            raise CannotWrite(_UNREAD.format(error.what), where=str(target), advice=_HELD) from error
        if not same:
            raise CannotWrite(_UNREAD.format("it holds another motion"), where=str(target), advice=_HELD)
        if versions and (not target.is_file() or target.read_bytes() != written.read_bytes()):
            keep_version(target, versions)

    write_atomically(target, shot_to_bytes(shot), check)
    return shot


_UNREAD = "what was written could not be read again ({})."
_HELD = "Nothing on disk was changed. Keep this window open, and save under another name or in another folder."


def _same(read: Shot, wanted: Shot) -> bool:
    """Whether a shot that was read has the figures and the keys of another."""
    pairs = list(zip(read.all_takes, wanted.all_takes, strict=False))
    return (
        [f.name for f in read.cast] == [f.name for f in wanted.cast]
        and [t.name for t in read.all_takes] == [t.name for t in wanted.all_takes]
        and all(_same_keys(one.curves[f.name], two.curves[f.name]) for one, two in pairs for f in wanted.cast)
    )


def _same_keys(read: CurveSet, wanted: CurveSet) -> bool:
    return len(read) == len(wanted) and all(
        np.array_equal(a.frames, b.settled().frames) and np.array_equal(a.values, b.settled().values)
        for a, b in zip(read.curves, wanted.curves, strict=True)
    )


def _with_own_files(shot: Shot, folder: Path) -> Shot:
    """A shot whose brought figures lie beside the project as figure files, rig and all; no other file is overwritten."""
    cast = tuple(f if _lies_there(f, folder) else keep_beside(f, folder) for f in shot.cast)
    return shot if all(a is b for a, b in zip(cast, shot.cast, strict=True)) else replace(shot, cast=cast)


def _lies_there(figure: Figure, folder: Path) -> bool:
    """Whether a figure is shipped, or lies in a folder as it is."""
    if not is_kept(figure) or figure.source.startswith("cast:"):
        return is_kept(figure)
    path = folder / figure.source
    try:
        if not path.resolve().is_relative_to(folder.resolve()) or not path.is_file():
            return False
        return _read_cached(str(path), _stamp(path)).model is figure.model
    except (OSError, RuntimeError, BovrinError):
        return False


def is_kept(figure: Figure) -> bool:
    """Whether a figure lies in a figure file of its own, shipped or beside the project; one with a new setup does not."""
    source = figure.source
    if source.endswith(CHANGED):
        return False
    return source.startswith("cast:") or (source.lower().endswith(".glb") and not Path(source).is_absolute())


def keep_beside(figure: Figure, folder: Path) -> Figure:
    """The figure, written into a figure file of its own in a folder."""
    return replace(figure, source=_kept_beside(figure, folder))


def _kept_beside(figure: Figure, folder: Path) -> str:
    data = figure_bytes(figure)
    stem = file_stem(figure.name)
    own = [str(figure.source)] if is_kept(figure) and Path(figure.source).parent == Path() else []
    names: tuple[str, ...] = (*own, f"{stem}.glb", *(f"{stem} {n}.glb" for n in range(2, 1000)))
    for name in names:
        there = folder / name
        if not there.exists():
            write_atomically(there, data)
            return name
        if there.is_file() and there.read_bytes() == data:
            return name
    raise CannotWrite(
        f"the folder is full of figures called '{figure.name}'.", where=str(folder), advice="Use another folder."
    )


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
        raise BrokenFile(f"the project is damaged{spoken_fault(error)}.", where=where, advice=_KEEP) from error
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BrokenFile("the project file is cut off or damaged.", where=where, advice=_KEEP) from error
    try:
        return _shot(project, source, spare)
    except BadMotion as error:
        raise BadMotion(error.what, where=where, advice=error.advice or _KEEP) from error


class _Head(msgspec.Struct):
    """What must be known before the rest can be read."""

    format: Any = None
    version: Any = None


def _check_head(data: bytes, where: str) -> None:
    if not data.strip():
        raise BrokenFile("the project file is empty.", where=where, advice=_KEEP)
    try:
        head = msgspec.json.decode(data, type=_Head)
    except msgspec.ValidationError:
        head = _Head()
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError) as error:
        raise BrokenFile("the project file is cut off or damaged.", where=where, advice=_KEEP) from error
    if head.format != FORMAT:
        raise BrokenFile("this is not a Bovrin project.", where=where, advice="Choose a file that Bovrin has saved.")
    version = head.version
    if not isinstance(version, int) or isinstance(version, bool) or version < 1:
        raise BrokenFile("the project file does not say its version.", where=where, advice=_KEEP)
    if version > VERSION:
        raise NewerFile(
            f"the project was made by a newer Bovrin (file version {version}, this one reads up to {VERSION}).",
            where=where,
            advice="Update Bovrin to open it.",
        )


def _shot(project: ProjectData, source: Path, spare: Mapping[str, Path]) -> Shot:
    cast = tuple(
        _with_orders(_figure(entry.file, entry.name, source.parent, spare), entry.orders) for entry in project.cast
    )
    return Shot(
        title=project.title,
        cast=cast,
        take=_take(cast, project.take),
        takes=tuple(_take(cast, take) for take in project.takes),
        markers=tuple(Marker(m.start, m.end, m.words, m.kind, m.pencil) for m in project.markers),
        first=project.first,
        last=project.last,
        frame_rate=project.frame_rate,
        groups=tuple(Group(g.name, tuple(g.controls)) for g in project.groups),
        second=project.second,
        retimes_all=project.retiming == "all",
        loops=project.loops,
        spots=_spots(cast, project.spots),
    )


def _spots(cast: tuple[Figure, ...], rows: list[SpotData]) -> tuple[Spot, ...]:
    names = {figure.name for figure in cast}
    for row in rows:
        if row.figure not in names:
            raise BadMotion(f"an arc is kept of '{row.figure}', which is not in the cast.")
        if not all(math.isfinite(x) for x in row.at):
            raise BadMotion(f"the kept arc of '{row.joint}' lies at no finite place.")
    return tuple(Spot(row.figure, row.joint, row.at, row.pencil) for row in rows)


def _take(cast: tuple[Figure, ...], take: TakeData) -> Take:
    curves = {figure.name: _curves(figure, take) for figure in cast}
    strangers = sorted(set(take.curves) - set(curves))
    if strangers:
        raise BadMotion(f"the take moves '{strangers[0]}', which is not in the cast.")
    span = None if take.first is None or take.last is None else Span(take.first, take.last, take.loops)
    if span is not None and not -math.inf < span.first <= span.last < math.inf:
        raise BadMotion(f"the take '{take.name}' ends before it begins.")
    return Take(take.name, curves, _cards(take), _traces(cast, take), take.order, span)


def _cards(take: TakeData) -> dict[str, tuple[Card, ...]]:
    strangers = sorted(set(take.cards) - set(take.curves))
    if strangers:
        raise BadMotion(f"the take has cards of '{strangers[0]}', which it does not move.")
    return {name: tuple(sorted((_card(row) for row in rows), key=_frame)) for name, rows in take.cards.items()}


def _traces(cast: tuple[Figure, ...], take: TakeData) -> tuple[Trace, ...]:
    by_name = {figure.name: figure for figure in cast}
    found = []
    for row in take.traces:
        if row.figure not in by_name:
            raise BadMotion(f"the trace '{row.name}' is of '{row.figure}', which is not in the cast.")
        figure = by_name[row.figure]
        found.append(Trace(row.name, row.figure, _curves(figure, TakeData(take.name, {row.figure: row.curves}))))
    return tuple(found)


def _frame(card: Card) -> float:
    return card.frame


def _blend_row(blend: Blend) -> dict[str, Any]:
    own = {_text(name): share for name, share in blend.own}
    return {"before": blend.before, "after": blend.after, "favour": blend.favour, "parts": own}


def _text(name: PartOrControl) -> str:
    """How a part or a control is written: a control with a slash, so that no part is taken for it."""
    return f"{name.name}/" if isinstance(name, OfControl) else name


def _named(text: str) -> PartOrControl:
    return OfControl(text[:-1]) if text.endswith("/") else text


def _card(row: CardData) -> Card:
    blend = row.blend
    own = {} if blend is None else {_named(text): share for text, share in blend.parts.items()}
    made = None if blend is None else Blend.of(blend.before, blend.after, blend.favour, own)
    return Card(row.frame, row.name, made, row.pushed)


def _curves(figure: Figure, take: TakeData) -> CurveSet:
    data = take.curves.get(figure.name, {})
    known = set(figure.rig.channel_names)
    strangers = [name for name in data if name not in known]
    if strangers:
        raise BadMotion(
            f"'{figure.name}' has no channel '{strangers[0]}'.", advice="The figure's file may have been changed."
        )
    found = [
        curve_from_data(data[name], f"{figure.name} {name}") if name in data else NO_KEYS
        for name in figure.rig.channel_names
    ]
    return CurveSet(tuple(found))


def _with_orders(figure: Figure, orders: Mapping[str, str]) -> Figure:
    for name in orders:
        figure.rig.control(name)
    return (
        replace(figure, rig=figure.rig.with_orders(orders), orders=tuple(sorted(orders.items()))) if orders else figure
    )


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


def load_figure(file: str, name: str, folder: Path) -> Figure:
    """A figure by its place in a project: "cast:NAME" is shipped, else a path below the project's folder."""
    kind, _, shipped = file.partition(":")
    if kind == "cast":
        path = figure_path(shipped)
        if "/" in shipped or not path.is_file():
            raise FileProblem(
                f"there is no shipped figure '{shipped}'.", advice="Update Bovrin, or choose another figure."
            )
    else:
        if "\0" in file:
            raise FileProblem("a figure's file has a name that no file can have.", where=str(folder), advice=_KEEP)
        path = folder / file
        inside = path.resolve().is_relative_to(folder.resolve())
        if not inside or Path(file).is_absolute():
            raise FileProblem(
                f"the figure file '{file}' lies outside the project's folder.",
                where=str(folder),
                advice="Move it into the folder.",
            )
    try:
        figure = _read_cached(str(path), _stamp(path))
    except BovrinError as error:
        raise type(error)(f"figure '{name}': {error.what}", where=error.where, advice=error.advice) from error
    return Figure(name, figure.rig, figure.model, file, figure.colour)


def _stamp(path: Path) -> tuple[float, int]:
    try:
        stat = path.stat()
    except OSError:
        return (0.0, 0)
    return (stat.st_mtime, stat.st_size)


@cached_by_identity(16)
def _read_cached(path: str, stamp: tuple[float, int]) -> Figure:
    return read_figure(Path(path), path)


def used_files(shot: Shot, path: Path | None) -> set[Path]:
    """The files that a shot lives in: its project, and those of its figures beside it."""
    if path is None:
        return set()
    own = [f.source.removesuffix(CHANGED) for f in shot.cast if not f.source.startswith("cast:")]
    return {path.resolve(), *((path.parent / source).resolve() for source in own)}


def check_free(shot: Shot, path: Path | None, target: Path) -> None:
    """CannotWrite when a file that is to be written is one that the shot lives in."""
    if target.resolve() in used_files(shot, path):
        raise CannotWrite(
            "the shot itself lives in this file.", where=str(target), advice="Hand it on under another name."
        )
