"""Which joints of two figures are the same to an animator, whatever they are called and however many there are."""

from __future__ import annotations

import numpy as np

from bovrin.figure.brought.guess import Guess, LimbGuess
from bovrin.figure.making.setup import taken_for
from bovrin.frozen import frozen_equal
from bovrin.shot import Rig


@frozen_equal
class Likeness:
    """joints: pairs (from, to), in the order of the second; limbs: pairs of limbs that are the same."""

    joints: tuple[tuple[int, int], ...]
    limbs: tuple[tuple[LimbGuess, LimbGuess], ...]
    hips: tuple[int, int]


def matched(source: Rig, target: Rig) -> Likeness:
    """The joints and limbs that two figures share."""
    a, b = taken_for(source), taken_for(target)
    pairs = [(a.hips, b.hips)]
    pairs += _chains(a.spine, b.spine) + _chains(a.neck, b.neck)
    if a.head >= 0 and b.head >= 0:
        pairs.append((a.head, b.head))
    limbs = _limbs(a, b)
    for one, two in limbs:
        pairs += [(one.upper, two.upper), (one.middle, two.middle), (one.end, two.end)]
        if one.shoulder >= 0 and two.shoulder >= 0:
            pairs.append((one.shoulder, two.shoulder))
        for first, second in zip(one.digits, two.digits, strict=False):
            pairs += _chains(first, second)
    for first, second in zip(a.tails, b.tails, strict=False):
        pairs += _chains(first, second)
    only = {target: source for source, target in reversed(pairs)}
    return Likeness(tuple((only[t], t) for t in sorted(only)), tuple(limbs), (a.hips, b.hips))


def _chains(first: tuple[int, ...], second: tuple[int, ...]) -> list[tuple[int, int]]:
    """For each joint of the second chain the one of the first that lies as far along; ends meet ends."""
    if not first or not second:
        return []
    share = np.linspace(0.0, 1.0, len(second)) if len(second) > 1 else np.ones(1)
    at = np.rint(share * (len(first) - 1)).astype(int)
    return [(first[i], j) for i, j in zip(at, second, strict=True)]


def _limbs(a: Guess, b: Guess) -> list[tuple[LimbGuess, LimbGuess]]:
    """Limbs of the same kind and side; the legs of two-legged figures and the hind legs of others are the same."""

    def kind(limb: LimbGuess) -> tuple[str, str]:
        return {"hind leg": "leg"}.get(limb.kind, limb.kind), limb.side

    by_kind = {kind(limb): limb for limb in a.limbs}
    return [(by_kind[kind(limb)], limb) for limb in b.limbs if kind(limb) in by_kind]
