"""The passes an animator works in: what each makes of new keys, and what lies under the stage."""

from __future__ import annotations

from dataclasses import dataclass

from bovrin.craft.keys import EASED, KeyStyle
from bovrin.shot import HandleKind, KeyRole


@dataclass(frozen=True)
class Pass:
    """A way of working. `curves`: the curve desk lies under the stage; `panels`: what the right column holds."""

    name: str
    style: KeyStyle
    panels: tuple[str, ...]
    curves: bool
    words: str


BLOCK = Pass(
    "Block",
    KeyStyle(HandleKind.STEPPED, KeyRole.KEY_POSE),
    ("keys", "values", "poses", "span", "markers"),
    False,
    "Key poses that hold",
)
BREAK_DOWN = Pass(
    "Break down",
    KeyStyle(HandleKind.STEPPED, KeyRole.BREAKDOWN),
    ("breakdown", "keys", "span", "poses", "markers"),
    False,
    "Poses between poses",
)
SPLINE = Pass(
    "Spline",
    KeyStyle(EASED, KeyRole.KEY_POSE),
    ("span", "traces", "values", "keys", "markers"),
    True,
    "From held poses to motion",
)

PASSES = (BLOCK, BREAK_DOWN, SPLINE)
