"""BVH motion files: a tree of joints with channels in any order, then a row of numbers for each frame."""

from __future__ import annotations

import io
import math
from dataclasses import dataclass, field
from itertools import chain, count
from pathlib import Path

import numpy as np
from numpy.typing import NDArray

from bovrin.errors import BrokenFile
from bovrin.formats.files import read_bytes

Floats = NDArray[np.float64]

AXES = {"xrotation": "X", "yrotation": "Y", "zrotation": "Z"}
PLACES = {"xposition": 0, "yposition": 1, "zposition": 2}
MOST_JOINTS = 5000


@dataclass
class BvhJoint:
    """A joint of the file: its parent (-1: none), its offset (file units), its channels in the order of the file."""

    name: str
    parent: int
    offset: tuple[float, float, float] = (0.0, 0.0, 0.0)
    channels: list[str] = field(default_factory=list)
    first: int = 0
    end: bool = False

    @property
    def order(self) -> str:
        """The rotation order, as a product from the left; what the file leaves out comes last."""
        named = "".join(AXES[c] for c in self.channels if c in AXES)
        return named + "".join(axis for axis in "ZXY" if axis not in named)


@dataclass
class Bvh:
    """A file as read: joints with parents first, numbers (F, N) as they stand, seconds a frame, what was left out."""

    joints: list[BvhJoint]
    numbers: Floats
    frame_time: float
    left_out: list[str]


def read_bvh(path: Path) -> Bvh:
    """Read a file; BrokenFile says what cannot be read."""
    return bvh_from_bytes(read_bytes(path, "motion file"), str(path))


def bvh_from_bytes(data: bytes, where: str) -> Bvh:
    """The motion in the bytes of a file."""
    text = data.decode("utf-8", errors="replace")
    head, found, tail = text.partition("MOTION")
    if not found or "HIERARCHY" not in head:
        raise BrokenFile(
            "this is not a BVH motion: it needs HIERARCHY and MOTION.", where=where, advice="Choose another file."
        )
    joints = _Hierarchy(head.split(), where).read()
    return _motion(joints, tail, where)


FARTHEST, LONGEST_NAME = 1e9, 200
"""Units beyond which nothing lies, and letters of a joint's name that count."""


class _Hierarchy:
    """Walks the words of the joint tree."""

    def __init__(self, words: list[str], where: str) -> None:
        self._words, self._at, self._where = words, 0, where
        self.joints: list[BvhJoint] = []
        self._taken: set[str] = set()
        self._count = 0

    def fault(self, what: str) -> BrokenFile:
        return BrokenFile(
            f"the joints of the motion file cannot be read: {what}.", where=self._where, advice="Export it anew."
        )

    def _next(self) -> str:
        if self._at >= len(self._words):
            raise self.fault("the file is cut off")
        self._at += 1
        return self._words[self._at - 1]

    def _number(self) -> float:
        word = self._next()
        try:
            value = float(word)
        except ValueError:
            raise self.fault(f"'{word}' stands where a number should") from None
        if not math.isfinite(value):
            raise self.fault(f"an offset is '{word}'")
        if abs(value) > FARTHEST:
            raise self.fault(f"'{word}' is beyond all measure")
        return value

    def read(self) -> list[BvhJoint]:
        """All joints; several roots are allowed."""
        open_: list[int] = []
        pending: int | None = None
        while self._at < len(self._words):
            word = self._next()
            upper = word.upper()
            if upper == "HIERARCHY":
                continue
            if upper in ("ROOT", "JOINT"):
                pending = self._add(self._name(), open_, end=False)
            elif upper == "END":
                self._next()  # "Site"
                parent = self.joints[open_[-1]].name if open_ else "root"
                pending = self._add(f"{parent} end", open_, end=True)
            elif word == "{" and pending is not None:
                open_.append(pending)
                pending = None
            elif word == "}" and open_:
                open_.pop()
            elif upper == "OFFSET" and open_:
                self.joints[open_[-1]].offset = (self._number(), self._number(), self._number())
            elif upper == "CHANNELS" and open_:
                self._read_channels(self.joints[open_[-1]])
            else:
                raise self.fault(f"'{word}' is not expected there")
        if open_ or not self.joints:
            raise self.fault("the file is cut off")
        return self.joints

    def _name(self) -> str:
        """The words up to the opening brace: names may have spaces."""
        words = []
        while self._at < len(self._words) and self._words[self._at] != "{":
            words.append(self._next())
        return " ".join(words) or "joint"

    def _add(self, name: str, open_: list[int], *, end: bool) -> int:
        if len(self.joints) >= MOST_JOINTS:
            raise self.fault(f"there are more than {MOST_JOINTS} joints")
        name = name[:LONGEST_NAME]
        free = next(n for n in chain([name], (f"{name} {i}" for i in count(2))) if n not in self._taken)
        self._taken.add(free)
        self.joints.append(BvhJoint(free, open_[-1] if open_ else -1, end=end))
        return len(self.joints) - 1

    def _read_channels(self, joint: BvhJoint) -> None:
        if joint.channels:
            raise self.fault(f"'{joint.name}' has its channels twice")
        number = int(self._number())
        if not 0 <= number <= 6:
            raise self.fault(f"'{joint.name}' has {number} channels")
        names = [self._next().lower() for _ in range(number)]
        strange = next((n for n in names if n not in AXES and n not in PLACES), None)
        if strange is not None or len(set(names)) != number:
            raise self.fault(f"'{joint.name}' has a channel '{strange or 'twice'}'")
        joint.channels, joint.first = names, self._count
        self._count += number


