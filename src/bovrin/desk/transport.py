"""Pose before, play, pose after, and the current frame to type: in the corner of the strip."""

from __future__ import annotations

from PyQt6.QtWidgets import QHBoxLayout, QWidget

from bovrin.desk.commands.table import tooltip
from bovrin.desk.kit.number_field import NumberField
from bovrin.desk.kit.widgets import SignButton
from bovrin.desk.state.document.session import Session
from bovrin.desk.state.player import Player
from bovrin.shot import Unit


class Transport(QWidget):
    """Three signs and a number."""

    def __init__(self, session: Session, player: Player, parent: QWidget) -> None:
        super().__init__(parent)
        self.session = session
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(2)
        self.before = SignButton("before", tooltip("time.pose_before"), lambda: self._to_pose(after=False))
        self.play = SignButton("play", tooltip("time.play"), player.toggle)
        self.after = SignButton("after", tooltip("time.pose_after"), lambda: self._to_pose(after=True))
        for sign in (self.before, self.play, self.after):
            row.addWidget(sign)
        self.frame = NumberField(Unit.SWITCH, "", "current frame")
        self.frame.setFixedSize(48, 22)
        self.frame.setToolTip("The current frame: type one, or a sum such as +12")
        self.frame.taken.connect(session.go_to)
        self.frame.taken.connect(lambda _frame: self._on_frame_changed())
        self.frame.refused.connect(session.voice.tell)
        row.addWidget(self.frame)
        row.addStretch(1)
        session.document.frame_changed.connect(self._on_frame_changed)
        session.looking_changed.connect(self._on_looking_changed)
        player.changed.connect(self._on_looking_changed)
        self._on_frame_changed()

    def _to_pose(self, *, after: bool) -> None:
        to = self.session.poses.beside(self.session.frame, after=after)
        if to is not None:
            self.session.go_to(to)

    def _on_frame_changed(self) -> None:
        self.frame.show_value(self.session.frame)

    def _on_looking_changed(self) -> None:
        """The sign of playing, and all signs in the theme's colour."""
        self.play.refresh("stop" if self.session.playing else "play")
        for sign in (self.before, self.after):
            sign.refresh()
