"""Taking hold of what is chosen, if it may be posed now."""

from __future__ import annotations

from PyQt6.QtCore import QPointF

from bovrin.desk.stage.drags.posing import Grip, take_hold
from bovrin.desk.state.document.editing import refused
from bovrin.desk.state.document.session import Session


def grip_here(session: Session, pressed: QPointF) -> Grip | None:
    """A grip on the chosen controls, pressed at a point; None, with a word why, when they cannot be posed."""
    if session.looking.stepped:
        session.voice.tell("The shot is being looked at as stepped. Turn that off to pose.")
        return None
    if not session.controls or refused(session):
        return None
    return take_hold(session, pressed)
