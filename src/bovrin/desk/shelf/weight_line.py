"""The weight of the laid clip that is chosen, as a line over its bar: keys are dragged, and a double click adds one."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from bovrin.craft.clips.laying import changed_laid
from bovrin.craft.clips.weights import weight_at, with_weight_key, with_weight_key_moved, without_weight_key
from bovrin.desk.kit.gesture import Drag, Modifiers
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.polygons import polygon
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.shelf import Place
from bovrin.motion.evaluate import curve_values
from bovrin.shot import Laid, Shot

DOT, REACH, EDGE = 3.5, 6.0, 5.0
"""The radius of a key, how near the pointer takes it, and how far from the bar's edges the line lies at most, pixels."""
WORDS = "Drag the key of the weight: so much of the clip is seen here. Menu: take it away"


class WeightLine:
    """Of the chosen laid clip; of others nothing is drawn."""

    def __init__(self, session: Session, scale: TimeScale, box: Callable[[int, Laid], QRectF]) -> None:
        self._session, self._scale, self._box = session, scale, box

    def _chosen(self) -> tuple[Place, Laid, QRectF] | None:
        place, laid = self._session.shelf.place, self._session.shelf.laid()
        return None if place is None or laid is None else (place, laid, self._box(place.lane, laid))

    def paint(self, painter: QPainter, right: float) -> None:
        """The line up to a place at the right, and its keys."""
        chosen = self._chosen()
        if chosen is None:
            return
        _, laid, box = chosen
        xs = np.arange(max(box.left(), GUTTER), min(box.right(), right) + 0.5, 2.0)
        if len(xs) < 2:
            return
        frames = np.array([self._scale.frame(x) for x in xs])
        shares = np.ones(len(xs))
        if len(laid.weight):
            shares = np.clip(curve_values(laid.weight, frames - laid.at, 1.0), 0.0, 1.0)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        line = polygon(xs, _y(box, shares))
        painter.setPen(QPen(Look.colour("ink", 0.8), 1.4))
        painter.drawPolyline(line)
        painter.setPen(QPen(Look.colour("ink"), 1.2))
        painter.setBrush(Look.colour("raised"))
        for point in self._points(laid, box):
            painter.drawEllipse(point, DOT, DOT)

    def _points(self, laid: Laid, box: QRectF) -> list[QPointF]:
        """Where the keys of a weight that is a curve are."""
        if len(laid.weight) < 2:
            return []
        shares = np.clip(laid.weight.values, 0.0, 1.0)
        return [
            QPointF(self._scale.x(laid.at + frame), y)
            for frame, y in zip(laid.weight.frames.tolist(), _y(box, shares).tolist(), strict=True)
        ]

    def key_at(self, at: QPointF) -> int | None:
        """Which key of the weight is under a point."""
        chosen = self._chosen()
        if chosen is None:
            return None
        off = [math.hypot(at.x() - p.x(), at.y() - p.y()) for p in self._points(chosen[1], chosen[2])]
        return int(np.argmin(off)) if off and min(off) <= REACH else None

    def drag(self, index: int) -> WeightDrag | None:
        """A key of the weight is taken."""
        chosen = self._chosen()
        return None if chosen is None else WeightDrag(self._session, self._scale, *chosen, index)

    def add(self, at: QPointF) -> bool:
        """A key where the line is under a point; says whether it is there."""
        chosen = self._chosen()
        if chosen is None or not chosen[2].contains(at) or self.key_at(at) is not None:
            return False
        place, laid, box = chosen
        frame = float(round(self._scale.frame(at.x())))
        share = weight_at(laid, frame)
        if abs(at.y() - float(_y(box, np.array([share]))[0])) > REACH:
            return False
        self._changed("Key the weight", place, laid, lambda own: with_weight_key(own, frame, share))
        return True

    def take_away(self, index: int) -> None:
        """A key less."""
        chosen = self._chosen()
        if chosen is not None:
            self._changed(
                "Take the weight's key away", chosen[0], chosen[1], lambda own: without_weight_key(own, index)
            )

    def _changed(self, words: str, place: Place, laid: Laid, change: Callable[[Laid], Laid]) -> None:
        name = self._session.figure_name
        new = change(laid)
        if self._session.do(words, lambda shot: changed_laid(shot, name, place.lane, laid, lambda _old: new)):
            self._session.shelf.follow(new, place.lane)


def _y(box: QRectF, shares: np.ndarray) -> np.ndarray:
    """Where shares of a weight lie in a bar, pixels."""
    return np.asarray(box.bottom() - EDGE - shares * (box.height() - 2 * EDGE))


class WeightDrag(Drag[Shot]):
    """A key of the weight, dragged in time and up and down."""

    words = "Weigh the clip"

    def __init__(self, session: Session, scale: TimeScale, place: Place, laid: Laid, box: QRectF, index: int) -> None:
        self._session, self._scale, self._place, self._laid, self._box = session, scale, place, laid, box
        self._shot, self._name, self._index = session.shot, session.figure_name, index
        self._made: Laid | None = None

    def step(self, at: QPointF, modifiers: Modifiers) -> tuple[Shot, str]:
        """The shot with it there, on whole frames."""
        share = (self._box.bottom() - EDGE - at.y()) / (self._box.height() - 2 * EDGE)
        frame = float(round(self._scale.frame(at.x())))
        new = with_weight_key_moved(self._laid, self._index, frame, share)
        self._made = new
        made = changed_laid(self._shot, self._name, self._place.lane, self._laid, lambda _old: new)
        own = new.weight.key(self._index)
        return made, f"{own.value:.0%} of the clip is seen on frame {new.at + own.frame:g}"

    def done(self) -> None:
        """The clip stays chosen."""
        if self._made is not None:
            self._session.shelf.follow(self._made, self._place.lane)
