"""The breakdown at the current frame: how far it favours the pose after, for all and for some parts or controls."""

from __future__ import annotations

from collections.abc import Iterable

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from bovrin.craft.between.breakdown import breakdown, measured_favours, parents, remembered
from bovrin.desk.state.document.editing import scope_channels
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.shot import KeyRole, PartOrControl, Shot
from bovrin.shot.curve import SAME_FRAME

PAST = 0.3
"""How far past either pose a favour goes on the desk."""
NOT_HERE = "Go to a frame between two poses to put a breakdown there."


class Favours(QObject):
    """Where the frame lies between two poses, and the favours that a breakdown there has or would get.

    own: favours of parts and of single controls that differ from the one for all.
    """

    changed = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._session = session
        self._of: tuple[object, ...] = ()
        self._between: tuple[float, float] | None = None
        self._words = ""
        self._all, self._own = 0.5, dict[PartOrControl, float]()

    @property
    def between(self) -> tuple[float, float] | None:
        """The poses before and after; None where no breakdown can be put, as `words` says."""
        self._refresh()
        return self._between

    @property
    def words(self) -> str:
        """Where the frame lies."""
        self._refresh()
        return self._words

    @property
    def all(self) -> float:
        """The favour of all that has none of its own."""
        self._refresh()
        return self._all

    @property
    def own(self) -> dict[PartOrControl, float]:
        """Favours of parts and controls."""
        self._refresh()
        return dict(self._own)

    def set_all(self, favour: float, *, alone: bool = False) -> None:
        """Another favour for all; `alone`: parts have none of their own any more."""
        self._refresh()
        self._all = favour
        if alone:
            self._own = {}
        self.changed.emit()

    def set_own(self, names: Iterable[PartOrControl], favour: float) -> None:
        """Another favour for some parts or controls."""
        self._refresh()
        self._own |= dict.fromkeys(names, favour)
        self.changed.emit()

    def forget(self) -> None:
        """Read them from the shot again."""
        self._of = ()
        self.changed.emit()

    def made(self) -> Shot:
        """The shot with the breakdown in it."""
        session = self._session
        return breakdown(session.shot, session.figure_name, session.frame, self.all, self.own, scope_channels(session))

    def commit(self) -> bool:
        """Put the breakdown there; its favours stay as they were asked for."""
        session, kept = self._session, (self.all, self.own)
        done = session.do("Breakdown", lambda _shot: self.made())
        if done:
            self._refresh()
            self._all, self._own = kept
        self.changed.emit()
        return done

    def _refresh(self) -> None:
        """Follow the shot and the frame: read anew when either is another."""
        session = self._session
        curves = session.shot.take.curves.get(session.figure_name)
        of = (curves, session.figure_name, session.frame, session.shot.cards(session.figure_name))
        if len(self._of) == len(of) and all(a is b or a == b for a, b in zip(self._of, of, strict=True)):
            return
        self._of = of
        self._between, self._words, self._own = None, NOT_HERE, {}
        poses = session.poses.whole
        if (poses.frames[poses.roles == KeyRole.KEY_POSE] == session.frame).any():
            self._words = f"{session.frame:g} is a key pose. Go between two poses to put a breakdown there."
            return
        try:
            self._between = parents(session.shot, session.figure_name, session.frame)
        except BovrinError:
            return
        before, after = self._between
        self._words = f"At frame {session.frame:g}, between the poses at {before:g} and {after:g}"
        self._all = self._favour_here()

    def _favour_here(self) -> float:
        """The favour of the pose here, as it was made or as it is measured; half where there is none."""
        session = self._session
        blend = remembered(session.shot, session.figure_name, session.frame)
        if blend is not None:
            self._own = dict(blend.own)
            return blend.favour
        if not (np.abs(session.poses.cards.frames - session.frame) < SAME_FRAME).any():
            return 0.5
        favour, parts = measured_favours(session.shot, session.figure_name, session.frame)
        self._own = {name: _bounded(own) for name, own in parts.items() if abs(own - favour) > 0.005}
        return _bounded(favour)


def _bounded(favour: float) -> float:
    return min(max(favour, -PAST), 1 + PAST)
