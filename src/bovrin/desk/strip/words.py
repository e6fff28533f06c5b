"""What the bottom line says about the strip, and the pointer's shape over it."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt

from bovrin.desk.kit.timescale import GUTTER
from bovrin.desk.strip.layout import RULER, StripLayout

ARROW, HAND = Qt.CursorShape.ArrowCursor, Qt.CursorShape.PointingHandCursor
WIDER = "The wheel with Ctrl makes frames wider, middle drag slides them."


def hover_words(strip: StripLayout, at: QPointF) -> tuple[Qt.CursorShape, str]:
    """Pointer and words for a point."""
    if at.x() < GUTTER:
        if strip.lane_at(at.y()) is None:
            return ARROW, "The strip: poses as cards, how they are spaced, and the keys of every part."
        return HAND, "Click a lane to choose its part, the sign before it to open it to every channel. Shift adds."
    if at.y() < RULER:
        if strip.range_end_at(at):
            return Qt.CursorShape.SizeHorCursor, "Drag the end of the range."
        return ARROW, f"Drag along the numbers to scrub. Shift and drag keeps a second range. {WIDER}"
    if at.y() < RULER + strip.drawings.height():
        if strip.drawings.drawing_at(at.x()) is None:
            return ARROW, "Drawings: each holds until the next. Z draws on the stage."
        return HAND, "Click to go to this drawing, drag to move it, Ctrl and drag to copy."
    if strip.in_markers(at):
        found = strip.marker_at(at)
        if found is None:
            return ARROW, "Double click to add a marker here; N adds one on the current frame."
        shape = HAND if found[1] == "body" else Qt.CursorShape.SizeHorCursor
        return (
            shape,
            "Click to go there, drag to move it or its ends, double click for its words, right click for more.",
        )
    if strip.in_chart(at):
        rung = strip.chart.rung_at(at.x())
        part = strip.chart.part()
        of = f"Timing chart of the {part}." if part else "Timing chart of the whole figure."
        words = f"{of} Drag a rung to set how far its frame has got; right click for charts by name."
        near = [row for row in strip.chart.lags() if abs(strip.scale.x(row[0] + row[2]) + 8 - at.x()) <= 4]
        late = ", ".join(f"{name} {lag:+.2g}" for _frame, name, lag in near)
        words = f"Late at {near[0][0]:g}, frames: {late}. {words}" if near else words
        return (ARROW if rung is None else Qt.CursorShape.SizeHorCursor), words
    return _card_words(strip, at)


def _card_words(strip: StripLayout, at: QPointF) -> tuple[Qt.CursorShape, str]:
    card = strip.card_at(at)
    if card is not None and card[1]:
        words = "Drag the edge to hold this pose longer or shorter; everything later moves along. Alt: the chosen part only."
        return Qt.CursorShape.SplitHCursor, words
    place = strip.place_at(at)
    if place is not None and place.film:
        return (
            ARROW,
            f"A recorded stretch: click or drag to go along it. Find the key poses (Ctrl+K) makes poses of it. {WIDER}",
        )
    if card is not None:
        words = (
            "Click to go to this pose, drag to move it, Ctrl and drag to copy. Shift or Ctrl and click chooses several. "
            "Double click names it, right click for more."
        )
        return HAND, words
    if strip.keys_at(at):
        return (
            HAND,
            "Drag to move these keys, with Ctrl to copy, with Alt to scale about the current frame. Del removes.",
        )
    if strip.lane_at(at.y()) is not None:
        return ARROW, "Click to go to this frame, drag a box to choose keys; Shift adds."
    if strip.holds_top() <= at.y() < strip.lanes_top():
        return ARROW, "Frames that each pose holds (hollow) and each move takes (filled), of the chosen part."
    return ARROW, WIDER
