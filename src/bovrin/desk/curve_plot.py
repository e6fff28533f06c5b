"""The curve desk's places: which channels are listed and drawn, where values, keys and handles lie. Nothing is drawn here."""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF

from bovrin.craft.bending import Side
from bovrin.desk.curve_rows import Heading, Row, is_still, rows_of
from bovrin.desk.session import Session
from bovrin.desk.surface import Surface
from bovrin.desk.timescale import TimeScale
from bovrin.motion.handles import gather
from bovrin.shot import Curve, CurveSet, HandleKind

ROW, TOP = 17, 24
Floats = NDArray[np.float64]
Chosen = set[tuple[int, float]]
"""Chosen keys: (channel, frame)."""


class CurvePlot(Surface):
    """The geometry of the curve desk. Plot units are the animator's (cm, degrees, percent), or shares of each curve's
    own height when all have one height."""

    def __init__(self, session: Session, scale: TimeScale) -> None:
        super().__init__(session, "Curve desk")
        self.scale = scale
        self.search = ""
        self.hides_still = False
        self.one_height = False
        self.scrolled = 0.0
        self.picked: set[int] = set()
        self._low, self._high = -1.0, 1.0
        self._ranges: tuple[CurveSet, dict[int, tuple[float, float]]] | None = None
        self.setMinimumHeight(110)

    # -- channels -----------------------------------------------------------------------------------------------------

    def rows(self) -> list[Row]:
        """The channels listed on the left: of all chosen controls, that match the search and, when asked, that change."""
        rows = rows_of(self.session)
        words = self.search.lower().split()
        if words:
            rows = [r for r in rows if all(w in f"{r.control} {r.words} {r.technical}".lower() for w in words)]
        return [r for r in rows if not is_still(self.curve(r.channel))] if self.hides_still else rows

    def lines(self) -> list[Row | Heading]:
        """The list: channels under the names of their controls; one control's name stands above the list."""
        rows = self.rows()
        controls = dict.fromkeys(row.control for row in rows)
        if len(controls) < 2:
            return list(rows)
        found: list[Row | Heading] = []
        for control in controls:
            found += [Heading(control.capitalize()), *(row for row in rows if row.control == control)]
        return found

    def line_at(self, y: float) -> Row | Heading | None:
        """The line of the list at a height."""
        index = int((y - TOP + self.scrolled) // ROW)
        lines = self.lines()
        return lines[index] if y >= TOP and 0 <= index < len(lines) else None

    def line_top(self, index: int) -> float:
        """Where a line of the list begins."""
        return TOP - self.scrolled + index * ROW

    def most_scrolled(self) -> float:
        """How far the list can be scrolled."""
        return max(len(self.lines()) * ROW + TOP - self.height() + 4, 0.0)

    def shown_rows(self) -> list[Row]:
        """The channels whose curves are drawn: all that are listed, or the ones picked in the list."""
        rows = self.rows()
        picked = [row for row in rows if row.channel in self.picked]
        return picked or rows

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

    def plot_of(self, row: Row, values):  # type: ignore[no-untyped-def]
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

    def y_of(self, plot: float | Floats):  # type: ignore[no-untyped-def]
        """Pixels from the top of a height in plot units (a number or an array)."""
        return TOP + (self._high - plot) / (self._high - self._low) * self._tall()

    def value_at(self, y: float) -> float:
        """The plot units at a pixel."""
        return self._high - (y - TOP) / self._tall() * (self._high - self._low)

    def _tall(self) -> float:
        return float(self.height() - TOP - 10)

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
        if wanted is None or np.allclose(wanted, (self._low, self._high)):
            wanted = _around(heights) or (-1.0, 1.0)
        self._low, self._high = wanted
        self.update()

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

    @property
    def chosen(self) -> Chosen:
        """The chosen keys of the channels that are listed."""
        listed = {row.channel for row in self.rows()}
        return {(c, float(f)) for c, frames in self.session.keys.by_channel.items() if c in listed for f in frames}

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
