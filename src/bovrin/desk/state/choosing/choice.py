"""What is chosen: a figure, and some of its controls."""

from __future__ import annotations

from collections.abc import Iterable

from PyQt6.QtCore import QObject, pyqtSignal

from bovrin.desk.state.document.document import Document
from bovrin.shot import CurveSet, Figure


class Choice(QObject):
    """There is always a figure as long as the shot has one; controls are indices, the one chosen last stands last."""

    changed = pyqtSignal()

    def __init__(self, document: Document) -> None:
        super().__init__(document)
        self._document = document
        self.name, self.controls = _first(document), ()
        document.changed.connect(self._on_document_changed)

    name: str
    controls: tuple[int, ...]

    @property
    def figure(self) -> Figure | None:
        """The chosen figure as shown."""
        return next((f for f in self._document.shown.cast if f.name == self.name), None)

    @property
    def channels(self) -> list[int]:
        """The channels of the chosen controls."""
        figure = self.figure
        return [] if figure is None else [i for control in self.controls for i in figure.rig.span(control)]

    @property
    def curves(self) -> CurveSet | None:
        """The chosen figure's curves as shown."""
        return self._document.shown.take.curves.get(self.name)

    def choose(self, figure: str, controls: Iterable[int] = ()) -> None:
        """Choose controls of a figure."""
        wanted = tuple(dict.fromkeys(controls))
        if (figure, wanted) != (self.name, self.controls):
            self.name, self.controls = figure, wanted
            self.changed.emit()

    def forget(self) -> None:
        """Nothing is chosen until the next document is there."""
        self.name, self.controls = "", ()

    def _on_document_changed(self) -> None:
        """A figure that has left cannot be chosen any more, nor can controls that its rig no longer has."""
        figure = self.figure
        if figure is None:
            self.choose(_first(self._document))
        elif self.controls and max(self.controls) >= len(figure.rig.controls):
            self.choose(self.name)


def _first(document: Document) -> str:
    cast = document.shown.cast
    return cast[0].name if cast else ""
