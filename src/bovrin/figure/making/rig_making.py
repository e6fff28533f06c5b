"""A rig with controls for a skeleton whose build was guessed: parts, pairs, reach for every limb, anchors, feet."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.brought.guess import Guess, LimbGuess
from bovrin.figure.brought.joint_tree import JointTree, words_of
from bovrin.figure.stages.gaze import GAZE_CHANNELS, eyes_among
from bovrin.shot import Channel, ChannelRole, Control, ControlKind, Foot, Joint, Limb, Part, Rig, Unit

Floats = NDArray[np.float64]

MOVE = tuple(Channel(n, f"translate {a}", Unit.LENGTH) for n, a in (("across", "x"), ("up", "y"), ("forward", "z")))
TURN = tuple(Channel(n, f"rotate {a}", Unit.ANGLE) for n, a in (("turn", "y"), ("tilt", "x"), ("roll", "z")))
SHAPE = tuple(Channel(n, n, Unit.AMOUNT, 1.0) for n in (ChannelRole.STRETCH, ChannelRole.SIZE))
ANCHOR = Channel("anchor", ChannelRole.ANCHOR, Unit.SWITCH)
PLANTED = Channel("anchor", ChannelRole.ANCHOR, Unit.SWITCH, 1.0)
BONES = tuple(
    Channel(f"{bone} {what}", f"{bone} {what}", unit, rest)
    for what, unit, rest in ((ChannelRole.TWIST, Unit.ANGLE, 0.0), (ChannelRole.LENGTH, Unit.AMOUNT, 1.0))
    for bone in ("upper", "lower")
)
NEAR_GROUND = 0.3
"""The share of a leg's height under which its end is a foot."""
ROLLS = tuple(Channel(role.value, role, Unit.ANGLE) for role in (ChannelRole.HEEL, ChannelRole.BALL))
HELPERS = {"twist", "half", "helper", "end", "nub"}
BENDS = {
    "leg": ("foot", "knee"),
    "arm": ("hand", "elbow"),
    "wing": ("wing tip", "wing bend"),
    "fin": ("fin tip", "fin bend"),
}
"""What a limb's end and middle are called."""


def make_rig(
    joints: tuple[Joint, ...],
    guess: Guess,
    orders: Mapping[int, str] | None = None,
    *,
    reach: bool = True,
    gaze: bool = True,
) -> Rig:
    """The rig of a guessed build. Each joint that is posed has a control of its own name; limbs can be posed by their ends.

    orders: rotation orders by joint, "YXZ" where none is given. reach: whether limbs reach from the start. gaze: whether
    eyes, where there are some, look at a place.
    """
    return _Making(joints, guess, orders or {}, reach=reach, gaze=gaze).rig()


ORDER = "YXZ"
"""The rotation order of a control when nothing else is asked for."""


