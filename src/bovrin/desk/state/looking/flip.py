"""The flip: the neighbouring pose as long as a key is held, then back, as drawings are flipped between the fingers."""

from __future__ import annotations

import numpy as np

from bovrin.desk.state.document.session import Session


class Flip:
    """Holding shows the pose before (or after); letting go returns to the frame one was on."""

    def __init__(self, session: Session) -> None:
        self._session = session
        self._home: float | None = None

    @property
    def held(self) -> bool:
        """Whether a flip is under way."""
        return self._home is not None

    def start(self, *, back: bool) -> None:
        """Show the pose before, or the one after."""
        session = self._session
        if self._home is not None or session.playing or session.document.previewing:
            return
        held = session.poses.cards.held_at(session.frame)
        frame = session.frame if held is None else float(np.round(held))
        other = session.poses.beside(frame, after=not back)
        if other is None:
            session.voice.tell(f"There is no pose {'before' if back else 'after'} this one to flip to.")
            return
        self._home = session.frame
        session.go_to(other)

    def end(self) -> None:
        """Back to where it began."""
        if self._home is not None:
            home, self._home = self._home, None
            self._session.go_to(home)
