"""In very long shots what can wait while something is dragged waits."""

from __future__ import annotations

from bovrin.desk.state.session import Session
from bovrin.motion.evaluate import MANY


def drags_in_a_long_shot(session: Session) -> bool:
    """Whether a drag is under way in a figure of so many keys that what can wait should wait."""
    curves = session.curves
    return session.document.previewing and curves is not None and sum(map(len, curves.curves)) >= MANY
