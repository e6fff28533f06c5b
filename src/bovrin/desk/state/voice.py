"""What the desk says: what happened, what went wrong, what could be done about it, and the line at the bottom."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QObject, pyqtSignal

from bovrin.errors import BovrinError
from bovrin.log import log


class Voice(QObject):
    """Whoever shows words listens here."""

    hinted = pyqtSignal(str)
    told = pyqtSignal(str)
    failed = pyqtSignal(str)
    offered = pyqtSignal(str, object)
    hushed = pyqtSignal()
    """What was told is out of date, and out of the way."""

    def hint(self, words: str) -> None:
        """The line at the bottom."""
        self.hinted.emit(words)

    def tell(self, words: str) -> None:
        """Something happened that the animator wants to know."""
        self.told.emit(words)

    def fail(self, error: BovrinError) -> None:
        """Something went wrong: shown once, in plain words."""
        log.info("told: %s", error.sentence)
        self.failed.emit(error.sentence)

    def offer(self, words: str, *choices: tuple[str, Callable[[], object]]) -> None:
        """Something happened, and something can be done about it: buttons, and what each does."""
        self.offered.emit(words, choices)

    def hush(self) -> None:
        """Something takes the place of what was told."""
        self.hushed.emit()
