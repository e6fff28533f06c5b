"""The takes of a project: what each figure does, out of what the file holds of it."""

from __future__ import annotations

import math
from collections.abc import Iterable

from bovrin.errors import BadMotion
from bovrin.formats.project.clips import lanes_of
from bovrin.formats.project.data import CardData, CurveData, TakeData, curve_from_data
from bovrin.progress import each
from bovrin.shot import (
    Acting,
    Attachment,
    Blend,
    Card,
    Clip,
    Contacts,
    CurveSet,
    Cycle,
    Figure,
    Follower,
    LeftNote,
    OfControl,
    PartOrControl,
    Span,
    Take,
    Trace,
)
from bovrin.shot.curve import NO_KEYS
from bovrin.shot.document import held

WORDS = {
    "curves": "the take moves '{}', which is not in the cast.",
    "cards": "the take has cards of '{}', which is not in the cast.",
    "cycles": "there is a cycle of '{}', which is not in the cast.",
    "contacts": "contacts are kept of '{}', which is not in the cast.",
    "lanes": "the take lays clips for '{}', which is not in the cast.",
    "instead": "keys of '{}' count instead of clips, which is not in the cast.",
    "followers": "something of '{}' follows a rule, which is not in the cast.",
    "attachments": "something of '{}' hangs on something, which is not in the cast.",
}
"""What a file holds by figure, and how it is said that somebody is not there."""


def take_of(cast: tuple[Figure, ...], row: TakeData, clips: tuple[Clip, ...]) -> Take:
    """A take. BadMotion where it does not fit the cast or the clips."""
    names = {figure.name for figure in cast}
    for field, words in WORDS.items():
        for name in sorted(set(getattr(row, field)) - names):
            raise BadMotion(words.format(name))
    span = None if row.first is None or row.last is None else Span(row.first, row.last, row.loops)
    if span is not None and not -math.inf < span.first <= span.last < math.inf:
        raise BadMotion(f"the take '{row.name}' ends before it begins.")
    acting = {figure.name: _acting(figure, row, clips) for figure in each(cast)}
    return Take(row.name, acting, _traces(cast, row), row.order, span, _left(names, row))


def _acting(figure: Figure, row: TakeData, clips: tuple[Clip, ...]) -> Acting:
    name = figure.name
    return Acting(
        _curves(figure, row.curves.get(name, {})),
        tuple(sorted((_card(card) for card in row.cards.get(name, [])), key=_frame)),
        _cycle(figure, row),
        _contacts(figure, row),
        lanes_of(row.lanes.get(name, []), clips),
        _instead(figure, row),
        _attachments(figure, row),
        _followers(figure, row),
    )


def _curves(figure: Figure, data: dict[str, CurveData]) -> CurveSet:
    _check_known(figure, data, "'{}' has no channel '{}'.")
    found = [
        curve_from_data(data[name], f"{figure.name} {name}") if name in data else NO_KEYS
        for name in each(figure.rig.channel_names)
    ]
    return held(figure.rig, CurveSet(tuple(found)))


def _check_known(figure: Figure, channels: Iterable[str], words: str) -> None:
    known = set(figure.rig.channel_names)
    for name in channels:
        if name not in known:
            raise BadMotion(words.format(figure.name, name), advice="The figure's file may have been changed.")


def _cycle(figure: Figure, take: TakeData) -> Cycle | None:
    row = take.cycles.get(figure.name)
    if row is not None and not -math.inf < row.first < row.last < math.inf:
        raise BadMotion(f"the cycle of '{figure.name}' ends before it begins.")
    return None if row is None else Cycle(row.first, row.last, row.gait, row.mirrored)


def _contacts(figure: Figure, take: TakeData) -> Contacts:
    rows = take.contacts.get(figure.name, {})
    for limb in sorted(set(rows) - {limb.name for limb in figure.rig.limbs}):
        raise BadMotion(f"contacts are kept of '{limb}' of '{figure.name}', which is not in the cast.")
    if any(not -math.inf < a <= b < math.inf for spans in rows.values() for a, b in spans):
        raise BadMotion(f"a contact of '{figure.name}' ends before it begins.")
    return {limb: tuple(spans) for limb, spans in rows.items()}


def _instead(figure: Figure, take: TakeData) -> frozenset[str]:
    rows = take.instead.get(figure.name, [])
    _check_known(figure, rows, "keys of '{}' count instead of clips on '{}', which it does not have.")
    return frozenset(rows)


def _attachments(figure: Figure, take: TakeData) -> tuple[Attachment, ...]:
    rows = take.attachments.get(figure.name, [])
    found = tuple(Attachment(r.control, r.channel, r.figure, r.joint, r.place, r.turn, r.what) for r in rows)
    _check_known(figure, [one.column for one in found], "something of '{}' hangs by '{}', which it does not have.")
    if len({one.column for one in found}) < len(found):
        raise BadMotion(f"two things of '{figure.name}' hang by one channel.")
    return found


def _followers(figure: Figure, take: TakeData) -> tuple[Follower, ...]:
    kinds, found = dict(figure.followers), list[Follower]()
    for row in take.followers.get(figure.name, []):
        if row.name not in kinds:
            raise BadMotion(f"'{figure.name}' has no channels for the follower '{row.name}'.")
        found.append(Follower(row.name, kinds[row.name], tuple(row.controls), row.on, tuple(row.clear_of)))
    return tuple(found)


def _left(names: set[str], take: TakeData) -> tuple[LeftNote, ...]:
    for row in take.left:
        if row.figure not in names:
            raise BadMotion(f"a note is left of '{row.figure}', which is not in the cast.")
        if not -math.inf < row.start <= row.end < math.inf:
            raise BadMotion(f"the note '{row.kind}' that is left ends before it begins.")
    return tuple(LeftNote(row.kind, row.figure, row.part, row.start, row.end) for row in take.left)


def _traces(cast: tuple[Figure, ...], take: TakeData) -> tuple[Trace, ...]:
    by_name = {figure.name: figure for figure in cast}
    for row in take.traces:
        if row.figure not in by_name:
            raise BadMotion(f"the trace '{row.name}' is of '{row.figure}', which is not in the cast.")
    return tuple(Trace(row.name, row.figure, _curves(by_name[row.figure], row.curves)) for row in take.traces)


def _frame(card: Card) -> float:
    return card.frame


def _named(text: str) -> PartOrControl:
    return OfControl(text[:-1]) if text.endswith("/") else text


def _card(row: CardData) -> Card:
    blend = row.blend
    own = {} if blend is None else {_named(text): share for text, share in blend.parts.items()}
    made = None if blend is None else Blend.of(blend.before, blend.after, blend.favour, own)
    return Card(row.frame, row.name, made, row.pushed)
