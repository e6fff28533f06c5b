"""A skeleton as a tree at rest: places, children, ways down, words in names, and which joints mirror each other."""

from __future__ import annotations

import re
from functools import cached_property, lru_cache

import numpy as np
from numpy.typing import NDArray

from bovrin.figure.brought.bone_words import Bone, bone_of, plain_letters
from bovrin.frozen import frozen
from bovrin.motion.rotations import multiply, quaternion_matrix
from bovrin.shot import Joint, Side

Floats = NDArray[np.float64]

SIDES = {
    "l": Side.LEFT,
    "left": Side.LEFT,
    "lft": Side.LEFT,
    "lf": Side.LEFT,
    "r": Side.RIGHT,
    "right": Side.RIGHT,
    "rgt": Side.RIGHT,
    "rt": Side.RIGHT,
    "near": Side.RIGHT,
    "far": Side.LEFT,
    **dict.fromkeys(("links", "gauche", "izquierda", "izquierdo", "izq", "sinistra", "sinistro", "sx"), Side.LEFT),
    **dict.fromkeys(("esquerda", "esquerdo", "hidari", "\u5de6"), Side.LEFT),
    **dict.fromkeys(("rechts", "droite", "droit", "derecha", "derecho", "der", "destra", "destro", "dx"), Side.RIGHT),
    **dict.fromkeys(("direita", "direito", "migi", "\u53f3"), Side.RIGHT),
}
STARTS = re.compile(r"(left|right|\u5de6|\u53f3)")
"""Sides that a name may begin with in one go."""
LONGEST = 120
"""Letters of a name that are looked at."""
NAMES = 4096
"""Names whose words are kept: each is asked for many times while a skeleton is read."""
FLAT = 6
"""Joints that hang on a hand alone, from which on several are a finger."""


@lru_cache(maxsize=NAMES)
def words_of(name: str) -> tuple[str, ...]:
    """The words of a name in small letters, without what stands before a colon: "rig:L_UpperArm.01" is l upper arm 01."""
    plain = plain_letters(name.rsplit(":", 1)[-1][:LONGEST])
    plain = re.sub(r"([a-z0-9])([A-Z])", r"\1 \2", plain)
    plain = re.sub(r"([A-Z]+)([A-Z][a-z])", r"\1 \2", plain)
    plain = re.sub(r"([A-Za-z])(\d)", r"\1 \2", plain)
    return tuple(word.lower() for word in re.split(r"[\W_]+", plain) if word)


def side_of(name: str) -> Side:
    """The side that a name says; in the middle where it says none."""
    words = words_of(name)
    found = {SIDES[word] for word in words if word in SIDES}
    if not found:
        first = STARTS.match("".join(words))
        found = {SIDES[first[1]]} if first else set()
    return found.pop() if len(found) == 1 else Side.MIDDLE


def without_side(name: str) -> tuple[str, ...]:
    """The words of a name without its side."""
    words = [word for word in words_of(name) if word not in SIDES]
    return tuple(STARTS.sub("", word, count=1) if STARTS.match(word) else word for word in words)


