"""What is chosen on the motion shelf: a laid clip, and the clip that is laid next."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import QObject, pyqtSignal

from bovrin.desk.state.choosing.choice import Choice
from bovrin.desk.state.document.document import Document
from bovrin.shot import Laid, Lane, Shot


class Place(NamedTuple):
    """Where a clip lies: on which lane, and as which of its clips."""

    lane: int
    number: int


class Shelf(QObject):
    """The choice on the shelf of the chosen figure."""

    changed = pyqtSignal()

    def __init__(self, document: Document, choice: Choice, parent: QObject) -> None:
        super().__init__(parent)
        self._document, self._choice = document, choice
        self.place: Place | None = None
        self.clip = ""
        """The clip that is laid next."""
        document.committed.connect(self.changed)
        choice.changed.connect(self._on_choice_changed)

    def _on_choice_changed(self) -> None:
        self.choose(None)

    def choose(self, place: Place | None) -> None:
        """Choose a laid clip, or none."""
        self.place = place
        laid = self.laid()
        if laid is not None:
            self.clip = laid.clip
        self.changed.emit()

    def choose_clip(self, name: str) -> None:
        """The clip that is laid next."""
        self.clip = name
        self.changed.emit()

    def lanes(self, shot: Shot | None = None) -> tuple[Lane, ...]:
        """The lanes of the chosen figure."""
        shown = self._document.shown if shot is None else shot
        return shown.lanes(self._choice.name) if self._choice.figure is not None else ()

    def laid(self) -> Laid | None:
        """The laid clip that is chosen, if it is still there."""
        if self.place is None:
            return None
        lanes = self.lanes(self._document.shot)
        lane, number = self.place
        return lanes[lane].laid[number] if lane < len(lanes) and number < len(lanes[lane].laid) else None

    def follow(self, laid: Laid, lane: int) -> None:
        """Keep a laid clip chosen after its lane changed."""
        lanes = self.lanes(self._document.shot)
        if lane < len(lanes):
            near = [
                n for n, one in enumerate(lanes[lane].laid) if one.clip == laid.clip and abs(one.at - laid.at) < 1e-6
            ]
            self.choose(Place(lane, near[0]) if near else None)
