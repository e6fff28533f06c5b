"""The pose strip: cards, keys, rungs, markers and ranges that are dragged, numbers that are scrubbed."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtCore import QPointF, QSize, Qt
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent
from PyQt6.QtWidgets import QLineEdit, QMenu

from bovrin.craft.between.ladder import Ladder
from bovrin.desk.kit.gesture import Gesture
from bovrin.desk.kit.menus import popup
from bovrin.desk.kit.surface import Surface
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.state.document.editing import ShotTarget
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.desk.strip.chart_row import HEIGHT as CHART
from bovrin.desk.strip.drags import KeyBoxDrag
from bovrin.desk.strip.holds_row import HEIGHT as HOLDS
from bovrin.desk.strip.in_place import InPlace
from bovrin.desk.strip.lanes import LANE
from bovrin.desk.strip.layout import CARDS, RULER, StripLayout
from bovrin.desk.strip.menus import card_menu, chart_menu, keys_menu, marker_menu
from bovrin.desk.strip.press import press_at
from bovrin.desk.strip.view import StripPainter
from bovrin.desk.strip.words import hover_words
from bovrin.shot import Marker, Shot

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier
ENDLESS = 16777215


class PoseStrip(Surface):
    """Poses are the timeline."""

    def __init__(
        self, session: Session, scale: TimeScale, pictures: CardPictures, run: Callable[[str], object]
    ) -> None:
        super().__init__("Pose strip")
        self.session, self.scale, self.run = session, scale, run
        self.places = StripLayout(session, scale, self)
        self.painter = StripPainter(self.places, pictures, self)
        self.in_place = InPlace(self.places, self)
        self._gesture: Gesture[Shot] = Gesture(ShotTarget(session))
        self._panning: QPointF | None = None
        self.lane_search = self._search_field()
        document = session.document
        for signal in (
            document.changed,
            document.frame_changed,
            session.choice.changed,
            session.pass_changed,
            session.keys.changed,
            scale.changed,
            pictures.ready,
        ):
            signal.connect(self.update)
        document.changed.connect(self._place_search)
        self._place_search()

    def _search_field(self) -> QLineEdit:
        field = QLineEdit(self)
        field.setPlaceholderText("Find a lane…")
        field.setToolTip("Show only the lanes of parts, controls and channels with these words")
        field.setAccessibleName("Find a lane")
        field.setClearButtonEnabled(True)
        field.textChanged.connect(self.places.find_lanes)
        return field

    def _place_search(self) -> None:
        self.lane_search.setGeometry(10, int(self.places.cards_top()) + 50, GUTTER - 24, 24)
        self.lane_search.setVisible(not self.places.slim)

    def set_slim(self, slim: bool) -> None:
        """Low cards and no lanes, over the curve desk."""
        layout = self.places
        layout.slim = slim
        full = RULER + CARDS + int(CHART) + HOLDS + 3 * LANE
        self.setMinimumHeight(layout.needed_height() if slim else full)
        self.setMaximumHeight(layout.needed_height() if slim else ENDLESS)
        self._place_search()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(1000, self.places.needed_height())

    def see_range(self) -> None:
        """Fit the strip to the shot's range, with a little air."""
        shot = self.session.shot
        self.scale.show_range(shot.first, shot.last + 1)

    # -- mouse --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at, button = event.position(), event.button()
        if button == Qt.MouseButton.RightButton:
            if not self._gesture.cancel():
                self._open_menu(at)
        elif button == Qt.MouseButton.MiddleButton:
            self._panning = at
        elif button == Qt.MouseButton.LeftButton and not self._gesture.active:
            press = press_at(self.places, at, event.modifiers())
            self._gesture.press(at, event.modifiers(), press.drag, press.click)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if self._panning is not None:
            self.scale.pan(at.x() - self._panning.x())
            self.places.scroll(self._panning.y() - at.y())
            self._panning = at
        elif not self._gesture.active:
            cursor, words = hover_words(self.places, at)
            self.setCursor(cursor)
            self.session.voice.hint(words)
        elif self._gesture.move(at, event.modifiers()):
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.MiddleButton:
            self._panning = None
        elif event.button() == Qt.MouseButton.LeftButton:
            self._gesture.release()
            self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at, layout = event.position(), self.places
        if event.button() != Qt.MouseButton.LeftButton or at.x() < GUTTER:
            return
        marker, card = layout.marker_at(at) if layout.in_markers(at) else None, layout.card_at(at)
        self.mousePressEvent(event)
        if marker is not None:
            self._gesture.second_click(lambda: self.edit_marker(marker[0]))
        elif layout.in_markers(at):
            self._gesture.second_click(lambda: self.new_marker(float(round(self.scale.frame(at.x())))))
        elif card is not None:
            self._gesture.second_click(lambda: self.rename_card(card[0]))

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        turn, at, layout = event.angleDelta(), event.position(), self.places
        if event.modifiers() & CTRL:
            self.scale.zoom(1.0015 ** turn.y(), at.x())
        elif at.y() >= layout.lanes_top() and layout.most_scrolled() > 0 and turn.y() and not event.modifiers() & SHIFT:
            layout.scroll(-turn.y() * 0.25)
        else:
            self.scale.pan((turn.x() or turn.y()) * 0.5)

    # -- words and menus ----------------------------------------------------------------------------------------------

    def rename_card(self, frame: float) -> None:
        """Type the name of a card in its place."""
        self.in_place.rename_card(frame)

    def new_marker(self, frame: float) -> None:
        """Type the words of a new marker on a frame."""
        self.in_place.new_marker(frame)

    def edit_marker(self, marker: Marker) -> None:
        """Type other words for a marker."""
        self.in_place.edit_marker(marker)

    def _open_menu(self, at: QPointF) -> None:
        menu = self.menu_at(at)
        if menu is not None:
            popup(menu, self.mapToGlobal(at.toPoint()), self)

    def menu_at(self, at: QPointF) -> QMenu | None:
        """What can be done with what is under a point."""
        layout, keys = self.places, self.session.keys
        if layout.in_markers(at):
            found = layout.marker_at(at)
            return marker_menu(self, None if found is None else found[0], float(round(self.scale.frame(at.x()))))
        if layout.in_chart(at):
            ladder = layout.chart.ladder_at(at.x())
            return None if ladder is None else chart_menu(self, ladder)
        if (card := layout.card_at(at)) is not None:
            if not keys.holds(keys.on_frame(card[0])):
                keys.choose(keys.on_frame(card[0]))
            return card_menu(self, card[0])
        return keys_menu(self) if at.y() >= layout.lanes_top() and at.x() >= GUTTER else None

    def apply_preset(self, ladder: Ladder, name: str, strength: float = 0.5) -> None:
        """Space a span by the name of a chart."""
        chart = self.places.chart
        self.session.do(f"Chart: {name}", lambda shot: chart.moved(shot, ladder, ladder.preset(name, strength)))

    def paste_chart(self, ladder: Ladder) -> None:
        """Give a span the copied chart."""
        copied, chart = self.session.clipboard.chart, self.places.chart
        if copied is None:
            self.session.voice.tell("There is no copied chart yet. Right click on another span's chart and copy it.")
            return
        self.session.do("Paste the chart", lambda shot: chart.moved(shot, ladder, ladder.like(list(copied))))

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        drag = self._gesture.drag if self._gesture.moved else None
        painter = QPainter(self)
        self.painter.paint(painter, drag.box if isinstance(drag, KeyBoxDrag) else None)
        painter.end()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.scale.set_width(self.width())
        self.places.scroll(0.0)
        self._place_search()
