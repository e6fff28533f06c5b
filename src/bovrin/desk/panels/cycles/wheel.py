"""The cycle wheel: turned to scrub, its rings dragged to say when feet are down."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent, QWheelEvent

from bovrin.craft.keying.lag import poses_of
from bovrin.desk.kit.gesture import Drag, Press
from bovrin.desk.kit.surface import DraggedSurface
from bovrin.desk.panels.cycles.wheel_paint import (
    CARD,
    GAP,
    RING,
    SPOKE,
    WheelPlace,
    card_at,
    paint_middle,
    paint_spoke,
    paint_wheel,
    words_at,
)
from bovrin.desk.state.contact_drag import ContactMove
from bovrin.desk.state.document.editing import ShotTarget
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.looking.card_pictures import CardPictures
from bovrin.desk.state.looking.going import FeetReading
from bovrin.shot import KeyRole, Shot, Stretch

END = 8.0
"""Pixels from the end of a contact within which it is the end that is dragged."""
MOST_SPOKES = 8
HEIGHT = 2 * (SPOKE + 4 + CARD[1] / 2) + 4


class CycleWheel(DraggedSurface):
    """A round of the chosen figure's cycle."""

    def __init__(self, session: Session, pictures: CardPictures) -> None:
        super().__init__("Cycle wheel", ShotTarget(session))
        self.session, self.pictures = session, pictures
        self._hot: tuple[str, Stretch] | None = None
        self.setFixedHeight(int(HEIGHT))
        document = session.document
        for signal in (document.changed, document.frame_changed, session.going.changed, pictures.ready):
            signal.connect(self.update)

    def sizeHint(self) -> QSize:
        return QSize(260, int(HEIGHT))

    def reading(self) -> FeetReading | None:
        """What the wheel shows: the chosen figure's cycle; None where it has none."""
        found = self.session.going.reading()
        return found if found is not None and found.cycle is not None else None

    def place(self, reading: FeetReading) -> WheelPlace:
        """Where it lies."""
        assert reading.cycle is not None
        return WheelPlace(QPointF(self.width() / 2, self.height() / 2), reading.cycle)

    def spokes(self, reading: FeetReading) -> list[tuple[float, KeyRole]]:
        """The poses that stand around it: all, or of very many those that are evenly spread."""
        found = poses_of(self.session.shot.curves(reading.figure.name))
        roles = {float(f): KeyRole(int(r)) for f, r in zip(found.frames, found.roles, strict=True)}
        frames = reading.poses.tolist()
        if len(frames) > MOST_SPOKES:
            frames = [frames[n] for n in np.linspace(0, len(frames), MOST_SPOKES, endpoint=False).astype(int)]
        return [(frame, roles[frame]) for frame in frames]

    # -- paint --------------------------------------------------------------------------------------------------------

    def paintEvent(self, _event: QPaintEvent | None) -> None:
        reading = self.reading()
        if reading is None or reading.cycle is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        place, frame = self.place(reading), self.session.frame
        now = reading.cycle.folded(frame)
        paint_wheel(painter, place, self._shown(reading), now, self._hot)
        spokes = self.spokes(reading)
        pictures = self.pictures.pictures(np.array([f for f, _ in spokes] + [frame]))
        for (at, role), picture in zip(spokes, pictures, strict=False):
            paint_spoke(painter, place, at, role, picture, here=abs(at - now) < 0.5)
        words = words_at(self.session.shown, reading, frame)
        paint_middle(painter, place, words, frame, pictures[-1] if pictures else None)
        painter.end()

    def _shown(self, reading: FeetReading) -> FeetReading:
        """The reading with the contacts that a drag shows."""
        shown = self.session.shown.contacts(reading.figure.name)
        rounds = {**reading.round, **{foot: list(spans) for foot, spans in shown.items()}}
        return FeetReading(**{**reading.__dict__, "round": rounds})

    # -- pointer ------------------------------------------------------------------------------------------------------

    def press_at(self, at: QPointF) -> Press[Shot]:
        """What a press on a place begins."""
        reading = self.reading()
        if reading is None:
            return Press()
        place = self.place(reading)
        for frame, _ in self.spokes(reading):
            if card_at(place, frame).contains(at):
                return Press(None, lambda f=frame: self.go_to(f))  # type: ignore[misc]
        contact = self.contact_at(at)
        turn = TurnDrag(self, place, at)
        if contact is None:
            return Press(turn, lambda: self.go_to(round(place.frame_at(at))))
        drag = ContactDrag(self.session.shot, place, reading, *contact).begun_at(at)
        return Press(drag, lambda: self.go_to(round(place.frame_at(at))))

    def contact_at(self, at: QPointF) -> tuple[str, Stretch, str] | None:
        """The foot, the contact and which of its "start", "end" or "whole" is under a point."""
        reading = self.reading()
        if reading is None:
            return None
        place = self.place(reading)
        away, frame = place.distance(at), place.frame_at(at)
        for n, foot in enumerate(reading.feet):
            radius = place.radius_of(n)
            if abs(away - radius) > (RING + GAP) / 2:
                continue
            near = END / radius / (2 * math.pi) * place.cycle.length
            for span in reading.round.get(foot.name, []):
                inside = (frame - span[0]) % place.cycle.length
                length = span[1] - span[0]
                if min(inside, place.cycle.length - inside) <= near:
                    return foot.name, span, "start"
                if abs(inside - length) <= near:
                    return foot.name, span, "end"
                if inside < length:
                    return foot.name, span, "whole"
        return None

    def go_to(self, frame: float) -> None:
        """Go to a frame of the round, in the round that one is in."""
        reading = self.reading()
        if reading is None or reading.cycle is None:
            return
        cycle, shot = reading.cycle, self.session.shot
        rounds = np.floor((self.session.frame - cycle.first) / cycle.length)
        wanted = cycle.folded(frame) + rounds * cycle.length
        self.session.go_to(wanted if shot.first <= wanted <= shot.last else cycle.folded(frame))

    def hover_at(self, at: QPointF) -> None:
        contact = self.contact_at(at)
        hot = None if contact is None else contact[:2]
        self.setCursor(Qt.CursorShape.SizeHorCursor if contact is not None else Qt.CursorShape.PointingHandCursor)
        self.session.voice.hint(_words(contact))
        if hot != self._hot:
            self._hot = hot
            self.update()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hot = None
        self.update()
        super().leaveEvent(event)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        reading = self.reading()
        if reading is not None and reading.cycle is not None and event.angleDelta().y():
            step = -1.0 if event.angleDelta().y() > 0 else 1.0
            turned(self.session, reading, self.session.frame + step)


