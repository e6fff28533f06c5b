"""Work that takes a while: done beside the window, with a word on what it is and a way to stop it."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar

from PyQt6.QtCore import QEventLoop, Qt, QThread, QTimer
from PyQt6.QtWidgets import QProgressDialog, QWidget

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


class Worker(QThread, Generic[Result]):
    """Does one thing on a thread of its own and keeps what came of it."""

    def __init__(self, work: Callable[[], Result]) -> None:
        super().__init__()
        self._work = work
        self.result: Result | None = None
        self.error: BaseException | None = None

    def run(self) -> None:
        """The work."""
        try:
            self.result = self._work()
        except BaseException as error:  # noqa: BLE001 - it is raised again where it was asked for
            self.error = error


class Waiting:
    """Waits over a window. Work that nobody waits for any more ends by itself."""

    def __init__(self, parent: QWidget) -> None:
        self._parent = parent
        self._ending: set[Worker[Any]] = set()

    def __call__(self, words: str, work: Callable[[], Result], steps: Steps | None = None) -> Result | None:
        """The result of some work, or None when the animator stopped waiting for it. Its errors are raised here.

        steps: what the work tells how far it is; it is told to stop through them.
        """
        worker: Worker[Result] = Worker(work)
        loop = QEventLoop()
        worker.finished.connect(loop.quit)
        shown: list[QProgressDialog] = []
        soon = QTimer()
        soon.setSingleShot(True)
        soon.timeout.connect(lambda: shown.append(_progress(self._parent, words, loop, steps)))
        soon.start(SOON)
        worker.start()
        loop.exec()
        soon.stop()
        stopped = not worker.isFinished()
        for progress in shown:
            progress.canceled.disconnect()
            progress.close()
            progress.deleteLater()
        if stopped:
            if steps is not None:
                steps.stopped = True
            self._ending.add(worker)
            worker.finished.connect(lambda: self._ending.discard(worker))
            return None
        if worker.error is not None:
            raise worker.error
        return worker.result

    def end(self) -> None:
        """Until work that nobody waits for any more has ended; a thread must not outlive the window."""
        for worker in tuple(self._ending):
            worker.wait()


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
