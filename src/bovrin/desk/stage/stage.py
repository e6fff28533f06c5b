"""The stage: the shot's picture, what lies over it, and what the mouse does there."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import QMouseEvent, QPainter, QPaintEvent, QResizeEvent, QWheelEvent

from bovrin.desk.kit.gesture import Gesture
from bovrin.desk.kit.look import Look
from bovrin.desk.kit.surface import Surface
from bovrin.desk.stage.drags.handle import Handle
from bovrin.desk.stage.drags.navigation import Navigation, SpaceBar
from bovrin.desk.stage.drags.spot_placing import SpotPlacing
from bovrin.desk.stage.drags.way_asked import BOW, DRIFT, WayAsked
from bovrin.desk.stage.empty import EmptyStage, PivotPlacing
from bovrin.desk.stage.overlay import Hit, MakeOverlay, Overlay
from bovrin.desk.stage.overlays.arcs import ArcDots
from bovrin.desk.stage.overlays.chip import paint_words
from bovrin.desk.stage.overlays.gaze import GazeMark
from bovrin.desk.stage.overlays.hang_mark import HANG, SNAP, HangMark
from bovrin.desk.stage.overlays.marks import Anchors, Joints
from bovrin.desk.stage.overlays.pencil import PencilMarks
from bovrin.desk.stage.overlays.ruler_mark import RulerMark
from bovrin.desk.stage.overlays.weight_mark import WeightMark
from bovrin.desk.stage.picture import StagePicture
from bovrin.desk.stage.scene import Scene
from bovrin.desk.stage.skin import FigureSkin
from bovrin.desk.state.document.editing import EditTarget
from bovrin.desk.state.document.session import Session
from bovrin.errors import NoPicture
from bovrin.picture.renderer import shared_renderer
from bovrin.picture.view import View, facing
from bovrin.shot import Shot

START = 3.0
"""Pixels a press on the stage may wander before it is a drag."""


class StageTarget(EditTarget):
    """Drags on the stage say how far they have gone on the stage itself."""

    def __init__(self, session: Session, stage: Stage) -> None:
        super().__init__(session)
        self._stage = stage

    def commit(self, words: str, value: Shot) -> bool:
        """Key it. What edits no pose, or one on another frame than the current one, is never left to K."""
        here = self._stage.dragged_frame == self.session.frame
        return super().commit(words, value) if here else self.session.commit(words, value)

    def hint(self, words: str) -> None:
        """Say it on the stage."""
        self._stage.says = words


class Stage(Surface):
    """Shows the shot and turns drags into poses. `words`: whether it says what is chosen and where in time it is."""

    first_drawn = pyqtSignal()

    def __init__(self, session: Session, space: SpaceBar, *, handle_size: float = 1.0, words: bool = True) -> None:
        super().__init__("Stage")
        self.setMinimumSize(320, 220)
        self.session, self._words, self.says = session, words, ""
        self.scene = Scene(session, handle_size)
        self.scene.setParent(self)
        self.installEventFilter(self.scene)
        self._gesture: Gesture[Shot] = Gesture(StageTarget(session, self), START)
        self.navigation = Navigation(self.scene, space)
        self.picture = StagePicture(self.scene, lambda: self._gesture.active or self.navigation.active)
        self.pivot, self.empty, self.handle = PivotPlacing(self.scene), EmptyStage(self.scene), Handle(self.scene)
        self.spot, self.gaze = SpotPlacing(self.scene), GazeMark(self.scene)
        self.way, self.hang = WayAsked(self.scene), HangMark(self.scene)
        self._own: tuple[Overlay, ...] = (
            self.empty,
            FigureSkin(self.scene),
            RulerMark(self.scene),
            Joints(self.scene),
            ArcDots(self.scene),
            WeightMark(self.scene),
            Anchors(self.scene),
            self.handle,
            self.gaze,
            PencilMarks(self.scene),
            self.pivot,
            self.spot,
            self.way,
            self.hang,
        )
        self._more: tuple[Overlay, ...] = ()
        self._fault, self._has_drawn, self._see_all = "", False, False
        self._connect(session)

    def _connect(self, session: Session) -> None:
        session.document.changed.connect(lambda: self.picture.redraw())
        session.document.frame_changed.connect(lambda: self.picture.redraw(kept=True))
        session.looking_changed.connect(lambda: self.picture.redraw())
        session.choice.changed.connect(self._on_choice_changed)
        self.scene.view_changed.connect(lambda: self.picture.redraw())
        self.picture.changed.connect(self.update)

    def _on_choice_changed(self) -> None:
        """What is chosen is seen in the picture only by what lies on the light table, or when it is a set."""
        self.scene.forget()
        if self.session.looking.light_table.on:
            self.picture.redraw()
        self.update()

    # -- overlays -----------------------------------------------------------------------------------------------------

    def lay_over(self, makers: Sequence[MakeOverlay]) -> None:
        """What a pass lays over the stage besides what always lies there."""
        self._more = tuple(make(self.scene) for make in makers)
        self.update()

    @property
    def overlays(self) -> tuple[Overlay, ...]:
        """All that lies over the picture, from the bottom."""
        return (*self._own, *self._more)

    def hit_at(self, at: QPointF) -> tuple[Overlay, Hit] | None:
        """The nearest thing under a point; of those as near, the one on top."""
        best: tuple[Overlay, Hit] | None = None
        for overlay in self.overlays:
            hit = overlay.hit(at)
            if hit is not None and (best is None or hit.distance <= best[1].distance):
                best = (overlay, hit)
        return best

    # -- looking ------------------------------------------------------------------------------------------------------

    def look_from(self, view: View) -> None:
        """Look from elsewhere."""
        self.scene.look_from(view)

    def look_at_figure(self, side: str) -> None:
        """See the chosen figure from its own front or side, whichever way it faces."""
        self.scene.look_from(facing(self.session.stance().world[0], side, self.scene.view))

    def fit(self) -> None:
        """Fit the chosen control, or again everything."""
        points = [self.handle.places.place_of(c) for c in self.session.controls]
        wanted = self.scene.fitted() if not points else None
        if points:
            around = np.concatenate([np.array(points) + d for d in np.eye(3) * 0.35] + [np.array(points) - 0.3])
            wanted = self.scene.fitted(around)
        if wanted is None or np.allclose(wanted.target, self.scene.view.target, atol=1e-6):
            wanted = self.scene.fitted()
        self.scene.look_from(wanted)

    def see_all(self) -> None:
        """See everything in the cast, from the side that is looked from; as soon as there is a picture."""
        self._see_all = not self.scene.drawable
        if self.scene.drawable:
            self.scene.look_from(self.scene.fitted())

    def ask_place(self, what: str) -> None:
        """Let the next click say something: the "pivot" that the chosen parts turn about, the "spot" whose arc is kept, where the
        figure looks ("gaze"), what something shall "hang" on or is put "onto"; or the next drag the "bow" of an arc, or the way
        of a "drift"."""
        if what in (BOW, DRIFT):
            self.way.what = what
            return
        if what in (HANG, SNAP):
            self.hang.what = what
            return
        asked: dict[str, PivotPlacing | SpotPlacing | GazeMark]
        asked = {"pivot": self.pivot, "spot": self.spot, "gaze": self.gaze}
        asked[what].on = True

    @property
    def dragged_frame(self) -> float | None:
        """The frame that a drag edits, or the last one edited."""
        return self._gesture.frame

    # -- mouse --------------------------------------------------------------------------------------------------------

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at, button, keys = event.position(), event.button(), event.modifiers()
        if self._gesture.active:
            if button == Qt.MouseButton.RightButton:
                self.cancel_drag()
        elif not self.navigation.press(button, at) and button == Qt.MouseButton.LeftButton and not self.session.playing:
            found = self.hit_at(at)
            if found is not None:
                press = found[0].begin(found[1], at, keys)
                self._gesture.press(at, keys, press.drag, press.click)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        at, keys = event.position(), event.modifiers()
        if self._gesture.active:
            self._gesture.move(at, keys)
            self.update()
        elif self.navigation.active:
            self.navigation.move(at, keys)
        elif event.buttons() == Qt.MouseButton.NoButton:
            found = self.hit_at(at)
            if found is not None:
                self.setCursor(found[1].cursor)
                self.session.voice.hint(found[1].words)

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if not self.navigation.release(event.button()) and event.button() == Qt.MouseButton.LeftButton:
            self.says = ""
            self._gesture.release()
            self.empty.let_go()
        self.picture.rest_soon()
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        found = self.hit_at(event.position())
        self.mousePressEvent(event)
        if found is not None and event.button() == Qt.MouseButton.LeftButton and self._gesture.active:
            self._gesture.second_click(lambda: found[0].reset(found[1]))

    def cancel_drag(self) -> bool:
        """Put everything back; says whether there was anything to put back."""
        pencil = self.session.looking.pencil
        was = self.pivot.on or self.spot.on or self.gaze.on or bool(self.way.what or self.hang.what)
        self.pivot.on, self.spot.on, self.gaze.on, self.way.what, self.hang.what, self.says = (
            False,
            False,
            False,
            "",
            "",
            "",
        )
        self.empty.let_go()
        done = self._gesture.cancel() if self._gesture.active else False
        self.picture.rest_soon()
        self.update()
        if not done and not was and pencil.on:  # Escape puts the pencil away
            self.session.change_looking(pencil=replace(pencil, on=False))
            return True
        return done or was

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.scene.look_from(self.scene.view.nearer(1.0015 ** event.angleDelta().y()))

    # -- paint --------------------------------------------------------------------------------------------------------

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.scene.size, self.picture.ratio = self.size(), self.devicePixelRatioF()
        self.picture.redraw()

    def sizeHint(self) -> QSize:
        return QSize(780, 470)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        if not self.scene.drawable:
            self._paint_paper(painter)
            return
        painter.drawImage(QPoint(0, 0), self.picture.image())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        if not self.session.looking.clean:
            for overlay in self.overlays:
                overlay.paint(painter)
            if self._words:
                paint_words(painter, self.session, self.size(), self.says)
        painter.setPen(Look.pen("hairline"))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRoundedRect(QRectF(self.rect()).adjusted(0.5, 0.5, -0.5, -0.5), 8, 8)
        if not self._has_drawn:
            self._has_drawn = True
            self.first_drawn.emit()

    def _paint_paper(self, painter: QPainter) -> None:
        """Before the first picture the window stands already, so that nobody waits for the graphics driver."""
        painter.fillRect(self.rect(), Look.colour("stage_edge"))
        if self._fault:
            painter.setPen(Look.pen("ink"))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, self._fault)
        else:
            QTimer.singleShot(0, self._start_drawing)

    def _start_drawing(self) -> None:
        try:
            shared_renderer()
        except NoPicture as error:
            self._fault = error.sentence
        self.scene.drawable = not self._fault
        if self._see_all and self.scene.drawable:
            self.see_all()
        self.update()
