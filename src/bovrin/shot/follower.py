"""Motion by rule: followers turn and move controls on top of what keys say. What each kind is told is a channel of its own."""

from __future__ import annotations

import math
from typing import NamedTuple

from bovrin.errors import BadMotion
from bovrin.frozen import frozen_equal
from bovrin.shot.rig import Channel, Control, ControlKind, Part, Rig, Unit

WEIGHT = "weight"
GROUND_BELOW = ""
"""Among what a spring stays out of: the ground."""


class Setting(NamedTuple):
    """What a follower is told: the name of its channel, what it measures, what it is at first, within what it counts, and how far
    its slider goes.

    frames: whether it is so many frames long.
    """

    name: str
    unit: Unit
    first: float
    low: float
    high: float
    most: float
    words: str
    frames: bool = False

    @property
    def channel(self) -> Channel:
        """The channel that holds it."""
        return Channel(self.name, self.name, self.unit, self.first)


def _times(name: str, first: float, high: float, most: float, words: str) -> Setting:
    return Setting(name, Unit.NUMBER, first, 0.0, high, most, words, frames=True)


_DEGREE = math.pi / 180
_WEIGHT = Setting(WEIGHT, Unit.AMOUNT, 1.0, 0.0, 1.0, 1.0, "How far it counts: at 0 % the keys alone do")
_OFTEN = Setting(
    "how often", Unit.NUMBER, 1.0, 0.0, 60.0, 4.0, "How often a second; a loop takes the nearest that closes"
)
_PHASE = Setting("phase", Unit.ANGLE, 0.0, -1e6, 1e6, 2 * math.pi, "Where in its round it begins")
_AXIS = tuple(
    Setting(name, Unit.NUMBER, first, -1e6, 1e6, 1.0, words)
    for name, first, words in (
        ("about x", 0.0, "How much of it goes about, or along, the line across the figure"),
        ("about y", 1.0, "How much of it goes about, or along, the upright"),
        ("about z", 0.0, "How much of it goes about, or along, the line from back to front"),
    )
)
_DELAY = _times("delay", 2.0, 1e4, 12.0, "So many frames later from link to link, so that it goes along as a wave")
_END = Setting("at the end", Unit.AMOUNT, 1.0, 0.0, 100.0, 2.0, "What the last link gets of what the first one does")

KINDS: dict[str, tuple[Setting, ...]] = {
    "swing": (
        _WEIGHT,
        Setting("how far", Unit.ANGLE, 20 * _DEGREE, 0.0, 100.0, 60 * _DEGREE, "How far it turns to either side"),
        _OFTEN,
        _PHASE,
        *_AXIS,
        _DELAY,
        _END,
    ),
    "bob": (
        _WEIGHT,
        Setting("how far", Unit.LENGTH, 0.03, 0.0, 1e4, 0.3, "How far it moves to either side"),
        _OFTEN,
        _PHASE,
        *_AXIS,
        _DELAY,
        _END,
    ),
    "turn": (_WEIGHT, _OFTEN, _PHASE, *_AXIS, _DELAY, _END),
    "noise": (
        _WEIGHT,
        Setting("turns by", Unit.ANGLE, 3 * _DEGREE, 0.0, 100.0, 20 * _DEGREE, "How far it turns, to any side"),
        Setting("moves by", Unit.LENGTH, 0.0, 0.0, 1e4, 0.1, "How far it moves, to any side"),
        _OFTEN._replace(first=2.0, words="How often a second at most it goes to and fro"),
        Setting("seed", Unit.NUMBER, 1.0, 0.0, 1e6, 20.0, "Another whole number, another noise"),
        _DELAY,
        _END,
    ),
    "spring": (
        _WEIGHT,
        _times("lags by", 3.0, 1e4, 12.0, "How many frames it comes after what carries it"),
        _times("settles in", 18.0, 1e5, 72.0, "How many frames it needs to come to rest; no fewer than its lag needs"),
        Setting("sways", Unit.NUMBER, 2.0, 0.0, 60.0, 8.0, "How often it passes over before it rests"),
        Setting("gravity", Unit.AMOUNT, 0.0, 0.0, 100.0, 2.0, "How strongly it is drawn down: 100 % is 9.81 m/s²"),
        Setting("stiff end", Unit.AMOUNT, 1.0, 0.05, 20.0, 2.0, "How much quicker the last link is than the first"),
        Setting("keeps off", Unit.LENGTH, 0.03, 0.0, 1e3, 0.2, "How far its links stay away from what it stays out of"),
    ),
}
"""What each kind of follower is told, in the order of its channels. Sources: a spring is the damped oscillator of any textbook
of mechanics; how it is told stands in `figure.stages.springs`."""


