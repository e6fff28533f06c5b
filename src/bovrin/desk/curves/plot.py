"""The curve desk's places: which channels are listed and drawn, where values, keys and handles lie. Nothing is drawn here."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPolygonF
from PyQt6.QtWidgets import QWidget

from bovrin.craft.curves.bending import Side
from bovrin.desk.curves.channel_list import TOP, ChannelList
from bovrin.desk.kit.timescale import TimeScale
from bovrin.desk.state.choosing.channel_rows import Row
from bovrin.desk.state.document.session import Session
from bovrin.motion.handles import gather
from bovrin.shot import Curve, CurveSet, HandleKind

Floats = NDArray[np.float64]


class CurvePlot:
    """The geometry of the curve desk. Plot units are the animator's (cm, degrees, percent), or shares of each curve's
    own height when all have one height."""

    def __init__(self, session: Session, scale: TimeScale, host: QWidget) -> None:
        self.session, self.scale, self.host = session, scale, host
        self.list = ChannelList(session, host, self.fit)
        self.one_height = False
        self.low, self.high = -1.0, 1.0
        self._ranges: tuple[CurveSet, dict[int, tuple[float, float]]] | None = None

    def rows(self) -> list[Row]:
        """The channels that are listed."""
        return self.list.rows()

    def shown_rows(self) -> list[Row]:
        """The channels whose curves are drawn."""
        return self.list.drawn()

    def curve(self, channel: int) -> Curve:
        """The curve of a channel as shown."""
        curves = self.session.curves
        assert curves is not None
        return curves[channel]

    # -- values -------------------------------------------------------------------------------------------------------

    def range_of(self, row: Row) -> tuple[float, float]:
        """The lowest and highest shown value of a channel's keys; while something is dragged, those there were."""
        curves = self.session.shot.take.curves[self.session.figure_name]
        if self._ranges is None or self._ranges[0] is not curves:
            self._ranges = (curves, {})
        found = self._ranges[1]
        if row.channel not in found:
            values = curves[row.channel].values * row.factor
            low, high = (float(values.min()), float(values.max())) if len(values) else (0.0, 0.0)
            found[row.channel] = (low, high) if high - low > 1e-9 else (low - 0.5, low + 0.5)
        return found[row.channel]

    def plot_of(self, row: Row, values: Any) -> Any:
        """Values of a channel (program units; a number or an array) in plot units."""
        shown = values * row.factor
        if not self.one_height:
            return shown
        low, high = self.range_of(row)
        return (shown - low) / (high - low)

    def per_plot(self, row: Row) -> float:
        """Program units of a channel in one plot unit."""
        low, high = self.range_of(row) if self.one_height else (0.0, 1.0)
        return (high - low) / row.factor

    def value_of(self, row: Row, plot: float) -> float:
        """The value (program units) at a height in plot units."""
        low = self.range_of(row)[0] if self.one_height else 0.0
        return low / row.factor + plot * self.per_plot(row)

    def y_of(self, plot: Any) -> Any:
        """Pixels from the top of a height in plot units (a number or an array)."""
        return TOP + (self.high - plot) / (self.high - self.low) * self._tall()

    def value_at(self, y: float) -> float:
        """The plot units at a pixel."""
        return self.high - (y - TOP) / self._tall() * (self.high - self.low)

    def _tall(self) -> float:
        return float(self.host.height() - TOP - 10)

    def fit(self) -> None:
        """Fit the values of the chosen keys that are drawn, else of the drawn curves; again: of all of them."""
        heights = [
            self.plot_of(r, self.curve(r.channel).values) for r in self.shown_rows() if len(self.curve(r.channel))
        ]
        chosen = self.chosen_indices()
        picked = [
            self.plot_of(r, self.curve(r.channel).values[chosen[r.channel]])
            for r in self.shown_rows()
            if r.channel in chosen
        ]
        wanted = _around(picked)
        if wanted is None or np.allclose(wanted, (self.low, self.high)):
            wanted = _around(heights) or (-1.0, 1.0)
        self.low, self.high = wanted
        self.host.update()

    def look(self, low: float, high: float) -> None:
        """See these plot units; spans beyond sense are refused."""
        if 1e-9 < high - low < 1e12:
            self.low, self.high = low, high
            self.host.update()

    def stretch(self, factor: float, y: float) -> None:
        """Stretch the value axis about a height, pixels."""
        kept = self.value_at(y)
        self.look(kept + (self.low - kept) / factor, kept + (self.high - kept) / factor)

    def set_one_height(self, on: bool) -> None:
        """Draw all curves at one height, so that metres and degrees can be read together."""
        self.one_height = on
        self.low, self.high = 0.0, 0.0
        self.fit()

    # -- keys ---------------------------------------------------------------------------------------------------------

    def key_point(self, row: Row, index: int) -> QPointF:
        """Where a key is drawn."""
        curve = self.curve(row.channel)
        return QPointF(self.scale.x(curve.frames[index]), self.y_of(self.plot_of(row, curve.values[index])))

    def key_places(self, row: Row) -> tuple[Floats, Floats]:
        """Where all keys of a channel are drawn: x (N,) and y (N,)."""
        curve = self.curve(row.channel)
        return self.scale.x(0.0) + curve.frames * self.scale.per_frame, self.y_of(self.plot_of(row, curve.values))

    def handle_points(self, row: Row, index: int) -> dict[Side, QPointF]:
        """Where the ends of a key's handles are drawn."""
        whole = self.curve(row.channel)
        first = max(index - 2, 0)
        curve, at = whole.sliced(first, index + 3), index - first
        now = gather([curve])
        frame, value = curve.frames[at], curve.values[at]
        points: dict[Side, QPointF] = {}
        for side, there in (("in", at > 0), ("out", at + 1 < len(curve))):
            leaving = at - 1 if side == "in" else at
            if not there or curve.out_kind[leaving] == HandleKind.STEPPED:
                continue
            sign = -1.0 if side == "in" else 1.0
            length = sign * getattr(now, f"{side}_length")[at]
            height = value + getattr(now, f"{side}_slope")[at] * length
            points[side] = QPointF(self.scale.x(frame + length), self.y_of(self.plot_of(row, height)))  # type: ignore[index]
        return points

    def chosen_indices(self) -> dict[int, NDArray[np.intp]]:
        """Chosen keys as indices by channel, of the channels that are listed."""
        listed = {row.channel for row in self.rows()}
        found = {}
        for channel, frames in self.session.keys.by_channel.items():
            if channel in listed:
                own = self.curve(channel).frames
                at = np.searchsorted(own, frames)
                at = at[at < len(own)]
                found[channel] = at[np.isin(own[at], frames)]
        return {c: which for c, which in found.items() if len(which)}

    def keys_within(self, shape: QPolygonF) -> dict[int, Floats]:
        """The frames of keys in any shape, by channel."""
        found, box = {}, shape.boundingRect()
        for row in self.shown_rows():
            xs, ys = self.key_places(row)
            near = (xs >= box.left()) & (xs <= box.right()) & (ys >= box.top()) & (ys <= box.bottom())
            fill = Qt.FillRule.OddEvenFill
            inside = [i for i in np.flatnonzero(near) if shape.containsPoint(QPointF(xs[i], ys[i]), fill)]
            if inside:
                found[row.channel] = self.curve(row.channel).frames[inside]
        return found

    def keys_in(self, box: QRectF) -> dict[int, Floats]:
        """The frames of keys in a box, by channel."""
        found = {}
        for row in self.shown_rows():
            xs, ys = self.key_places(row)
            inside = (xs >= box.left()) & (xs <= box.right()) & (ys >= box.top()) & (ys <= box.bottom())
            if inside.any():
                found[row.channel] = self.curve(row.channel).frames[inside]
        return found


def _around(heights: list[Floats]) -> tuple[float, float] | None:
    """A span with a little air around all of some heights."""
    if not heights:
        return None
    low, high = min(float(h.min()) for h in heights), max(float(h.max()) for h in heights)
    size = max(abs(low), abs(high), 1e-9)
    margin = max((high - low) * 0.18, size * 1e-3, 1e-9) if high - low < 1 else (high - low) * 0.18
    return low - margin, high + margin
