"""Rigs as values: joints, controls with their channels, limbs, parts. Solving them is `bovrin.figure`."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
from dataclasses import field, replace
from enum import Enum, StrEnum
from functools import cached_property

from bovrin.errors import BadFigure, UnknownName
from bovrin.frozen import frozen

Vector = tuple[float, float, float]
MORPH = "morph "
"""How the technical name of an amount of a mesh's shape begins."""
Quaternion = tuple[float, float, float, float]
HANGS = "hangs"
"""The technical name, or its beginning, of how far a control hangs on something."""


class Unit(Enum):
    """What a channel measures; inside the program metres and radians. A plain number eases; a switch, a choice (one of the
    channel's names) and a rank hold until their next key, and are never mixed."""

    LENGTH = "length"
    ANGLE = "angle"
    AMOUNT = "amount"
    SWITCH = "switch"
    NUMBER = "number"
    CHOICE = "choice"
    RANK = "rank"

    @property
    def holds(self) -> bool:
        """Whether a channel of it stays as it is until its next key."""
        return self in HOLDING


HOLDING = (Unit.SWITCH, Unit.CHOICE, Unit.RANK)
"""What holds until its next key."""


class ControlKind(Enum):
    """What a control drives."""

    WHOLE = "whole"
    JOINT = "joint"
    GOAL = "goal"
    POLE = "pole"
    GAZE = "gaze"
    FOLLOWER = "follower"


class ChannelRole(StrEnum):
    """What a channel does for its control besides moving and turning it: its technical name."""

    REACH = "reach"
    ANCHOR = "anchor"
    STRETCH = "stretch"
    SIZE = "size"
    TWIST = "twist"
    LENGTH = "length"
    HEEL = "heel"
    BALL = "ball"
    LOOK = "look"
    SHARE = "head share"
    DRAWING = "drawing"
    ORDER = "order"
    FLIP = "flip"
    SKEW = "skew"


class Side(StrEnum):
    """On which side of a figure something is, as it sees itself."""

    LEFT = "left"
    RIGHT = "right"
    MIDDLE = ""


@frozen
class Channel:
    """One animated number of a control; `technical` is its plain geometric name. choices: what the numbers of a choice stand
    for, from 0."""

    name: str
    technical: str
    unit: Unit
    default: float = 0.0
    choices: tuple[str, ...] = ()


@frozen
class Joint:
    """A node of the skeleton: rest translation (metres) and rotation (xyzw) relative to its parent (-1: none)."""

    name: str
    parent: int
    translation: Vector
    rotation: Quaternion = (0.0, 0.0, 0.0, 1.0)


@frozen
class Control:
    """What an animator keys. `joint` is the joint it drives or, for goals and poles, the joint it is shown at.

    `order` names the axes of the rotation product from the left: "YXZ" is Ry·Rx·Rz.
    """

    name: str
    kind: ControlKind
    joint: int
    channels: tuple[Channel, ...]
    order: str = "YXZ"
    limb: int = -1


@frozen
class Foot:
    """Roll points of a foot at rest, metres, relative to the ankle in world axes, and the toe joint that stays flat: about the
    ball, which is where that joint is, the toes neither turn nor slide. Of a paw without toes it is the limb's end, and it does
    not roll."""

    heel: Vector
    ball: Vector
    toes: int


@frozen
class Limb:
    """Three joints that can be posed one by one, or by a goal with a pole for the middle joint.

    `goal` and `pole` are control indices. `pole_rest` is the pole's rest place in the figure's rest space (metres) and
    `pole_anchors` the joints that carry it along (their average).
    """

    name: str
    upper: int
    middle: int
    end: int
    goal: int
    pole: int
    pole_rest: Vector
    pole_anchors: tuple[int, ...]
    foot: Foot | None = None

    @property
    def rolls(self) -> bool:
        """Whether it has a foot that rolls over its toes."""
        return self.foot is not None and self.foot.toes != self.end


@frozen
class Follow:
    """A helper joint that takes a share of another joint's turn, so that skin keeps its volume. `twist`: only about y."""

    joint: int
    leader: int
    share: float
    twist: bool = False


