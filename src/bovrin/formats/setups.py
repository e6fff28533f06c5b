"""What an animator corrected of a guessed rig, kept for every file with the same joints: JSON in the user's data folder."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import msgspec

from bovrin.figure.guess import Guess, guess_build
from bovrin.formats.files import write_atomically
from bovrin.shot import Joint, Rig


def setups_folder() -> Path:
    """Where setups are kept."""
    home = os.environ.get("XDG_DATA_HOME")
    return (Path(home) if home else Path.home() / ".local" / "share") / "bovrin" / "setups"


def signature(joints: tuple[Joint, ...]) -> str:
    """The same for figures with the same joints, whatever their proportions."""
    rows = "\n".join(f"{joint.name}\t{joint.parent}" for joint in joints)
    return hashlib.sha256(rows.encode()).hexdigest()[:24]


def known_guess(joints: tuple[Joint, ...]) -> Guess | None:
    """What was kept for such joints, or None. A file that is damaged counts as none."""
    try:
        data = (setups_folder() / f"{signature(joints)}.json").read_bytes()
        found = msgspec.json.decode(data, type=Guess)
    except (OSError, msgspec.DecodeError):
        return None
    return found if _fits(found, len(joints)) else None


def keep_guess(joints: tuple[Joint, ...], guess: Guess) -> Path:
    """Keep a corrected guess for figures with such joints."""
    path = setups_folder() / f"{signature(joints)}.json"
    path.parent.mkdir(parents=True, exist_ok=True)
    write_atomically(path, msgspec.json.encode(guess))
    return path


def taken_for(rig: Rig) -> Guess:
    """What a rig's skeleton was taken for: as somebody corrected it, else as it is guessed."""
    try:
        found = msgspec.json.decode(rig.setup, type=Guess) if rig.setup else None
    except msgspec.DecodeError:
        found = None
    return found if found is not None and _fits(found, len(rig.joints)) else guess_build(rig.joints)


def setup_of(guess: Guess) -> str:
    """A guess as a rig keeps it."""
    return msgspec.json.encode(guess).decode()


def _fits(guess: Guess, count: int) -> bool:
    named = [guess.root, guess.hips, *guess.spine, *guess.neck, *guess.rest]
    named += [j for limb in guess.limbs for j in limb.joints] + [j for tail in guess.tails for j in tail]
    named += [j for pair in guess.pairs for j in pair]
    return all(0 <= j < count for j in named) and -1 <= guess.head < count
