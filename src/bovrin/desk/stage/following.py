"""A view that goes along with the chosen figure while it travels."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from bovrin.desk.state.document.session import Session
from bovrin.measure.ground_path import ground_path
from bovrin.picture.view import View


class Following:
    """A view as it was taken on a frame, and on any other. Without "keep the figure in view" it is the same on all."""

    def __init__(self, session: Session, view: View) -> None:
        self._session, self._base = session, view
        self._path: NDArray[np.float64] | None = None
        self._anchor = np.zeros(2)
        for signal in (session.looking_changed, session.choice.changed, session.document.committed):
            signal.connect(self._go_on)

    def take(self, view: View) -> None:
        """Look from here on this frame."""
        self._base, self._anchor = view, self._place(self._session.frame)

    def at(self, frame: float) -> View:
        """The view on a frame."""
        if self._path is None:
            return self._base
        across, forward = (self._place(frame) - self._anchor).tolist()
        x, y, z = self._base.target
        return replace(self._base, target=(x + across, y, z + forward))

    def _go_on(self) -> None:
        """The figure moves otherwise, or another one is followed, or none: what is seen now stays where it is."""
        session = self._session
        if self._path is None and not session.looking.follow:
            return
        now = self.at(session.frame)
        figure = session.figure
        followed = session.looking.follow and figure is not None
        self._path = ground_path(session.shot, session.figure_name) if followed else None
        self.take(now)

    def _place(self, frame: float) -> NDArray[np.float64]:
        if self._path is None:
            return np.zeros(2)
        at = min(max(frame - math.ceil(self._session.shot.first), 0.0), len(self._path) - 1.0)
        low = int(at)
        high = min(low + 1, len(self._path) - 1)
        return np.asarray(self._path[low] + (at - low) * (self._path[high] - self._path[low]))
