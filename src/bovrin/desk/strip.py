"""The pose strip: cards, keys, rungs, markers and ranges that are dragged, numbers that are scrubbed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QMouseEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QLineEdit

from bovrin.craft.cards import card_at, name_pose
from bovrin.craft.markers import add_marker, change_marker
from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.chart_row import Ladder
from bovrin.desk.inline_edit import InlineEdit
from bovrin.desk.lanes import INDENT
from bovrin.desk.session import Session
from bovrin.desk.strip_drags import EdgeDrag, KeysDrag, MarkerDrag, RangeDrag, RungDrag, StripDrag
from bovrin.desk.strip_layout import RULER
from bovrin.desk.strip_menus import card_menu, chart_menu, keys_menu, marker_menu
from bovrin.desk.strip_view import StripView
from bovrin.desk.strip_words import hover_words
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.errors import BovrinError
from bovrin.shot import Marker

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
START = 4
"""Pixels a press may wander before it is a drag."""


class PoseStrip(StripView):
    """Poses are the timeline."""

    def __init__(self, session: Session, scale: TimeScale, pictures: CardPictures) -> None:
        super().__init__(session, scale, pictures)
        self._drag: StripDrag | None = None
        self._pressed: QPointF | None = None
        self._click: Callable[[], object] = lambda: None
        self._moved = False
        self._scrubbing = False
        self._panning: QPointF | None = None
        self.run: Callable[[str], object] = lambda _command: None
        self.copied_chart: list[float] | None = None
        self.words: InlineEdit | None = None
        self.lane_search = QLineEdit(self)
        self.lane_search.setPlaceholderText("Find a lane…")
        self.lane_search.setToolTip("Show only the lanes of parts, controls and channels with these words")
        self.lane_search.setAccessibleName("Find a lane")
        self.lane_search.setClearButtonEnabled(True)
        self.lane_search.textChanged.connect(self._on_search)
        session.shot_changed.connect(self._place_find)
        self._place_find()

    # -- pressing -----------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() == Qt.MouseButton.RightButton:
            if not self.cancel_drag():
                self._open_menu(at)
        elif event.button() == Qt.MouseButton.MiddleButton:
            self._panning = at
        elif event.button() == Qt.MouseButton.LeftButton and self._pressed is None:
            self._pressed, self._moved, self._click = at, False, lambda: None
            self._press(at, event.modifiers())

    def _press(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        if at.x() < GUTTER:
            self._press_name(at, keys)
        elif at.y() < RULER:
            self._press_ruler(at, keys)
        elif self.in_markers(at):
            found = self.markers.marker_at(self.session.shot.markers, at, self.markers_top())
            if found is not None:
                self._drag = MarkerDrag(self.session, self.scale, *found, at)
                self._click = lambda: self.session.go_to(found[0].start)
        elif self.in_chart(at):
            rung = self.chart.rung_at(at.x())
            self._drag = None if rung is None else RungDrag(self.chart, *rung)
        elif (card := self.card_at(at)) is not None:
            self._press_card(card[0], at, keys, edge=card[1])
        elif at.y() >= self.lanes_top():
            self._press_lanes(at, keys)

    def _press_ruler(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        end = self.range_end_at(at)
        if keys & SHIFT:
            self._drag = RangeDrag(self.session, self.scale, "new", at)
        elif end:
            self._drag = RangeDrag(self.session, self.scale, end, at)
        else:
            self._scrubbing = True
            self.session.go_to(self.scale.frame(at.x()))

    def range_end_at(self, at: QPointF) -> str:
        """The end of a range that is drawn under a point of the ruler, or ""."""
        if not RULER - 11 <= at.y() <= RULER:
            return ""
        shot = self.session.shot
        ends = [("first", shot.first), ("last", shot.last)]
        if shot.second is not None:
            ends += [("second first", shot.second[0]), ("second last", shot.second[1])]
        return next((name for name, frame in reversed(ends) if abs(self.scale.x(frame) - at.x()) <= 5), "")

    def _press_card(self, frame: float, at: QPointF, keys: Qt.KeyboardModifier, *, edge: bool) -> None:
        session = self.session
        if edge:
            self._drag = EdgeDrag(session, self.scale, frame, at)
            self._click = lambda: session.go_to(frame)
            return
        own = session.keys.on_frame(frame)
        chosen = session.keys.holds(own)
        if keys & SHIFT and not chosen:
            self._choose_cards_to(frame)
        elif not chosen and not keys & CTRL:
            session.keys.choose(own)
        toggle = keys & CTRL

        def click() -> None:
            if toggle:
                session.keys.toggle(own)
            elif not keys & SHIFT:
                session.keys.choose(own)
                session.go_to(frame)

        self._click = click
        moved = session.keys.by_channel if session.keys.holds(own) else own
        self._drag = KeysDrag(session, self.scale, moved, frame, at)

    def _choose_cards_to(self, frame: float) -> None:
        """From the chosen cards on to this one."""
        session = self.session
        chosen = sorted(session.keys.cards()) or [session.card_poses.held_at(session.frame) or frame]
        low, high = min(chosen[0], frame), max(chosen[-1], frame)
        frames = session.card_poses.frames
        session.keys.choose(session.keys.on_frames(frames[(frames >= low) & (frames <= high)]))

    def _press_lanes(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        session, found = self.session, self.keys_at(at)
        if not found:
            if not keys & SHIFT:
                session.keys.clear()
            self.box = QRectF(at, at)
            self._click = lambda: session.go_to(self.scale.frame(at.x()))
            return
        frame = float(next(iter(found.values()))[0])
        chosen = session.keys.holds(found)
        if keys & SHIFT:
            session.keys.toggle(found)
            return
        if not chosen:
            session.keys.choose(found)

        def click() -> None:
            session.keys.choose(found)
            session.go_to(frame)

        self._click = click
        self._drag = KeysDrag(session, self.scale, session.keys.by_channel, frame, at)

    def _press_name(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        index, figure = self.lane_at(at.y()), self.session.figure
        if index is None or figure is None:
            return
        lane = self.lanes()[index]
        if lane.opens and at.x() < 18 + lane.depth * INDENT:
            self.open_lane(lane.name)
            return
        now = self.session.controls if keys & SHIFT else ()
        self.session.choose(figure.name, (*now, *lane.controls))

    def open_lane(self, name: str) -> None:
        """Open a lane, or fold it again."""
        self.opened = tuple(n for n in self.opened if n != name) if name in self.opened else (*self.opened, name)
        self._scroll(0.0)

    def _on_search(self, words: str) -> None:
        self.search = words.strip()
        self._scroll(-self.scrolled)

    # -- moving -------------------------------------------------------------------------------------------------------

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._panning is not None:
            self.scale.pan(at.x() - self._panning.x())
            self._scroll(self._panning.y() - at.y())
            self._panning = at
        elif self._scrubbing:
            self.session.go_to(self.scale.frame(at.x()))
        elif self._pressed is None:
            self._hover(at)
        elif self._moved or (at - self._pressed).manhattanLength() >= START:
            self._moved = True
            self._step(at, event.modifiers())

    def _step(self, at: QPointF, keys: Qt.KeyboardModifier) -> None:
        if self.box is not None and self._pressed is not None:
            self.box = QRectF(self._pressed, at).normalized()
            self.session.keys.choose(self.keys_in(self.box))
            self.update()
        elif self._drag is not None:
            try:
                shot, words = self._drag.step(at, keys)
            except BovrinError as error:
                self.cancel_drag()
                self.session.fail(error)
                return
            self.session.preview(shot)
            self.session.hint(words)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = None
        if event.button() != Qt.MouseButton.LeftButton:
            return
        self._scrubbing, self.box = False, None
        pressed, self._pressed = self._pressed, None
        drag, self._drag = self._drag, None
        if pressed is not None and not self._moved:
            self._click()
        elif drag is not None and self.session.previewing and self.session.commit(drag.words, self.session.shown):
            drag.done(self.session)
        self.update()

    def cancel_drag(self) -> bool:
        """Put everything back; says whether a drag was under way."""
        if self._drag is None and self.box is None:
            return False
        self._drag, self._pressed, self.box = None, None, None
        self.session.preview(None)
        self.update()
        return True

    def _hover(self, at: QPointF) -> None:
        cursor, words = hover_words(self, at)
        self.setCursor(cursor)
        self.session.hint(words)

    # -- words, menus and wheel ---------------------------------------------------------------------------------------

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() != Qt.MouseButton.LeftButton or at.x() < GUTTER:
            return
        self._pressed, self._drag = None, None
        if self.in_markers(at):
            found = self.markers.marker_at(self.session.shot.markers, at, self.markers_top())
            if found is not None:
                self.edit_marker(found[0])
            else:
                self.new_marker(float(round(self.scale.frame(at.x()))))
        elif (card := self.card_at(at)) is not None:
            self.rename_card(card[0])

    def rename_card(self, frame: float) -> None:
        """Type the name of a card in its place."""
        rect = next((r for f, r in self.card_rects() if f == frame), None)
        if rect is None:
            self.session.tell("That pose is not in sight. Go to it first.")
            return
        name, shot = self.session.figure_name, self.session.shot
        place = QRectF(rect.left() + 3, rect.bottom() - 24, max(rect.width() - 6, 90), 22)

        def take(words: str) -> None:
            self.session.do("Name the pose", lambda shot: name_pose(shot, name, frame, words))

        self.words = InlineEdit(self, place, card_at(shot, name, frame).name, "Name of the pose", take)

    def new_marker(self, frame: float) -> None:
        """Type the words of a new marker on a frame."""
        self._type_marker(
            frame,
            "",
            lambda words: self.session.do("Add a marker", lambda s: add_marker(s, Marker(frame, frame, words))),
        )

    def edit_marker(self, marker: Marker) -> None:
        """Type other words for a marker."""
        self._type_marker(
            marker.start,
            marker.words,
            lambda words: self.session.do(
                "Reword a marker",
                lambda s: change_marker(s, marker, Marker(marker.start, marker.end, words, marker.kind, marker.pencil)),
            ),
        )

    def _type_marker(self, frame: float, words: str, take) -> None:  # type: ignore[no-untyped-def]
        left = min(max(self.scale.x(frame), GUTTER), self.width() - 160)
        place = QRectF(left, self.markers_top() - 3, 160, 22)
        self.words = InlineEdit(self, place, words, "Words of the marker", take)

    def _open_menu(self, at: QPointF) -> None:
        menu = None
        if self.in_markers(at):
            found = self.markers.marker_at(self.session.shot.markers, at, self.markers_top())
            menu = marker_menu(self, None if found is None else found[0], float(round(self.scale.frame(at.x()))))
        elif self.in_chart(at):
            ladder = self.chart.ladder_at(at.x())
            menu = None if ladder is None else chart_menu(self, ladder)
        elif (card := self.card_at(at)) is not None:
            if not self.session.keys.holds(self.session.keys.on_frame(card[0])):
                self.session.keys.choose(self.session.keys.on_frame(card[0]))
            menu = card_menu(self, card[0])
        elif at.y() >= self.lanes_top() and at.x() >= GUTTER:
            menu = keys_menu(self)
        if menu is not None:
            menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
            menu.popup(self.mapToGlobal(at.toPoint()))

    def apply_preset(self, ladder: Ladder, name: str, strength: float = 0.5) -> None:
        """Space a span by the name of a chart."""
        self.session.do(f"Chart: {name}", lambda shot: self.chart.moved(shot, ladder, ladder.preset(name, strength)))

    def paste_chart(self, ladder: Ladder) -> None:
        """Give a span the copied chart."""
        copied = self.copied_chart
        if copied is None:
            self.session.tell("There is no copied chart yet. Right click on another span's chart and copy it.")
            return
        self.session.do("Paste the chart", lambda shot: self.chart.moved(shot, ladder, ladder.like(copied)))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        turn, at = event.angleDelta(), event.position()
        if event.modifiers() & CTRL:
            self.scale.zoom(1.0015 ** turn.y(), at.x())
        elif at.y() >= self.lanes_top() and self.most_scrolled() > 0 and turn.y() and not event.modifiers() & SHIFT:
            self._scroll(-turn.y() * 0.25)
        else:
            self.scale.pan((turn.x() or turn.y()) * 0.5)

    def _scroll(self, by: float) -> None:
        self.scrolled = min(max(self.scrolled + by, 0.0), self.most_scrolled())
        self.update()

    def _place_find(self) -> None:
        self.lane_search.setGeometry(10, int(self.cards_top()) + 50, GUTTER - 24, 24)
        self.lane_search.setVisible(not self.slim)

    def set_slim(self, slim: bool) -> None:
        super().set_slim(slim)
        self._place_find()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.scale.set_width(self.width())
        self._scroll(0.0)
        self._place_find()