def _words(contact: tuple[str, Stretch, str] | None) -> str:
    if contact is None:
        return "Turn the wheel to scrub the loop. Click a pose to go to it."
    foot, span, what = contact
    return {
        "start": f"{foot} comes down on {span[0]:g}: drag to another frame",
        "end": f"{foot} leaves on {span[1]:g}: drag to another frame",
        "whole": f"{foot} is down from {span[0]:g} to {span[1]:g}: drag it sooner or later",
    }[what]


def turned(session: Session, reading: FeetReading, frame: float) -> None:
    """Go to a frame, in a loop through the range where it holds whole rounds, else within the round."""
    shot, cycle = session.shot, reading.cycle
    assert cycle is not None
    if shot.first <= frame <= shot.last:
        session.go_to(frame)
    else:
        span = shot.last - shot.first + 1
        session.go_to(shot.first + (frame - shot.first) % (span if span >= cycle.length else cycle.length))


class TurnDrag(Drag[Shot]):
    """The wheel turned by its rim or its inside: the frame follows, round and round."""

    def __init__(self, wheel: CycleWheel, place: WheelPlace, pressed: QPointF) -> None:
        self._wheel, self._place = wheel, place
        self._before = place.frame_at(pressed)
        self._frame = wheel.session.frame
        self._began = wheel.session.frame

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot | None, str]:
        """On by as much as the pointer went around."""
        if self._place.distance(at) < RING:
            return None, ""
        now, length = self._place.frame_at(at), self._place.cycle.length
        self._frame += (now - self._before + length / 2) % length - length / 2
        self._before = now
        reading = self._wheel.reading()
        if reading is not None:
            turned(self._wheel.session, reading, round(self._frame))
        return None, f"Frame {self._wheel.session.frame:g}"

    def put_back(self) -> None:
        """The frame it began on."""
        self._wheel.session.go_to(self._began)


class ContactDrag(Drag[Shot]):
    """An end of a contact, or all of it, on other frames."""

    def __init__(
        self, shot: Shot, place: WheelPlace, reading: FeetReading, foot: str, span: Stretch, what: str
    ) -> None:
        self._move = ContactMove(shot, reading.figure.name, foot, span, what, reading.round.get(foot, []))
        self._place, self._gone = place, 0.0
        self._before: float | None = None
        self.words = f"{foot.capitalize()} down"

    @property
    def at_rest(self) -> bool:
        return self._move.at_rest

    def step(self, at: QPointF, modifiers: Qt.KeyboardModifier) -> tuple[Shot | None, str]:
        """The shot with the contact on whole frames under the pointer."""
        now, length = self._place.frame_at(at), self._place.cycle.length
        before = now if self._before is None else self._before
        self._gone += (now - before + length / 2) % length - length / 2
        self._before = now
        return self._move.shot_at(float(round(self._gone)), modifiers)

    def begun_at(self, at: QPointF) -> ContactDrag:
        """The same, pressed there."""
        self._before = self._place.frame_at(at)
        return self
