"""The passes an animator works in, and what each makes of new keys. What is on the desk in each: `desk.passes`."""

from __future__ import annotations

from bovrin.craft.keying.keys import EASED, KeyStyle
from bovrin.frozen import frozen_equal
from bovrin.shot import HandleKind, KeyRole


@frozen_equal
class Pass:
    """A way of working: what it is called, the key that chooses it, what new keys are in it, and what it is for."""

    name: str
    key: str
    style: KeyStyle
    words: str

    @property
    def command(self) -> str:
        """The id of the command that chooses it."""
        return f"pass.{self.name.lower().replace(' ', '_')}"


PLAN = Pass(
    "Plan", "1", KeyStyle(HandleKind.STEPPED, KeyRole.KEY_POSE), "Pencil, notes and poses, before anything is keyed"
)
BLOCK = Pass("Block", "2", KeyStyle(HandleKind.STEPPED, KeyRole.KEY_POSE), "Key poses that hold")
BREAK_DOWN = Pass("Break down", "3", KeyStyle(HandleKind.STEPPED, KeyRole.BREAKDOWN), "Poses between poses")
POLISH = Pass("Polish", "5", KeyStyle(EASED, KeyRole.KEY_POSE), "Arcs, spacing and overlap: a shot becomes alive")
CYCLE = Pass("Cycle", "6", KeyStyle(EASED, KeyRole.KEY_POSE), "Walks and runs that go round, on a wheel")
SPLINE = Pass("Spline", "4", KeyStyle(EASED, KeyRole.KEY_POSE), "From held poses to motion, on curves (graph editor)")
