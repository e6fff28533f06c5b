"""The shot: cast, takes, markers, range and frame rate."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import field, replace
from itertools import pairwise
from typing import NamedTuple

from bovrin.caching import cached_by_identity
from bovrin.errors import BadMotion, UnknownName
from bovrin.frozen import frozen, frozen_equal
from bovrin.shot.attachment import TO_GROUND, Attachment
from bovrin.shot.checks import check_names, check_range
from bovrin.shot.clip import Clip, Lane
from bovrin.shot.curve import NO_KEYS, CurveSet
from bovrin.shot.cycle import Contacts, Cycle
from bovrin.shot.drawing import Drawing
from bovrin.shot.follower import GROUND_BELOW, Follower, Followers
from bovrin.shot.model import Model
from bovrin.shot.rig import Rig, Unit
from bovrin.shot.ruler import Ruler
from bovrin.shot.take import Card, Span, Take

FIRST_FRAME = 101.0


SET = "set"
"""What the only part of a figure is called that is a set."""
CHANGED = "#changed"
"""How the source of a figure ends that is no longer as its file has it; it is written anew when the shot is saved."""


@frozen
class Figure:
    """Anything animated. `source` is where its file lies: relative to the project, or "cast:NAME" when shipped.

    orders: controls whose rotation order the animator changed from the file's, and the order they have now. hooks: controls
    that have channels for hanging on something, which the file's have not, and how many. followers: those that the rig has
    channels for besides the file's, by name and kind.
    """

    name: str
    rig: Rig
    model: Model
    source: str
    colour: tuple[float, float, float]
    orders: tuple[tuple[str, str], ...] = ()
    hooks: tuple[tuple[str, int], ...] = ()
    followers: Followers = ()

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


@frozen_equal
class Marker:
    """Words over a stretch of frames, or at a moment; sections name parts of the shot, dialogue is what is said."""

    start: float
    end: float
    words: str
    kind: str = MARKER_KINDS[0]
    pencil: str = PENCILS[0]


@frozen_equal
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


@frozen
class Unkeyed:
    """A change of a figure on a frame that the animator has neither keyed nor dropped yet, and the curves before it."""

    figure: str
    frame: float
    before: CurveSet


@frozen
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
                acting = take.acting.get(figure.name)
                if acting is None or len(acting.curves) != len(figure.rig.channels):
                    raise BadMotion(f"the curves of '{figure.name}' do not fit its rig.")
                if acting.attachments:
                    self._check_attachments(figure, acting.attachments)
                if acting.followers:
                    _check_followers(figure, acting.followers)

    def _check_attachments(self, figure: Figure, attachments: tuple[Attachment, ...]) -> None:
        for one in attachments:
            figure.rig.channel(one.column)
            if one.carrier != TO_GROUND:
                self.figure(one.carrier).rig.joint(one.joint)

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
        curves = held(self.figure(name).rig, curves)
        return replace(self, take=self.take.acted(name, curves=curves))

    def cards(self, name: str) -> tuple[Card, ...]:
        """What the poses of a figure carry besides their keys, by frame."""
        return self.take.of(name).cards

    def with_cards(self, name: str, cards: Iterable[Card]) -> Shot:
        """A copy in which the poses of a figure carry this; of two on one frame the later in the list stays."""
        by_frame = {card.frame: card for card in cards if not card.says_nothing}
        kept = tuple(by_frame[frame] for frame in sorted(by_frame))
        if kept == self.cards(name):
            return self
        return replace(self, take=self.take.acted(name, cards=kept))

    def cycle(self, name: str) -> Cycle | None:
        """The loop that a figure goes round in the shot's take."""
        return self.take.of(name).cycle

    def with_cycle(self, name: str, cycle: Cycle | None) -> Shot:
        """A copy in which a figure goes round, or no longer does."""
        return self if self.cycle(name) == cycle else replace(self, take=self.take.acted(name, cycle=cycle))

    def contacts(self, name: str) -> Contacts:
        """When limbs of a figure are down, of those where the animator set it."""
        return self.take.of(name).contacts

    def with_contacts(self, name: str, contacts: Contacts) -> Shot:
        """A copy in which limbs of a figure are down as set."""
        return replace(self, take=self.take.acted(name, contacts=contacts))

    def clip(self, name: str) -> Clip:
        """The clip of that name."""
        for clip in self.clips:
            if clip.name == name:
                return clip
        known = ", ".join(clip.name for clip in self.clips) or "none yet"
        raise UnknownName(f"there is no clip '{name}'.", advice=f"Clips: {known}.")

    def lanes(self, name: str) -> tuple[Lane, ...]:
        """The lanes of a figure in the shot's take, the lowest first."""
        return self.take.of(name).lanes

    def with_lanes(self, name: str, lanes: Iterable[Lane]) -> Shot:
        """A copy in which a figure has these lanes."""
        return replace(self, take=self.take.acted(name, lanes=tuple(lanes)))

    def with_figure(self, figure: Figure, curves: CurveSet | None = None) -> Shot:
        """A copy with one figure more."""
        motion = curves if curves is not None else figure.no_motion()
        take = self.take.acted(figure.name, curves=motion)
        others = tuple(t.acted(figure.name, curves=figure.no_motion()) for t in self.takes)
        return replace(self, cast=(*self.cast, figure), take=take, takes=others)

    def attachments(self, name: str) -> tuple[Attachment, ...]:
        """What of a figure hangs on something in the shot's take."""
        return self.take.of(name).attachments

    def with_attachments(self, name: str, attachments: Iterable[Attachment]) -> Shot:
        """A copy in which a figure has these attachments."""
        return replace(self, take=self.take.acted(name, attachments=tuple(attachments)))

    def followers(self, name: str) -> tuple[Follower, ...]:
        """What of a figure moves by rule in the shot's take, in the order in which rules are added."""
        return self.take.of(name).followers

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


@cached_by_identity
def _choosing(rig: Rig) -> tuple[int, ...]:
    """The channels that choose or rank something: their keys hold, whatever is asked of them."""
    return tuple(i for i, channel in enumerate(rig.channels) if channel.unit in (Unit.CHOICE, Unit.RANK))


def held(rig: Rig, curves: CurveSet) -> CurveSet:
    """Curves of which those that choose or rank something hold."""
    chosen = _choosing(rig)
    return curves.replaced({n: curves[n].holding() for n in chosen}) if chosen else curves


def _check_followers(figure: Figure, followers: tuple[Follower, ...]) -> None:
    if len({one.name for one in followers}) < len(followers):
        raise BadMotion(f"two followers of '{figure.name}' have one name.")
    for one in followers:
        if (one.name, one.kind) not in figure.followers:
            raise BadMotion(f"'{figure.name}' has no channels for the follower '{one.name}'.")
        for name in one.controls:
            figure.rig.control(name)
        for name in one.clear_of:
            if name != GROUND_BELOW:
                figure.rig.joint(name)
