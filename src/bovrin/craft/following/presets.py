"""What followers are told to begin with, by what they are for: plain settings, to be changed like any others."""

from __future__ import annotations

import math
from typing import NamedTuple


class Preset(NamedTuple):
    """A kind of follower and what it is told, metres and radians; `words` say what it is for."""

    kind: str
    settings: dict[str, float]
    words: str


PRESETS: dict[str, Preset] = {
    "tail": Preset(
        "spring",
        {"lags by": 3.0, "settles in": 20.0, "sways": 1.5, "stiff at the end": 0.7},
        "It comes after, passes over once or twice, its tip loosest",
    ),
    "ear": Preset(
        "spring",
        {"lags by": 1.0, "settles in": 10.0, "sways": 2.0},
        "Short and springy",
    ),
    "rope": Preset(
        "spring",
        {"lags by": 2.0, "settles in": 48.0, "sways": 4.0, "gravity": 1.0, "stiff at the end": 0.8},
        "It hangs, and swings for long",
    ),
    "heavy coat": Preset(
        "spring",
        {"lags by": 4.0, "settles in": 16.0, "sways": 0.5, "gravity": 0.5},
        "It drags, and hardly sways",
    ),
    "antenna": Preset(
        "spring",
        {"lags by": 0.5, "settles in": 24.0, "sways": 6.0},
        "Stiff, and quivering for long",
    ),
    "lantern": Preset(
        "swing",
        {"how far": math.radians(8.0), "how often": 0.6, "about y": 0.0, "about x": 0.3, "about z": 1.0},
        "On its hook, slowly to and fro",
    ),
    "breath": Preset(
        "swing",
        {"how far": math.radians(1.5), "how often": 0.3, "about y": 0.0, "about x": 1.0, "delay": 1.0},
        "A chest that hardly rises",
    ),
}
