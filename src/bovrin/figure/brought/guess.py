"""What a skeleton is: trunk, neck, head, limbs with their ends, fingers, toes and tails, guessed from its joints."""

from __future__ import annotations

from dataclasses import field, replace

import numpy as np

from bovrin.figure.brought.bone_words import Bone
from bovrin.figure.brought.joint_tree import JointTree, words_of
from bovrin.figure.brought.limb_names import NamedLimb, named_limb
from bovrin.frozen import frozen_equal
from bovrin.shot import Joint, Side

LONG = 0.12
"""A limb is at least this share of the figure's size long."""
LOW = 0.22
"""A leg's end lies within this share of the figure's height over its lowest joint."""
NAMED = {
    "wing": {"wing"},
    "fin": {"fin", "flipper"},
    "head": {"head", "skull"},
    "neck": {"neck"},
    "tail": {"tail"},
}
OF_KIND = {
    "leg": {Bone.THIGH, Bone.SHIN, Bone.HOCK, Bone.FOOT, Bone.LEG},
    "arm": {Bone.SHOULDER, Bone.UPPER_ARM, Bone.FOREARM, Bone.HAND, Bone.ARM},
}


@frozen_equal
class LimbGuess:
    """A limb: its three joints, what carries it (a shoulder, or -1), what hangs on its end, how sure that is, and joints
    inside it that are skipped."""

    kind: str
    side: Side
    upper: int
    middle: int
    end: int
    shoulder: int = -1
    digits: tuple[tuple[int, ...], ...] = ()
    sure: float = 1.0
    between: tuple[int, ...] = ()

    @property
    def joints(self) -> tuple[int, ...]:
        """All its joints."""
        carried = (self.shoulder,) if self.shoulder >= 0 else ()
        return (
            *carried,
            self.upper,
            self.middle,
            self.end,
            *self.between,
            *(j for chain in self.digits for j in chain),
        )


@frozen_equal
class Guess:
    """A figure's build: "two-legged", "four-legged" or "other"; joints by what they are; pairs of joints; sureness."""

    build: str
    root: int
    hips: int
    spine: tuple[int, ...]
    neck: tuple[int, ...]
    head: int
    limbs: tuple[LimbGuess, ...]
    tails: tuple[tuple[int, ...], ...]
    pairs: tuple[tuple[int, int], ...]
    rest: tuple[int, ...]
    sure: dict[str, float] = field(default_factory=dict)


def guess_build(joints: tuple[Joint, ...]) -> Guess:
    """The build of a skeleton whose figure faces +z with y up. Nothing is required of its names."""
    tree = JointTree(joints)
    limbs = _limbs(tree)
    hips = _hips(tree, limbs)
    head, head_sure = _head(tree, hips, limbs)
    line = list(reversed(tree.way_up(head)))[:-1] if head >= 0 else []
    line = line[line.index(hips) + 1 :] if hips in line else []
    high = max((line.index(_carrier(tree, x)) for x in limbs if _carrier(tree, x) in line), default=-1)
    spine, neck = _trunk_and_neck(tree, line, high)
    taken = {hips, head, *spine, *neck, *(j for limb in limbs for j in limb.joints)}
    tails = _tails(tree, hips, taken)
    taken |= {j for tail in tails for j in tail}
    root = 0
    legs = sum(limb.kind.endswith("leg") for limb in limbs)
    build = {2: "two-legged", 4: "four-legged"}.get(legs, "other")
    pairs = tuple(
        (i, j) for i, (j, _) in tree.pairs.items() if tree.side(i) is Side.LEFT and tree.side(j) is Side.RIGHT
    )
    rest = tuple(j for j in range(len(joints)) if j not in taken and j != root)
    sure = {"hips": 1.0 if limbs else 0.5, "head": head_sure}
    sure |= {f"{limb.side} {limb.kind}".strip(): limb.sure for limb in limbs}
    return Guess(build, root, hips, spine, neck, head, limbs, tails, pairs, rest, sure)


