"""Which joints of a chain are a limb's, by what their names say; twisting and helping joints lie inside it."""

from __future__ import annotations

from typing import NamedTuple

from bovrin.figure.brought.bone_words import Bone
from bovrin.figure.brought.joint_tree import JointTree, words_of

ENDS = (Bone.HAND, Bone.FOOT)
MIDDLES = (Bone.FOREARM, Bone.SHIN)
UPPERS = (Bone.UPPER_ARM, Bone.THIGH)
EITHER = (Bone.ARM, Bone.LEG)
TIPS = (("end",), ("nub",), ("tip",))


class NamedLimb(NamedTuple):
    """Joints of a limb; shoulder may be -1."""

    shoulder: int
    upper: int
    middle: int
    end: int


def named_limb(tree: JointTree, first: int, low: float) -> NamedLimb | None:
    """The limb that begins with a joint, if names say enough of it. low: the height, metres, below which feet stand."""
    way = [j for j in _way(tree, first) if tree.bones[j] is not Bone.HELPER and not _is_tip(tree.names[j])]
    bones = [tree.bones[j] for j in way]
    end = _end(tree, way, low)
    last = len(way) if end is None else end
    middle = next((n for n, bone in enumerate(bones[:last]) if bone in MIDDLES and n > 0), None)
    if middle is None:
        uppers = [n for n, bone in enumerate(bones[:last]) if bone in UPPERS]
        middle = next((n for n, bone in enumerate(bones[:last]) if uppers and n > uppers[-1] and bone in EITHER), None)
    if middle is None and end is not None and (named := [n for n in range(end) if bones[n] in (*UPPERS, *EITHER)]):
        middle = named[-1] + 1 if named[-1] + 1 < end else None
    if middle is None:
        return None
    upper = next((n for n in range(middle - 1, -1, -1) if bones[n] in (*UPPERS, *EITHER)), middle - 1)
    end = middle + 1 if end is None else end
    if not upper < middle < end < len(way):
        return None
    return NamedLimb(way[upper - 1] if upper else -1, way[upper], way[middle], way[end])


def _is_tip(name: str) -> bool:
    return words_of(name)[-1:] in TIPS


def _way(tree: JointTree, first: int) -> list[int]:
    """From a joint down to the nearest hand or foot below it and on to its tip, or down the longest way."""
    ends = [j for j in tree.below(first) if tree.bones[j] in ENDS and j != first]
    if not ends:
        return tree.way_down(first)
    nearest = min(ends, key=lambda j: len(tree.way_up(j)))
    up = tree.way_up(nearest)
    lower = [j for j in ends if nearest in tree.way_up(j)]
    lowest = max(lower, key=lambda j: len(tree.way_up(j)))
    down = tree.way_up(lowest)
    return [*reversed(up[: up.index(first) + 1]), *reversed(down[: down.index(nearest)]), *tree.way_down(lowest)[1:]]


def _end(tree: JointTree, way: list[int], low: float) -> int | None:
    """Where on the way the hand or foot is: a foot is the first that is low, when there are several."""
    found = [n for n, j in enumerate(way) if tree.bones[j] in ENDS]
    standing = [n for n in found if tree.bones[way[n]] is Bone.FOOT and tree.places[way[n], 1] < low]
    return next(iter(standing or found), None)
