"""Work that takes a while: done beside the window, with a word on what it is and a way to stop it."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future
from typing import TypeVar

from PyQt6.QtCore import QEventLoop, Qt, QTimer
from PyQt6.QtWidgets import QProgressBar, QProgressDialog, QWidget

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

        shown: list[_Progress] = []
        soon = QTimer()
        soon.setSingleShot(True)
        soon.timeout.connect(lambda: shown.append(_Progress(self._parent, words, loop, steps)))
        soon.start(SOON)
        self._background.start(work, told)
        loop.exec()
        soon.stop()
        for progress in shown:
            progress.end()
        if came:
            return came[0].result()
        if steps is not None:
            steps.stopped = True
        return None


class _Progress(QProgressDialog):
    """The words, with a bar of how far it is, or one that only says that something goes on, and a way to stop."""

    def __init__(self, parent: QWidget, words: str, loop: QEventLoop, steps: Steps | None) -> None:
        super().__init__(words, "Stop", 0, 0 if steps is None else 100, parent)
        self._steps = steps
        self._bar = QProgressBar(self)  # set by itself: the dialog would let events through each time, its own end too
        self._bar.setRange(0, 0 if steps is None else 100)
        self.setBar(self._bar)
        self.setAutoClose(False)
        self.setAutoReset(False)
        self._often = QTimer(self)
        self._often.timeout.connect(self._show_share)
        self._often.start(OFTEN)
        self.setWindowTitle("Bovrin")
        self.setWindowModality(Qt.WindowModality.WindowModal)
        self.setMinimumDuration(0)
        self.canceled.connect(loop.quit)
        self.show()

    def _show_share(self) -> None:
        if self._steps is not None:
            self._bar.setValue(round(self._steps.share * 100))

    def end(self) -> None:
        """Nobody waits any more."""
        self._often.stop()
        self.canceled.disconnect()
        self.close()
        self.deleteLater()