def _motion(joints: list[BvhJoint], tail: str, where: str) -> Bvh:
    """The numbers after the word MOTION: what is whole and finite is kept, the rest is told."""
    head, _, rest = tail.partition("Frame Time:")
    words = head.replace("Frames:", " ").split()
    first, _, body = rest.lstrip().partition("\n")
    try:
        said, frame_time = int(words[0]), float(first.split()[0])
    except (IndexError, ValueError):
        raise BrokenFile(
            "the motion file does not say how many frames it has and how long one is.",
            where=where,
            advice="Export it anew.",
        ) from None
    if said <= 0 and not body.strip():
        raise BrokenFile("the motion file has no numbers.", where=where, advice="Export it anew.")
    width = sum(len(joint.channels) for joint in joints)
    left_out: list[str] = []
    if not (math.isfinite(frame_time) and 1 / 240 <= frame_time <= 1.0):
        left_out.append(f"The frame time {frame_time:g} s makes no sense; 24 frames a second are used.")
        frame_time = 1 / 24
    numbers = _numbers(body, where, left_out)
    if width == 0:
        return Bvh(joints, np.zeros((max(min(said, len(numbers)), 1), 0)), frame_time, left_out)
    whole = len(numbers) // width
    if whole * width != len(numbers):
        left_out.append(f"The last row has {len(numbers) - whole * width} of {width} numbers and is left out.")
    if whole != said:
        left_out.append(f"The file says {said} frames and has {whole}.")
    if whole == 0:
        raise BrokenFile("the motion file has no whole frame.", where=where, advice="Export it anew.")
    return Bvh(joints, _mended(numbers[: whole * width].reshape(whole, width), left_out), frame_time, left_out)


def _numbers(body: str, where: str, left_out: list[str]) -> Floats:
    """All numbers in order: rows of one length at once, else word by word as far as they are numbers."""
    if body and not body.isspace():
        try:
            return np.loadtxt(io.StringIO(body), comments=None, ndmin=2).ravel()
        except ValueError:
            pass
    good = []
    for word in body.split():  # only a damaged file is read word by word
        try:
            good.append(float(word))
        except ValueError:
            left_out.append(f"'{word[:20]}' is not a number; what follows it is left out.")
            break
    if not good:
        raise BrokenFile("the motion file has no numbers.", where=where, advice="Export it anew.")
    return np.array(good)


def _mended(rows: Floats, left_out: list[str]) -> Floats:
    """Rows (F, N) in which a number that is not finite is the last finite one before it."""
    bad = ~np.isfinite(rows) | (np.abs(rows) > 1e9)
    if not bad.any():
        return rows
    left_out.append(f"{int(bad.sum())} numbers are not finite; the ones before them hold.")
    last = np.where(bad, 0, np.arange(len(rows))[:, None])
    np.maximum.accumulate(last, axis=0, out=last)
    held = np.take_along_axis(np.where(bad, 0.0, rows), last, axis=0)
    return np.asarray(held)


def size_of(joints: list[BvhJoint]) -> float:
    """The longest side of the box around joints at rest, file units."""
    return float(np.ptp(rest_places(joints), axis=0).max())


def rest_places(joints: list[BvhJoint]) -> Floats:
    """Where joints lie when nothing is turned (J, 3), file units."""
    places = np.zeros((len(joints), 3))
    for i, joint in enumerate(joints):
        places[i] = np.array(joint.offset) + (places[joint.parent] if joint.parent >= 0 else 0.0)
    return places
