"""The shot in the window: shown, previewed, changed in undo steps; and what is said about it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QUndoCommand, QUndoStack

from bovrin.craft.unkeyed import keep
from bovrin.errors import BovrinError
from bovrin.shot import Shot


def _moves_otherwise(old: Shot, new: Shot) -> bool:
    """Whether a figure with a change that is not keyed yet has other curves now."""
    return any(new.take.curves.get(u.figure) is not old.take.curves.get(u.figure) for u in new.unkeyed)


class SwapShot(QUndoCommand):
    """The one undo step there is: one shot for another, and the frame it happened on."""

    def __init__(self, session: ShotKeeper, words: str, old: Shot, new: Shot) -> None:
        super().__init__(words)
        self._session, self._old, self._new, self._frame = session, old, new, session.frame

    def undo(self) -> None:
        self._session.show_committed(self._old, self._frame)

    def redo(self) -> None:
        self._session.show_committed(self._new, self._frame)


class ShotKeeper(QObject):
    """Holds the shot and its undo steps. Views connect to the signals and never to each other."""

    shot_changed = pyqtSignal()
    committed = pyqtSignal()
    frame_changed = pyqtSignal()
    choice_changed = pyqtSignal()
    pass_changed = pyqtSignal()
    look_changed = pyqtSignal()
    file_changed = pyqtSignal()
    hint_changed = pyqtSignal(str)
    told = pyqtSignal(str)
    failed = pyqtSignal(str)
    offered = pyqtSignal(str, str, object)

    def __init__(self, shot: Shot, path: Path | None) -> None:
        super().__init__()
        self.undo_stack = QUndoStack(self)
        self.shot = shot
        self.path = path
        self.frame = float(shot.first)
        self._preview: Shot | None = None
        self.undo_stack.cleanChanged.connect(self._on_clean_changed)

    def _on_clean_changed(self, _clean: bool) -> None:
        self.file_changed.emit()

    def go_to(self, frame: float) -> None:
        """Make a frame the current one, within the range."""
        raise NotImplementedError

    def _mend_choice(self) -> None:
        """What was chosen may not be there any more."""

    @property
    def shown(self) -> Shot:
        """The shot with a drag's preview in it."""
        return self._preview or self.shot

    @property
    def previewing(self) -> bool:
        """Whether a drag is under way."""
        return self._preview is not None

    def do(self, words: str, change: Callable[[Shot], Shot]) -> bool:
        """Make a change one undo step. A BovrinError is told, and nothing changes."""
        try:
            new = change(self.shot)
        except BovrinError as error:
            self.fail(error)
            return False
        return self.commit(words, new)

    def commit(self, words: str, new: Shot) -> bool:
        """Take over a shot as one undo step; nothing happens when it is the one there is.

        Changes that were not keyed yet are keyed with it when curves change, so that nothing is lost.
        """
        if new.unkeyed and _moves_otherwise(self.shot, new):
            frames = ", ".join(f"{u.frame:g}" for u in new.unkeyed)
            self.tell(f"What was changed on {frames} is keyed now as well.")
            new = keep(new)
        return self._take_over(words, new)

    def _take_over(self, words: str, new: Shot) -> bool:
        self._preview = None
        if new is self.shot:
            self.shot_changed.emit()
            return False
        self.undo_stack.push(SwapShot(self, words, self.shot, new))
        return True

    def preview(self, shot: Shot | None) -> None:
        """Show a provisional shot while dragging, or None to put everything back."""
        if shot is not self._preview:
            self._preview = shot
            self.shot_changed.emit()

    def show_committed(self, shot: Shot, frame: float) -> None:
        """Used by the undo step."""
        self._preview = None
        self.shot = shot
        self._mend_choice()
        self.shot_changed.emit()
        self.committed.emit()
        if frame != self.frame:
            self.go_to(frame)

    def end(self) -> None:
        """The window closes: views hear nothing more from the undo stack while everything is taken down."""
        self.undo_stack.blockSignals(True)

    def saved(self, path: Path) -> None:
        """The shot now lies in this file."""
        self.path = path
        self.undo_stack.setClean()
        self.file_changed.emit()

    def hint(self, words: str) -> None:
        """The line at the bottom."""
        self.hint_changed.emit(words)

    def tell(self, words: str) -> None:
        """Something happened that the animator wants to know."""
        self.told.emit(words)

    def fail(self, error: BovrinError) -> None:
        """Something went wrong: shown once, in plain words."""
        self.failed.emit(error.sentence)
