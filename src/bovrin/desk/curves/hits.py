"""What of the curves lies under the pointer."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPointF

from bovrin.craft.curves.bending import Side
from bovrin.desk.curves.drags import DotDrag
from bovrin.desk.curves.plot import CurvePlot
from bovrin.desk.curves.view import CurvePainter
from bovrin.desk.state.choosing.channel_rows import Row
from bovrin.motion.evaluate import curve_values

HIT = 7.0
THICKET = 400
"""Chosen keys above which no handles are drawn, nor hit."""


class Hits:
    """Handles before keys, keys before dots, dots before curves."""

    def __init__(self, plot: CurvePlot, painter: CurvePainter) -> None:
        self._plot, self._painter = plot, painter

    def handle(self, at: QPointF) -> tuple[Row, int, Side] | None:
        """The handle of a chosen key: its channel, its index and its side."""
        plot = self._plot
        indices = plot.chosen_indices()
        if sum(map(len, indices.values())) > THICKET:
            return None
        for row in plot.shown_rows():
            for index in indices.get(row.channel, ()):
                for side, point in plot.handle_points(row, int(index)).items():
                    if (point - at).manhattanLength() <= HIT + 2:
                        return row, int(index), side
        return None

    def key(self, at: QPointF) -> tuple[Row, int] | None:
        """The nearest key: its channel and its index."""
        plot, scale = self._plot, self._plot.scale
        best, found = HIT + 3, None
        for row in plot.shown_rows():
            curve = plot.curve(row.channel)
            reach = 2 * HIT / scale.per_frame
            frame = scale.frame(at.x())
            low, high = np.searchsorted(curve.frames, [frame - reach, frame + reach])
            if low == high:
                continue
            part = curve.sliced(int(low), int(high))
            dx = np.abs(scale.x(0) + part.frames * scale.per_frame - at.x())
            dy = np.abs(plot.y_of(plot.plot_of(row, part.values)) - at.y())
            index = int(np.argmin(dx + dy))
            if dx[index] + dy[index] < best:
                best, found = float(dx[index] + dy[index]), (row, int(low) + index)
        return found

    def dot(self, at: QPointF) -> DotDrag | None:
        """A drag of the dot there, if it can be dragged."""
        plot = self._plot
        if plot.scale.per_frame < 5:
            return None
        for row in plot.shown_rows():
            frames, dots = self._painter.frame_dots(row)
            if not len(frames):
                continue
            far = np.abs(dots - [at.x(), at.y()]).sum(1)
            nearest = int(far.argmin())
            keyed = plot.curve(row.channel).index_at(float(frames[nearest])) is not None
            if far[nearest] <= HIT - 1 and not keyed:
                drag = DotDrag(plot, row, float(frames[nearest]), at)
                return drag if drag.can else None
        return None

    def curve(self, at: QPointF) -> Row | None:
        """The drawn curve there."""
        plot = self._plot
        frame, rows = plot.scale.frame(at.x()), plot.shown_rows()
        ys = [
            float(plot.y_of(plot.plot_of(r, float(curve_values(plot.curve(r.channel), [frame], r.default)[0]))))
            for r in rows
        ]
        near = min(range(len(rows)), key=lambda n: abs(ys[n] - at.y()), default=-1)
        return rows[near] if near >= 0 and abs(ys[near] - at.y()) <= HIT else None

    def words(self, at: QPointF) -> str:
        """What the line at the bottom says of a point."""
        if self.handle(at) is not None:
            return "Drag the handle to bend the curve, with Shift only longer. Double click lets it find its own slope again."
        if self.key(at) is not None:
            return "Drag the key in time and value; Shift keeps to one of them, Ctrl copies, Alt scales about the current frame."
        if self.dot(at) is not None:
            return "Drag the dot along: what happens on its frame comes sooner or later. Both keys stay."
        return "Dots are frames: close together is slow. Drag a box over keys (Alt: any shape), double click for a key."
