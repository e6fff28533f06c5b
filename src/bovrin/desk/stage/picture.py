"""The stage's picture: plain while things move, fine when they rest; frames of playing kept, and drawn ahead while idle."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable

from PyQt6.QtCore import QObject, QTimer, pyqtSignal
from PyQt6.QtGui import QImage

from bovrin.desk.kit.images import Picture
from bovrin.desk.kit.look import Look
from bovrin.desk.stage.scene import Scene
from bovrin.picture.renderer import PictureStyle, shared_renderer

REST = 160
"""Milliseconds without a change after which the picture is drawn fine."""
IDLE = 900
"""Milliseconds without a change after which frames are drawn ahead."""
KEPT_BYTES = 256_000_000
SLOW = 0.1
"""Seconds for a plain picture above which none is drawn fine or ahead: the window would not answer meanwhile."""


class StagePicture(QObject):
    """Draws when it is asked for its image. `busy` says whether a drag is under way; `range_`: the frames that playing
    would show, in order; None where nothing is drawn ahead."""

    changed = pyqtSignal()

    def __init__(self, scene: Scene, busy: Callable[[], bool]) -> None:
        super().__init__(scene)
        self.scene, self._busy = scene, busy
        self.ratio = 1.0
        self.frames_ahead: Callable[[], list[float]] | None = None
        self._image: QImage | None = None
        self._fine = False
        self._taken: deque[float] = deque(maxlen=3)
        """How long the last plain pictures took, seconds. The first one does not count: it sets up what all others are drawn
        with, and one that is slow by itself says nothing of the machine."""
        self._warm = False
        self.kept: dict[float, QImage] = {}
        self._rest = self._timer(REST, self._settle)
        self._idle = self._timer(IDLE, self._draw_ahead)
        self._next = self._timer(0, self._draw_ahead)

    def _timer(self, milliseconds: int, then: Callable[[], object]) -> QTimer:
        timer = QTimer(self)
        timer.setSingleShot(True)
        timer.setInterval(milliseconds)
        timer.timeout.connect(then)
        return timer

    def redraw(self, *, kept: bool = False) -> None:
        """Something is seen otherwise; `kept`: only the frame is another, so pictures of frames stay."""
        if not kept:
            self.kept.clear()
        self.scene.forget()
        self._image, self._fine = None, False
        for timer in (self._rest, self._idle, self._next):
            timer.stop()
        self.changed.emit()

    def rest_soon(self) -> None:
        """Draw fine when nothing has changed for a moment."""
        self._rest.start()

    def _settle(self) -> None:
        if not self._busy() and not self.scene.session.playing and not self._slow:
            self._fine, self._image = True, None
            self._idle.start()
            self.changed.emit()

    @property
    def at_rest(self) -> bool:
        """Whether the picture is as fine as it gets."""
        return self._image is not None and (self._fine or self._slow)

    @property
    def _slow(self) -> bool:
        """Whether plain pictures take so long here that none is drawn fine."""
        return len(self._taken) > 1 and min(self._taken) >= SLOW

    def image(self) -> QImage:
        """The picture of now."""
        session = self.scene.session
        found = self.kept.get(session.frame)
        if session.playing and found is not None:
            return found
        if self._image is None and found is not None and not self._fine and not session.looking.light_table.on:
            self._image = found
            self.rest_soon()
        if self._image is None:
            began = time.perf_counter()
            self._image = self._drawn(fine=self._fine)
            if not self._fine:
                if self._warm:
                    self._taken.append(time.perf_counter() - began)
                self._warm = True
                self.rest_soon()
            if session.playing:
                self._keep(session.frame, self._image)
        return self._image

    def size(self) -> tuple[int, int]:
        """The stage's size in device pixels."""
        width, height = self.scene.pixels
        return max(16, round(width * self.ratio)), max(16, round(height * self.ratio))

    def _drawn(self, *, fine: bool) -> Picture:
        look = PictureStyle(theme=Look.theme, fine=fine, line=1.5 * self.ratio)
        scene = self.scene
        ghosts = scene.ghosts() + scene.other_take.over()
        pixels = shared_renderer().draw(
            scene.items() + scene.other_take.beside(scene.view), scene.view, self.size(), look, ghosts
        )
        return Picture(pixels, self.ratio)

    def _keep(self, frame: float, image: QImage) -> None:
        width, height = self.size()
        if len(self.kept) * width * height * 4 < KEPT_BYTES:
            self.kept[frame] = image

    def _draw_ahead(self) -> None:
        """One frame of playing at a time, while nothing else happens."""
        session = self.scene.session
        if self.frames_ahead is None or session.playing or self._busy() or session.document.previewing:
            return
        wanted = next((frame for frame in self.frames_ahead() if frame not in self.kept), None)
        if wanted is None:
            return
        self.kept_frame(wanted)
        if wanted in self.kept:
            self._next.start()

    def kept_frame(self, frame: float) -> None:
        """Draw a frame as playing shows it, and keep it."""
        scene = self.scene
        look = PictureStyle(theme=Look.theme, fine=False, line=1.5 * self.ratio)
        view = scene.view_on(frame)
        items = scene.items(frame) + scene.other_take.beside(view, frame)
        pixels = shared_renderer().draw(items, view, self.size(), look, scene.other_take.over(frame))
        self._keep(frame, Picture(pixels, self.ratio))
