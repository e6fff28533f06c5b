"""What a press on the strip begins: a drag, and what it means when it stays a click."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, Qt

from bovrin.desk.kit.gesture import Press
from bovrin.desk.kit.timescale import GUTTER
from bovrin.desk.strip.drags import EdgeDrag, KeyBoxDrag, LaneKeysDrag, MarkerDrag, RangeDrag, RungDrag, ScrubDrag
from bovrin.desk.strip.lanes import INDENT
from bovrin.desk.strip.layout import RULER, CardPlace, StripLayout
from bovrin.shot import Shot

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
Modifiers = Qt.KeyboardModifier


def press_at(layout: StripLayout, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
    """What a press of the left button at a point begins."""
    if at.x() < GUTTER:
        return _on_name(layout, at, modifiers)
    if at.y() < RULER:
        return _on_ruler(layout, at, modifiers)
    if at.y() < RULER + layout.drawings.height():
        return layout.drawings.press(at)
    if layout.in_markers(at):
        return _on_marker(layout, at)
    if layout.in_chart(at):
        rung = layout.chart.rung_at(at.x())
        return Press(None if rung is None else RungDrag(layout.chart, *rung))
    card = layout.place_at(at)
    if card is not None and card.film and not modifiers & (SHIFT | CTRL):
        return _on_film(layout, card, at)
    if card is not None:
        return _on_card(layout, card.frame, at, modifiers, edge=(card.frame, True) == layout.card_at(at))
    return _on_lanes(layout, at, modifiers) if at.y() >= layout.lanes_top() else Press()


def _on_marker(layout: StripLayout, at: QPointF) -> Press[Shot]:
    found = layout.marker_at(at)
    if found is None:
        return Press()
    marker, edge = found
    drag = MarkerDrag(layout.session, layout.scale, marker, edge, at)
    return Press(drag, lambda: layout.session.go_to(marker.start))


def _on_ruler(layout: StripLayout, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
    session, scale = layout.session, layout.scale
    end = layout.range_end_at(at)
    if modifiers & SHIFT or end:
        return Press(RangeDrag(session, scale, "new" if modifiers & SHIFT else end, at))
    session.go_to(scale.frame(at.x()))
    return Press(ScrubDrag(session, scale))


def _on_card(layout: StripLayout, frame: float, at: QPointF, modifiers: Modifiers, *, edge: bool) -> Press[Shot]:
    session = layout.session
    if edge:
        return Press(EdgeDrag(session, layout.scale, frame, at), lambda: session.go_to(frame))
    own = session.keys.on_frame(frame)
    chosen = session.keys.holds(own)
    if modifiers & SHIFT and not chosen:
        _choose_cards_to(layout, frame)
    elif not chosen and not modifiers & CTRL:
        session.keys.choose(own)

    def click() -> None:
        if modifiers & CTRL:
            session.keys.toggle(own)
        elif not modifiers & SHIFT:
            session.keys.choose(own)
            session.go_to(frame)

    moved = session.keys.by_channel if session.keys.holds(own) else own
    return Press(LaneKeysDrag(session, layout.scale, moved, frame, at), click)


def _on_film(layout: StripLayout, card: CardPlace, at: QPointF) -> Press[Shot]:
    """One goes along a film as along the ruler; a click chooses its first pose too."""
    session, scale = layout.session, layout.scale
    session.keys.choose(session.keys.on_frame(card.frame))
    session.go_to(min(scale.frame(at.x()), card.frame + card.held - 1))
    return Press(ScrubDrag(session, scale))


def _choose_cards_to(layout: StripLayout, frame: float) -> None:
    """From the chosen cards on to this one."""
    session = layout.session
    cards = session.poses.cards
    chosen = sorted(session.keys.cards()) or [cards.held_at(session.frame) or frame]
    low, high = min(chosen[0], frame), max(chosen[-1], frame)
    session.keys.choose(session.keys.on_frames(cards.frames[(cards.frames >= low) & (cards.frames <= high)]))


def _on_lanes(layout: StripLayout, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
    session, found = layout.session, layout.keys_at(at)
    if not found:
        kept = dict(session.keys.by_channel) if modifiers & SHIFT else {}
        drag = KeyBoxDrag(layout, at, kept)
        if not modifiers & SHIFT:
            session.keys.clear()
        return Press(drag, lambda: session.go_to(layout.scale.frame(at.x())))
    settle = session.keys.clicked(found, add=bool(modifiers & SHIFT))
    frame = float(next(iter(found.values()))[0])

    def click() -> None:
        settle()
        if not modifiers & SHIFT:
            session.go_to(frame)

    return Press(LaneKeysDrag(session, layout.scale, session.keys.by_channel, frame, at), click)


def _on_name(layout: StripLayout, at: QPointF, modifiers: Modifiers) -> Press[Shot]:
    index, figure = layout.lane_at(at.y()), layout.session.figure
    if index is None or figure is None:
        return Press()
    lane = layout.lanes()[index]
    if lane.opens and at.x() < 18 + lane.depth * INDENT:
        layout.open_lane(lane.name)
    else:
        now = layout.session.controls if modifiers & SHIFT else ()
        layout.session.choose(figure.name, (*now, *lane.controls))
    return Press()
