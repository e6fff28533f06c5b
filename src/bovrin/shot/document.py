"""The shot: cast, take, markers, range and frame rate."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterable, Mapping
from dataclasses import dataclass, field, fields, replace
from itertools import pairwise
from types import MappingProxyType
from typing import NamedTuple

from bovrin.errors import BadMotion, UnknownName
from bovrin.shot.checks import check_names, check_range
from bovrin.shot.clip import Clip, Lane
from bovrin.shot.curve import NO_KEYS, CurveSet
from bovrin.shot.cycle import Contacts, Cycle, contacts_of
from bovrin.shot.drawing import Drawing
from bovrin.shot.model import Model
from bovrin.shot.rig import Rig
from bovrin.shot.ruler import Ruler

FIRST_FRAME = 101.0


SET = "set"
"""What the only part of a figure is called that is a set."""
CHANGED = "#changed"
"""How the source of a figure ends that is no longer as its file has it; it is written anew when the shot is saved."""


@dataclass(frozen=True, eq=False, repr=False)
class Figure:
    """Anything animated. `source` is where its file lies: relative to the project, or "cast:NAME" when shipped.

    orders: controls whose rotation order the animator changed from the file's, and the order they have now.
    """

    name: str
    rig: Rig
    model: Model
    source: str
    colour: tuple[float, float, float]
    orders: tuple[tuple[str, str], ...] = ()

    def __repr__(self) -> str:
        return f"<Figure {self.name!r}>"

    @property
    def is_set(self) -> bool:
        """Whether it is where the acting takes place: it lies under the actors' shadows, and clicks go past it."""
        return len(self.rig.parts) == 1 and self.rig.parts[0].name == SET

    def no_motion(self) -> CurveSet:
        """A curve without keys for every channel."""
        return CurveSet(tuple(NO_KEYS for _ in self.rig.channels))


MARKER_KINDS = ("note", "section", "dialogue")
PENCILS = ("slate", "sanguine", "teal", "plum", "ochre", "green")
"""The colours that markers have, as pencils are called."""


@dataclass(frozen=True)
class Marker:
    """Words over a stretch of frames, or at a moment; sections name parts of the shot, dialogue is what is said."""

    start: float
    end: float
    words: str
    kind: str = MARKER_KINDS[0]
    pencil: str = PENCILS[0]


class OfControl(NamedTuple):
    """One control where a part can be named as well, which goes by its bare name."""

    name: str


PartOrControl = str | OfControl


def _in_order(name: PartOrControl) -> tuple[str, bool]:
    return (name.name, True) if isinstance(name, OfControl) else (name, False)


@dataclass(frozen=True)
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


@dataclass(frozen=True)
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


@dataclass(frozen=True)
class Group:
    """Controls kept under a name, by their names, so that another figure with such parts can use it."""

    name: str
    controls: tuple[str, ...]


class Spot(NamedTuple):
    """A point of a figure whose arc is kept: a joint by its name, and how far from it in its axes, metres."""

    figure: str
    joint: str
    at: tuple[float, float, float] = (0.0, 0.0, 0.0)
    pencil: str = PENCILS[0]


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


@dataclass(frozen=True, eq=False, repr=False)
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


