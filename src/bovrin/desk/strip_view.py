"""What the pose strip shows: ruler, markers, a card for each pose, the timing chart, and a lane for each part."""

from __future__ import annotations

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QImage, QPainter, QPaintEvent, QPen, QPixmap

from bovrin.desk.card_pictures import CardPictures
from bovrin.desk.chart_row import HEIGHT, ChartRow
from bovrin.desk.look import CENTRE, LEFT, RIGHT, SIZE_SMALL, Look, draw_mark, number_font, text_font
from bovrin.desk.session import Session
from bovrin.desk.strip_marks import Marks, part_marks
from bovrin.desk.surface import Surface
from bovrin.desk.timescale import GUTTER, TimeScale
from bovrin.shot import KeyRole

RULER, WORDS, LANE, SLIM, CARDS = 24, 16, 15, 30, 84
EDGE = 6


class StripView(Surface):
    """Draws the strip. No mouse here."""

    def __init__(self, session: Session, scale: TimeScale, pictures: CardPictures) -> None:
        super().__init__(session, "Pose strip")
        self.scale, self.pictures = scale, pictures
        self.slim = False
        self.chart = ChartRow(session, scale)
        self._kept: tuple[tuple[object, ...], QPixmap] | None = None
        for signal in (
            session.shot_changed,
            session.frame_changed,
            session.choice_changed,
            session.pass_changed,
            scale.changed,
        ):
            signal.connect(self.update)
        pictures.ready.connect(self.update)

    def set_slim(self, slim: bool) -> None:
        """Low cards and no lanes, over the curve desk."""
        self.slim = slim
        self.setMinimumHeight(self.needed_height() if slim else RULER + WORDS + CARDS + 2 * LANE)
        self.setMaximumHeight(self.needed_height() if slim else 16777215)
        self.update()

    def needed_height(self) -> int:
        """The height that shows everything."""
        lanes = 0 if self.slim or self.session.figure is None else len(self.session.figure.rig.parts)
        cards = SLIM if self.slim else CARDS + int(HEIGHT)
        return RULER + (4 if self.slim else WORDS) + cards + 10 + lanes * LANE

    def sizeHint(self) -> QSize:
        return QSize(1000, self.needed_height())

    # -- geometry -----------------------------------------------------------------------------------------------------

    def _cards_top(self) -> float:
        return RULER + (4 if self.slim else WORDS)

    def _cards_height(self) -> float:
        return SLIM if self.slim else CARDS

    def card_rects(self) -> list[tuple[float, QRectF]]:
        """The frame and the rectangle of each card."""
        frames = self.session.poses.frames
        if not len(frames):
            return []
        ends = [*frames[1:], max(self.session.shown.last, frames[-1]) + 1]
        top, height = self._cards_top(), self._cards_height()
        found = []
        for frame, end in zip(frames, ends, strict=True):
            left, right = self.scale.x(frame), self.scale.x(end) - 2
            found.append((float(frame), QRectF(left, top, max(right - left, 3), height)))
        return found

    def _card_at(self, at: QPointF) -> tuple[float, bool] | None:
        """The card under a point and whether its right edge is."""
        for frame, rect in self.card_rects():
            if rect.adjusted(0, 0, EDGE / 2, 0).contains(at) and at.x() >= GUTTER:
                return frame, at.x() >= rect.right() - EDGE and rect.width() > 2 * EDGE
        return None

    def _lanes_top(self) -> float:
        return self.chart_top() + (0 if self.slim else HEIGHT) + 4

    def chart_top(self) -> float:
        """Where the row of the timing chart begins."""
        return self._cards_top() + self._cards_height() + 4

    def _in_chart(self, at: QPointF) -> bool:
        return not self.slim and at.x() >= GUTTER and self.chart_top() <= at.y() < self.chart_top() + HEIGHT

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.drawPixmap(0, 0, self._still())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        self._paint_held(painter)
        self._paint_current(painter)

    def _still(self) -> QPixmap:
        """All that does not follow the current frame, painted anew only when something in it changed."""
        session, poses, ratio = self.session, self.session.poses, self.devicePixelRatioF()
        figure, curves = session.figure, session.curves
        marks = part_marks(curves, figure.rig) if figure is not None and curves is not None and not self.slim else []
        pictures = self.pictures.pictures(poses.frames)
        shot, scale = session.shown, self.scale
        key = (
            [(a.tobytes(), b.tobytes()) for a, b in [(poses.frames, poses.roles), *marks]],
            [id(picture) for picture in pictures],
            (scale.first, scale.per_frame, self.size(), ratio, self.slim, Look.theme.name),
            (session.figure_name, session.controls, shot.markers, shot.first, shot.last),
            None if self.slim else self.chart.ladders(),
        )
        if self._kept is None or self._kept[0] != key:
            pixmap = self.blank_layer()
            painter = QPainter(pixmap)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.save()
            painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
            self._paint_ruler(painter)
            self._paint_markers(painter)
            self._paint_cards(painter, pictures)
            if not self.slim:
                self.chart.paint(painter, self.chart_top(), self.width())
            self._paint_lanes(painter, marks)
            painter.restore()
            self._paint_gutter(painter)
            painter.end()
            self._kept = (key, pixmap)
        return self._kept[1]

    def _paint_held(self, painter: QPainter) -> None:
        held = self.session.poses.held_at(self.session.frame)
        for frame, rect in self.card_rects():
            if frame == held:
                painter.setPen(Look.pen("accent", 2))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)

    def _paint_ruler(self, painter: QPainter) -> None:
        shot = self.session.shown
        x0, x1 = self.scale.x(shot.first), self.scale.x(shot.last)
        painter.fillRect(QRectF(x0, RULER - 2, x1 - x0, 2), Look.colour("hairline"))
        low, high = self.scale.seen()
        if self.scale.per_frame >= 4:
            painter.setPen(Look.pen("muted", 1, 0.55))
            for frame in range(int(low), int(high) + 1):
                x = self.scale.x(frame)
                painter.drawLine(QPointF(x, RULER - 6), QPointF(x, RULER - 2))
        painter.setFont(number_font(SIZE_SMALL))
        painter.setPen(Look.pen("muted"))
        for frame in self.scale.numbers(shot.first):
            x = self.scale.x(frame)
            painter.drawLine(QPointF(x, RULER - 9), QPointF(x, RULER - 2))
            painter.drawText(QRectF(x - 30, 0, 60, RULER - 10), CENTRE, str(frame))

    def _paint_markers(self, painter: QPainter) -> None:
        if self.slim:
            return
        painter.setFont(text_font(SIZE_SMALL))
        for marker in self.session.shown.markers:
            left = self.scale.x(marker.start)
            rect = QRectF(left, RULER + 1, max(self.scale.x(marker.end) - left, 4), WORDS - 4)
            painter.fillRect(rect, Look.colour("after", 0.18))
            painter.setPen(Look.pen("after"))
            painter.drawText(QRectF(left + 4, rect.top() - 1, 400, rect.height() + 2), LEFT, marker.words)

    def _paint_cards(self, painter: QPainter, pictures: list[QImage | None]) -> None:
        cards = self.card_rects()
        poses = self.session.poses
        for (frame, rect), role, picture in zip(cards, poses.roles, pictures, strict=True):
            if rect.right() < GUTTER or rect.left() > self.width():
                continue
            breakdown = role == KeyRole.BREAKDOWN
            painter.setBrush(Look.colour("ochre_wash" if breakdown else "raised"))
            painter.setPen(Look.pen("ochre" if breakdown else "hairline"))
            painter.drawRoundedRect(rect.adjusted(0.5, 0.5, -0.5, -0.5), 6, 6)
            self._paint_card(painter, frame, rect, int(role), picture)
        if not cards:
            painter.setPen(Look.pen("muted"))
            painter.setFont(text_font())
            area = QRectF(GUTTER + 16, self._cards_top(), self.width() - GUTTER - 30, self._cards_height())
            painter.drawText(area, LEFT, "No poses yet: pose the figure on the stage, or press K to key what you see.")

    def _paint_card(self, painter: QPainter, frame: float, rect: QRectF, role: int, picture) -> None:  # type: ignore[no-untyped-def]
        painter.save()
        painter.setClipRect(rect.adjusted(1, 1, -1, -1), Qt.ClipOperation.IntersectClip)
        if picture is not None:
            if self.slim:
                painter.drawImage(QRectF(rect.left() + 16, rect.top() + 1, 26, 28), picture)
            else:
                size = picture.deviceIndependentSize()
                painter.drawImage(
                    QPointF(
                        rect.left() + min(26, max(2, (rect.width() - size.width()) / 2)),
                        rect.bottom() - size.height() - 1,
                    ),
                    picture,
                )
        draw_mark(painter, QPointF(rect.left() + 9, rect.top() + (rect.height() / 2 if self.slim else 10)), role, 3.6)
        painter.setFont(number_font(SIZE_SMALL))
        painter.setPen(Look.pen("ink"))
        line = QRectF(rect.left() + 18, rect.top() + 1, 60, 18)
        if self.slim:
            line = QRectF(rect.left() + 44, rect.top(), 60, rect.height())
        if rect.width() > (74 if self.slim else 46):
            painter.drawText(line, LEFT, f"{frame:g}")
        frames = round((rect.width() + 2) / self.scale.per_frame)
        if rect.width() > (110 if self.slim else 84):
            painter.setPen(Look.pen("muted"))
            painter.drawText(QRectF(rect.right() - 46, rect.bottom() - 19, 40, 16), RIGHT, f"×{frames}")
        painter.restore()

    def _paint_lanes(self, painter: QPainter, marks: Marks) -> None:
        for index, (frames, roles) in enumerate(marks):
            y = self._lanes_top() + index * LANE + LANE / 2
            if y > self.height():
                break
            painter.setPen(Look.pen("hairline"))
            painter.drawLine(QPointF(GUTTER, y), QPointF(self.width(), y))
            low, high = self.scale.seen()
            seen = (frames >= low - 1) & (frames <= high + 1)
            for frame, role in zip(frames[seen], roles[seen], strict=True):
                draw_mark(painter, QPointF(self.scale.x(frame), y), int(role), 3.4)

    def _paint_current(self, painter: QPainter) -> None:
        x = self.scale.x(self.session.frame)
        painter.setPen(Look.pen("alert", 1.6))
        painter.drawLine(QPointF(x, RULER - 6), QPointF(x, self.height()))
        for number in self.scale.numbers(self.session.shown.first):
            beside = self.scale.x(number)
            if abs(beside - x) < 36:  # a number half under the pill is worse than none
                painter.fillRect(QRectF(beside - 18, 0, 36, RULER - 9), Look.colour("panel"))
        painter.setBrush(Look.colour("alert"))
        painter.setPen(Qt.PenStyle.NoPen)
        pill = QRectF(x - 18, 1, 36, 16)
        painter.drawRoundedRect(pill, 8, 8)
        painter.setPen(QPen(Look.colour("raised")))
        painter.setFont(number_font(SIZE_SMALL))
        painter.drawText(pill, CENTRE, f"{self.session.frame:g}")

    def _paint_gutter(self, painter: QPainter) -> None:
        painter.setPen(Look.pen("hairline"))
        painter.drawLine(QPointF(GUTTER - 0.5, RULER), QPointF(GUTTER - 0.5, self.height()))
        figure = self.session.figure
        if figure is None or self.slim:
            return
        painter.setPen(Look.pen("ink"))
        painter.setFont(text_font(bold=True))
        painter.drawText(QRectF(14, self._cards_top() + 22, GUTTER - 20, 20), LEFT, "Pose strip")
        painter.setFont(text_font(12))
        painter.setPen(Look.pen("muted"))
        count = len(self.session.poses)
        painter.drawText(
            QRectF(14, self._cards_top() + 42, GUTTER - 20, 18),
            LEFT,
            f"{figure.name} · {count} pose{'s' if count != 1 else ''}",
        )
        painter.drawText(QRectF(14, self.chart_top(), GUTTER - 20, HEIGHT), LEFT, "Timing chart")
        chosen = {figure.rig.part_of(c) for c in self.session.controls}
        for index, part in enumerate(figure.rig.parts):
            y = self._lanes_top() + index * LANE
            if y + LANE / 2 > self.height():
                break
            painter.setBrush(Look.colour(Look.side(part.side)))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.drawRoundedRect(QRectF(14, y + 4, 8, 8), 2, 2)
            painter.setPen(Look.pen("ink"))
            painter.setFont(text_font(12, bold=index in chosen))
            painter.drawText(QRectF(28, y, GUTTER - 34, LANE), LEFT, part.name.capitalize())
