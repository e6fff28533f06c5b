"""Writing a shot as a project file's text."""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import asdict, replace
from typing import Any

import msgspec
import numpy as np

from bovrin.errors import CannotWrite
from bovrin.formats.files import whole_letters
from bovrin.formats.project.clips import clip_row, lane_row
from bovrin.formats.project.data import (
    FORMAT,
    VERSION,
    curve_to_data,
)
from bovrin.progress import each
from bovrin.shot import (
    Acting,
    Attachment,
    Blend,
    Card,
    Curve,
    Drawing,
    Figure,
    Follower,
    Marker,
    OfControl,
    PartOrControl,
    Shot,
    Stroke,
    Take,
)


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
    if shot.on_set:
        head["ground"] = "set"
    if shot.ruler is not None:
        head["ruler"] = [list(shot.ruler.start), list(shot.ruler.end)]
    if shot.groups:
        head["groups"] = [{"name": g.name, "controls": list(g.controls)} for g in shot.groups]
    if shot.spots:
        head["spots"] = [spot._asdict() for spot in shot.spots]
    if shot.drawings:
        head["drawings"] = [_drawing_row(drawing) for drawing in shot.drawings]
    if shot.limits:
        head["limits"] = dict(shot.limits)
    lines = [f" {_json(k)}: {_json(v)}," for k, v in head.items()]
    if shot.clips:
        lines.append(' "clips": [\n  ' + ",\n  ".join(_json(clip_row(clip)) for clip in shot.clips) + "\n ],")
    lines.append(f' "take": {_take_text(shot, shot.take)}')
    if shot.takes:
        lines[-1] += ","
        lines.append(' "takes": [' + ", ".join(_take_text(shot, take) for take in each(shot.takes)) + "]")
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


BY_FIGURE: dict[str, Callable[[Acting], Any]] = {
    "cards": lambda own: [_card_row(card) for card in own.cards],
    "cycles": lambda own: own.cycle and asdict(own.cycle),
    "contacts": lambda own: {limb: list(spans) for limb, spans in own.contacts.items()},
    "lanes": lambda own: [lane_row(lane) for lane in own.lanes],
    "instead": lambda own: sorted(own.instead),
    "attachments": lambda own: [_attachment_row(one) for one in own.attachments],
    "followers": lambda own: [_follower_row(one) for one in own.followers],
}
"""What a file holds of each figure's acting besides its keys."""


def _take_text(shot: Shot, take: Take) -> str:
    carried = _by_figure(take, ["cards"]) + _traces_text(shot, take)
    if take.left:
        carried += f'"left": {_json([note._asdict() for note in take.left])}, '
    carried += _by_figure(take, [name for name in BY_FIGURE if name != "cards"])
    if take.order:
        carried += f'"order": {take.order}, '
    if take.span is not None:
        carried += f'"first": {_json(take.span.first)}, "last": {_json(take.span.last)}, '
        carried += '"loops": true, ' if take.span.loops else ""
    figures = []
    for figure in each(shot.cast):
        named = each(list(zip(figure.rig.channel_names, take.curves[figure.name].curves, strict=True)))
        rows = [f"   {_json(name)}: {_curve_text(curve)}" for name, curve in named if len(curve)]
        figures.append(f"  {_json(figure.name)}: {{\n" + ",\n".join(rows) + "\n  }")
    return f'{{"name": {_json(take.name)}, {carried}"curves": {{\n' + ",\n".join(figures) + "\n }}"


def _by_figure(take: Take, names: Iterable[str]) -> str:
    """What figures do besides their keys, of some kinds."""
    text = ""
    for name in names:
        rows = {figure: BY_FIGURE[name](acting) for figure, acting in take.acting.items()}
        if any(rows.values()):
            text += f'"{name}": {_json({figure: row for figure, row in rows.items() if row})}, '
    return text


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


def _follower_row(one: Follower) -> dict[str, Any]:
    row: dict[str, Any] = {"name": one.name, "controls": list(one.controls)}
    if not one.on:
        row["on"] = False
    if one.clear_of:
        row["clear_of"] = list(one.clear_of)
    return row


def _attachment_row(one: Attachment) -> dict[str, Any]:
    row = asdict(one)
    row["figure"] = row.pop("carrier")
    return {name: list(value) if isinstance(value, tuple) else value for name, value in row.items()}


_PLAIN_MARKER = asdict(Marker(math.nan, math.nan, ""))


def _without_defaults(defaults: Mapping[str, Any], row: Mapping[str, Any]) -> dict[str, Any]:
    return {name: value for name, value in row.items() if name == "words" or value != defaults[name]}


def _card_row(card: Card) -> dict[str, Any]:
    row = _without_defaults({**asdict(Card(math.nan)), "blend": None}, {**asdict(card), "blend": card.blend})
    if card.blend is not None:
        row["blend"] = _blend_row(card.blend)
    return row


def rounded(stroke: Stroke) -> Stroke:
    """A stroke with the digits that a file keeps of it."""
    return replace(stroke, points=np.round(stroke.points, 5), widths=np.round(stroke.widths, 3))


def _drawing_row(drawing: Drawing) -> dict[str, Any]:
    rows = []
    for stroke in map(rounded, drawing.strokes):
        row: dict[str, Any] = {
            "points": stroke.points.tolist(),
            "widths": stroke.widths.tolist(),
        }
        row["pencil"] = stroke.pencil
        if stroke.pin is not None:
            row["pin"] = list(stroke.pin)
        if stroke.aspect:
            row["aspect"] = stroke.aspect
        rows.append(row)
    return {"frame": drawing.frame, "strokes": rows}


def _figure_row(figure: Figure) -> dict[str, Any]:
    row: dict[str, Any] = {"name": figure.name, "file": figure.source}
    if figure.orders:
        row["orders"] = dict(figure.orders)
    if figure.hooks:
        row["hooks"] = dict(figure.hooks)
    if figure.followers:
        row["followers"] = dict(figure.followers)
    return row


def _json(value: Any) -> str:
    return json.dumps(value, ensure_ascii=False, allow_nan=False)


def _blend_row(blend: Blend) -> dict[str, Any]:
    own = {_text(name): share for name, share in blend.own}
    return {"before": blend.before, "after": blend.after, "favour": blend.favour, "parts": own}


def _text(name: PartOrControl) -> str:
    """How a part or a control is written: a control with a slash, so that no part is taken for it."""
    return f"{name.name}/" if isinstance(name, OfControl) else name
