"""The lanes of the motion shelf: clips as bars, moved, trimmed and repeated by their ends, fading where they overlap."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import NamedTuple

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import (
    QContextMenuEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QMenu

from bovrin.craft.clips.laying import changed_laid, mute_lane, with_laid
from bovrin.desk.commands.menus import add_commands
from bovrin.desk.kit.gesture import Drag, Press
from bovrin.desk.kit.menus import add_action, popup
from bovrin.desk.kit.surface import DraggedSurface
from bovrin.desk.kit.timescale import GUTTER, TimeScale
from bovrin.desk.shelf.lane_paint import GAP, LANE, LanePainter, told
from bovrin.desk.shelf.weight_line import WORDS, WeightLine
from bovrin.desk.state.document.editing import ShotTarget
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.desk.state.shelf import Place
from bovrin.shot import Clip, Laid, Shot

GRAB = 7.0
LEAST = 1.0
WAYS = {"Backwards": "backwards", "Follows the clip before": "follows", "In step": "in_step"}
CTRL = Qt.KeyboardModifier.ControlModifier


class ClipHit(NamedTuple):
    """A laid clip under a point: where it lies, and which of its "start", "end", "whole" is there."""

    place: Place
    laid: Laid
    what: str


class LaneRows(DraggedSurface):
    """Lanes from the highest down, as they are heard: what lies higher goes over what lies lower."""

    def __init__(
        self, session: Session, scale: TimeScale, pictures: CardPictures, run: Callable[[str], object]
    ) -> None:
        super().__init__("Motion shelf", ShotTarget(session))
        self.session, self.scale, self.pictures = session, scale, pictures
        self._run = run
        self.painter = LanePainter(self)
        self.weight = WeightLine(session, scale, self.box)
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

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        self.painter.paint(painter)
        self.weight.paint(painter, self.width())
        painter.end()

    def ear(self, lane: int) -> QRectF:
        """Where a lane says whether it is heard."""
        return QRectF(GUTTER - 58, self.top_of(lane), 50, LANE)

    # -- pointer ------------------------------------------------------------------------------------------------------

    def hit(self, at: QPointF) -> ClipHit | None:
        """The laid clip under a point; of two that overlap the later, but for the end of the earlier."""
        ends: list[ClipHit] = []
        inside: list[ClipHit] = []
        for number, lane in enumerate(self.session.shelf.lanes()):
            for index, laid in enumerate(lane.laid):
                box = self.box(number, laid)
                if not box.adjusted(-3, 0, 3, 0).contains(at):
                    continue
                place = Place(number, index)
                if abs(at.x() - box.right()) <= GRAB:
                    ends.append(ClipHit(place, laid, "end"))
                elif abs(at.x() - box.left()) <= GRAB:
                    ends.append(ClipHit(place, laid, "start"))
                else:
                    inside.append(ClipHit(place, laid, "whole"))
        return ends[-1] if ends else inside[-1] if inside else None

    def press_at(self, at: QPointF) -> Press[Shot]:
        shelf, hit = self.session.shelf, self.hit(at)
        for number, lane in enumerate(shelf.lanes()):
            if self.ear(number).contains(at):
                return Press(None, partial(_toggle, self.session, number, muted=lane.muted))
        key = self.weight.key_at(at)
        if key is not None and at.x() >= GUTTER:
            return Press(self.weight.drag(key))
        if hit is None or at.x() < GUTTER:
            return Press(None, lambda: self._pick_nothing(at))
        shelf.choose(hit.place)
        return Press(LaidDrag(self.session, self.scale, hit, at), lambda: self.session.go_to(self.scale.frame(at.x())))

    def _pick_nothing(self, at: QPointF) -> None:
        self.session.shelf.choose(None)
        if at.x() >= GUTTER:
            self.session.go_to(self.scale.frame(at.x()))

    def hover_at(self, at: QPointF) -> None:
        if self.weight.key_at(at) is not None:
            self.setCursor(Qt.CursorShape.SizeAllCursor)
            self.session.voice.hint(WORDS)
            return
        hit = self.hit(at)
        shape = Qt.CursorShape.ArrowCursor
        if hit is not None:
            shape = Qt.CursorShape.OpenHandCursor if hit.what == "whole" else Qt.CursorShape.SizeHorCursor
        self.setCursor(shape)
        self.session.voice.hint("" if hit is None else _words(hit, self.session.shown.clip(hit.laid.clip)))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at = event.position()
        self.mousePressEvent(event)
        self._gesture.second_click(lambda: self.weight.add(at))

    def event(self, event: QEvent | None) -> bool:
        """Del is the shelf's while a clip is chosen on it."""
        if (
            isinstance(event, QKeyEvent)
            and event.type() == QEvent.Type.ShortcutOverride
            and _takes_off(self.session, event)
        ):
            event.accept()
            return True
        return super().event(event)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if _takes_off(self.session, event):
            self._run("clip.remove")
        else:
            super().keyPressEvent(event)

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        assert event is not None
        menu, hit = QMenu(self), self.hit(QPointF(event.pos()))
        weight = self.weight.key_at(QPointF(event.pos()))
        if weight is not None:
            add_action(menu, "Take the weight's key away", partial(self.weight.take_away, weight))
        elif hit is not None:
            self.session.shelf.choose(hit.place)
            add_commands(menu, self._run, "clip.fade", "clip.weight", "clip.remove")
            for words, key in WAYS.items():
                _add_way(menu, self.session, words, key, hit)
            menu.addSeparator()
        add_commands(menu, self._run, "clip.lay", "clip.to_keys")
        popup(menu, event.globalPos(), self)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        if event.angleDelta().y():
            self.scale.zoom(1.2 if event.angleDelta().y() > 0 else 1 / 1.2, event.position().x())


def _toggle(session: Session, lane: int, *, muted: bool) -> None:
    """A lane is heard, or silenced."""
    name = session.figure_name
    session.do("Hear the lane" if muted else "Silence the lane", lambda s: mute_lane(s, name, lane, muted=not muted))


def _takes_off(session: Session, event: QKeyEvent) -> bool:
    """Whether a key takes the chosen clip off."""
    return event.key() in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace) and session.shelf.laid() is not None


def _add_way(menu: QMenu, session: Session, words: str, key: str, hit: ClipHit) -> None:
    """A setting of a laid clip that is on or off."""
    on = bool(getattr(hit.laid, key))

    def change() -> None:
        name = session.figure_name
        session.do(words, lambda shot: with_laid(shot, name, hit.place.lane, hit.laid, **{key: not on}))

    add_action(menu, words, change, ticked=on)


def _words(hit: ClipHit, clip: Clip) -> str:
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

    def __init__(self, session: Session, scale: TimeScale, hit: ClipHit, pressed: QPointF) -> None:
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
