"""Test drive: the figure steered through its clips by keys or by a drag, as a game would steer it."""

from __future__ import annotations

import math

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, Qt, QTimer
from PyQt6.QtGui import QCloseEvent, QKeyEvent, QMouseEvent
from PyQt6.QtWidgets import QComboBox, QDialog, QGridLayout, QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from bovrin.craft.clips.drive import Drive, Driven, Steer, as_take
from bovrin.craft.clips.slots import SLOTS
from bovrin.desk.kit.widgets import muted, push_button
from bovrin.desk.sheets.drive_view import DriveView
from bovrin.desk.state.document.session import Session
from bovrin.errors import BovrinError
from bovrin.figure.ground.feet import footholds
from bovrin.picture.view import VIEWS

IN_A_ROW = 4
"""Slots beside each other."""
LONGEST = 60.0
"""Seconds that are remembered, to be driven again or kept."""
AHEAD = {Qt.Key.Key_Up: 1.0, Qt.Key.Key_W: 1.0, Qt.Key.Key_Down: -1.0, Qt.Key.Key_S: -1.0}
ACROSS = {Qt.Key.Key_Left: 1.0, Qt.Key.Key_A: 1.0, Qt.Key.Key_Right: -1.0, Qt.Key.Key_D: -1.0}
HELP = "Arrows or WASD steer, Shift runs, Ctrl steps aside. A drag on the picture steers too. Esc leaves."
CAMERA = VIEWS["three-quarter"].yaw
"""Where it is looked from, so that Up goes away."""
NONE = "none"


