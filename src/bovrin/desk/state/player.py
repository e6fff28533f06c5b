"""Playing at true speed: the frame follows the clock; frames that could not be shown are counted, never made up for."""

from __future__ import annotations

import time
from collections.abc import Callable

from PyQt6.QtCore import QObject, Qt, QTimer, pyqtSignal

from bovrin.desk.state.document.session import Session

LOOP, ONCE, BACK_AND_FORTH = "in a loop", "once", "back and forth"
MODES = {LOOP: "round and round", ONCE: "to the end and stops there", BACK_AND_FORTH: "to the end and back"}


def frame_after(passed: int, start: int, length: int, mode: str) -> int:
    """Which frame of a range (0 to length - 1) is shown so many frames after one began at `start`."""
    if mode == ONCE:
        return min(start + passed, length - 1)
    if mode == BACK_AND_FORTH and length > 1:
        place = (start + passed) % (2 * length - 2)
        return place if place < length else 2 * length - 2 - place
    return (start + passed) % length


class Player(QObject):
    """Plays the range, or the second one that is kept aside."""

    changed = pyqtSignal()

    def __init__(self, session: Session, clock: Callable[[], float] = time.perf_counter) -> None:
        super().__init__(session)
        self.session = session
        self.mode = LOOP
        self.second = False
        self.dropped = 0
        self.shown = 0
        self._clock = clock
        self._began = 0.0
        self._from = 0
        self._last = 0
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(4)
        self._timer.timeout.connect(self.tick)

    def range(self) -> tuple[float, float]:
        """The frames that are played; those of the second range no further than the shot."""
        shot = self.session.shown
        if not self.second or shot.second is None:
            return shot.first, shot.last
        low, high = max(shot.second[0], shot.first), min(shot.second[1], shot.last)
        return (low, high) if low <= high else (shot.first, shot.last)

    def frames(self) -> list[float]:
        """The frames that playing would show from here on, in their order."""
        low, high = self.range()
        every = [low + n for n in range(int(high - low) + 1)]
        here = self.session.frame
        return [f for f in every if f >= here] + [f for f in every if f < here]

    def set_mode(self, mode: str) -> None:
        """How playing goes on at the end."""
        self.mode = mode
        self._start_again()

    def toggle_second(self) -> None:
        """Play only the second range, or the whole shot again."""
        if not self.second and self.session.shown.second is None:
            self.session.voice.tell("There is no second range yet. Drag along the numbers with Shift to keep one.")
            return
        self.second = not self.second
        self._start_again()

    def _start_again(self) -> None:
        if self.session.playing:
            self.play()
        self.changed.emit()

    def toggle(self) -> None:
        """Play, or stop where it is."""
        if self.session.playing:
            self.stop()
        else:
            self.play()

    def play(self) -> None:
        """Begin at the current frame, or at the beginning when that is the last one."""
        session = self.session
        session.playing = True
        self.dropped, self.shown, self._last = 0, 1, 0
        low, high = self.range()
        begin = session.frame if low <= session.frame < high else low
        self._from = round(begin - low)
        session.go_to(begin)
        self._began = self._clock()
        self._timer.start()
        self.changed.emit()

    def stop(self) -> None:
        """Stay on the frame that is shown."""
        if self.session.playing:
            self._timer.stop()
            self.session.playing = False
            self.changed.emit()
            self.session.document.frame_changed.emit()

    def tick(self) -> None:
        """Show the frame that the clock asks for."""
        passed = int((self._clock() - self._began) * self.session.shown.frame_rate)
        if passed == self._last:
            return
        self.dropped += passed - self._last - 1
        self.shown += 1
        self._last = passed
        low, high = self.range()
        length = int(high - low) + 1
        self.session.go_to(low + frame_after(passed, self._from, length, self.mode))
        if self.mode == ONCE and self._from + passed >= length - 1:
            self.stop()
        self.changed.emit()
