"""The drawings of parts as a sheet of pictures: a click shows one from the current frame on, a drag over several lays a run."""

from __future__ import annotations

from typing import NamedTuple

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QImage, QMouseEvent, QPainter, QPaintEvent, QPen

from bovrin.craft.flat.drawings import drawing_at
from bovrin.desk.kit.look import SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.surface import Surface
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.flat import flat_figure, parts_with_drawings
from bovrin.desk.state.looking.drawing_pictures import fitted, pictures_of

ACROSS, WIDE, HIGH, GAP, HEADING = 3, 82.0, 86.0, 6.0, 18.0


class DrawingCard(NamedTuple):
    """A drawing of a part, and where its card is."""

    part: str
    drawing: str
    rect: QRectF


class DrawingSheet(Surface):
    """All drawings of the chosen parts, or of all parts that have several."""

    shown = pyqtSignal(str, str)
    run = pyqtSignal(str, list)

    def __init__(self, session: Session) -> None:
        super().__init__("Drawings")
        self.session = session
        self._way: list[DrawingCard] = []
        self._wanted: tuple[object, ...] = ()
        for signal in (session.choice.changed, session.document.frame_changed, session.document.committed):
            signal.connect(self._on_changed)
        self._on_changed()

    def cards(self) -> list[DrawingCard]:
        """The cards, from the top left."""
        found, y = [], 0.0
        for part, names in parts_with_drawings(self.session).items():
            y += HEADING
            for n, name in enumerate(names):
                row, column = divmod(n, ACROSS)
                rect = QRectF(column * (WIDE + GAP), y + row * (HIGH + GAP), WIDE, HIGH)
                found.append(DrawingCard(part, name, rect))
            y += -(-len(names) // ACROSS) * (HIGH + GAP)
        return found

    def _on_changed(self) -> None:
        wanted = (flat_figure(self.session), tuple(parts_with_drawings(self.session)))
        if wanted != self._wanted:
            self._wanted, self._way = wanted, []
            cards = self.cards()
            self.setMinimumHeight(int(cards[-1].rect.bottom() + 2) if cards else 0)
            self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(int(ACROSS * (WIDE + GAP)), self.minimumHeight())

    def card_at(self, at: QPointF) -> DrawingCard | None:
        """The card under a point."""
        return next((card for card in self.cards() if card.rect.contains(at)), None)

    # -- mouse --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        card = self.card_at(event.position())
        self._way = [card] if card is not None and event.button() == Qt.MouseButton.LeftButton else []
        self.update()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        card = self.card_at(event.position())
        if self._way and card is not None and card.part == self._way[0].part and card != self._way[-1]:
            self._way.append(card)
            self.update()
        elif card is not None and not self._way:
            self.setToolTip(f"{card.part}: {card.drawing}")
            self.session.voice.hint(
                "Click: shown from this frame on. Drag over several: a run, and then what was there."
            )

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        way, self._way = self._way, []
        if event.button() == Qt.MouseButton.LeftButton and way:
            if len(way) > 1:
                self.run.emit(way[0].part, [card.drawing for card in way])
            else:
                self.shown.emit(way[0].part, way[0].drawing)
        self.update()

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        figure = flat_figure(self.session)
        if figure is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        pictures = pictures_of(figure)
        heading = ""
        for card in self.cards():
            if card.part != heading:
                heading = card.part
                now = drawing_at(self.session.shown, figure.name, card.part, self.session.frame)
                painter.setPen(Look.pen("muted"))
                painter.setFont(text_font(SIZE_SMALL))
                painter.drawText(QPointF(1, card.rect.top() - 5), card.part)
            self._paint_card(painter, card, pictures.get((card.part, card.drawing)), chosen=card.drawing == now)
        self._paint_way(painter)

    def _paint_card(self, painter: QPainter, card: DrawingCard, image: QImage | None, *, chosen: bool) -> None:
        painter.setPen(QPen(Look.colour("accent" if chosen else "hairline"), 1.8 if chosen else 1.0))
        painter.setBrush(Look.colour("accent_wash" if chosen else "raised"))
        painter.drawRoundedRect(card.rect.adjusted(1, 1, -1, -1), 7, 7)
        if image is not None:
            painter.drawImage(fitted(image, card.rect.adjusted(8, 7, -8, -22)), image)
        painter.setPen(Look.pen("ink"))
        painter.setFont(text_font(SIZE_SMALL))
        room = card.rect.width() - 10
        name = QFontMetricsF(painter.font()).elidedText(card.drawing, Qt.TextElideMode.ElideRight, room)
        place = Qt.AlignmentFlag.AlignBottom | Qt.AlignmentFlag.AlignHCenter
        painter.drawText(card.rect.adjusted(5, 0, -5, -5), place, name)

    def _paint_way(self, painter: QPainter) -> None:
        """The run that is being laid: a number on each of its cards."""
        if len(self._way) < 2:
            return
        painter.setFont(number_font())
        placed: dict[str, list[str]] = {}
        for n, card in enumerate(self._way, 1):
            placed.setdefault(card.drawing, []).append(str(n))
        for card in {c.drawing: c for c in self._way}.values():
            painter.setPen(QPen(Look.colour("accent"), 2.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRoundedRect(card.rect.adjusted(1, 1, -1, -1), 7, 7)
            words = " ".join(placed[card.drawing])
            painter.drawText(card.rect.adjusted(6, 5, -6, 0), Qt.AlignmentFlag.AlignTop, words)