class TestDrive(QDialog):
    """A sheet over the window; nothing of the shot changes unless a drive is kept as a take."""

    __test__ = False

    def __init__(self, session: Session, drive: Drive, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        figure = session.figure
        assert figure is not None
        self.drive, self.slots = drive, drive.slots
        self.setWindowTitle("Test drive")
        self.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        self.steering: list[Steer] = []
        self.steps: list[Driven] = []
        self._down: set[int] = set()
        self._drag: QPointF | None = None
        self._pull = 0j
        self._again: list[Steer] = []
        self._worst = self._pop = 0.0
        self._slid = np.zeros(len(footholds(figure.rig)))
        self._build()
        self._timer = QTimer(self)
        self._timer.setTimerType(Qt.TimerType.PreciseTimer)
        self._timer.setInterval(round(1000 / session.shot.frame_rate))
        self._timer.timeout.connect(self.advance)
        self._timer.start()
        self.advance()

    def _build(self) -> None:
        figure = self.session.figure
        assert figure is not None
        column = QVBoxLayout(self)
        self.view = DriveView(figure)
        column.addWidget(self.view, 1)
        grid = QGridLayout()
        self.choices = {slot: self._choice(slot, grid, n) for n, slot in enumerate(SLOTS)}
        column.addLayout(grid)
        line = QHBoxLayout()
        line.addWidget(muted(HELP))
        line.addStretch(1)
        self.again = push_button("Drive again", "Steer the same way once more", self.drive_again)
        self.keep = push_button(
            "Keep as a take", "What was driven, up to 60 seconds, becomes a take of its own", self.keep_it
        )
        leave = QPushButton("Leave")
        leave.clicked.connect(self.reject)
        for button in (self.again, self.keep, leave):
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.setAutoDefault(False)
            line.addWidget(button)
        column.addLayout(line)
        self.resize(860, 600)

    def _choice(self, slot: str, grid: QGridLayout, number: int) -> QComboBox:
        row, place = divmod(number, IN_A_ROW)
        grid.addWidget(muted(slot), row, 2 * place)
        box = QComboBox()
        box.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        box.setAccessibleName(f"clip of {slot}")
        box.setToolTip(f"The clip that is driven as {slot}")
        box.addItems([NONE, *(clip.name for clip in self.session.shot.clips if clip.loops)])
        box.setCurrentText(self.slots.get(slot, NONE))
        box.activated.connect(lambda _index: self._on_choice())
        grid.addWidget(box, row, 2 * place + 1)
        grid.setColumnStretch(2 * place + 1, 1)
        return box

    def _on_choice(self) -> None:
        wanted = {slot: box.currentText() for slot, box in self.choices.items() if box.currentText() != NONE}
        try:
            self.drive = Drive(self.session.shot, self.session.figure_name, wanted)
        except BovrinError as error:
            self.view.words = error.sentence
            for slot, box in self.choices.items():
                box.setCurrentText(self.slots.get(slot, NONE))
            return
        self.slots = wanted
        self._begin()

    def _begin(self) -> None:
        """From where it stood at the beginning, nothing driven yet."""
        self.drive = Drive(self.session.shot, self.session.figure_name, self.slots)
        self.steering, self.steps, self._again = [], [], []
        self.view.forget()
        self._worst = self._pop = 0.0
        self._slid[:] = 0.0

    # -- steering -----------------------------------------------------------------------------------------------------

    def steer(self) -> Steer:
        """What keys and pointer say now, as seen from the camera."""
        ahead = sum(v for k, v in AHEAD.items() if k in self._down)
        across = sum(v for k, v in ACROSS.items() if k in self._down)
        toward = complex(np.clip(ahead, -1, 1), np.clip(across, -1, 1)) if ahead or across else self._pull
        if abs(toward) > 1:
            toward /= abs(toward)
        world = toward * complex(math.cos(math.pi + CAMERA), math.sin(math.pi + CAMERA))
        return Steer(world.imag, world.real, Qt.Key.Key_Shift in self._down, Qt.Key.Key_Control in self._down)

    def advance(self) -> None:
        """On by a frame: as it is steered, or as it was."""
        steer = self._again.pop(0) if self._again else self.steer()
        step = self.drive.step(steer)
        if len(self.steps) < LONGEST * self.session.shot.frame_rate:
            self.steering.append(steer)
            self.steps.append(step)
        self._measure(step)
        moving = abs(complex(steer.ahead, steer.across)) > 0
        seconds = len(self.steps) / self.session.shot.frame_rate
        self.view.show_step(
            step,
            f"{seconds:5.1f} s   feet slid {self._worst * 1000:.1f} mm at most in a frame   largest jump {self._pop * 100:.1f} cm"
            + ("" if moving else "   standing"),
        )

    def halt(self) -> None:
        """Frames come only when they are asked for."""
        self._timer.stop()

    def _measure(self, step: Driven) -> None:
        self._worst = max(self._worst, float(step.slid.max(initial=0.0)))
        before = self.view.step
        if before is not None:
            self._pop = max(self._pop, float(np.linalg.norm(step.places - before.places, axis=1).max()))
            for n in np.flatnonzero(before.down & ~step.down):
                foot = footholds(self.view.figure.rig)[n]
                self.view.put_print(before.places[foot.toes], int(n), float(self._slid[n]))
                self._slid[n] = 0.0
        self._slid += step.slid

    def drive_again(self) -> None:
        """The same steering from the beginning."""
        steering = list(self.steering)
        self._begin()
        self._again = steering

    def keep_it(self) -> None:
        """What was driven becomes a take, which is worked on."""
        name, steps = self.session.figure_name, list(self.steps)
        if self.session.do("Keep the drive", lambda shot: as_take(shot, name, steps, "drive"), in_step=False):
            self.accept()

    # -- hands --------------------------------------------------------------------------------------------------------

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.reject()
        else:
            self._down.add(event.key())

    def keyReleaseEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if not event.isAutoRepeat():
            self._down.discard(event.key())

    def changeEvent(self, event: QEvent | None) -> None:
        """Keys that are let go of elsewhere are not heard here: whoever looks away lets go."""
        super().changeEvent(event)
        if event is not None and event.type() == QEvent.Type.ActivationChange and not self.isActiveWindow():
            self._down.clear()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        self._drag = event.position()

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._drag is not None:
            way = event.position() - self._drag
            self._pull = complex(-way.y(), -way.x()) / 80.0

    def mouseReleaseEvent(self, _event: QMouseEvent | None) -> None:
        self._drag, self._pull = None, 0j

    def done(self, result: int) -> None:
        """It is over, however."""
        self.halt()
        super().done(result)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        self.halt()
        super().closeEvent(event)
