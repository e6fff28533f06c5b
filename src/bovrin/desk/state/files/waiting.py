"""Whoever leaves a frame whose change is not keyed yet is told, and can keep it with one click."""

from __future__ import annotations

from PyQt6.QtCore import QObject

from bovrin.craft.keying.unkeyed import unkeyed_at
from bovrin.desk.state.document.editing import keep_change
from bovrin.desk.state.document.session import Session


class WaitingChanges(QObject):
    """Follows the current frame."""

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._frame = session.frame
        session.document.frame_changed.connect(self._on_frame_changed)

    def _on_frame_changed(self) -> None:
        session = self._session
        before, self._frame = self._frame, session.frame
        left = unkeyed_at(session.shot, session.figure_name, before)
        if left is not None and not session.playing:
            words = f"The change on {left.frame:g} stays shown but is not keyed yet."
            session.voice.offer(words, (f"Keep {left.frame:g}", lambda: keep_change(session, left.frame)))
