"""What tells of timing waits while a pose is dragged: charts and holds are measured once it is let go."""

from __future__ import annotations

from bovrin.desk.kit.gesture import Gesture
from bovrin.desk.state.document.session import Session
from bovrin.motion.evaluate import MANY


def timing_waits(session: Session) -> bool:
    """Whether a pose is dragged, or anything in a figure of so many keys that what can wait should wait."""
    curves = session.curves
    if not session.document.previewing or curves is None:
        return False
    poses = Gesture.current is not None and Gesture.current.frame is not None
    return poses or sum(map(len, curves.curves)) >= MANY