@dataclass(frozen=True, eq=False, repr=False)
class Take:
    """A variant of the motion: by figure, the curves, and the cards of poses that carry more than keys, by frame.

    traces: earlier curves, kept to compare with and to go back to. order: takes are listed by it, then by name. span: the
    range of a take that is kept aside; that of the take which is worked on is the shot's. left: notes of the proof that are
    left as they are. cycles: loops, by figure. contacts: when limbs are down, by figure, where the animator set it. lanes: clips
    under the keys, by figure, the lowest lane first. instead: channels whose keys count instead of the clips', not on top.
    """

    name: str
    curves: Mapping[str, CurveSet]
    cards: Mapping[str, tuple[Card, ...]] = field(default_factory=dict)
    traces: tuple[Trace, ...] = ()
    order: int = 0
    span: Span | None = None
    left: tuple[LeftNote, ...] = ()
    cycles: Mapping[str, Cycle] = field(default_factory=dict)
    contacts: Mapping[str, Contacts] = field(default_factory=dict)
    lanes: Mapping[str, tuple[Lane, ...]] = field(default_factory=dict)
    instead: Mapping[str, frozenset[str]] = field(default_factory=dict)

    def __post_init__(self) -> None:
        for one in fields(self):
            found = getattr(self, one.name)
            if isinstance(found, Mapping):  # of a figure that has nothing in it there is no entry
                own = {name: value for name, value in found.items() if one.name == "curves" or value}
                object.__setattr__(self, one.name, MappingProxyType(own))

    def with_curves(self, figure: str, curves: CurveSet) -> Take:
        """A copy in which one figure, new or not, moves by these curves."""
        return replace(self, curves={**self.curves, figure: curves})

    def with_cards(self, figure: str, cards: tuple[Card, ...]) -> Take:
        """A copy in which the poses of one figure carry this."""
        return replace(self, cards={**self.cards, figure: cards})

    def with_cycle(self, figure: str, cycle: Cycle | None) -> Take:
        """A copy in which one figure's motion goes round, or no longer does."""
        others = {name: own for name, own in self.cycles.items() if name != figure}
        return replace(self, cycles=others if cycle is None else {**others, figure: cycle})

    def with_contacts(self, figure: str, contacts: Contacts) -> Take:
        """A copy in which the limbs of one figure are down as set."""
        others = {name: own for name, own in self.contacts.items() if name != figure}
        return replace(self, contacts={**others, figure: contacts_of(contacts)} if contacts else others)

    def mapped(self, change: Callable[[CurveSet], CurveSet], where: Callable[[float], float] | None = None) -> Take:
        """A copy in which every figure's curves are changed. `where`, when time changes: the frame of what lay on a frame;
        all that lies on frames goes along."""
        curves = {name: change(found) for name, found in self.curves.items()}
        if where is None:
            return replace(self, curves=curves)
        cards = {name: tuple(card.moved(where) for card in found) for name, found in self.cards.items()}
        span = self.span and Span(where(self.span.first), where(self.span.last), self.span.loops)
        left = tuple(note.moved(where) for note in self.left)
        cycles = {name: cycle.moved(where) for name, cycle in self.cycles.items()}
        contacts = {name: _moved(own, where) for name, own in self.contacts.items()}
        lanes = {name: tuple(lane.moved(where) for lane in own) for name, own in self.lanes.items()}
        return replace(
            self, curves=curves, cards=cards, span=span, left=left, cycles=cycles, contacts=contacts, lanes=lanes
        )

    def without(self, figure: str) -> Take:
        """A copy that holds nothing of a figure."""
        return replace(
            self,
            curves={name: found for name, found in self.curves.items() if name != figure},
            cards={name: found for name, found in self.cards.items() if name != figure},
            traces=tuple(trace for trace in self.traces if trace.figure != figure),
            left=tuple(note for note in self.left if note.figure != figure),
            cycles={name: found for name, found in self.cycles.items() if name != figure},
            contacts={name: found for name, found in self.contacts.items() if name != figure},
            lanes={name: found for name, found in self.lanes.items() if name != figure},
            instead={name: found for name, found in self.instead.items() if name != figure},
        )


def _moved(contacts: Contacts, where: Callable[[float], float]) -> Contacts:
    """Contacts taken along in time."""
    return contacts_of({limb: tuple((where(a), where(b)) for a, b in own) for limb, own in contacts.items()})


@dataclass(frozen=True, eq=False, repr=False)
class Unkeyed:
    """A change of a figure on a frame that the animator has neither keyed nor dropped yet, and the curves before it."""

    figure: str
    frame: float
    before: CurveSet