def _limbs(tree: JointTree) -> tuple[LimbGuess, ...]:
    """Long paired chains that leave the middle, with three joints or more; hind ones first, left before right."""
    found = []
    for joint, (_other, sure) in tree.pairs.items():
        if tree.joints[joint].parent in tree.pairs:
            continue
        limb = _limb_of(tree, joint, sure)
        if limb is not None:
            found.append(limb)
    ordered = sorted(
        found, key=lambda limb: (limb.kind != "leg", round(float(tree.places[limb.upper, 2]), 4), limb.side)
    )
    return tuple(told_apart(limb, ordered) for limb in ordered)


def told_apart(limb: LimbGuess, ordered: list[LimbGuess]) -> LimbGuess:
    """Of several limbs of one kind on a side the hind and the fore one."""
    alike = [x for x in ordered if x.kind == limb.kind and x.side == limb.side]
    if len(alike) < 2:
        return limb
    return replace(limb, kind=f"{('hind', 'fore', 'third', 'fourth')[min(alike.index(limb), 3)]} {limb.kind}")


def _limb_of(tree: JointTree, first: int, sure: float) -> LimbGuess | None:
    found = named_limb(tree, first, _low(tree)) or _long_limb(tree, first)
    if found is None:
        return None
    shoulder, upper, middle, end = found
    up = tree.way_up(end)
    way = list(reversed(up[: up.index(first) + 1]))
    if sum(tree.length(j) for j in way[1:]) < LONG * tree.size:
        return None
    between = tuple(j for j in way[way.index(upper) :] if j not in (upper, middle, end))
    kind, fits = _kind_of(tree, way, end)
    return LimbGuess(
        kind, tree.side(first), upper, middle, end, shoulder, tree.digits(end), round(sure * fits, 2), between=between
    )


def _long_limb(tree: JointTree, first: int) -> NamedLimb | None:
    """The three joints of the longest bones on the longest way down from a joint."""
    way = [j for j in tree.way_down(first) if "end" not in words_of(tree.names[j])[-1:]]
    way = [j for j in way if tree.bones[j] is not Bone.HELPER]
    stop = next((n for n, j in enumerate(way) if len(_digits(tree, j)) >= 3), len(way) - 1)
    way = way[: stop + 1] if stop >= 2 else way
    if len(way) < 3:
        return None
    spans = [tree.apart(way[n], way[n + 1]) + tree.apart(way[n + 1], way[n + 2]) for n in range(len(way) - 2)]
    at = int(np.argmax(spans))
    return NamedLimb(way[at - 1] if at > 0 else -1, *way[at : at + 3])


def _low(tree: JointTree) -> float:
    """The height below which feet stand, metres."""
    height = float(np.ptp(tree.places[tree.carried, 1])) or tree.size
    return float(tree.places[tree.carried, 1].min()) + LOW * height


def _digits(tree: JointTree, joint: int) -> list[int]:
    return [c for c in tree.children[joint] if tree.reach[c] + tree.length(c) < 0.4 * tree.size]


def _kind_of(tree: JointTree, way: list[int], end: int) -> tuple[str, float]:
    """Leg, arm, wing or fin: by words in names, and by whether its end lies low; surer when both agree."""
    words = {word for joint in way for word in words_of(tree.names[joint])}
    named = next((k for k in ("wing", "fin") if words & NAMED[k]), "")
    bones = [tree.bones[joint] for joint in way]
    scores = {k: sum(bone in known for bone in bones) for k, known in OF_KIND.items()}
    if not named and scores["leg"] != scores["arm"]:
        named = max(scores, key=lambda k: scores[k])
    low = "leg" if tree.places[end, 1] < _low(tree) else "arm"
    if low == "leg" and named == "arm" and _on_all_fours(tree, way[0]):
        return "leg", 0.85  # a beast's fore legs, whatever they are called
    if named in ("wing", "fin"):
        return named, 0.95
    return (named, 1.0 if named == low else 0.75) if named else (low, 0.85)