@frozen
class JointTree:
    """Joints with parents before their children."""

    joints: tuple[Joint, ...]

    @cached_property
    def names(self) -> tuple[str, ...]:
        """The joints' names."""
        return tuple(joint.name for joint in self.joints)

    @cached_property
    def bones(self) -> tuple[Bone | None, ...]:
        """What the joints' names say that they are in a limb."""
        return tuple(bone_of(without_side(name)) for name in self.names)

    @cached_property
    def places(self) -> Floats:
        """Where joints lie at rest (J, 3), metres."""
        places = np.zeros((len(self.joints), 3))
        turns: list[NDArray[np.float64]] = []
        for i, joint in enumerate(self.joints):
            own = np.array(joint.rotation)
            if joint.parent < 0:
                places[i] = joint.translation
                turns.append(own)
            else:
                above = turns[joint.parent]
                places[i] = places[joint.parent] + quaternion_matrix(above) @ np.array(joint.translation)
                turns.append(multiply(above, own))
        return places

    @cached_property
    def children(self) -> tuple[tuple[int, ...], ...]:
        """The children of each joint."""
        found: list[list[int]] = [[] for _ in self.joints]
        for i, joint in enumerate(self.joints):
            if joint.parent >= 0:
                found[joint.parent].append(i)
        return tuple(map(tuple, found))

    @cached_property
    def size(self) -> float:
        """The longest side of the box around the joints, but for those that only carry the figure: they may lie far from it."""
        return float(np.ptp(self.places[self.carried], axis=0).max()) or 1.0

    @cached_property
    def carried(self) -> list[int]:
        """Joints below the first that branches; all of them where that leaves few."""
        at = 0
        while len(self.children[at]) == 1:
            at = self.children[at][0]
        below = self.below(at)
        return below if 2 * len(below) > len(self.joints) else list(range(len(self.joints)))

    def length(self, joint: int) -> float:
        """The length of the bone that leads to a joint."""
        parent = self.joints[joint].parent
        return 0.0 if parent < 0 else float(np.linalg.norm(self.places[joint] - self.places[parent]))

    def apart(self, one: int, other: int) -> float:
        """How far two joints are from each other at rest, metres."""
        return float(np.linalg.norm(self.places[one] - self.places[other]))

    @cached_property
    def reach(self) -> Floats:
        """How far the longest way below each joint goes (J,)."""
        found = np.zeros(len(self.joints))
        for i in range(len(self.joints) - 1, 0, -1):
            parent = self.joints[i].parent
            if parent >= 0:
                found[parent] = max(found[parent], found[i] + self.length(i))
        return found

    def way_down(self, joint: int) -> list[int]:
        """From a joint down the longest way to a leaf, itself first."""
        found = [joint]
        while self.children[found[-1]]:
            found.append(max(self.children[found[-1]], key=lambda c: self.reach[c] + self.length(c)))
        return found

    def way_up(self, joint: int) -> list[int]:
        """A joint and all above it, itself first."""
        found = [joint]
        while self.joints[found[-1]].parent >= 0:
            found.append(self.joints[found[-1]].parent)
        return found

    def below(self, joint: int) -> list[int]:
        """A joint and all below it, parents first."""
        found = {joint}
        for i in range(joint + 1, len(self.joints)):
            if self.joints[i].parent in found:
                found.add(i)
        return sorted(found)

    def digits(self, end: int) -> tuple[tuple[int, ...], ...]:
        """The fingers or toes of a limb's end: chains of joints below it. Where all hang on the end itself, those of one name
        but for its number are a finger, the nearest first."""
        tops = self.children[end]
        if len(tops) < FLAT or any(self.children[top] for top in tops):
            return tuple(tuple(self.below(top)) for top in tops)
        fingers: dict[tuple[str, ...], list[int]] = {}
        for top in tops:
            fingers.setdefault(tuple(w for w in words_of(self.names[top]) if not w.isdigit()), []).append(top)
        return tuple(tuple(sorted(own, key=lambda j: self.apart(end, j))) for own in fingers.values())

    @cached_property
    def pairs(self) -> dict[int, tuple[int, float]]:
        """For each joint of a side the other one, and how sure that is: by name and place 1, by one of them less."""
        by_name, by_place = self._pairs_by_name(), self._pairs_by_place()
        found = {}
        for i in range(len(self.joints)):
            named, placed = by_name.get(i), by_place.get(i)
            if named is not None and named == placed:
                found[i] = (named, 1.0)
            elif named is not None:
                found[i] = (named, 0.8)
            elif placed is not None and by_name.get(placed) is None:
                found[i] = (placed, 0.7)
        return {i: pair for i, pair in found.items() if pair[0] in found and found[pair[0]][0] == i}

    def _pairs_by_name(self) -> dict[int, int]:
        sides: dict[tuple[str, ...], dict[str, int]] = {}
        for i, name in enumerate(self.names):
            if side_of(name):
                sides.setdefault(without_side(name), {})[side_of(name)] = i
        both = [row for row in sides.values() if len(row) == 2]
        return {a: b for row in both for a, b in ((row[Side.LEFT], row[Side.RIGHT]), (row[Side.RIGHT], row[Side.LEFT]))}

    @cached_property
    def middle(self) -> float:
        """Where the figure's own middle lies across, metres: where joints of named pairs meet, else where the root is."""
        named = self._pairs_by_name()
        if named:
            return float(np.mean([(self.places[a, 0] + self.places[b, 0]) / 2 for a, b in named.items()]))
        return float(np.median(self.places[:, 0]))

    def _pairs_by_place(self) -> dict[int, int]:
        flipped = self.places * [-1.0, 1.0, 1.0] + [2 * self.middle, 0.0, 0.0]
        near = 0.02 * self.size
        found = {}
        depth = [len(self.way_up(i)) for i in range(len(self.joints))]
        for i, place in enumerate(flipped):
            if abs(self.places[i, 0] - self.middle) < near:
                continue
            far = np.linalg.norm(self.places - place, axis=1)
            alike = [j for j in np.flatnonzero(far < near) if depth[j] == depth[i]]
            if alike:
                found[i] = int(min(alike, key=lambda j: far[j]))
        return found

    def side(self, joint: int) -> Side:
        """The side of a joint: what its pair's names or places say."""
        if joint not in self.pairs:
            return Side.MIDDLE
        return side_of(self.names[joint]) or (Side.LEFT if self.places[joint, 0] > self.middle else Side.RIGHT)