class Preset(NamedTuple):
    """A kind of follower and what it is told, metres and radians; `words` say what it is for."""

    kind: str
    settings: dict[str, float]
    words: str


PRESETS: dict[str, Preset] = {
    "tail": Preset(
        "spring",
        {"lags by": 3.0, "settles in": 20.0, "sways": 1.5, "stiff end": 0.7},
        "It comes after, passes over once or twice, its tip loosest",
    ),
    "ear": Preset(
        "spring",
        {"lags by": 1.0, "settles in": 10.0, "sways": 2.0},
        "Short and springy",
    ),
    "rope": Preset(
        "spring",
        {"lags by": 2.0, "settles in": 48.0, "sways": 4.0, "gravity": 1.0, "stiff end": 0.8},
        "It hangs, and swings for long",
    ),
    "heavy coat": Preset(
        "spring",
        {"lags by": 4.0, "settles in": 16.0, "sways": 0.5, "gravity": 0.5},
        "It drags, and hardly sways",
    ),
    "antenna": Preset(
        "spring",
        {"lags by": 0.5, "settles in": 24.0, "sways": 6.0},
        "Stiff, and quivering for long",
    ),
    "lantern": Preset(
        "swing",
        {"how far": 8 * _DEGREE, "how often": 0.6, "about y": 0.0, "about x": 0.3, "about z": 1.0},
        "On its hook, slowly to and fro",
    ),
    "breath": Preset(
        "swing",
        {"how far": 1.5 * _DEGREE, "how often": 0.3, "about y": 0.0, "about x": 1.0, "delay": 1.0},
        "A chest that hardly rises",
    ),
}
"""What followers are told to begin with, by what they are for: plain settings, to be changed like any others."""


@frozen_equal
class Follower:
    """A rule for some controls, by name, from the first link on. Its settings are the channels of a control of its own name.

    on: whether it counts. clear_of: joints of its figure, or GROUND_BELOW, that a spring stays out of.
    """

    name: str
    kind: str
    controls: tuple[str, ...]
    on: bool = True
    clear_of: tuple[str, ...] = ()

    def __post_init__(self) -> None:
        settings_of(self.kind)
        if not self.controls or len(set(self.controls)) < len(self.controls):
            raise BadMotion(f"'{self.name}' moves nothing, or something twice.", advice="Name each control once.")
        if self.clear_of and self.kind != "spring":
            raise BadMotion(f"'{self.name}' is no spring, and stays out of nothing.")


def settings_of(kind: str) -> tuple[Setting, ...]:
    """What a kind of follower is told. BadMotion where there is no such kind."""
    if kind not in KINDS:
        raise BadMotion(f"there is no follower of the kind '{kind}'.", advice=f"Kinds: {', '.join(KINDS)}.")
    return KINDS[kind]


Followers = tuple[tuple[str, str], ...]
"""The followers that a figure has channels for: names and kinds."""


def with_followers(rig: Rig, followers: Followers) -> Rig:
    """A rig with these followers' controls alone, each in a part of its own, after all that the figure itself has."""
    bare = without_followers(rig)
    if not followers:
        return bare
    taken = {control.name for control in bare.controls} | {part.name for part in bare.parts}
    for name, kind in followers:
        settings_of(kind)
        if not name.strip() or "/" in name or name in taken:
            raise BadMotion(
                f"a follower cannot be called '{name}'.", advice="Give it a name of its own, without a '/'."
            )
        taken.add(name)
    at = len(bare.controls)
    controls = tuple(
        Control(name, ControlKind.FOLLOWER, 0, tuple(one.channel for one in KINDS[kind])) for name, kind in followers
    )
    parts = tuple(Part(name, (at + n,)) for n, (name, _) in enumerate(followers))
    return _changed(bare, (*bare.controls, *controls), (*bare.parts, *parts))


def without_followers(rig: Rig) -> Rig:
    """The rig that the figure has by itself."""
    own = tuple(c for c in rig.controls if c.kind is not ControlKind.FOLLOWER)
    if len(own) == len(rig.controls):
        return rig
    return _changed(rig, own, tuple(p for p in rig.parts if not p.controls or min(p.controls) < len(own)))


def _changed(rig: Rig, controls: tuple[Control, ...], parts: tuple[Part, ...]) -> Rig:
    return Rig(rig.joints, controls, parts, rig.limbs, rig.follows, rig.pairs, rig.bends, rig.setup)
