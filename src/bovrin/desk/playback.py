"""Playing at true speed: the frame follows the clock; frames that could not be shown are counted, never made up for."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from bovrin.desk.session import Session


class Player(QObject):
    """Plays the range in a loop."""

    changed = pyqtSignal()

    def __init__(self, session: Session, clock: Callable[[], float] = time.perf_counter) -> None:
        super().__init__(session)
        self.session = session
        self.dropped = 0
        self.shown = 0
        self._clock = clock
        self._began = 0.0
        self._from = 0.0
        self._last = 0
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(4)
        self._timer.timeout.connect(self.tick)

    def toggle(self) -> None:
        """Play, or stop where it is."""
        if self.session.playing:
            self.stop()
        else:
            self.play()

    def play(self) -> None:
        """Begin at the current frame."""
        session = self.session
        session.playing = True
        self.dropped, self.shown, self._last = 0, 1, 0
        self._from = session.frame if session.frame < session.shot.last else session.shot.first
        session.go_to(self._from)
        self._began = self._clock()
        self._timer.start()
        self.changed.emit()

    def stop(self) -> None:
        """Stay on the frame that is shown."""
        if self.session.playing:
            self._timer.stop()
            self.session.playing = False
            self.changed.emit()
            self.session.frame_changed.emit()

    def tick(self) -> None:
        """Show the frame that the clock asks for."""
        shot = self.session.shown
        passed = int((self._clock() - self._began) * shot.frame_rate)
        if passed == self._last:
            return
        self.dropped += passed - self._last - 1
        self.shown += 1
        self._last = passed
        length = int(shot.last - shot.first) + 1
        self.session.go_to(shot.first + (self._from - shot.first + passed) % length)
        self.changed.emit()