@frozen
class Bend:
    """How a joint gives way when the whole body is posed. Joints without one stay as they are when others are dragged.

    `stiffness`: what a radian (or a metre) costs against other joints; `low` and `high`: the least and the most of the
    turn away from rest, a rotation vector in the joint's own axes, radians. `move`: what a metre of the joint's own movement
    costs; 0 where it cannot move.
    """

    joint: int
    stiffness: Vector
    low: Vector = (-3.2, -3.2, -3.2)
    high: Vector = (3.2, 3.2, 3.2)
    move: float = 0.0


@frozen
class Part:
    """A named group of controls."""

    name: str
    controls: tuple[int, ...]
    side: Side = Side.MIDDLE


@frozen
class Rig:
    """Joints, controls and rules of a figure. Parents stand before their children.

    setup: what a brought skeleton was taken for when its rig was made, as JSON; "" where nobody corrected the guess.
    """

    joints: tuple[Joint, ...]
    controls: tuple[Control, ...]
    parts: tuple[Part, ...]
    limbs: tuple[Limb, ...] = ()
    follows: tuple[Follow, ...] = ()
    pairs: tuple[tuple[str, str], ...] = field(default=())
    bends: tuple[Bend, ...] = ()
    setup: str = ""

    def __repr__(self) -> str:
        return f"<Rig of {len(self.joints)} joints, {len(self.controls)} controls>"

    def __post_init__(self) -> None:
        self._check_joints()
        self._check_controls()

    def _check_joints(self) -> None:
        names = [joint.name for joint in self.joints]
        if len(set(names)) != len(names):
            raise BadFigure("two joints of the rig share a name.")
        for index, joint in enumerate(self.joints):
            if not -1 <= joint.parent < index:
                raise BadFigure(f"joint '{joint.name}' stands before its parent, or in a circle.")
        for rule in self.follows:
            if not (0 <= rule.joint < len(names) and 0 <= rule.leader < len(names)):
                raise BadFigure("a helper joint of the rig is not there.")

    def _check_controls(self) -> None:
        names = [control.name for control in self.controls]
        if len(set(names)) != len(names):
            raise BadFigure("two controls of the rig share a name.")
        for control in self.controls:
            if not 0 <= control.joint < len(self.joints):
                raise BadFigure(f"control '{control.name}' drives a joint that is not there.")
            if sorted(control.order) != ["X", "Y", "Z"]:
                raise BadFigure(f"control '{control.name}' has the rotation order '{control.order}'.")
        for part in self.parts:
            if any(not 0 <= i < len(names) for i in part.controls):
                raise BadFigure(f"part '{part.name}' names a control that is not there.")
        if any(not 0 <= bend.joint < len(self.joints) for bend in self.bends):
            raise BadFigure("the rig says how a joint bends that is not there.")
        for limb in self.limbs:
            if not all(0 <= j < len(self.joints) for j in (limb.upper, limb.middle, limb.end, *limb.pole_anchors)):
                raise BadFigure(f"limb '{limb.name}' names a joint that is not there.")
            if not all(0 <= c < len(names) for c in (limb.goal, limb.pole)):
                raise BadFigure(f"limb '{limb.name}' names a control that is not there.")

    @cached_property
    def channel_names(self) -> tuple[str, ...]:
        """All channels as "control/channel", in the order of a CurveSet (C,)."""
        return tuple(f"{c.name}/{ch.name}" for c in self.controls for ch in c.channels)

    @cached_property
    def channels(self) -> tuple[Channel, ...]:
        """All channels (C,)."""
        return tuple(ch for c in self.controls for ch in c.channels)

    @cached_property
    def defaults(self) -> tuple[float, ...]:
        """The default of every channel (C,)."""
        return tuple(ch.default for ch in self.channels)

    @cached_property
    def morph_columns(self) -> tuple[int, ...]:
        """The channels that are amounts of meshes' shapes: those whose technical name begins with "morph" (K,)."""
        return tuple(i for i, channel in enumerate(self.channels) if channel.technical.startswith(MORPH))

    @cached_property
    def morph_names(self) -> dict[str, int]:
        """The place in `morph_columns` of each shape's name."""
        return {self.channels[i].technical.removeprefix(MORPH): n for n, i in enumerate(self.morph_columns)}

    @cached_property
    def of_followers(self) -> frozenset[int]:
        """The channels that tell followers what to do; they are no part of a pose."""
        rules = [i for i, control in enumerate(self.controls) if control.kind is ControlKind.FOLLOWER]
        return frozenset(c for i in rules for c in self.span(i))

    @cached_property
    def _channel_index(self) -> dict[str, int]:
        return {name: i for i, name in enumerate(self.channel_names)}

    @cached_property
    def _spans(self) -> tuple[range, ...]:
        spans, at = [], 0
        for control in self.controls:
            spans.append(range(at, at + len(control.channels)))
            at += len(control.channels)
        return tuple(spans)

    @cached_property
    def _control_index(self) -> dict[str, int]:
        return {control.name: i for i, control in enumerate(self.controls)}

    @cached_property
    def _part_of(self) -> dict[int, int]:
        return {c: p for p, part in enumerate(self.parts) for c in part.controls}

    def channel(self, name: str) -> int:
        """The index of "control/channel"."""
        if name not in self._channel_index:
            raise UnknownName(f"there is no channel '{name}'.", advice=_did_you_mean(name, self.channel_names))
        return self._channel_index[name]

    def control(self, name: str) -> int:
        """The index of a control."""
        if name not in self._control_index:
            raise UnknownName(f"there is no control '{name}'.", advice=_did_you_mean(name, tuple(self._control_index)))
        return self._control_index[name]

    def part(self, name: str) -> int:
        """The index of a part."""
        for index, part in enumerate(self.parts):
            if part.name == name:
                return index
        raise UnknownName(f"there is no part '{name}'.", advice="Parts: " + ", ".join(p.name for p in self.parts) + ".")

    def joint(self, name: str) -> int:
        """The index of a joint."""
        for index, joint in enumerate(self.joints):
            if joint.name == name:
                return index
        raise UnknownName(f"there is no joint '{name}'.")

    def with_orders(self, orders: Mapping[str, str]) -> Rig:
        """A rig in which some controls, by name, have another rotation order."""
        controls = tuple(replace(c, order=orders.get(c.name, c.order)) for c in self.controls)
        return replace(self, controls=controls)

    def with_hooks(self, hooks: Mapping[str, int]) -> Rig:
        """A rig in which some controls, by name, have so many channels that say how far they hang on something."""

        def hooked(control: Control) -> Control:
            there = sum(one.technical.startswith(HANGS) for one in control.channels)
            words = [HANGS if n == 0 else f"{HANGS} {n + 1}" for n in range(there, hooks.get(control.name, there))]
            more = tuple(Channel(name, name, Unit.SWITCH) for name in words)
            return replace(control, channels=control.channels + more) if more else control

        for name in hooks:
            self.control(name)
        controls = tuple(map(hooked, self.controls))
        same = all(a is b for a, b in zip(controls, self.controls, strict=True))
        return self if same else replace(self, controls=controls)

    def span(self, control: int) -> range:
        """The channel indices of a control."""
        return self._spans[control]

    def part_of(self, control: int) -> int:
        """The part a control belongs to, or -1."""
        return self._part_of.get(control, -1)

    def parts_of(self, controls: Iterable[int]) -> list[str]:
        """The names of the parts that some controls belong to, in the rig's order."""
        chosen = set(controls)
        return [part.name for part in self.parts if not chosen.isdisjoint(part.controls)]

    def part_channels(self, part: int) -> tuple[int, ...]:
        """The channel indices of a part."""
        return tuple(i for c in self.parts[part].controls for i in self.span(c))

    def other_side(self, control: int) -> int | None:
        """The control of the other side, or None in the middle."""
        name = self.controls[control].name
        for left, right in self.pairs:
            if name in (left, right):
                return self.control(right if name == left else left)
        return None


def _did_you_mean(name: str, known: tuple[str, ...]) -> str:
    word = name.split("/", maxsplit=1)[0].lower()
    close = [k for k in known if word and word in k.lower()][:4]
    return f"Perhaps {' or '.join(repr(k) for k in close)}?" if close else ""