@dataclass(frozen=True, eq=False, repr=False)
class Shot:
    """The document: an immutable value. Operations return a new one. second: a range kept aside for playing.

    take: the variant that is worked on; takes: the others, kept aside. first, last and loops are the worked on take's.

    retimes_all: whether retiming a pose takes the whole cast and the markers along. on_set: whether feet stand on the meshes of
    the set and of what stands still, not on flat ground.

    unkeyed: changes that stand in the curves but are still to be kept or dropped; files hold them as keys.

    clips: motions kept under names; lanes of takes hold them by those.

    spots: points whose arcs are kept. drawings: what is drawn on the stage, by frame. limits: thresholds of the proof that are
    not the usual ones, by kind. ruler: what lies on the ground to pose by.
    """

    title: str
    cast: tuple[Figure, ...] = ()
    take: Take = field(default_factory=lambda: Take("A", {}))
    markers: tuple[Marker, ...] = ()
    first: float = FIRST_FRAME
    last: float = FIRST_FRAME + 47
    frame_rate: float = 24.0
    groups: tuple[Group, ...] = ()
    second: tuple[float, float] | None = None
    retimes_all: bool = False
    on_set: bool = False
    loops: bool = False
    unkeyed: tuple[Unkeyed, ...] = ()
    takes: tuple[Take, ...] = ()
    spots: tuple[Spot, ...] = ()
    limits: tuple[tuple[str, float], ...] = ()
    drawings: tuple[Drawing, ...] = ()
    clips: tuple[Clip, ...] = ()
    ruler: Ruler | None = None

    def __post_init__(self) -> None:
        if not all(math.isfinite(x) for x in (self.first, self.last, self.frame_rate)):
            raise BadMotion("the shot's range or frame rate is not a finite number.")
        check_range("the shot", self.first, self.last)
        for take in self.takes:
            if take.span is not None:
                check_range(f"the take '{take.name}'", take.span.first, take.span.last)
        if self.second is not None and not (-math.inf < self.second[0] <= self.second[1] < math.inf):
            raise BadMotion("the second range ends before it begins.", advice="Give it a later last frame.")
        if not 1 <= self.frame_rate <= 240:
            raise BadMotion(
                f"a frame rate of {self.frame_rate:g} is not possible.", advice="Use 1 to 240 frames a second."
            )
        frames = [drawing.frame for drawing in self.drawings]
        if any(b <= a for a, b in pairwise(frames)):
            raise BadMotion("two drawings of the shot lie on one frame, or not in their order.")
        check_names("clips", [clip.name for clip in self.clips])
        check_names("figures", [figure.name for figure in self.cast])
        check_names("takes", [take.name for take in self.all_takes])
        for figure in self.cast:
            for take in self.all_takes:
                curves = take.curves.get(figure.name)
                if curves is None or len(curves) != len(figure.rig.channels):
                    raise BadMotion(f"the curves of '{figure.name}' do not fit its rig.")

    def __repr__(self) -> str:
        return f"<Shot {self.title!r} with {', '.join(f.name for f in self.cast) or 'nobody'}>"

    def figure(self, name: str) -> Figure:
        """The figure of that name."""
        for figure in self.cast:
            if figure.name == name:
                return figure
        known = ", ".join(figure.name for figure in self.cast) or "none"
        raise UnknownName(f"there is no figure '{name}' in the shot.", advice=f"Its figures: {known}.")

    def curves(self, name: str) -> CurveSet:
        """The curves of a figure in the shot's take."""
        self.figure(name)
        return self.take.curves[name]

    def with_curves(self, name: str, curves: CurveSet) -> Shot:
        """A copy in which one figure moves by other curves; itself when they are the same."""
        if self.take.curves[name] is curves:
            return self
        return replace(self, take=self.take.with_curves(name, curves))

    def cards(self, name: str) -> tuple[Card, ...]:
        """What the poses of a figure carry besides their keys, by frame."""
        return self.take.cards.get(name, ())

    def with_cards(self, name: str, cards: Iterable[Card]) -> Shot:
        """A copy in which the poses of a figure carry this; of two on one frame the later in the list stays."""
        by_frame = {card.frame: card for card in cards if not card.says_nothing}
        kept = tuple(by_frame[frame] for frame in sorted(by_frame))
        if kept == self.cards(name):
            return self
        return replace(self, take=self.take.with_cards(name, kept))

    def cycle(self, name: str) -> Cycle | None:
        """The loop that a figure goes round in the shot's take."""
        return self.take.cycles.get(name)

    def with_cycle(self, name: str, cycle: Cycle | None) -> Shot:
        """A copy in which a figure goes round, or no longer does."""
        return self if self.cycle(name) == cycle else replace(self, take=self.take.with_cycle(name, cycle))

    def contacts(self, name: str) -> Contacts:
        """When limbs of a figure are down, of those where the animator set it."""
        return self.take.contacts.get(name, {})

    def with_contacts(self, name: str, contacts: Contacts) -> Shot:
        """A copy in which limbs of a figure are down as set."""
        return replace(self, take=self.take.with_contacts(name, contacts))

    def clip(self, name: str) -> Clip:
        """The clip of that name."""
        for clip in self.clips:
            if clip.name == name:
                return clip
        known = ", ".join(clip.name for clip in self.clips) or "none yet"
        raise UnknownName(f"there is no clip '{name}'.", advice=f"Clips: {known}.")

    def lanes(self, name: str) -> tuple[Lane, ...]:
        """The lanes of a figure in the shot's take, the lowest first."""
        return self.take.lanes.get(name, ())

    def with_lanes(self, name: str, lanes: Iterable[Lane]) -> Shot:
        """A copy in which a figure has these lanes."""
        others = {figure: own for figure, own in self.take.lanes.items() if figure != name}
        wanted = tuple(lanes)
        return replace(self, take=replace(self.take, lanes={**others, name: wanted} if wanted else others))

    def with_figure(self, figure: Figure, curves: CurveSet | None = None) -> Shot:
        """A copy with one figure more."""
        motion = curves if curves is not None else figure.no_motion()
        take = self.take.with_curves(figure.name, motion)
        others = tuple(t.with_curves(figure.name, figure.no_motion()) for t in self.takes)
        return replace(self, cast=(*self.cast, figure), take=take, takes=others)

    @property
    def all_takes(self) -> tuple[Take, ...]:
        """Every take, by name."""
        return tuple(sorted((self.take, *self.takes), key=lambda take: (take.order, take.name)))

    @property
    def take_aside(self) -> Take:
        """The take that is worked on as it is kept aside."""
        return replace(self.take, span=Span(self.first, self.last, self.loops))

    def span_of(self, take: Take) -> Span:
        """The range of one of the takes."""
        return take.span or Span(self.first, self.last, self.loops)

    def showing(self, take: Take) -> Shot:
        """This shot with one take alone."""
        return replace(self, take=replace(take, span=None), takes=(), unkeyed=(), **self.span_of(take)._asdict())

    def with_take(self, name: str) -> Shot:
        """A copy in which the take of that name is worked on; itself when it is already."""
        if name == self.take.name:
            return self
        chosen = next((take for take in self.takes if take.name == name), None)
        if chosen is None:
            known = ", ".join(take.name for take in self.all_takes)
            raise UnknownName(f"there is no take '{name}'.", advice=f"Takes: {known}.")
        others = tuple(self.take_aside if take is chosen else take for take in self.takes)
        return replace(self.showing(chosen), takes=others)

    @property
    def whole_frames(self) -> range:
        """The whole frames of the range."""
        return range(math.ceil(self.first), math.floor(self.last) + 1)
