"""Work that takes a while: done beside the window, with a word on what it is and a way to stop it."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future
from typing import TypeVar

from PyQt6.QtCore import QEventLoop, Qt, QTimer
from PyQt6.QtWidgets import QProgressDialog, QWidget

from bovrin.desk.kit.background import Background

Result = TypeVar("Result")
SOON = 500
OFTEN = 100
"""Milliseconds after which the words are shown, and between two looks at how far it is."""


class Steps:
    """What a long work says of how far it is, from its own thread; it asks whether to go on by saying so."""

    def __init__(self) -> None:
        self.share, self.stopped = 0.0, False

    def __call__(self, share: float) -> bool:
        """How far the work is, 0 to 1; returns whether to go on."""
        self.share = share
        return not self.stopped


class Waiting:
    """Waits over a window. Work that nobody waits for any more ends by itself."""

    def __init__(self, parent: QWidget, background: Background) -> None:
        self._parent, self._background = parent, background

    def __call__(self, words: str, work: Callable[[], Result], steps: Steps | None = None) -> Result | None:
        """The result of some work, or None when the animator stopped waiting for it. Its errors are raised here.

        steps: what the work tells how far it is; it is told to stop through them.
        """
        loop = QEventLoop()
        came: list[Future[Result]] = []

        def told(future: Future[Result]) -> None:
            came.append(future)
            loop.quit()

        shown: list[QProgressDialog] = []
        soon = QTimer()
        soon.setSingleShot(True)
        soon.timeout.connect(lambda: shown.append(_progress(self._parent, words, loop, steps)))
        soon.start(SOON)
        self._background.start(work, told)
        loop.exec()
        soon.stop()
        for progress in shown:
            progress.canceled.disconnect()
            progress.close()
            progress.deleteLater()
        if came:
            return came[0].result()
        if steps is not None:
            steps.stopped = True
        return None


def _progress(parent: QWidget, words: str, loop: QEventLoop, steps: Steps | None) -> QProgressDialog:
    """The words, with a bar of how far it is, or one that only says that something goes on, and a way to stop."""
    progress = QProgressDialog(words, "Stop", 0, 0 if steps is None else 100, parent)
    progress.setAutoClose(False)
    progress.setAutoReset(False)
    if steps is not None:
        often = QTimer(progress)
        often.timeout.connect(lambda: progress.setValue(round(steps.share * 100)))
        often.start(OFTEN)
    progress.setWindowTitle("Bovrin")
    progress.setWindowModality(Qt.WindowModality.WindowModal)
    progress.setMinimumDuration(0)
    progress.canceled.connect(loop.quit)
    progress.show()
    return progress