class _Making:
    """Collects controls and parts."""

    def __init__(
        self, joints: tuple[Joint, ...], guess: Guess, orders: Mapping[int, str], *, reach: bool, gaze: bool
    ) -> None:
        self.gaze = gaze
        self.tree, self.guess, self.orders = JointTree(joints), guess, orders
        self.reach = Channel("reach", ChannelRole.REACH, Unit.SWITCH, 1.0 if reach else 0.0)
        self.controls: list[Control] = []
        self.parts: list[Part] = []
        self.limbs: list[Limb] = []
        self._taken: set[str] = set()

    def rig(self) -> Rig:
        """Everything put together."""
        self._add_body()
        for number, limb in enumerate(self.guess.limbs):
            self._add_limb(number, limb)
        self._add_chains()
        return Rig(
            joints=self.tree.joints,
            controls=tuple(self.controls),
            parts=tuple(self.parts),
            limbs=tuple(self.limbs),
            pairs=self._pairs(),
        )

    def _add(self, name: str, kind: ControlKind, joint: int, channels: tuple[Channel, ...], limb: int = -1) -> int:
        free = (
            name
            if name not in self._taken
            else next(f"{name} {n}" for n in range(2, 999) if f"{name} {n}" not in self._taken)
        )
        self._taken.add(free)
        self.controls.append(Control(free, kind, joint, channels, self.orders.get(joint, ORDER), limb))
        return len(self.controls) - 1

    def _joint(self, joint: int, *more: Channel, limb: int = -1) -> int:
        return self._add(self.tree.names[joint], ControlKind.JOINT, joint, (*TURN, *more), limb)

    def _add_body(self) -> None:
        guess = self.guess
        body = [self._add("whole figure", ControlKind.WHOLE, guess.root, (*MOVE, *TURN, *SHAPE))]
        if guess.hips != guess.root:
            body.append(self._add(self.tree.names[guess.hips], ControlKind.JOINT, guess.hips, (*MOVE, *TURN, ANCHOR)))
        body += [self._joint(j, *((ANCHOR,) if j == guess.spine[-1] else ())) for j in guess.spine]
        head = [self._joint(j) for j in guess.neck]
        if guess.head >= 0:
            head.append(self._joint(guess.head, ANCHOR))
            head += [self._joint(j) for j in self._posed_below(guess.head)]
            eyes = eyes_among(self.tree.joints) if self.gaze else ()
            if eyes and self.tree.joints[eyes[0]].parent == guess.head:
                head.append(self._add("gaze", ControlKind.GAZE, guess.head, GAZE_CHANNELS))
        self.parts.append(Part("body", tuple(body)))
        if head:
            self.parts.append(Part("head", tuple(head)))

    def _posed_below(self, joint: int) -> list[int]:
        """What hangs on a joint and is nothing else: a face, hair, ears; helpers are left out."""
        rest = set(self.guess.rest)
        return [j for j in self.tree.below(joint) if j in rest and not set(words_of(self.tree.names[j])) & HELPERS]

    def _add_limb(self, number: int, limb: LimbGuess) -> None:
        plain = limb.kind.split()[-1]
        word = f"{limb.side} {limb.kind}".strip()
        end_word, bend_word = BENDS[plain]
        prefix = word.removesuffix(plain).strip()
        digits = [j for chain in limb.digits for j in chain if not set(words_of(self.tree.names[j])) & HELPERS]
        foot = self._foot(limb) if plain == "leg" else None
        rolls = ROLLS if foot is not None and foot.toes != limb.end else ()
        anchor = PLANTED if plain == "leg" else ANCHOR
        goal = self._add(
            f"{prefix} {end_word} goal".strip(),
            ControlKind.GOAL,
            limb.end,
            (*MOVE, *TURN, *rolls, self.reach, anchor),
            number,
        )
        pole = self._add(
            f"{prefix} {bend_word}".strip(), ControlKind.POLE, limb.middle, (*MOVE, *BONES, ANCHOR), number
        )
        own = [goal, pole]
        if limb.shoulder >= 0:
            own.append(self._joint(limb.shoulder))
        own += [self._joint(j, limb=number) for j in (limb.upper, limb.middle, limb.end)]
        if plain == "leg":
            own += [self._joint(j) for j in digits]
        self.parts.append(Part(word, tuple(own), limb.side))
        if digits and plain != "leg":
            self.parts.append(Part(f"{prefix} {end_word}".strip(), tuple(self._joint(j) for j in digits), limb.side))
        self.limbs.append(self._limb(word, limb, goal, pole, foot))

    def _limb(self, word: str, limb: LimbGuess, goal: int, pole: int, foot: Foot | None) -> Limb:
        start, bend, stop = (self.tree.places[j] for j in (limb.upper, limb.middle, limb.end))
        carrier = self.tree.joints[limb.upper].parent
        carriers = (carrier,) if limb.kind.split()[-1] != "leg" else (carrier, limb.end)
        place = pole_place(start, bend, stop, leg=len(carriers) > 1)
        return Limb(
            name=word,
            upper=limb.upper,
            middle=limb.middle,
            end=limb.end,
            goal=goal,
            pole=pole,
            pole_rest=(float(place[0]), float(place[1]), float(place[2])),
            pole_anchors=tuple(c for c in carriers if c >= 0) or (0,),
            foot=foot,
        )

    def _foot(self, limb: LimbGuess) -> Foot | None:
        """Where a foot rolls: its heel on the ground behind the ankle, and its ball, the joint of the toes. A paw or hoof without
        toes bears under its joint and does not roll."""
        toes = next((chain[0] for chain in limb.digits if chain), None)
        ankle = self.tree.places[limb.end]
        lowest = float(self.tree.places[:, 1].min())
        if toes is None:
            under = (0.0, lowest - float(ankle[1]), 0.0)
            leg = float(self.tree.places[limb.upper][1]) - lowest
            return Foot(under, under, limb.end) if -under[1] < NEAR_GROUND * leg else None
        ball = self.tree.places[toes]
        low = min(lowest, float(ball[1])) - float(ankle[1])
        ahead = ball - ankle
        heel = (float(-0.5 * ahead[0]), low, float(-0.5 * ahead[2]))
        return Foot(heel, (float(ahead[0]), float(ahead[1]), float(ahead[2])), toes)

    def _add_chains(self) -> None:
        """Tails, and whatever is left: each chain in the middle a part, what hangs on limbs with those."""
        for n, tail in enumerate(self.guess.tails):
            word = "tail" if n == 0 else f"tail {n + 1}"
            posed = [j for j in tail if not set(words_of(self.tree.names[j])) & HELPERS]
            self.parts.append(Part(word, tuple(self._joint(j) for j in posed)))
        driven = {control.joint for control in self.controls}
        left = [
            j
            for j in self.guess.rest
            if j not in driven and not set(words_of(self.tree.names[j])) & HELPERS and j != self.guess.root
        ]
        if left:
            self.parts.append(Part("more", tuple(self._joint(j) for j in left)))

    def _pairs(self) -> tuple[tuple[str, str], ...]:
        """Names of left and right controls: by the joints they drive and what they are."""
        other = dict(self.guess.pairs)
        at = {(c.joint, c.kind): c.name for c in self.controls}
        return tuple(
            (c.name, at[(other[c.joint], c.kind)])
            for c in self.controls
            if c.joint in other and (other[c.joint], c.kind) in at
        )


def pole_place(start: Floats, bend: Floats, stop: Floats, *, leg: bool) -> Floats:
    """Where a limb's pole lies at rest (3,): on the side that the middle joint bends to; straight ones bend as knees and
    elbows do, forward and backward."""
    along = stop - start
    length = max(float(np.linalg.norm(along)), 1e-9)
    along = along / length
    aside = bend - start - ((bend - start) @ along) * along
    size = float(np.linalg.norm(aside))
    if size < 1e-3 * length:
        aside = np.array([0.0, 0.0, 1.0 if leg else -1.0])
        aside = aside - (aside @ along) * along
        size = max(float(np.linalg.norm(aside)), 1e-9)
    return np.asarray(bend + aside / size * 0.7 * length)