def _on_all_fours(tree: JointTree, first: int) -> bool:
    """Whether what hangs on the trunk there lies ahead of what carries the figure more than above it."""
    above = tree.way_up(first)[1:]
    low = _low(tree)
    feet = [j for j in tree.pairs if not tree.children[j] and tree.places[j, 1] < low]
    hind = [j for j in feet if first not in tree.way_up(j)]
    if not above or not hind:
        return False
    carried = [next((k for k in reversed(tree.way_up(j)) if k in tree.pairs), j) for j in hind]
    back = min((tree.places[k] for k in carried), key=lambda place: float(place[2]))
    ahead, higher = tree.places[first, 2] - back[2], tree.places[first, 1] - back[1]
    return bool(ahead > max(abs(higher), 0.1 * tree.size))


def _carrier(tree: JointTree, limb: LimbGuess) -> int:
    """The joint of the trunk that a limb hangs on."""
    first = limb.shoulder if limb.shoulder >= 0 else limb.upper
    return next((j for j in tree.way_up(first)[1:] if j not in tree.pairs), 0)


def _hips(tree: JointTree, limbs: tuple[LimbGuess, ...]) -> int:
    """What carries the legs that lie furthest back; without legs what carries most."""
    legs = [limb for limb in limbs if limb.kind.endswith("leg")]
    if legs:
        return _carrier(tree, legs[0])
    joint = 0
    while len(tree.children[joint]) == 1 and not limbs and len(tree.joints) > 2 and joint == 0:
        joint = tree.children[joint][0]
    return joint


def _head(tree: JointTree, hips: int, limbs: tuple[LimbGuess, ...]) -> tuple[int, float]:
    """The joint called so; else the end of the way in the middle that leads furthest up and forward."""
    named = [i for i, name in enumerate(tree.names) if set(words_of(name)) & NAMED["head"] and i not in tree.pairs]
    if named:
        return min(named, key=lambda i: len(tree.way_up(i))), 1.0
    own = {j for limb in limbs for j in limb.joints}
    middle = [i for i in tree.below(hips) if i not in tree.pairs and i not in own and i != hips]
    ends = [i for i in middle if not any(c in middle for c in tree.children[i])]
    if not ends or not limbs:
        return -1, 0.0
    up = tree.places - tree.places[hips]
    best = max(ends, key=lambda i: up[i, 1] + 0.5 * up[i, 2])
    if up[best, 1] + 0.5 * up[best, 2] <= 0:
        return -1, 0.0
    parent = tree.joints[best].parent
    is_tip = words_of(tree.names[best])[-1:] in (("end",), ("nub",), ("tip",))
    return (
        parent if is_tip or len(tree.children[parent]) > 1 else best
    ), 0.7  # a face hangs on the head, not beside it


def _trunk_and_neck(tree: JointTree, line: list[int], high: int) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """The way from the hips to the head, cut where the upper limbs hang, or where names say neck."""
    called = next((n for n, j in enumerate(line) if set(words_of(tree.names[j])) & NAMED["neck"]), None)
    cut = called if called is not None else high + 1 if high >= 0 else max(len(line) - 1, 0)
    return tuple(line[:cut]), tuple(line[cut:])


def _tails(tree: JointTree, hips: int, taken: set[int]) -> tuple[tuple[int, ...], ...]:
    """Chains in the middle of two joints or more that leave the hips, or are called so."""
    found: list[tuple[int, ...]] = []
    carriers = set(tree.way_up(hips))
    for joint in range(len(tree.joints)):
        parent = tree.joints[joint].parent
        called = bool(set(words_of(tree.names[joint])) & NAMED["tail"])
        if joint in taken or joint in tree.pairs or parent < 0 or any(joint in tail for tail in found):
            continue
        if joint in carriers:
            continue
        behind = parent >= 0 and tree.places[joint, 2] < tree.places[parent, 2] - 0.02 * tree.size
        chain = len(tree.way_down(joint)) >= 2 or behind
        if called or (parent in (hips, 0) and chain and joint != hips):
            found.append(tuple(j for j in tree.below(joint) if j not in taken))
    return tuple(found)
