"""Find the key poses of a recorded motion: a slider from few to many, seen at once on stage and strip, then kept."""

from __future__ import annotations

import numpy as np
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QHideEvent, QKeyEvent
from PyQt6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QSlider, QWidget

from bovrin.craft.recorded.key_pose_keeping import fewest, keep_key_poses, told_by, untold
from bovrin.craft.recorded.key_pose_search import KeyPoses, find_key_poses
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.waiting import Steps
from bovrin.desk.kit.widgets import muted, title
from bovrin.desk.state.files.files import Files
from bovrin.errors import BovrinError
from bovrin.shot import Shot, Unit

CLOSE = 0.03
"""Metres at the worst joint that the first choice of poses may be off."""
DENSEST = 2
"""One pose on so many frames is the most that the slider offers."""


class KeyPosesSheet(QFrame):
    """Lies over the lower corner of the stage. Return keeps the poses as a take of their own, Escape leaves all as it was."""

    def __init__(self, files: Files, over: QWidget, parent: QWidget) -> None:
        super().__init__(parent)
        self.files, self.session, self._over = files, files.session, over
        self._found: KeyPoses | None = None
        self._shot: Shot | None = None
        self.setObjectName("Popover")
        self.setAccessibleName("Key poses")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        grid = QGridLayout(self)
        grid.setContentsMargins(14, 12, 14, 12)
        grid.setVerticalSpacing(7)
        grid.addWidget(title("Key poses of the recording"), 0, 0, 1, 4)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setFixedWidth(220)
        self.slider.setToolTip("From few poses to many")
        self.slider.setAccessibleName("How many poses")
        self.slider.valueChanged.connect(self._show_count)
        self.count = NumberField(Unit.SWITCH, "", "number of poses")
        self.count.setFixedWidth(52)
        self.count.taken.connect(lambda count: self.slider.setValue(round(count)))
        self.count.refused.connect(self.session.voice.tell)
        grid.addWidget(muted("few"), 1, 0)
        grid.addWidget(self.slider, 1, 1)
        grid.addWidget(muted("many"), 1, 2)
        grid.addWidget(self.count, 1, 3)
        self.off = muted()
        grid.addWidget(self.off, 2, 0, 1, 4)
        row = QHBoxLayout()
        self.keep_button = QPushButton("Keep as a take")
        self.keep_button.setToolTip(
            "A new take of these poses with curves between; the recording stays as it is (Return)"
        )
        self.keep_button.clicked.connect(self.keep)
        self.drop_button = QPushButton("Leave it")
        self.drop_button.setToolTip("Nothing was changed (Escape)")
        self.drop_button.clicked.connect(self.hide)
        row.addStretch(1)
        row.addWidget(self.drop_button)
        row.addWidget(self.keep_button)
        grid.addLayout(row, 3, 0, 1, 4)
        for signal in (
            self.session.choice.changed,
            self.session.document.committed,
            self.session.document.file_changed,
        ):
            signal.connect(self.hide)
        self.hide()

    def ask(self) -> None:
        """Look for the poses of the chosen figure over the shot's range, and show them."""
        session, shot, figure = self.session, self.session.shot, self.session.figure_name
        frames = np.array(shot.whole_frames, float)

        steps = Steps()

        def work() -> tuple[KeyPoses, int]:
            found = find_key_poses(shot, figure, frames, max(len(frames) // DENSEST, 2), steps)
            return found, len(fewest(shot, figure, found, CLOSE))

        try:
            answer = self.files.wait(f"Looking for the key poses of {figure}…", work, steps)
        except BovrinError as error:
            session.voice.fail(error)
            return
        if answer is None or session.shot is not shot:
            session.voice.tell("Stopped. Nothing was changed.")
            return
        self._found, first = answer
        self._shot = shot
        self.slider.blockSignals(True)
        self.slider.setRange(self._found.least, self._found.most)
        self.slider.setValue(first)
        self.slider.blockSignals(False)
        session.voice.hush()
        self.show()
        self._show_count()
        self.slider.setFocus()

    def poses(self) -> list[float]:
        """The frames of the poses that the slider stands for."""
        return [] if self._found is None else [float(f) for f in self._found.of(self.slider.value())]

    def _show_count(self) -> None:
        if self._found is None or self._shot is None:
            return
        shot, figure = self._shot, self.session.figure_name
        told = told_by(shot, figure, self.poses())
        metres, joint = untold(shot, figure, told, self._found.frames)
        self.session.preview(told)
        self.count.show_value(len(self.poses()))
        self.off.setText(f"{len(self.poses())} poses, at worst {metres * 100:.1f} cm off ({joint})")
        self._place()

    def _place(self) -> None:
        parent = self.parentWidget()
        assert parent is not None
        self.adjustSize()
        free = self._over.size() - self.size()
        self.move(self._over.mapTo(parent, QPoint(free.width() - 12, free.height() - 12)))
        self.raise_()

    def keep(self) -> None:
        """Make them a take, and work on that."""
        poses, figure = self.poses(), self.session.figure_name
        self.hide()
        names = {take.name for take in self.session.shot.all_takes}
        wanted = f"{self.session.shot.take.name} in poses"
        name = next(n for n in (wanted, *(f"{wanted} {i}" for i in range(2, 999))) if n not in names)
        if self.session.do("Keep the key poses", lambda shot: keep_key_poses(shot, figure, poses, name)):
            self.session.voice.tell(f"{len(poses)} key poses are the take '{name}'. The recording is the take before.")

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        if event.key() == Qt.Key.Key_Escape:
            self.hide()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.keep()
        else:
            super().keyPressEvent(event)

    def hideEvent(self, event: QHideEvent | None) -> None:
        if self._shot is not None:
            self._shot = self._found = None
            self.session.preview(None)
        super().hideEvent(event)
