"""The document: the shot that is worked on, its undo steps, where it lies, and the frame one is on."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoStack

from bovrin.desk.state.document.undo import UndoSteps
from bovrin.desk.state.settings import undo_room
from bovrin.shot import Figure, Shot


class Document(QObject):
    """Holds the shot, shows a drag's provisional one, and swaps it for the next in undo steps."""

    changed = pyqtSignal()
    """What is shown is another shot, for good or provisionally."""
    committed = pyqtSignal()
    frame_changed = pyqtSignal()
    file_changed = pyqtSignal()
    """It was saved, or another document came; whether it is saved may have changed."""

    def __init__(self, shot: Shot, path: Path | None = None) -> None:
        super().__init__()
        self.shot, self.path = shot, path
        self.frame = float(shot.first)
        self._preview: Shot | None = None
        self.steps = UndoSteps(self, self._show, undo_room() * 1_000_000)
        self.undo_stack.cleanChanged.connect(lambda _clean: self.file_changed.emit())
        stack = self.undo_stack
        self.destroyed.connect(
            lambda: sip.isdeleted(stack) or stack.blockSignals(True)
        )  # it goes with this, and would tell

    @property
    def undo_stack(self) -> QUndoStack:
        """The undo steps."""
        return self.steps.stack

    @property
    def shown(self) -> Shot:
        """The shot with a drag's preview in it."""
        return self._preview or self.shot

    @property
    def previewing(self) -> bool:
        """Whether a drag is under way."""
        return self._preview is not None

    def preview(self, shot: Shot | None) -> None:
        """Show a provisional shot while dragging, or None to put everything back."""
        if shot is not self._preview:
            self._preview = shot
            self.changed.emit()

    def take_over(self, words: str, new: Shot) -> bool:
        """Make a shot the one there is, as one undo step; nothing happens when it is that already."""
        self._preview = None
        if new is self.shot:
            self.changed.emit()
            return False
        self.steps.push(words, self.shot, new, self.frame)
        return True

    def _show(self, shot: Shot, frame: float) -> None:
        """Used by the undo steps."""
        self._preview = None
        self.shot = shot
        self.changed.emit()
        self.committed.emit()
        self.go_to(frame)

    def go_to(self, frame: float) -> None:
        """Make a whole frame the current one, within the range."""
        wanted = float(min(max(round(frame), self.shot.first), self.shot.last))
        if wanted != self.frame:
            self.frame = wanted
            self.frame_changed.emit()

    def replace(self, shot: Shot, path: Path | None) -> None:
        """Another document."""
        self.undo_stack.clear()
        self._preview = None
        self.shot, self.path = shot, path
        self.frame = float(shot.first)
        for signal in (self.changed, self.committed, self.frame_changed, self.file_changed):
            signal.emit()

    def saved(self, path: Path, cast: tuple[Figure, ...] | None = None) -> None:
        """The shot now lies in this file, and its figures, which are the same, where `cast` says."""
        self.path = path
        if cast is not None and any(a is not b for a, b in zip(cast, self.shot.cast, strict=True)):
            self.shot = replace(self.shot, cast=cast)
            self.changed.emit()
        self.undo_stack.setClean()
        self.file_changed.emit()

    def end(self) -> None:
        """The window closes: views hear nothing more from the undo stack while everything is taken down."""
        self.undo_stack.blockSignals(True)
