"""What a skeleton was taken for: as somebody corrected it and the rig remembers, else as it is guessed."""

from __future__ import annotations

import msgspec

from bovrin.caching import cached_by_identity
from bovrin.figure.brought.guess import Guess, guess_build
from bovrin.shot import Rig


@cached_by_identity
def taken_for(rig: Rig) -> Guess:
    """What a rig's skeleton was taken for: as somebody corrected it, else as it is guessed."""
    try:
        found = msgspec.json.decode(rig.setup, type=Guess) if rig.setup else None
    except (msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        found = None
    return found if found is not None and guess_fits(found, len(rig.joints)) else guess_build(rig.joints)


def setup_of(guess: Guess) -> str:
    """A guess as a rig keeps it."""
    return msgspec.json.encode(guess).decode()


def guess_fits(guess: Guess, count: int) -> bool:
    """Whether a guess names only joints that are there, of so many."""
    named = [guess.root, guess.hips, *guess.spine, *guess.neck, *guess.rest]
    named += [j for limb in guess.limbs for j in limb.joints] + [j for tail in guess.tails for j in tail]
    named += [j for pair in guess.pairs for j in pair]
    return all(0 <= j < count for j in named) and -1 <= guess.head < count
