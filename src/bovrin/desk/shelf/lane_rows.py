"""The lanes of the motion shelf: clips as bars, moved, trimmed and repeated by their ends, fading where they overlap."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QContextMenuEvent,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QWheelEvent,
)
from PyQt6.QtWidgets import QMenu

from bovrin.craft.clips.laying import changed_laid, mute_lane, with_laid
from bovrin.desk.commands.menus import add_commands
from bovrin.desk.kit.gesture import Drag, Gesture, Press
from bovrin.desk.kit.look import LEFT, SIZE_SMALL, Look, number_font, text_font
from bovrin.desk.kit.menus import add_action, popup
from bovrin.desk.kit.surface import Surface
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.state.card_pictures import CardPictures
from bovrin.desk.state.editing import ShotTarget
from bovrin.desk.state.session import Session
from bovrin.desk.state.shelf import Place
from bovrin.shot import Clip, Laid, Shot

LANE, GAP = 40.0, 3.0
GRAB = 7.0
PICTURE = (28.0, 30.0)
STEP = 64.0
ROLES = ("accent", "ochre", "after", "before")
LEAST = 1.0
WAYS = {"Backwards": "backwards", "Follows the clip before": "follows", "In step": "in_step"}
CTRL = Qt.KeyboardModifier.ControlModifier


class Hit(NamedTuple):
    """A laid clip under a point: where it lies, and which of its "start", "end", "whole" is there."""

    place: Place
    laid: Laid
    what: str


class LaneRows(Surface):
    """Lanes from the highest down, as they are heard: what lies higher goes over what lies lower."""

    def __init__(
        self, session: Session, scale: TimeScale, pictures: CardPictures, run: Callable[[str], object]
    ) -> None:
        super().__init__("Motion shelf")
        self.session, self.scale, self.pictures = session, scale, pictures
        self._run = run
        self._gesture: Gesture[Shot] = Gesture(ShotTarget(session))
        document = session.document
        for signal in (document.changed, document.frame_changed, session.shelf.changed, scale.changed, pictures.ready):
            signal.connect(self.update)
        session.shelf.changed.connect(self._on_shelf_changed)
        self._on_shelf_changed()

    def _on_shelf_changed(self) -> None:
        self.setFixedHeight(int(self.needed_height()))

    def needed_height(self) -> float:
        """Pixels for all lanes, or for the words where there are none."""
        return max(len(self.session.shelf.lanes()), 1) * (LANE + GAP) if self.session.shelf.lanes() else 26.0

    def sizeHint(self) -> QSize:
        return QSize(1000, int(self.needed_height()))

    def top_of(self, lane: int) -> float:
        """Where a lane begins, pixels."""
        return (len(self.session.shelf.lanes()) - 1 - lane) * (LANE + GAP)

    def box(self, lane: int, laid: Laid) -> QRectF:
        """The bar of a laid clip."""
        left, right = self.scale.x(laid.at), self.scale.x(laid.end)
        return QRectF(left, self.top_of(lane) + 1, max(right - left, 4.0), LANE - 2)

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        lanes = self.session.shelf.lanes()
        if not lanes:
            self._paint_empty(painter)
        for number, lane in enumerate(lanes):
            self._paint_name(painter, number, muted=lane.muted)
        painter.setClipRect(QRectF(GUTTER, 0, self.width() - GUTTER, self.height()))
        for number, lane in enumerate(lanes):
            painter.setOpacity(0.35 if lane.muted else 1.0)
            for index, laid in enumerate(lane.laid):
                self._paint_laid(painter, number, index, laid)
            for before, after in zip(lane.laid, lane.laid[1:], strict=False):
                self._paint_fade(painter, number, before, after)
            painter.setOpacity(1.0)
        x = self.scale.x(self.session.frame)
        painter.setPen(Look.pen("alert", 1.4))
        painter.drawLine(QPointF(x, 0), QPointF(x, self.height()))
        painter.end()

    def _paint_empty(self, painter: QPainter) -> None:
        painter.setPen(Look.colour("muted"))
        painter.setFont(text_font(SIZE_SMALL + 1))
        words = "Motion shelf: keep a clip in the panel, and lay it here."
        painter.drawText(QRectF(12, 0, self.width() - 24, self.height()), LEFT, words)

    def _paint_name(self, painter: QPainter, lane: int, *, muted: bool) -> None:
        top = self.top_of(lane)
        painter.setFont(text_font(SIZE_SMALL + 1))
        painter.setPen(Look.colour("muted" if muted else "ink"))
        painter.drawText(QRectF(12, top, GUTTER - 60, LANE), LEFT, f"lane {lane + 1}")
        painter.setPen(Look.colour("muted"))
        painter.setFont(text_font(SIZE_SMALL))
        painter.drawText(self._ear(lane), LEFT, "silent" if muted else "heard")

    def _ear(self, lane: int) -> QRectF:
        return QRectF(GUTTER - 58, self.top_of(lane), 50, LANE)

    def _paint_laid(self, painter: QPainter, lane: int, index: int, laid: Laid) -> None:
        box, chosen = self.box(lane, laid), self.session.shelf.place == Place(lane, index)
        role = ROLES[sorted({c.name for c in self.session.shown.clips}).index(laid.clip) % len(ROLES)]
        painter.setPen(QPen(Look.colour("ink" if chosen else role), 2.0 if chosen else 1.0))
        painter.setBrush(Look.colour(role, 0.28 if laid.how == "over" else 0.12))
        painter.drawRoundedRect(box, 7, 7)
        painter.save()
        painter.setClipRect(box.intersected(QRectF(GUTTER, 0, self.width() - GUTTER, self.height())))
        self._paint_film(painter, lane, laid, box)
        self._paint_rounds(painter, laid, box, role)
        painter.setPen(Look.colour("ink"))
        painter.setFont(text_font(SIZE_SMALL + 1, bold=True))
        left = max(box.left(), GUTTER) + 8
        painter.drawText(QRectF(left, box.top() + 1, box.right() - left, 15), LEFT, laid.clip)
        painter.setFont(number_font(SIZE_SMALL - 1))
        painter.setPen(Look.colour("muted"))
        painter.drawText(QRectF(left, box.top() + 14, box.right() - left, 13), LEFT, told(laid))
        painter.restore()

    def _paint_rounds(self, painter: QPainter, laid: Laid, box: QRectF, role: str) -> None:
        """Dashed lines where a round ends."""
        painter.setPen(QPen(Look.colour(role), 1.0, Qt.PenStyle.DashLine))
        span = (laid.last - laid.first) / laid.speed
        for n in range(1, int(np.ceil(laid.repeats))):
            x = self.scale.x(laid.at + n * span)
            painter.drawLine(QPointF(x, box.top() + 2), QPointF(x, box.bottom() - 2))

    def _paint_film(self, painter: QPainter, lane: int, laid: Laid, box: QRectF) -> None:
        """What the figure does, a picture every so often; of the lowest lane."""
        if lane or self.session.document.previewing or box.width() < STEP:
            return
        xs = np.arange(box.left() + 74, box.right() - PICTURE[0], STEP)
        xs = xs[(xs > GUTTER) & (xs < self.width())]
        frames = np.round([self.scale.frame(x + PICTURE[0] / 2) for x in xs])
        made: list[QImage | None] = self.pictures.pictures(frames) if len(frames) else []
        for x, picture in zip(xs.tolist(), made, strict=False):
            if picture is not None:
                painter.drawImage(QRectF(x, box.bottom() - PICTURE[1] - 1, *PICTURE), picture)

    def _paint_fade(self, painter: QPainter, lane: int, before: Laid, after: Laid) -> None:
        """A falling line through the frames in which one clip gives way to the next."""
        left, right = self.scale.x(after.at), self.scale.x(min(before.end, after.end))
        if right <= left:
            return
        top, bottom = self.top_of(lane) + 4, self.top_of(lane) + LANE - 4
        path = QPainterPath(QPointF(left, top))
        middle = (left + right) / 2
        path.cubicTo(QPointF(middle, top), QPointF(middle, bottom), QPointF(right, bottom))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(Look.colour("raised"), 4.0))
        painter.drawPath(path)
        painter.setPen(QPen(Look.colour("ink"), 1.8))
        painter.drawPath(path)

    # -- pointer ------------------------------------------------------------------------------------------------------

    def hit(self, at: QPointF) -> Hit | None:
        """The laid clip under a point; of two that overlap the later, but for the end of the earlier."""
        ends: list[Hit] = []
        inside: list[Hit] = []
        for number, lane in enumerate(self.session.shelf.lanes()):
            for index, laid in enumerate(lane.laid):
                box = self.box(number, laid)
                if not box.adjusted(-3, 0, 3, 0).contains(at):
                    continue
                place = Place(number, index)
                if abs(at.x() - box.right()) <= GRAB:
                    ends.append(Hit(place, laid, "end"))
                elif abs(at.x() - box.left()) <= GRAB:
                    ends.append(Hit(place, laid, "start"))
                else:
                    inside.append(Hit(place, laid, "whole"))
        return ends[-1] if ends else inside[-1] if inside else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        if event.button() == Qt.MouseButton.RightButton:
            self._gesture.cancel()
        elif event.button() == Qt.MouseButton.LeftButton and not self._gesture.active:
            press = self._press(at)
            self._gesture.press(at, event.modifiers(), press.drag, press.click)

    def _press(self, at: QPointF) -> Press[Shot]:
        shelf, hit = self.session.shelf, self.hit(at)
        for number, lane in enumerate(shelf.lanes()):
            if self._ear(number).contains(at):
                return Press(None, lambda n=number, m=lane.muted: self._toggle(n, m))  # type: ignore[misc]
        if hit is None or at.x() < GUTTER:
            return Press(None, lambda: self._pick_nothing(at))
        shelf.choose(hit.place)
        return Press(LaidDrag(self.session, self.scale, hit, at), lambda: self.session.go_to(self.scale.frame(at.x())))

    def _toggle(self, lane: int, muted: bool) -> None:
        name = self.session.figure_name
        self.session.do(
            "Hear the lane" if muted else "Silence the lane", lambda s: mute_lane(s, name, lane, muted=not muted)
        )

    def _pick_nothing(self, at: QPointF) -> None:
        self.session.shelf.choose(None)
        if at.x() >= GUTTER:
            self.session.go_to(self.scale.frame(at.x()))

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._gesture.active:
            self._gesture.move(event.position(), event.modifiers())
            return
        hit = self.hit(event.position())
        shape = Qt.CursorShape.ArrowCursor
        if hit is not None:
            shape = Qt.CursorShape.OpenHandCursor if hit.what == "whole" else Qt.CursorShape.SizeHorCursor
        self.setCursor(shape)
        self.session.voice.hint("" if hit is None else _words(hit, self.session.shown.clip(hit.laid.clip)))

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if event.button() == Qt.MouseButton.LeftButton:
            self._gesture.release()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and self.session.shelf.laid() is not None:
            self._run("clip.remove")
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        menu, hit = QMenu(self), self.hit(QPointF(event.pos()))
        if hit is not None:
            self.session.shelf.choose(hit.place)
            add_commands(menu, self._run, "clip.fade", "clip.remove")
            for words, key in WAYS.items():
                self._add_way(menu, words, key, hit)
            menu.addSeparator()
        add_commands(menu, self._run, "clip.lay", "clip.to_keys")
        popup(menu, event.globalPos(), self)

    def _add_way(self, menu: QMenu, words: str, key: str, hit: Hit) -> None:
        """A setting of a laid clip that is on or off."""
        session, on = self.session, bool(getattr(hit.laid, key))

        def change() -> None:
            name = session.figure_name
            session.do(words, lambda shot: with_laid(shot, name, hit.place.lane, hit.laid, **{key: not on}))

        add_action(menu, words, change, ticked=on)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if event.angleDelta().y():
            self.scale.zoom(1.2 if event.angleDelta().y() > 0 else 1 / 1.2, event.position().x())


def told(laid: Laid) -> str:
    """What is unusual about a laid clip, in short."""
    words = []
    if laid.repeats != 1.0:
        words.append(f"×{laid.repeats:.3g}")
    if laid.speed != 1.0:
        words.append(f"{laid.speed:.0%} fast")
    if laid.strength != 1.0:
        words.append(f"{laid.strength:.0%} strong")
    if laid.how == "added":
        words.append("added")
    if laid.backwards:
        words.append("backwards")
    if laid.mute:
        words.append(f"{len(laid.mute)} muted")
    return " ".join(words)


def _words(hit: Hit, clip: Clip) -> str:
    laid = hit.laid
    if hit.what == "whole":
        return f"'{laid.clip}' from {laid.at:g} to {laid.end:g}: drag it. Up or down: another lane. Over another: they fade"
    if hit.what == "end":
        what = "more rounds, or fewer" if clip.loops else "trim it, or hold its last pose"
        return f"Drag: {what}. Ctrl: slower or faster"
    return (
        "Drag: it begins later in its motion, the rest stays" if not clip.loops else "Drag: fewer rounds, the end stays"
    )


class LaidDrag(Drag[Shot]):
    """A laid clip moved, or one of its ends."""

    def __init__(self, session: Session, scale: TimeScale, hit: Hit, pressed: QPointF) -> None:
        self._session, self._scale, self._hit, self._pressed = session, scale, hit, pressed
        self._shot, self._name = session.shot, session.figure_name
        self._clip = session.shot.clip(hit.laid.clip)
        self._made: tuple[Laid, int] | None = None
        self.words = {"whole": "Move the clip", "start": "Trim the clip", "end": "Trim the clip"}[hit.what]

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot | None, str]:
        """The shot with it there, on whole frames."""
        by = float(round((at.x() - self._pressed.x()) / self._scale.per_frame))
        laid, lane = self._hit.laid, self._hit.place.lane
        if self._hit.what == "whole":
            to = self._lane_at(at)
            new = replace(laid, at=laid.at + by)
            self._made = (new, to)
            return self._moved(new, to), f"'{laid.clip}' from {new.at:g} to {new.end:g}"
        new = self._ended(by, slower=bool(modifiers & CTRL)) if self._hit.what == "end" else self._begun(by)
        self._made = (new, lane)
        made = changed_laid(self._shot, self._name, lane, laid, lambda _old: new)
        return made, f"'{laid.clip}' from {new.at:g} to {new.end:g}, {told(new) or 'as it is'}"

    def _lane_at(self, at: QPointF) -> int:
        count = len(self._shot.lanes(self._name))
        by = round((self._pressed.y() - at.y()) / (LANE + GAP))
        return min(max(self._hit.place.lane + by, 0), count)

    def _moved(self, new: Laid, to: int) -> Shot:
        lane, laid = self._hit.place.lane, self._hit.laid
        if to == lane:
            return changed_laid(self._shot, self._name, lane, laid, lambda _old: new)
        lanes = list(self._shot.lanes(self._name))
        kept = tuple(one for one in lanes[lane].laid if one is not laid)
        lanes[lane] = replace(lanes[lane], laid=kept)
        if to == len(lanes):
            lanes.append(replace(lanes[lane], laid=(), muted=False))
        lanes[to] = replace(lanes[to], laid=(*lanes[to].laid, new))
        return self._shot.with_lanes(self._name, [own for own in lanes if own.laid])

    def _ended(self, by: float, *, slower: bool) -> Laid:
        laid = self._hit.laid
        wanted = max(laid.length + by, LEAST)
        span = laid.last - laid.first
        if slower:
            return replace(laid, speed=span * laid.repeats / max(wanted - laid.hold, LEAST))
        if self._clip.loops:
            return replace(laid, repeats=wanted * laid.speed / span, hold=0.0)
        own = span * laid.repeats / laid.speed
        if wanted > own:
            return replace(laid, hold=wanted - own)
        return replace(laid, last=laid.first + wanted * laid.speed / laid.repeats, hold=0.0)

    def _begun(self, by: float) -> Laid:
        laid = self._hit.laid
        by = min(by, laid.length - LEAST)
        span = laid.last - laid.first
        if self._clip.loops:
            return replace(laid, at=laid.at + by, repeats=laid.repeats - by * laid.speed / span)
        by = max(by, -laid.first / laid.speed)
        return replace(laid, at=laid.at + by, first=laid.first + by * laid.speed)

    def done(self) -> None:
        """It stays chosen."""
        if self._made is not None:
            self._session.shelf.follow(*self._made)
