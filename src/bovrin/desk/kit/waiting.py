"""Work that takes a while: done beside the window, with a word on what it is and a way to stop it."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import Future
from typing import TypeVar

from PyQt6.QtCore import QEventLoop, Qt, QTimer
from PyQt6.QtWidgets import QProgressBar, QProgressDialog, QWidget

from bovrin.desk.kit.background import Background
from bovrin.progress import Stopped, heard_by

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
        self.share = max(self.share, share)
        return not self.stopped


class Waiting:
    """Waits over a window. A work that is stopped ends, and leaves everything as it was."""

    def __init__(self, parent: QWidget, background: Background) -> None:
        self._parent, self._background = parent, background
        self._words: list[str] = []
        self._then: list[Callable[[], object]] = []

    def __call__(self, words: str, work: Callable[[], Result], steps: Steps | None = None) -> Result | None:
        """The result of some work, or None when the animator stopped waiting for it. Its errors are raised here.

        steps: what the work tells how far it is, where it does not do so by `progress`; it is told to stop through them. A
        work that is stopped has ended when this returns.
        """
        heard, loop = steps or Steps(), QEventLoop()
        came: list[Future[Result]] = []

        def told(future: Future[Result]) -> None:
            came.append(future)
            loop.quit()

        def heard_work() -> Result:
            with heard_by(heard):
                return work()

        self._words.append(words)
        progress: _Progress | None = None
        try:
            self._background.start(heard_work, told)
            soon = QTimer(loop)
            soon.setSingleShot(True)
            soon.timeout.connect(loop.quit)
            soon.start(SOON)
            loop.exec(QEventLoop.ProcessEventsFlag.ExcludeUserInputEvents)  # clicks wait for what comes of it
            soon.stop()
            if not came:
                progress = _Progress(self._parent, words, heard)
                loop.exec()
        finally:
            self._words.pop()
            if progress is not None:
                progress.end()
            if not self._words:
                for then in self._then:
                    QTimer.singleShot(0, then)
                self._then.clear()
        try:
            return None if heard.stopped and steps is not None else came[0].result()
        except Stopped:
            return None

    def afterwards(self, then: Callable[[], object]) -> None:
        """Do something once nothing is waited for any more."""
        if then not in self._then:
            self._then.append(then)

    @property
    def words(self) -> str:
        """What is waited for; "" for nothing."""
        return self._words[-1] if self._words else ""


class _Progress(QProgressDialog):
    """The words, a bar of how far it is, which only says that something goes on until that is known, and a way to stop."""

    def __init__(self, parent: QWidget, words: str, steps: Steps) -> None:
        super().__init__(words, "Stop", 0, 100, parent)
        self._steps = steps
        self._bar = QProgressBar(self)  # set by itself: the dialog would let events through each time, its own end too
        self._bar.setRange(0, 0)
        self.setBar(self._bar)
        self.setAutoClose(False)
        self.setAutoReset(False)
        self._often = QTimer(self)
        self._often.timeout.connect(self._show_share)
        self._often.start(OFTEN)
        self.setWindowTitle("Bovrin")
        self.setWindowModality(Qt.WindowModality.WindowModal)
        self.setMinimumDuration(0)
        self.canceled.connect(self._stop)
        self.show()

    def _stop(self) -> None:
        """The work is told to end; the words stay until it has."""
        self._steps.stopped = True
        self.setLabelText("Stopping…")
        self.show()

    def _show_share(self) -> None:
        if self._steps.share > 0.0:
            self._bar.setRange(0, 100)
            self._bar.setValue(round(self._steps.share * 100))

    def end(self) -> None:
        """Nobody waits any more."""
        self._often.stop()
        self.canceled.disconnect()
        self.close()
        self.deleteLater()
