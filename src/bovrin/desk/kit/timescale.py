"""Frames along x, shared by the pose strip and the curve desk."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import QObject, pyqtSignal

GUTTER = 150
"""Pixels left of the first frame, where names stand."""

MARGIN = 22


class TimeScale(QObject):
    """Which frames are seen, and how wide one is."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.first = 101.0
        self.per_frame = 18.0
        self.width = 1000.0
        self._fitted: tuple[float, float] | None = None

    def x(self, frame: float) -> float:
        """Pixels from the left of the widget."""
        return GUTTER + MARGIN + (frame - self.first) * self.per_frame

    def frame(self, x: float) -> float:
        """The frame at a pixel, with its fraction."""
        return self.first + (x - GUTTER - MARGIN) / self.per_frame

    @property
    def fitted(self) -> tuple[float, float] | None:
        """The frames that are seen exactly, however wide the widget is; None while they were zoomed or slid by hand."""
        return self._fitted

    def set_width(self, width: float) -> None:
        """The widget's width changed. A fitted range stays fitted; frames that were zoomed by hand stay as wide."""
        if width > GUTTER + 2 * MARGIN + 50 and width != self.width:
            self.width = width
            if self._fitted is not None:
                self.show_range(*self._fitted)
            self.changed.emit()

    def show_range(self, first: float, last: float) -> None:
        """See exactly these frames."""
        self._fitted = (first, last)
        self.first = first
        self.per_frame = (self.width - GUTTER - 2 * MARGIN) / max(last - first, 1.0)
        self.changed.emit()

    def see(self, first: float, per_frame: float) -> None:
        """Look at the same frames as before; a fitted range that was the same stays fitted."""
        if (first, per_frame) != (self.first, self.per_frame):
            self._fitted = None
            self.first, self.per_frame = first, per_frame
            self.changed.emit()

    def zoom(self, factor: float, x: float) -> None:
        """Wider or narrower frames, the one at a pixel staying put."""
        kept = self.frame(x)
        self._fitted = None
        self.per_frame = min(max(self.per_frame * factor, 0.05), 120.0)
        self.first = kept - (x - GUTTER - MARGIN) / self.per_frame
        self.changed.emit()

    def pan(self, pixels: float) -> None:
        """Slide the frames to the right by pixels."""
        self._fitted = None
        self.first -= pixels / self.per_frame
        self.changed.emit()

    def step(self) -> int:
        """Frames between two numbers on the ruler."""
        for step in (1, 2, 6, 12, 24, 48, 120, 240, 600, 1200, 2400, 6000):
            if step * self.per_frame >= 46:
                return step
        return 12000

    def seen(self) -> tuple[float, float]:
        """The first and last frame in sight."""
        return self.frame(GUTTER), self.frame(self.width)

    def numbers(self, origin: float) -> Iterator[int]:
        """The frames that carry a number, counted from the shot's first."""
        step = self.step()
        low, high = self.seen()
        start = int(origin + ((low - origin) // step) * step)
        yield from range(start, int(high) + 1, step)
