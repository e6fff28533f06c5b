"""What figures do: the acting of each, and takes, which are variants of it."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import field, fields, replace
from functools import cached_property
from types import MappingProxyType
from typing import Any, NamedTuple

from bovrin.frozen import frozen, frozen_equal
from bovrin.shot.attachment import Attachment
from bovrin.shot.clip import Lane
from bovrin.shot.curve import CurveSet
from bovrin.shot.cycle import Contacts, Cycle, contacts_of
from bovrin.shot.follower import Follower


class OfControl(NamedTuple):
    """One control where a part can be named as well, which goes by its bare name."""

    name: str


PartOrControl = str | OfControl


def _in_order(name: PartOrControl) -> tuple[str, bool]:
    return (name.name, True) if isinstance(name, OfControl) else (name, False)


@frozen_equal
class Blend:
    """How a breakdown was made: from the poses on two frames, favouring one by a share, some parts and controls by their
    own."""

    before: float
    after: float
    favour: float
    own: tuple[tuple[PartOrControl, float], ...] = ()

    @staticmethod
    def of(before: float, after: float, favour: float, own: Mapping[PartOrControl, float]) -> Blend:
        """With the shares of parts and controls in the one order that makes equal blends equal."""
        return Blend(before, after, favour, tuple(sorted(own.items(), key=lambda row: _in_order(row[0]))))


@frozen_equal
class Card:
    """What a pose carries besides its keys. pushed: by what share it was pushed past, 0 if it was not."""

    frame: float
    name: str = ""
    blend: Blend | None = None
    pushed: float = 0.0

    def moved(self, where: Callable[[float], float]) -> Card:
        """The card taken along: `where` says on which frame a pose lies now."""
        frame, blend = where(self.frame), self.blend
        if blend is not None:
            ends = where(blend.before), where(blend.after)
            blend = blend if ends == (blend.before, blend.after) else Blend(*ends, blend.favour, blend.own)
        stays = frame == self.frame and blend is self.blend
        return self if stays else Card(frame, self.name, blend, self.pushed)

    @property
    def says_nothing(self) -> bool:
        """Whether a pose without a card is the same."""
        return not self.name and self.blend is None and not self.pushed


class LeftNote(NamedTuple):
    """A note of the proof that is left as it is: its kind, whose it is, and from which frame to which."""

    kind: str
    figure: str
    part: str
    start: float
    end: float

    def hides(self, other: LeftNote) -> bool:
        """Whether it is of the kind and part of another, on some of its frames."""
        return self[:3] == other[:3] and self.start <= other.end and other.start <= self.end

    def moved(self, where: Callable[[float], float]) -> LeftNote:
        """The note taken along: `where` says on which frame something lies now."""
        return self._replace(start=where(self.start), end=where(self.end))


@frozen
class Trace:
    """A kept copy of a figure's curves to compare with."""

    name: str
    figure: str
    curves: CurveSet


class Span(NamedTuple):
    """A take's range, and whether its end goes on at its beginning."""

    first: float
    last: float
    loops: bool = False


Where = Callable[[float], float]
"""Says, of a frame, which one it is after time was changed."""


def in_time(value: Any, where: Where) -> Any:
    """A value of the document taken along in time: what moves by itself does, bare numbers are frames, words stay."""
    if hasattr(value, "moved"):
        return value.moved(where)
    if isinstance(value, float):
        return where(value)
    if isinstance(value, Mapping):
        return MappingProxyType({name: in_time(own, where) for name, own in value.items()})
    return tuple(in_time(one, where) for one in value) if isinstance(value, tuple) else value


@frozen
class Acting:
    """All that one figure does in a take, and nothing of it stands elsewhere.

    cards: of poses that carry more than keys, by frame. cycle: the loop it goes round. contacts: when its limbs are down, where
    the animator set it. lanes: clips under the keys, the lowest lane first. instead: channels, by "control/channel", whose keys
    count instead of the clips', not on top. attachments: what of it hangs on something. followers: what of it moves by rule, in
    their order.
    """

    curves: CurveSet
    cards: tuple[Card, ...] = ()
    cycle: Cycle | None = None
    contacts: Contacts = field(default_factory=dict)
    lanes: tuple[Lane, ...] = ()
    instead: frozenset[str] = frozenset()
    attachments: tuple[Attachment, ...] = ()
    followers: tuple[Follower, ...] = ()

    def __post_init__(self) -> None:
        object.__setattr__(self, "contacts", contacts_of(self.contacts))

    def moved(self, where: Where) -> Acting:
        """The acting with all that lies on frames taken along, but for the keys: what becomes of curves is the caller's."""
        others = {one.name: getattr(self, one.name) for one in fields(self) if one.name != "curves"}
        return replace(self, **{name: in_time(own, where) for name, own in others.items()})


STILL = Acting(CurveSet(()))
"""What somebody does who is not there."""


@frozen
class Take:
    """A variant of the motion: by figure, its acting.

    traces: earlier curves, kept to compare with and to go back to. order: takes are listed by it, then by name. span: the
    range of a take that is kept aside; that of the take which is worked on is the shot's. left: notes of the proof that are
    left as they are.
    """

    name: str
    acting: Mapping[str, Acting]
    traces: tuple[Trace, ...] = ()
    order: int = 0
    span: Span | None = None
    left: tuple[LeftNote, ...] = ()

    def __post_init__(self) -> None:
        object.__setattr__(self, "acting", MappingProxyType(dict(self.acting)))

    @cached_property
    def curves(self) -> Mapping[str, CurveSet]:
        """The curves of every figure."""
        return MappingProxyType({name: own.curves for name, own in self.acting.items()})

    def of(self, figure: str) -> Acting:
        """What one figure does; nothing where there is none of that name."""
        return self.acting.get(figure, STILL)

    def acted(self, figure: str, **changes: Any) -> Take:
        """A copy in which one figure, new or not, does something else: what is named of its acting."""
        return replace(self, acting={**self.acting, figure: replace(self.of(figure), **changes)})

    def with_curves(self, curves: Mapping[str, CurveSet]) -> Take:
        """A copy in which figures, new or not, move by these curves."""
        changed = {name: replace(self.of(name), curves=own) for name, own in curves.items()}
        return replace(self, acting={**self.acting, **changed})

    def mapped(self, change: Callable[[CurveSet], CurveSet], where: Where | None = None) -> Take:
        """A copy in which every figure's curves are changed. `where`, when time changes: the frame of what lay on a frame;
        all that lies on frames goes along."""
        changed = self.with_curves({name: change(own) for name, own in self.curves.items()})
        if where is None:
            return changed
        acting = {name: own.moved(where) for name, own in changed.acting.items()}
        span = self.span and Span(where(self.span.first), where(self.span.last), self.span.loops)
        return replace(changed, acting=acting, span=span, left=in_time(self.left, where))

    def without(self, figure: str) -> Take:
        """A copy that holds nothing of a figure."""
        return replace(
            self,
            acting={name: own for name, own in self.acting.items() if name != figure},
            traces=tuple(trace for trace in self.traces if trace.figure != figure),
            left=tuple(note for note in self.left if note.figure != figure),
        )


def acting_by(curves: Mapping[str, CurveSet]) -> dict[str, Acting]:
    """Figures that do nothing besides moving by these curves."""
    return {name: Acting(own) for name, own in curves.items()}
