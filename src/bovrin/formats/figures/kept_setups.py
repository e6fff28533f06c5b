"""What an animator corrected of a guessed rig, kept for every file with the same joints: JSON in the user's data folder."""

from __future__ import annotations

import hashlib
import os
from pathlib import Path

import msgspec

from bovrin.figure.brought.guess import Guess
from bovrin.figure.making.setup import guess_fits
from bovrin.formats.files import write_atomically
from bovrin.shot import Joint


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
    except (OSError, msgspec.DecodeError, UnicodeDecodeError, RecursionError):
        return None
    return found if guess_fits(found, len(joints)) else None


def keep_guess(joints: tuple[Joint, ...], guess: Guess) -> Path:
    """Keep a corrected guess for figures with such joints."""
    path = setups_folder() / f"{signature(joints)}.json"
    path.parent.mkdir(parents=True, exist_ok=True)
    write_atomically(path, msgspec.json.encode(guess))
    return path
