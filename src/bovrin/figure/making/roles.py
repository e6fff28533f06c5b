"""What an animator says of a skeleton: its hips, chest and head, its limbs and tails. From that a whole guess follows."""

from __future__ import annotations

from dataclasses import field, replace

from bovrin.errors import BadFigure
from bovrin.figure.brought.guess import Guess, LimbGuess, told_apart
from bovrin.figure.brought.joint_tree import JointTree
from bovrin.frozen import frozen_equal
from bovrin.shot import Joint, Side

KINDS = ("leg", "arm", "wing", "fin")


@frozen_equal
class LimbRole:
    """A limb: what it is, the three joints that bend, its side, and how sure that is (1: somebody said so)."""

    kind: str
    upper: int
    middle: int
    end: int
    side: Side = Side.MIDDLE
    sure: float = 1.0


@frozen_equal
class Roles:
    """Joints by what they are; head and chest may be -1: none. tails: the first joint of each."""

    hips: int
    chest: int
    head: int
    limbs: tuple[LimbRole, ...] = ()
    tails: tuple[int, ...] = ()
    sure: dict[str, float] = field(default_factory=dict)


def roles_of(guess: Guess) -> Roles:
    """What a guess says."""
    limbs = tuple(LimbRole(x.kind.split()[-1], x.upper, x.middle, x.end, x.side, x.sure) for x in guess.limbs)
    chest = guess.spine[-1] if guess.spine else -1
    sure = {"hips": guess.sure.get("hips", 1.0), "head": guess.sure.get("head", 1.0)}
    return Roles(guess.hips, chest, guess.head, limbs, tuple(t[0] for t in guess.tails), sure)


def guess_from(joints: tuple[Joint, ...], roles: Roles) -> Guess:
    """The whole guess that follows from roles; BadFigure says which role cannot be so."""
    tree = JointTree(joints)
    spine, neck = _trunk(tree, roles)
    limbs = tuple(_limb(tree, role, {0, roles.hips, *spine, *neck}) for role in roles.limbs)
    _check_apart(tree, limbs)
    ordered = sorted(limbs, key=lambda x: (x.kind != "leg", round(float(tree.places[x.upper, 2]), 4), x.side))
    limbs = tuple(told_apart(limb, ordered) for limb in ordered)
    taken = {roles.hips, *spine, *neck, *(j for limb in limbs for j in limb.joints)} | {roles.head}
    tails = tuple(tuple(j for j in tree.below(top) if j not in taken) for top in roles.tails)
    taken |= {j for tail in tails for j in tail}
    legs = sum(limb.kind.endswith("leg") for limb in limbs)
    pairs = _pairs(tree, limbs)
    sure = {**roles.sure} | {f"{limb.side} {limb.kind}".strip(): limb.sure for limb in limbs}
    return Guess(
        build={2: "two-legged", 4: "four-legged"}.get(legs, "other"),
        root=0,
        hips=roles.hips,
        spine=spine,
        neck=neck,
        head=roles.head,
        limbs=limbs,
        tails=tuple(tail for tail in tails if tail),
        pairs=pairs,
        rest=tuple(j for j in range(1, len(joints)) if j not in taken),
        sure=sure,
    )


def with_limb(joints: tuple[Joint, ...], roles: Roles, first: int, kind: str) -> Roles:
    """One limb more, from its first joint: the joints below it on the longest way."""
    way = JointTree(joints).way_down(first)
    if len(way) < 3:
        raise BadFigure(
            f"below '{joints[first].name}' there are too few joints for a limb.", advice="Choose one with two below it."
        )
    side = JointTree(joints).side(first)
    return replace(roles, limbs=(*roles.limbs, LimbRole(kind, way[0], way[1], way[2], side)))


def _pairs(tree: JointTree, limbs: tuple[LimbGuess, ...]) -> tuple[tuple[int, int], ...]:
    """Left and right joints: of limbs of the same kind on both sides joint by joint, of others as names and places say."""
    sides = {(limb.kind, limb.side): limb for limb in limbs}
    found: dict[int, int] = {}
    for (kind, side), left in sides.items():
        right = sides.get((kind, Side.RIGHT))
        if side != Side.LEFT or right is None:
            continue
        found |= {left.upper: right.upper, left.middle: right.middle, left.end: right.end}
        if left.shoulder >= 0 and right.shoulder >= 0:
            found[left.shoulder] = right.shoulder
        for one, two in zip(left.digits, right.digits, strict=False):
            found |= dict(zip(one, two, strict=False))
    own = {j for limb in limbs for j in limb.joints}
    for i, (j, _) in tree.pairs.items():
        if i not in own and j not in own and tree.side(i) is Side.LEFT and tree.side(j) is Side.RIGHT:
            found[i] = j
    return tuple(sorted(found.items()))


def _trunk(tree: JointTree, roles: Roles) -> tuple[tuple[int, ...], tuple[int, ...]]:
    """Joints after the hips up to the chest, and after that before the head."""
    if roles.head < 0 and roles.chest < 0:
        return (), ()
    top = roles.head if roles.head >= 0 else roles.chest
    line = list(reversed(tree.way_up(top)))
    for words, joint in (("hips", roles.hips), ("chest", roles.chest)):
        if joint >= 0 and joint not in line:
            raise BadFigure(
                f"'{tree.names[top]}' does not hang on '{tree.names[joint]}', so that cannot be the {words}.",
                advice="Choose a joint on the way from the root to the head.",
            )
    line = line[line.index(roles.hips) + 1 :]
    if roles.chest == roles.hips or roles.chest < 0:
        return (), tuple(j for j in line if j != roles.head)
    cut = line.index(roles.chest) + 1 if roles.chest in line else 0
    return tuple(line[:cut]), tuple(j for j in line[cut:] if j != roles.head)


def _limb(tree: JointTree, role: LimbRole, trunk: set[int]) -> LimbGuess:
    """A limb with its shoulder and what hangs on its end; joints that lie between its three are skipped."""
    for above, below in ((role.upper, role.middle), (role.middle, role.end)):
        if above not in tree.way_up(below)[1:]:
            raise BadFigure(
                f"'{tree.names[below]}' does not hang on '{tree.names[above]}'.",
                advice="Choose a limb's joints from the body outward.",
            )
    parent = tree.joints[role.upper].parent
    shoulder = parent if parent > 0 and parent not in trunk else -1
    digits = tree.digits(role.end)
    up = tree.way_up(role.end)
    between = tuple(j for j in reversed(up[1 : up.index(role.upper)]) if j != role.middle)
    return LimbGuess(
        role.kind, role.side, role.upper, role.middle, role.end, shoulder, digits, role.sure, between=between
    )


def _check_apart(tree: JointTree, limbs: tuple[LimbGuess, ...]) -> None:
    seen: dict[int, str] = {}
    for limb in limbs:
        words = f"{limb.side} {limb.kind}".strip()
        for joint in (limb.upper, limb.middle, limb.end):
            if joint in seen:
                raise BadFigure(
                    f"'{tree.names[joint]}' is in two limbs ({seen[joint]} and {words}).",
                    advice="Take one of them away.",
                )
            seen[joint] = words
